package compare

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Compare sets mine against a reference.
func Compare(d *project.Document, mine *Mine, a *Against) *Comparison {
	c := &Comparison{Rows: []Row{}, profile: a.Profile}
	theirs := a.Analysis.Feel
	if theirs == nil {
		theirs = &groove.Measured{Voices: map[string]groove.MeasuredVoice{}}
	}
	pattern := taken(d, a)
	c.tempo(d, a)
	c.swing(d, &mine.Feel, theirs)
	if a.Profile == nil {
		c.drift(d, &mine.Feel, theirs)
	}
	for _, f := range sound.Families {
		c.feel(d, f, &mine.Feel, theirs)
		c.hits(d, f, mine, a, pattern)
		c.tones(d, f, mine, a)
	}
	c.pairs(d, a)
	c.whole(d, mine, a)
	for i := range d.Mix.Buses {
		c.bus(d, &d.Mix.Buses[i], mine, a)
	}
	c.Over = overs(d, mine, a)
	c.finish()
	return c
}

// farOff is from how many percent on a number says nothing any more.
const farOff = 300.0

// sayOf are how many of the largest differences are said in sentences.
const sayOf = 3

// Order are the rows that lie outside, those that lie off by most tolerances first.
func (c *Comparison) Order() []*Row {
	var out []*Row
	for i := range c.Rows {
		if r := &c.Rows[i]; r.Inside != nil && !*r.Inside {
			out = append(out, r)
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Severity() > out[j].Severity() })
	return out
}

// largest says the largest differences, one of each voice and column first.
func (c *Comparison) largest() []string {
	out := []string{}
	var families []sound.Family
	for _, r := range c.Order() {
		if len(out) == sayOf {
			break
		}
		if r.Family != "" && slices.Contains(families, r.Family) {
			continue
		}
		families = append(families, r.Family)
		out = append(out, r.Sentence)
	}
	return out
}

// words say a difference.
func (r *Row) words() string {
	who := "All of it"
	switch {
	case r.Family != "":
		who = r.Family.Label()
	case r.Voice != "":
		who = "The bus " + strings.TrimPrefix(r.Voice, "bus:")
	}
	d := *r.Difference
	by := math.Abs(d)
	than := func(more, less string) string {
		if d > 0 {
			return more
		}
		return less
	}
	if r.Unit == percent && r.Column != "swing" && by > farOff {
		return fmt.Sprintf("%s: far too %s.", who, map[string]string{"settles": "slow to settle", "decay": "long", "brightness": "bright"}[r.Column])
	}
	switch r.Column {
	case "tempo":
		return fmt.Sprintf("It is %.2f BPM too %s.", by, than("fast", "slow"))
	case "swing":
		return fmt.Sprintf("It swings %.1f points too %s.", by, than("much", "little"))
	case "drift":
		return fmt.Sprintf("It drifts otherwise over the bars, by %.1f ms at most.", by)
	case "lean", "steps", "pair":
		return fmt.Sprintf("%s: %.1f ms too %s%s.", who, by, than("late", "early"), map[string]string{"steps": " at one step", "pair": " against the kick"}[r.Column])
	case "scatter":
		return fmt.Sprintf("%s: timing varies by %.1f ms too %s.", who, by, than("much", "little"))
	case "velocity", "accents":
		return fmt.Sprintf("%s: %.0f of velocity too %s%s.", who, by, than("hard", "soft"), map[string]string{"accents": " at one step"}[r.Column])
	case "hits":
		if by == 1 {
			return fmt.Sprintf("%s: 1 hit is missing, extra or elsewhere.", who)
		}
		return fmt.Sprintf("%s: %.0f hits are missing, extra or elsewhere.", who, by)
	case "density":
		return fmt.Sprintf("%s: %.2f hits a beat too %s.", who, by, than("many", "few"))
	case "syncopation":
		return fmt.Sprintf("%s: its hits stand more %s the beats.", who, than("off", "on"))
	case "fundamental":
		return fmt.Sprintf("%s: %.0f cents too %s.", who, by, than("high", "low"))
	case "settles":
		return fmt.Sprintf("%s: its pitch settles %.0f %% too %s.", who, by, than("late", "early"))
	case "decay":
		return fmt.Sprintf("%s: rings %.0f %% too %s.", who, by, than("long", "short"))
	case "attack":
		return fmt.Sprintf("%s: attack %.1f ms too %s.", who, by, than("slow", "quick"))
	case "brightness":
		return fmt.Sprintf("%s: %.0f %% too %s.", who, by, than("bright", "dark"))
	case "noisiness":
		return fmt.Sprintf("%s: too much like a %s.", who, than("noise", "tone"))
	case "width":
		return fmt.Sprintf("%s: too %s.", who, than("narrow", "wide"))
	case "crest", "hit_crest", "bus_crest":
		return fmt.Sprintf("%s: its peaks stand %.1f dB too %s the rest of it.", who, by, than("far above", "near to"))
	case "true_peak":
		return fmt.Sprintf("%s: its true peak is %.1f dB too %s.", who, by, than("high", "low"))
	case "loudness", "level", "bus_level":
		return fmt.Sprintf("%s: %.1f dB too %s.", who, by, than("loud", "soft"))
	}
	return fmt.Sprintf("%s: %.1f dB too %s %s.", who, by, than("much", "little"), strings.ToLower(strings.TrimSuffix(r.Measure, " of all")))
}
