package mixreport

import (
	"fmt"
	"math"

	"jubrak/core/dsp"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/measure"
	"jubrak/core/param"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Heard is what one system leaves of a mix.
type Heard struct {
	System string `json:"system"`
	Label  string `json:"label"`
	Says   string `json:"says"`
	// Lost says what is not heard there, in whole sentences; empty where nothing is.
	Lost []string `json:"lost"`
}

// unheard is by how much, against what the system gives best, a tone is lost, dB.
const unheard = 15

// inaudible is how far below its fundamental a partial is not heard any more, dB, and
// mostlyLost how much softer a voice is of which a system gives hardly anything.
const (
	inaudible  = 40.0
	mostlyLost = 10.0
)

// heard returns for each system what it leaves.
func heard(d *project.Document, t *taken) []Heard {
	var out []Heard
	lows := lowVoices(d, t)
	for i := range engine.Systems {
		s := &engine.Systems[i]
		h := Heard{System: s.ID, Label: s.Label, Says: s.Says, Lost: []string{}}
		gain := response(s.Chain)
		for _, v := range lows {
			h.Lost = append(h.Lost, v.lost(gain)...)
		}
		h.Lost = append(h.Lost, beyond(d, t, gain)...)
		if s.ID == "mono" || s.ID == "side" || s.ID == "phone" || s.ID == "radio" {
			h.Lost = append(h.Lost, sides(d, t, s.ID == "side")...)
		}
		out = append(out, h)
	}
	return out
}

// low is a voice whose weight is a low tone, with its first partials in dB against the
// loudest of them.
type low struct {
	name     string
	hz       float64
	partials [4]float64
}

// lowVoices are the kick and the 808 where they have a tone below 130 Hz.
func lowVoices(d *project.Document, t *taken) (out []low) {
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		if v.Family != sound.Kick && v.Family != sound.Bass808 || v.Mute {
			continue
		}
		x := t.rows[i].Mono()
		hits := strikes(x)
		if len(hits) == 0 {
			continue
		}
		from := hits[0] + engine.Rate*60/1000 // once the pitch has fallen
		part := x[min(from, len(x)):min(from+engine.Rate*300/1000, len(x))]
		hz, ok := measure.Fundamental(part, engine.Rate, 25, 130)
		if !ok {
			continue
		}
		l := low{name: v.Name, hz: hz}
		for k := range l.partials {
			l.partials[k] = level(part, hz*float64(k+1))
		}
		out = append(out, l)
	}
	return out
}

// level is how much of a tone a sound holds, dB.
func level(x []float64, hz float64) float64 {
	var re, im float64
	for i, v := range x {
		w := 0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/float64(len(x)))
		sin, cos := math.Sincos(2 * math.Pi * hz * float64(i) / engine.Rate)
		re, im = re+v*w*cos, im+v*w*sin
	}
	return 20 * math.Log10(math.Hypot(re, im)/float64(max(len(x), 1))*4+1e-9)
}

// lost says what a system leaves of a low voice.
func (l *low) lost(gain func(hz float64) float64) []string {
	first := gain(l.hz)
	if first > -unheard {
		return nil
	}
	for k := 1; k < len(l.partials); k++ {
		if gain(l.hz*float64(k+1)) > -unheard {
			down := l.partials[k] + gain(l.hz*float64(k+1)) - l.partials[0]
			if -down > inaudible {
				break // a partial that is there in name alone
			}
			return []string{fmt.Sprintf("The %s’s fundamental (%.0f Hz) is not heard here; its %s partial is %s dB down.", l.name, l.hz, []string{"", "2nd", "3rd", "4th"}[k], param.Text(math.Max(-down, 0)))}
		}
	}
	return []string{fmt.Sprintf("The %s’s fundamental (%.0f Hz) and its first partials are not heard here.", l.name, l.hz)}
}

// sides say which voices lose where both sides become one, or one is not there.
func sides(d *project.Document, t *taken, one bool) (out []string) {
	for i := range d.Kit.Voices {
		b := t.rows[i]
		var both, left float64
		for k := range b.Channels[0] {
			l, r := float64(b.Channels[0][k]), float64(b.Channels[1][k])
			both += (l*l + r*r) / 2
			if one {
				left += l * l
			} else {
				left += (l + r) * (l + r) / 4
			}
		}
		if both < 1e-9 {
			continue
		}
		if by := 10 * math.Log10(left/both+1e-12); by < -2 {
			out = append(out, fmt.Sprintf("%s is %s dB softer.", d.Kit.Voices[i].Name, param.Text(-by)))
		}
	}
	return out
}

// beyond say which voices lie outside what a system gives: hats above the band of a small
// radio. Voices of low tones are reported of by their partials.
func beyond(d *project.Document, t *taken, gain func(hz float64) float64) (out []string) {
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		if v.Family == sound.Kick || v.Family == sound.Bass808 || v.Mute {
			continue
		}
		x := t.rows[i].Mono()
		hz, db := during(x, strikes(x))
		var all, left, above float64
		for k := range hz {
			e := math.Pow(10, db[k]/10)
			kept := e * math.Pow(10, math.Min(gain(hz[k]), 0)/10)
			all, left = all+e, left+kept
			if hz[k] > 1000 {
				above += e - kept
			}
		}
		if all == 0 || left > all*math.Pow(10, -mostlyLost/10) {
			continue
		}
		where := "below"
		if above > (all-left)/2 {
			where = "above"
		}
		out = append(out, fmt.Sprintf("%s is %s dB softer: most of it lies %s what is heard here.", v.Name, param.Text(10*math.Log10(all/math.Max(left, 1e-12))), where))
	}
	return out
}

// response is the gain of a chain at a frequency against the most it gives anywhere from
// 200 Hz to 4 kHz, dB.
func response(chain []effect.Effect) func(hz float64) float64 {
	at := gainOf(chain)
	best := math.Inf(-1)
	for hz := 200.0; hz < 4000; hz *= 1.05 {
		best = math.Max(best, at(hz))
	}
	return func(hz float64) float64 { return at(hz) - best }
}

// gainOf is the gain of a chain at a frequency, dB, by what it makes of a soft click.
func gainOf(chain []effect.Effect) func(hz float64) float64 {
	const n = 16384
	r := effect.NewRack(chain, engine.Rate, effect.Context{})
	x := make([]float64, 2*n)
	var left, right [effect.MaxBlock]float64
	for at := 0; at < 2*n; at += effect.MaxBlock {
		clear(left[:])
		clear(right[:])
		if at == 0 {
			left[0], right[0] = 1e-3, 1e-3 // so soft that nothing bends
		}
		r.Run(effect.Block{Left: left[:], Right: right[:]}, nil, effect.Clock{}, false)
		copy(x[at:], left[:])
	}
	bins := make([]complex128, n)
	dsp.NewFFT(n).Real(x, bins)
	return func(hz float64) float64 {
		k := min(max(int(math.Round(hz*2*n/engine.Rate)), 1), n-1)
		return 20 * math.Log10(math.Hypot(real(bins[k]), imag(bins[k]))*1e3+1e-9)
	}
}
