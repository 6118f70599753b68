package transcribe

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/sound"
)

var familyNames = map[sound.Family]string{
	sound.Kick: "kick", sound.Snare: "snare", sound.Clap: "clap", sound.Rim: "rim", sound.HatClosed: "closed hat",
	sound.HatOpen: "open hat", sound.Shaker: "shaker", sound.Tambourine: "tambourine", sound.Ride: "ride", sound.Crash: "crash",
	sound.Tom: "tom", sound.Conga: "conga", sound.Cowbell: "cowbell", sound.Perc: "percussion", sound.Bass808: "808",
}

func capital(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

var numerals = []string{"no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve", "thirteen", "fourteen", "fifteen", "sixteen"}

// facts lists what was found, the most telling first.
func (a *Analysis) facts() []Fact {
	out := []Fact{}
	if a.NoDrums {
		return append(out, Fact{ID: "no_drums", Name: "Drums", Count: len(a.Hits),
			Text: "No drums recognized: nothing drum-like repeats here. Hits that are shown are guesses."})
	}
	if n := a.unnamed(); n > 0 {
		strokes := float64(n)
		out = append(out, Fact{ID: "unnamed", Family: sound.Perc, Name: "Unnamed", Value: &strokes, Count: n,
			Text: fmt.Sprintf("%s found but not recognized: filed as percussion, re-file what you know.", capital(were(n, "stroke")))})
	}
	if a.Tempo == nil || a.Feel == nil {
		return out
	}
	out = append(out, a.tempoFact(), a.barOneFact(), a.cycleFact())
	out = append(out, a.swingFact())
	for _, f := range sound.Families {
		if v, ok := a.Feel.Voices[string(f)]; ok {
			out = append(out, a.voiceFacts(f, v)...)
		}
	}
	if d := a.Feel.Drift; d != nil {
		out = append(out, a.driftFact(d))
	}
	for _, c := range a.Cycles {
		if c.Family != "" && c.Bars == nil {
			steps := float64(c.Steps)
			out = append(out, Fact{ID: "cycle", Family: c.Family, Name: "Cycle", Value: &steps, Unit: "steps", Count: c.Hits,
				Text: fmt.Sprintf("%s repeats every %d steps against the bar of %d.", capital(familyNames[c.Family]), c.Steps, a.StepsPerBar())})
		}
	}
	return out
}

func (a *Analysis) tempoFact() Fact {
	f := Fact{ID: "tempo", Name: "Tempo", Value: a.Tempo, Unit: "BPM", Count: len(a.Hits)}
	f.Text = fmt.Sprintf("%.2f BPM in %s", *a.Tempo, a.Meter)
	if n := len(a.TempoCurve); n >= 4 {
		lo, hi, first, last := math.Inf(1), math.Inf(-1), 0.0, 0.0
		for i, p := range a.TempoCurve {
			lo, hi = math.Min(lo, p.Tempo), math.Max(hi, p.Tempo)
			if i < n/4+1 {
				first += p.Tempo / float64(n/4+1)
			}
			if i >= n-n/4-1 {
				last += p.Tempo / float64(n/4+1)
			}
		}
		spread := (hi - lo) / 2
		f.Error = &spread
		at, before, after := a.jump()
		switch change := last - first; {
		case at > 0:
			f.Text += fmt.Sprintf(", changing from %.1f to %.1f at bar %d", before, after, at+1)
		case math.Abs(change) > 0.012**a.Tempo && change > 0:
			f.Text += fmt.Sprintf(", getting faster from %.1f to %.1f", first, last)
		case math.Abs(change) > 0.012**a.Tempo:
			f.Text += fmt.Sprintf(", getting slower from %.1f to %.1f", first, last)
		case spread > 0.01**a.Tempo:
			f.Text += fmt.Sprintf(", wandering by ±%.1f", spread)
		default:
			f.Text += ", steady"
		}
	}
	f.Text += "."
	if *a.Confidence < guess {
		f.Text += fmt.Sprintf(" This beat is a guess, about %.0f %% likely to be right: set the tempo if it is wrong.", 100**a.Confidence)
	}
	return f
}

// jump is the bar from which on another tempo goes, at once and for good, and
// the tempi before and after it; bar 0 where there is none.
func (a *Analysis) jump() (bar int, before, after float64) {
	most := 0.03
	tempo := func(bar int) float64 {
		return 60 / a.Grid.BeatSeconds((float64(bar)+0.5)*float64(a.Grid.PerBar)) * 4 / float64(a.Unit)
	}
	// flat reports whether nearly all bars of a part have its tempo.
	flat := func(from, to int, of float64) bool {
		near := 0
		for b := from; b < to; b++ {
			if math.Abs(tempo(b)/of-1) < 0.015 {
				near++
			}
		}
		return near >= 2 && 5*near >= 4*(to-from)
	}
	for at := 2; at+2 < a.Bars; at++ {
		x, y := tempo(at-2), tempo(at+1) // the bar between may hold some of both
		if d := math.Abs(math.Log(y / x)); d > most && flat(0, at-1, x) && flat(at+1, a.Bars-1, y) {
			most, bar, before, after = d, at, x, y
		}
	}
	return bar, before, after
}

// barOneFact returns how sure the bars are.
func (a *Analysis) barOneFact() Fact {
	f := Fact{ID: "bar_one", Name: "Bar one", Unit: "%", Count: len(a.Hits)}
	if a.AlikeBeats != nil {
		f.Text = a.alikeText()
		return f
	}
	if a.BarOne == nil {
		return f
	}
	percent := 100 * *a.BarOne
	f.Value = &percent
	if *a.BarOne < guess && *a.Confidence >= guess {
		f.Text = fmt.Sprintf("Where bar one lies is a guess, about %.0f %% likely to be right: move it if it is wrong.", percent)
	}
	return f
}

// alikeText says where else bar one of a loop may lie.
func (a *Analysis) alikeText() string {
	bars := *a.AlikeBeats / a.Grid.PerBar
	if *a.AlikeBeats%a.Grid.PerBar != 0 {
		return fmt.Sprintf("The loop is the same from %s later: bar one may as well lie there.", plural(*a.AlikeBeats, "beat"))
	}
	text := fmt.Sprintf("The loop repeats after %s: any of them may be the first.", plural(bars, "bar"))
	if 2*bars == *a.LoopBars {
		text = fmt.Sprintf("The loop's halves of %s are alike: either may be the first.", plural(bars, "bar"))
	}
	return text + fmt.Sprintf(" Bar lines are %.0f %% sure.", 100**a.BarOne)
}

// guess is the confidence under which a beat is called a guess.
const guess = 0.8

func (a *Analysis) cycleFact() Fact {
	f := Fact{ID: "cycle", Name: "Pattern", Unit: "bars", Count: len(a.Hits)}
	if a.CycleBars == nil {
		if a.LoopBars != nil {
			f.Text = fmt.Sprintf("The file is a loop of exactly %s.", plural(*a.LoopBars, "bar"))
		}
		return f
	}
	bars := float64(*a.CycleBars)
	f.Value = &bars
	word := "bars"
	if bars == 1 {
		word = "bar"
	}
	for _, c := range a.Cycles {
		if c.Family == "" {
			f.Text = fmt.Sprintf("The pattern is %s %s long; %.0f %% of it repeats.", numerals[*a.CycleBars], word, 100*c.Repeats)
			f.Count = c.Hits
		}
	}
	return f
}

func (a *Analysis) swingFact() Fact {
	name := "Swing of 16ths"
	if a.Feel.Pair == 8 {
		name = "Swing of 8ths"
	}
	f := Fact{ID: "swing", Name: name, Value: a.Feel.Swing, Error: a.Feel.SwingErr, Unit: "%"}
	for _, h := range a.OnSteps() {
		if !h.Covered && a.secondOfPair(h) {
			f.Count++
		}
	}
	if f.Value == nil {
		return f
	}
	pair := map[int]string{8: "Eighths", 16: "Sixteenths"}[a.Feel.Pair]
	err := 0.0
	if f.Error != nil {
		err = *f.Error
	}
	switch s := *f.Value; {
	case math.Abs(s-50) <= math.Max(1, 2*err):
		f.Text = pair + " are straight."
	case s > 50:
		f.Text = fmt.Sprintf("%s swing at %.1f %% (±%.1f).", pair, s, err)
	default:
		f.Text = fmt.Sprintf("%s rush: the second of each pair falls at %.1f %%.", pair, s)
	}
	return f
}

func (a *Analysis) voiceFacts(f sound.Family, v groove.MeasuredVoice) (out []Fact) {
	name := capital(familyNames[f])
	lean := Fact{ID: "lean", Family: f, Name: "Lean", Value: v.Lean, Error: v.LeanErr, Unit: "ms", Count: v.Timed}
	if v.Lean != nil && string(f) != a.Feel.Anchor {
		switch l := *v.Lean; {
		case l >= groove.Unheard:
			lean.Text = fmt.Sprintf("%s %.0f ms late", name, l)
		case l <= -groove.Unheard:
			lean.Text = fmt.Sprintf("%s %.0f ms early", name, -l)
		}
	}
	between, said := a.betweenFact(f, v)
	soft := a.softSecond(f)
	if place := a.betweenWhere(); said != "" {
		if lean.Text == "" {
			lean.Text = name + " on time"
		}
		lean.Text += ", but " + said
		if soft == "soft "+place {
			lean.Text += " and soft"
			soft = ""
		}
		lean.Text += " " + place
	}
	if soft != "" {
		if lean.Text == "" {
			lean.Text = name + " " + soft
		} else {
			lean.Text += " and " + soft
		}
	}
	if lean.Text != "" {
		lean.Text += "."
	}
	out = append(out, lean)
	if said != "" {
		out = append(out, between)
	}
	out = append(out, Fact{ID: "scatter", Family: f, Name: "Scatter", Value: v.Scatter, Unit: "ms", Count: v.Timed})
	velocity := v.VelocityMean
	out = append(out, Fact{ID: "velocity", Family: f, Name: "Velocity", Value: &velocity, Error: &v.VelocitySD, Unit: "", Count: v.Count})
	ghosts := 0
	below := 0.62 * a.loud(f)
	for _, h := range a.OnSteps() {
		if h.Family == f && float64(h.Velocity) < below {
			ghosts++
		}
	}
	if ghosts > 0 && (f == sound.Snare || f == sound.Kick) {
		n := float64(ghosts)
		out = append(out, Fact{ID: "ghosts", Family: f, Name: "Ghosts", Value: &n, Count: v.Count,
			Text: fmt.Sprintf("%s has %s.", name, plural(ghosts, "ghost note"))})
	}
	if r, ok := a.rollFact(f); ok {
		out = append(out, r)
	}
	if g, ok := a.flamFact(f); ok {
		out = append(out, g)
	}
	return out
}

// betweenWhere names the second steps of pairs.
func (a *Analysis) betweenWhere() string {
	if a.Feel.Pair == 8 {
		return "between the beats"
	}
	return "between the eighths"
}

// betweenFact returns how a voice is elsewhere on the second steps of pairs than
// on the first, and says where, or nothing where nobody would hear it.
func (a *Analysis) betweenFact(f sound.Family, v groove.MeasuredVoice) (fact Fact, said string) {
	fact = Fact{ID: "between", Family: f, Name: capital(a.betweenWhere()), Unit: "ms"}
	if v.Between == nil {
		return fact, ""
	}
	at := *v.Lean + *v.Between
	fact.Value, fact.Error = &at, v.BetweenErr
	for _, h := range a.OnSteps() {
		if h.Family == f && !h.Covered && a.secondOfPair(h) {
			fact.Count++
		}
	}
	if by := math.Abs(*v.Between); by < 2*groove.Unheard || by < 3**v.BetweenErr {
		return fact, ""
	}
	switch {
	case at >= groove.Unheard:
		return fact, fmt.Sprintf("%.0f ms late", at)
	case at <= -groove.Unheard:
		return fact, fmt.Sprintf("%.0f ms early", -at)
	}
	return fact, "on time"
}

// secondOfPair reports whether a hit with a step is on the second of a pair that
// swings.
func (a *Analysis) secondOfPair(h Hit) bool {
	tick := float64(*h.Step) * 960 / float64(a.Steps)
	return a.Steps%2 == 0 && groove.SecondOfPair(tick, a.Feel.Pair)
}

// plural is a number with its noun.
func plural(n int, noun string) string {
	if n == 1 {
		return "one " + noun
	}
	return fmt.Sprintf("%d %ss", n, noun)
}

// were is a number of things in the past.
func were(n int, noun string) string {
	if n == 1 {
		return "one " + noun + " was"
	}
	return fmt.Sprintf("%d %ss were", n, noun)
}

// unnamed counts the strokes that nobody has recognized yet.
func (a *Analysis) unnamed() (n int) {
	for _, h := range a.Hits {
		if h.Unnamed {
			n++
		}
	}
	return n
}

// loud is the velocity of a family's loud hits: the upper quartile.
func (a *Analysis) loud(f sound.Family) float64 {
	var v []int
	for _, h := range a.OnSteps() {
		if h.Family == f {
			v = append(v, h.Velocity)
		}
	}
	if len(v) == 0 {
		return 0
	}
	slices.Sort(v)
	return float64(v[len(v)*3/4])
}

// softSecond says whether every second hit of a family is softer, on eighths
// or on sixteenths.
func (a *Analysis) softSecond(f sound.Family) string {
	if a.Steps != 4 {
		return ""
	}
	for _, every := range []struct {
		step int
		text string
	}{{2, "soft on every second one"}, {1, "soft between the eighths"}} {
		var on, off, sumOn, sumOff float64
		for _, h := range a.OnSteps() {
			if h.Family != f || *h.Step%every.step != 0 {
				continue
			}
			if *h.Step/every.step%2 == 0 {
				on, sumOn = on+1, sumOn+float64(h.Velocity)
			} else {
				off, sumOff = off+1, sumOff+float64(h.Velocity)
			}
		}
		if on >= groove.EnoughHits && off >= groove.EnoughHits && sumOff/off < 0.85*sumOn/on {
			return every.text
		}
	}
	return ""
}

// driftFact returns where the lateness is largest and where it is back.
func (a *Analysis) driftFact(d *groove.MeasuredDrift) Fact {
	most, least := 0, 0
	for i, v := range d.Curve {
		if v > d.Curve[most] {
			most = i
		}
		if v < d.Curve[least] {
			least = i
		}
	}
	by := d.Curve[most] - d.Curve[least]
	var names []string
	count := 0
	for _, v := range d.Voices {
		names = append(names, familyNames[sound.Family(v)])
		count += a.Feel.Voices[v].Timed
	}
	who := capital(strings.Join(names, " and "))
	return Fact{ID: "drift", Name: "Drift", Value: &by, Unit: "ms", Count: count,
		Text: fmt.Sprintf("%s drifts: %.0f ms later in bar %d than in bar %d, every %d bars.", who, by, most+1, least+1, d.Bars)}
}
