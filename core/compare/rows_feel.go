package compare

import (
	"fmt"
	"math"

	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// confident is how many standard errors hold 95 % of what may be.
const confident = 1.96

func (c *Comparison) tempo(d *project.Document, a *Against) {
	r := row("tempo", "", "")
	r.Mine, r.Reference = value(d.Tempo[0].BPM), a.Analysis.Tempo
	to := 0.0
	if r.Reference != nil {
		r.Tolerance = *r.Reference * tempoTolerance / 100
		to = math.Round(*r.Reference*100) / 100
	}
	c.add(r, ByEdits, fmt.Sprintf("Set the tempo to %.2f BPM", to), project.SetNumber{At: "tempo/bpm", Value: to})
}

func (c *Comparison) swing(d *project.Document, mine, theirs *groove.Measured) {
	pair := 2 * 60 / d.Tempo[0].BPM * 4 / float64(d.Groove.Feel.Pair) * 1000
	r := row("swing", "", "")
	r.Mine, r.Reference, r.Tolerance = mine.Swing, theirs.Swing, leanTolerance/pair*100
	if theirs.SwingErr != nil {
		r.Within = confident * *theirs.SwingErr
	}
	edits := project.Edits{}
	text := ""
	if mine.Swing != nil && theirs.Swing != nil {
		f := &d.Groove.Feel
		if theirs.Pair != f.Pair {
			edits = append(edits, project.SetPair{Pair: theirs.Pair})
		}
		to := math.Min(math.Max(f.Swing+*theirs.Swing-*mine.Swing, 25), 75)
		if theirs.Pair != f.Pair {
			to = math.Min(math.Max(*theirs.Swing, 25), 75)
		}
		text = fmt.Sprintf("Swing %.1f → %.1f %%", *mine.Swing, *theirs.Swing)
		edits = append(edits, project.SetNumber{At: "groove/feel/swing_percent", Value: math.Round(to*100) / 100})
		if f.Strength < 100 {
			edits = append(edits, project.SetNumber{At: "groove/feel/strength_percent", Value: 100})
		}
	}
	c.add(r, ByEdits, text, edits...)
}

// drift compares lateness over bars at the bar where it differs most.
func (c *Comparison) drift(d *project.Document, mine, theirs *groove.Measured) {
	r := row("drift", "", "")
	at := func(m *groove.MeasuredDrift, bar int) float64 {
		if m == nil || m.Bars == 0 {
			return 0
		}
		return m.Curve[bar%len(m.Curve)]
	}
	if len(mine.Voices) == 0 || len(theirs.Voices) == 0 {
		c.add(r, NoAct, "")
		return
	}
	// A drift that is there and too quick to be reported from scatter is known nevertheless.
	own := mine.Drift
	if f := &d.Groove.Feel; own == nil && len(f.Drift.Curve) > 0 && len(f.Drift.Voices) > 0 {
		own = &groove.MeasuredDrift{Bars: len(f.Drift.Curve), Curve: f.Drift.Curve}
	}
	bars := 1
	for _, m := range []*groove.MeasuredDrift{own, theirs.Drift} {
		if m != nil {
			bars = max(bars, len(m.Curve))
		}
	}
	worst := 0
	for b := range bars {
		if math.Abs(at(own, b)-at(theirs.Drift, b)) > math.Abs(at(own, worst)-at(theirs.Drift, worst)) {
			worst = b
		}
	}
	r.Mine, r.Reference = value(at(own, worst)), value(at(theirs.Drift, worst))
	set := project.SetDrift{Curve: []float64{}, Voices: []string{}}
	text := "Take the drift away"
	if theirs.Drift != nil {
		text = fmt.Sprintf("Drift as the reference over %d bars", len(theirs.Drift.Curve))
		for _, v := range theirs.Drift.Curve {
			set.Curve = append(set.Curve, math.Round(v*100)/100)
		}
		for _, f := range theirs.Drift.Voices {
			if v := Voice(d, sound.Family(f)); v != nil {
				set.Voices = append(set.Voices, v.ID)
			}
		}
	}
	c.add(r, ByEdits, text, set)
}

// feel adds what is measured of one family's timing and velocity.
func (c *Comparison) feel(d *project.Document, f sound.Family, mine, theirs *groove.Measured) {
	a, inMine := mine.Voices[string(f)]
	b, inTheirs := theirs.Voices[string(f)]
	if !inMine && !inTheirs {
		return
	}
	v := Voice(d, f)
	id := ""
	if v != nil {
		id = v.ID
	}
	p := pairOf{d: d, family: f, voice: id, mine: &a, theirs: &b, now: d.Groove.Feel.Voices[id]}
	if !inMine {
		p.why = "no hits of mine"
	} else if !inTheirs {
		p.why = "no hits in the reference"
	}
	c.lean(&p)
	c.bySteps(&p)
	c.scatter(&p)
	c.velocity(&p, inMine && inTheirs)
	c.accents(&p)
}

// pairOf is a family's feel on both sides.
type pairOf struct {
	d            *project.Document
	family       sound.Family
	voice, why   string
	mine, theirs *groove.MeasuredVoice
	now          groove.VoiceFeel
}

func (p *pairOf) row(id string) Row {
	r := row(id, p.family, p.voice)
	r.Why = p.why
	return r
}

func (p *pairOf) address(number string) string { return "groove/feel/" + p.voice + "/" + number }

func (c *Comparison) lean(p *pairOf) {
	r := p.row("lean")
	r.Mine, r.Reference = p.mine.Lean, p.theirs.Lean
	to, by := 0.0, 0.0
	if r.Mine != nil && r.Reference != nil {
		by = *r.Reference - *r.Mine
		to = math.Min(math.Max(p.now.Lean+by, -groove.MaxLean), groove.MaxLean)
		if p.theirs.LeanErr != nil {
			r.Within = confident * *p.theirs.LeanErr
		}
	}
	c.add(r, ByEdits, fmt.Sprintf("Lean %+.1f ms", by), project.SetNumber{At: p.address("lean_ms"), Value: math.Round(to*100) / 100})
}

// bySteps compares the contour at the step where it differs most; steps that cannot be
// measured on both sides say nothing.
func (c *Comparison) bySteps(p *pairOf) {
	r := p.row("steps")
	a, b := p.mine.Contour, p.theirs.Contour
	if len(a) != len(b) {
		if r.Why == "" {
			r.Why = "other steps in the bar than the reference"
		}
		c.add(r, NoAct, "")
		return
	}
	worst, off := -1, -1.0
	table := make([]float64, len(a))
	for s := range a {
		if len(p.now.Contour) > 0 {
			table[s] = p.now.Contour[s%len(p.now.Contour)]
		}
		if a[s] == nil || b[s] == nil {
			continue
		}
		by := *b[s] - *a[s]
		table[s] = math.Round(100*math.Min(math.Max(table[s]+by, -groove.MaxLean), groove.MaxLean)) / 100
		// What chance does to the mean of few hits is no difference.
		if n := countAt(p.theirs, s); n > 0 && p.theirs.Scatter != nil {
			by = math.Copysign(math.Max(math.Abs(by)-confident**p.theirs.Scatter/math.Sqrt(float64(n)), 0), by)
		}
		if math.Abs(by) > off {
			worst, off = s, math.Abs(by)
		}
	}
	text := ""
	if worst >= 0 {
		r.Mine, r.Reference = a[worst], b[worst]
		r.Within = math.Abs(*b[worst]-*a[worst]) - off
		text = fmt.Sprintf("Step %d: %+.1f → %+.1f ms, and the others", worst+1, *a[worst], *b[worst])
	}
	c.add(r, ByEdits, text, project.SetTable{Voice: p.voice, Table: "contour", Values: table})
}

// countAt is how many hits a step was measured on; a profile does not say, and has enough.
func countAt(v *groove.MeasuredVoice, step int) int {
	if step < len(v.StepCount) {
		return v.StepCount[step]
	}
	return groove.EnoughHits
}

// scatter offers the deviation that is missing beside what single hits are moved by; where
// those alone scatter too much, they are brought nearer to the grid.
func (c *Comparison) scatter(p *pairOf) {
	r := p.row("scatter")
	r.Mine, r.Reference = p.mine.Scatter, p.theirs.Scatter
	edits, text := project.Edits{}, ""
	if r.Mine != nil && r.Reference != nil {
		if n := p.theirs.Timed; n > 2 {
			r.Within = confident * *r.Reference / math.Sqrt(2*float64(n-1))
		}
		text = fmt.Sprintf("Scatter %.1f → %.1f ms", *r.Mine, *r.Reference)
		rest := *r.Reference**r.Reference - math.Max(*r.Mine**r.Mine-p.now.Scatter*p.now.Scatter, 0)
		to := math.Min(math.Sqrt(math.Max(rest, 0)), groove.MaxScatter)
		edits = append(edits, project.SetNumber{At: p.address("scatter_ms"), Value: math.Round(to*100) / 100})
		if others := math.Sqrt(math.Max(*r.Mine**r.Mine-p.now.Scatter*p.now.Scatter, 0)); others > *r.Reference+r.Tolerance {
			edits = append(edits, nearer(p.d, p.voice, *r.Reference/others)...)
		}
	}
	c.add(r, ByEdits, text, edits...)
}

// nearer brings the nudges of a voice's hits nearer to nothing by a factor.
func nearer(d *project.Document, voice string, by float64) (edits project.Edits) {
	if l := d.Groove.Lane(voice); l != nil {
		for _, h := range l.Hits {
			if h.Nudge != 0 {
				edits = append(edits, project.SetHits{Hits: []project.HitRef{{Voice: voice, Hit: h.ID}}, Number: "nudge_ms", Value: math.Round(h.Nudge*by*100) / 100})
			}
		}
	}
	return edits
}

func (c *Comparison) velocity(p *pairOf, both bool) {
	r := p.row("velocity")
	if !both {
		c.add(r, NoAct, "")
		return
	}
	r.Mine, r.Reference = value(p.mine.VelocityMean), value(p.theirs.VelocityMean)
	r.Within = confident * p.theirs.VelocitySD / math.Sqrt(math.Max(float64(p.theirs.Count), 1))
	by := math.Round(p.d.VelocityRoom(p.voice, *r.Reference-*r.Mine))
	c.add(r, ByEdits, fmt.Sprintf("All hits %+.0f", by), project.ChangeHits{Hits: hitsOf(p.d, p.voice), Number: "velocity", By: by})
}

// accents compares velocity by step of the bar, against the mean, at the step that differs
// most.
func (c *Comparison) accents(p *pairOf) {
	r := p.row("accents")
	a, b := p.mine.Accent, p.theirs.Accent
	if len(a) != len(b) {
		if r.Why == "" {
			r.Why = "other steps in the bar than the reference"
		}
		c.add(r, NoAct, "")
		return
	}
	mean := p.theirs.VelocityMean
	worst, off := -1, -1.0
	edits := project.Edits{}
	for s := range a {
		if a[s] == nil || b[s] == nil || countAt(p.theirs, s) < groove.EnoughHits {
			continue
		}
		by := (*b[s] - *a[s]) * mean
		if math.Abs(by) > off {
			worst, off = s, math.Abs(by)
		}
		if math.Abs(by) > r.Tolerance/2 {
			if hits := hitsAt(p.d, p.voice, s); len(hits) > 0 {
				edits = append(edits, project.ChangeHits{Hits: hits, Number: "velocity", By: math.Round(by)})
			}
		}
	}
	text := ""
	if worst >= 0 {
		r.Mine, r.Reference = value(*a[worst]*mean), value(*b[worst]*mean)
		text = fmt.Sprintf("Step %d: velocity %+.0f, and the others", worst+1, *r.Reference-*r.Mine)
	}
	c.add(r, ByEdits, text, edits...)
}

func hitsOf(d *project.Document, voice string) []project.HitRef {
	refs := []project.HitRef{}
	if l := d.Groove.Lane(voice); l != nil {
		for _, h := range l.Hits {
			refs = append(refs, project.HitRef{Voice: voice, Hit: h.ID})
		}
	}
	return refs
}

// hitsAt are those of a voice on a step of the bar.
func hitsAt(d *project.Document, voice string, step int) []project.HitRef {
	refs := []project.HitRef{}
	if l := d.Groove.Lane(voice); l != nil {
		for _, h := range l.Hits {
			if h.Tick%d.Groove.Meter.BarTicks()/d.Groove.StepTicks() == step {
				refs = append(refs, project.HitRef{Voice: voice, Hit: h.ID})
			}
		}
	}
	return refs
}

// pairs compares how much later than the kick each family is where both strike.
func (c *Comparison) pairs(d *project.Document, a *Against) {
	beat := 60000 / d.Tempo[0].BPM
	for _, p := range Between(d, a.Analysis) {
		if p.First != sound.Kick {
			continue
		}
		v := Voice(d, p.Second)
		if v == nil {
			continue
		}
		r := row("pair", p.Second, v.ID)
		r.Mine, r.Reference, r.Tolerance = p.MineMean, p.ReferenceMean, unheard(beat/4)
		by := 0.0
		if r.Mine != nil && r.Reference != nil {
			by = *r.Reference - *r.Mine
		}
		to := math.Min(math.Max(d.Groove.Feel.Voices[v.ID].Lean+by, -groove.MaxLean), groove.MaxLean)
		c.add(r, ByEdits, fmt.Sprintf("Lean %+.1f ms", by), project.SetNumber{At: "groove/feel/" + v.ID + "/lean_ms", Value: math.Round(to*100) / 100})
	}
}

// stepOf names a place of a bar by its step, from 1.
func stepOf(g *groove.Groove, tick int) string {
	step := max(music.PPQ/max(g.Grid, 1), 1)
	return fmt.Sprintf("%d.%d", tick/g.Meter.BarTicks()+1, tick%g.Meter.BarTicks()/step+1)
}
