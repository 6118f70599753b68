package balance

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"jubrak/core/mix"
	"jubrak/core/project"
)

// Words say what a step does in two short lines, so that a chain can be read aloud.
func Words(s *mix.Step, d *project.Document, p *Picture) [2]string {
	v := func(id string) float64 { return s.Values[id] }
	k := mix.KindOf(s.Kind)
	name := func(id string) string {
		if n, _ := k.Param(id); n != nil && int(v(id)) < len(n.Names) {
			return n.Names[int(v(id))]
		}
		return ""
	}
	by := ""
	if s.Key != "" {
		by = " by " + d.RowName(s.Key)
	}
	out := [2]string{strings.ToLower(k.Label), ""}
	switch s.Kind {
	case "equalizer", "eq":
		out = equalizerWords(s)
	case "filter":
		out = [2]string{fmt.Sprintf("%s at %s", name("shape"), hertz(v("corner_hz"))), ""}
	case "compressor":
		out = [2]string{fmt.Sprintf("compressor %s:1", number(v("ratio"))), attackWords(v("attack_ms"), -p.Most)}
		if s.Key != "" {
			out = [2]string{"ducked" + by, fmt.Sprintf("%s dB, %s ms", number(-p.Most), number(v("release_ms")))}
		}
		if v("up_ratio") > 1 {
			out[1] = "lifts what is soft, too"
		}
	case "gate":
		out = [2]string{name("way") + by, fmt.Sprintf("%s dB, after %s ms", number(v("threshold_db")), number(v("hold_ms")))}
	case "duck":
		out = [2]string{fmt.Sprintf("ducked %s %%", number(v("amount_percent"))), "on every beat"}
		if sh := d.Mix.Shape(s.Shape); sh != nil {
			out[1] = "by " + sh.Name
		}
	case "drive":
		out = [2]string{"drive, " + name("curve"), fmt.Sprintf("%s %%, %s", number(v("amount_percent")), louderWords(p.Changed))}
	case "tape":
		out = [2]string{"tape", fmt.Sprintf("%s dB at %s", signed(v("bump_db")), hertz(v("bump_hz")))}
	case "worn":
		out = [2]string{"worn medium", fmt.Sprintf("%s to %s", hertz(v("low_hz")), hertz(v("high_hz")))}
	case "clip":
		out = [2]string{"clip, " + name("curve"), fmt.Sprintf("%s dB taken", number(math.Max(-p.Most, 0)))}
	case "limit":
		out = [2]string{"limiter", fmt.Sprintf("%s dB, at %s", signed(v("gain_db")), number(v("ceiling_db")))}
	case "ceiling":
		out = [2]string{"true-peak limit", fmt.Sprintf("%s dBTP", number(v("ceiling_db")))}
	case "crush":
		out = [2]string{fmt.Sprintf("%s bits", number(v("bits"))), hertz(v("rate_hz"))}
	case "shift":
		out = [2]string{"shifted", signed(v("shift_hz")) + " Hz"}
	case "comb":
		out = [2]string{"comb", "at " + hertz(v("tone_hz"))}
	case "reverb":
		out = [2]string{fmt.Sprintf("%s, %s %%", spaceName(int(v("space")), v("decay_ms"), v("gate_ms")), number(v("mix_percent"))), fmt.Sprintf("%s s, %s–%s kHz", number(v("decay_ms")/1000), number(v("low_cut_hz")/1000), number(v("high_cut_hz")/1000))}
	case "echo":
		out = [2]string{fmt.Sprintf("delay, %s %%", number(v("mix_percent"))), number(v("beats")) + " beats"}
		if v("time") == 1 {
			out[1] = number(v("time_ms")) + " ms"
		}
	case "tremolo":
		out = [2]string{map[float64]string{0: "trembling", 1: "left and right"}[v("acts")], "once in " + number(v("beats")) + " beats"}
		if v("time") == 1 {
			out[1] = number(v("rate_hz")) + " Hz"
		}
	case "octave":
		out = [2]string{"low octave", fmt.Sprintf("%s %%, %s ms", number(v("amount_percent")), number(v("decay_ms")))}
	case "width":
		out = widthWords(v)
	case "bed":
		out = [2]string{name("noise"), number(v("level_db")) + " dB"}
	case "trim":
		out = [2]string{signed(v("gain_db")) + " dB", name("sides")}
	case "transient":
		out = [2]string{"attack " + signed(v("attack_db")) + " dB", "sustain " + signed(v("sustain_db")) + " dB"}
	case "parallel":
		out = [2]string{"parallel", fmt.Sprintf("mixed in, %s %%", number(v("amount_percent")))}
	case "split":
		out = [2]string{"split", "at " + hertz(v("low_hz"))}
	case "split3":
		out = [2]string{"split in three", fmt.Sprintf("%s, %s", hertz(v("low_hz")), hertz(v("high_hz")))}
	case "bands":
		out = [2]string{"three bands", fmt.Sprintf("%s:1, takes %s dB", number(v("ratio")), number(-p.Most))}
	}
	if mixed := v("mix_percent"); mixed < 100 && !strings.Contains(out[0], "%") && s.Kind != "parallel" {
		out[1] = strings.TrimPrefix(out[1]+fmt.Sprintf(", %s %%", number(mixed)), ", ")
	}
	return out
}

