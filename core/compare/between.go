package compare

import (
	"math"
	"slices"
	"sort"

	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Pair is how far apart two families strike where both do, ms from the first to the
// second: mine, and the reference's.
type Pair struct {
	First  sound.Family `json:"first"`
	Second sound.Family `json:"second"`
	// Mine and Reference have the distances by step of the bar, sixteenths.
	Mine      []Apart `json:"mine"`
	Reference []Apart `json:"reference"`
	// MineMean and ReferenceMean are over all steps; nil where the two never meet.
	MineMean      *float64 `json:"mine_ms"`
	ReferenceMean *float64 `json:"reference_ms"`
	// Unheard is how far apart the two means may lie before anyone hears it, ms.
	Unheard float64 `json:"unheard_ms"`
}

// Apart is a distance at a step, the mean over all bars.
type Apart struct {
	Step  float64 `json:"step"` // in sixteenths of the bar
	MS    float64 `json:"ms"`
	Count int     `json:"count"`
}

// togetherMS is how close in ms two strokes on one step must lie to be reported as a pair.
const togetherMS = 60

type struck struct {
	family sound.Family
	bar    int
	step   float64
	ms     float64
}

// Between compares how families lie against each other in the groove and in the
// reference, which may be nil. The pairs that differ most come first.
func Between(d *project.Document, a *transcribe.Analysis) []Pair {
	mine := ofMine(d)
	var theirs []struck
	if a != nil {
		theirs = ofReference(a)
	}
	families := []sound.Family{}
	for _, f := range sound.Families {
		if slices.ContainsFunc(mine, func(s struck) bool { return s.family == f }) {
			families = append(families, f)
		}
	}
	beat := 60000 / d.Tempo[0].BPM
	out := []Pair{}
	for i, f := range families {
		for _, g := range families[i+1:] {
			p := Pair{First: f, Second: g, Mine: apart(mine, f, g), Reference: apart(theirs, f, g), Unheard: unheard(beat / 4)}
			if len(p.Mine) == 0 && len(p.Reference) == 0 {
				continue
			}
			p.MineMean, p.ReferenceMean = meanOf(p.Mine), meanOf(p.Reference)
			out = append(out, p)
		}
	}
	differs := func(p *Pair) float64 {
		if p.MineMean == nil || p.ReferenceMean == nil {
			return -1
		}
		return math.Abs(*p.MineMean - *p.ReferenceMean)
	}
	sort.SliceStable(out, func(i, j int) bool { return differs(&out[i]) > differs(&out[j]) })
	return out
}

// unheard is the displacement that is just noticed in a series of a spacing: 6 ms below
// 240 ms, 2.5 % above (Friberg & Sundberg 1995).
func unheard(spacing float64) float64 { return math.Max(6, 0.025*spacing) }

func ofMine(d *project.Document) (out []struck) {
	g := &d.Groove
	line := groove.NewLine(g, d.Tempo, 0)
	bars := max(min(g.BarsOf(g.CycleTicks()), mostBars), 8)
	events, _ := measured(line, g, bars)
	bar := g.Meter.BarTicks()
	for i := range events {
		e := &events[i]
		h := &g.Lanes[e.Lane].Hits[e.Hit]
		id := g.Lanes[e.Lane].Voice
		if h.Sound != "" {
			id = h.Sound
		}
		v := d.Kit.Voice(id)
		if v == nil || v.Mute || e.Stroke != h.Flam.Strokes {
			continue
		}
		out = append(out, struck{v.Family, e.Tick / bar, float64(e.Tick%bar) / (music.PPQ / 4), e.Offset})
	}
	return out
}

func ofReference(a *transcribe.Analysis) (out []struck) {
	if a.Grid == nil {
		return nil
	}
	perStep := 16 / float64(a.Unit) / float64(a.Steps) // sixteenths
	for i := range a.Hits {
		h := &a.Hits[i]
		if h.Bar == nil || h.Step == nil || h.Offset == nil || h.Within != 0 || h.Grace {
			continue
		}
		out = append(out, struck{h.Family, *h.Bar, float64(*h.Step) * perStep, *h.Offset})
	}
	return out
}

func apart(all []struck, f, g sound.Family) []Apart {
	type place struct {
		bar  int
		step float64
	}
	first := map[place]float64{}
	for _, s := range all {
		if s.family == f {
			first[place{s.bar, s.step}] = s.ms
		}
	}
	sum, n := map[float64]float64{}, map[float64]int{}
	for _, s := range all {
		if s.family != g {
			continue
		}
		if ms, ok := first[place{s.bar, s.step}]; ok && math.Abs(s.ms-ms) <= togetherMS {
			sum[s.step] += s.ms - ms
			n[s.step]++
		}
	}
	out := []Apart{}
	for step, k := range n {
		out = append(out, Apart{step, sum[step] / float64(k), k})
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Step < out[j].Step })
	return out
}