func equalizerWords(s *mix.Step) [2]string {
	var cuts, gains []string
	bands := 4
	if s.Kind == "equalizer" {
		bands = 8
	}
	for i := 1; i <= bands; i++ {
		v := func(id string) float64 { return s.Values[fmt.Sprintf("band%d.%s", i, id)] }
		shape := int(v("shape"))
		if s.Kind == "eq" {
			shape++ // it has no band that is off
		}
		hz, gain := v("hz"), v("gain_db")
		switch {
		case shape == 4 && hz > 20.5:
			cuts = append(cuts, "cut under "+hertz(hz))
		case shape == 5 && hz < 19500:
			cuts = append(cuts, "cut over "+hertz(hz))
		case shape == 6:
			cuts = append(cuts, "notch at "+hertz(hz))
		case (shape == 1 || shape == 2 || shape == 3) && gain != 0:
			gains = append(gains, fmt.Sprintf("%s dB at %s", signed(gain), hertz(hz)))
		case shape == 7 && gain != 0:
			gains = append(gains, "tilt "+signed(gain)+" dB")
		}
	}
	all := append(cuts, gains...)
	switch len(all) {
	case 0:
		return [2]string{"equalizer", "as it is"}
	case 1:
		return [2]string{all[0], ""}
	case 2:
		return [2]string{all[0], all[1]}
	}
	return [2]string{all[0], all[1] + fmt.Sprintf(", %d more", len(all)-2)}
}

func widthWords(v func(string) float64) [2]string {
	var all []string
	if v("delay_ms") > 0 {
		all = append(all, number(v("delay_ms"))+" ms apart")
	}
	if v("detune_ct") > 0 {
		all = append(all, "±"+number(v("detune_ct"))+" ct")
	}
	if v("side_percent") != 100 {
		all = append(all, "sides "+number(v("side_percent"))+" %")
	}
	if v("mono_below_hz") > 20 {
		all = append(all, "lows in the middle", "below "+hertz(v("mono_below_hz")))
	}
	for len(all) < 2 {
		all = append(all, "")
	}
	if all[0] == "" {
		all[0] = "width, as it is"
	}
	return [2]string{all[0], strings.Join(all[1:], ", ")}
}

func attackWords(ms, taken float64) string {
	if ms >= 8 {
		return fmt.Sprintf("lets %s ms through", number(ms))
	}
	return fmt.Sprintf("takes %s dB, %s ms", number(math.Round(taken)), number(ms))
}

func louderWords(lu float64) string {
	if math.Abs(lu) < 0.5 {
		return "no louder"
	}
	return signed(lu) + " LU"
}

func spaceName(space int, ms, gate float64) string {
	name := "room"
	switch {
	case space == 1:
		name = "plate"
	case space == 2 || ms >= 1500 && ms < 3500:
		name = "hall"
	case ms < 500:
		name = "short room"
	case ms >= 3500:
		name = "long space"
	}
	if gate > 0 {
		name = "gated " + strings.TrimPrefix(name, "short ")
	}
	return name
}

// number is a value with no more digits than one can hear.
func number(v float64) string {
	digits := 1
	switch a := math.Abs(v); {
	case a >= 20 || a == math.Trunc(a):
		digits = 0
	case a < 1:
		digits = 2
	}
	text := strconv.FormatFloat(v, 'f', digits, 64)
	if strings.Contains(text, ".") {
		text = strings.TrimRight(strings.TrimRight(text, "0"), ".")
	}
	return strings.Replace(text, "-", "−", 1)
}

func signed(v float64) string {
	if v > 0 {
		return "+" + number(v)
	}
	return number(v)
}

func hertz(v float64) string {
	if v >= 1000 {
		return strings.TrimSuffix(strconv.FormatFloat(v/1000, 'f', 1, 64), ".0") + " kHz"
	}
	return strconv.FormatFloat(v, 'f', 0, 64) + " Hz"
}