func meanOf(list []Apart) *float64 {
	var sum float64
	n := 0
	for _, a := range list {
		sum += a.MS * float64(a.Count)
		n += a.Count
	}
	if n == 0 {
		return nil
	}
	sum /= float64(n)
	return &sum
}

// Try is one of the project's grooves in numbers, beside the reference's.
type Try struct {
	Variation string `json:"variation"`
	Hits      int    `json:"hits"`
	// Differs is in how many hits it is not the one that plays: those only here, only
	// there, and those of another velocity or nudge.
	Differs int `json:"differs"`
	// Swing, Lean and Scatter are how far it lies from the reference: points, and ms
	// on the mean over families; nil without one or where it cannot be known.
	Swing   *float64 `json:"swing_points"`
	Lean    *float64 `json:"lean_ms"`
	Scatter *float64 `json:"scatter_ms"`
	// Pattern is how alike its hits are to the reference's, 0 to 1 (F-measure over
	// steps and families).
	Pattern *float64 `json:"pattern"`
	// Syncopation is that of its kicks and snares, a bar (groove.Syncopation).
	Syncopation float64 `json:"syncopation"`
}

// Tries measures each of the project's grooves.
func Tries(d *project.Document, a *transcribe.Analysis) []Try {
	out := []Try{}
	for _, v := range d.Variations {
		g := d.GrooveOf(v.ID)
		if g == nil || v.Here {
			continue
		}
		o := *d
		o.Groove = *g
		t := Try{Variation: v.ID, Differs: differs(g, &d.Groove)}
		for i := range g.Lanes {
			t.Hits += len(g.Lanes[i].Hits)
		}
		for voice, s := range g.Syncopated() {
			if v := d.Kit.Voice(voice); v != nil && (v.Family == sound.Kick || v.Family == sound.Snare) {
				t.Syncopation += s
			}
		}
		if a != nil && a.Feel != nil {
			t.against(&o, a)
		}
		out = append(out, t)
	}
	return out
}

func differs(a, b *groove.Groove) (n int) {
	type key struct {
		voice string
		tick  int
		sound string
	}
	at := map[key]groove.Hit{}
	for i := range b.Lanes {
		for _, h := range b.Lanes[i].Hits {
			h.ID = ""
			at[key{b.Lanes[i].Voice, h.Tick, h.Sound}] = h
		}
	}
	for i := range a.Lanes {
		for _, h := range a.Lanes[i].Hits {
			h.ID = ""
			k := key{a.Lanes[i].Voice, h.Tick, h.Sound}
			if other, ok := at[k]; !ok || other != h {
				n++
			}
			delete(at, k)
		}
	}
	return n + len(at)
}

func (t *Try) against(d *project.Document, a *transcribe.Analysis) {
	m := Feel(d)
	if m.Swing != nil && a.Feel.Swing != nil {
		t.Swing = new(*m.Swing - *a.Feel.Swing)
	}
	var lean, scatter float64
	var leans, scatters int
	for f, mine := range m.Voices {
		theirs, ok := a.Feel.Voices[f]
		if !ok {
			continue
		}
		if mine.Lean != nil && theirs.Lean != nil {
			lean += math.Abs(*mine.Lean - *theirs.Lean)
			leans++
		}
		if mine.Scatter != nil && theirs.Scatter != nil {
			scatter += math.Abs(*mine.Scatter - *theirs.Scatter)
			scatters++
		}
	}
	if leans > 0 {
		t.Lean = new(lean / float64(leans))
	}
	if scatters > 0 {
		t.Scatter = new(scatter / float64(scatters))
	}
	t.Pattern = alike(ofMine(d), ofReference(a))
}

// alike is the F-measure of two patterns over families and steps of the bar, each step
// that is struck in at least half of its bars.
func alike(mine, theirs []struck) *float64 {
	type key struct {
		family sound.Family
		step   float64
	}
	usual := func(list []struck) map[key]bool {
		n, last := map[key]int{}, 0
		for _, s := range list {
			n[key{s.family, s.step}]++
			last = max(last, s.bar)
		}
		out := map[key]bool{}
		for k, c := range n {
			if 2*c >= last+1 {
				out[k] = true
			}
		}
		return out
	}
	x, y := usual(mine), usual(theirs)
	if len(x) == 0 || len(y) == 0 {
		return nil
	}
	both := 0
	for k := range x {
		if y[k] {
			both++
		}
	}
	f := 2 * float64(both) / float64(len(x)+len(y))
	return &f
}
