package project

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

type cell struct {
	voice string
	tick  int // from the start of the cycle
}

// heardPattern is a pattern on its way from a reference onto lanes.
type heardPattern struct {
	a     *transcribe.Analysis
	all   bool // bars as they were played, not what repeats
	bars  int
	notes []string
	lanes map[string][]heardHit // by voice, in order of time
	fell  map[HitRef]float64    // where the hits that were taken fell
	// orphans are hits of families that no voice plays, by family.
	orphans map[sound.Family]int
}

// heardHit is a hit that goes to a voice: with where it fell, in ticks from bar one on
// the reference's own grid.
type heardHit struct {
	groove.Hit
	fell float64
	of   transcribe.Hit
}

// takePattern writes the reference's hits on the grid, with their flams and rolls. All
// bars are taken as they were played, up to the most that a groove has; of a cycle a place
// is struck if it is in at least half of the cycles heard, at its mean velocity. Families
// without a voice go where places says. What cannot be kept is named.
func (d *Document) takePattern(a *transcribe.Analysis, ask asked) *heardPattern {
	p := &heardPattern{a: a, all: ask.bars != OnlyCycle || a.CycleBars == nil, lanes: map[string][]heardHit{}, fell: map[HitRef]float64{}, orphans: map[sound.Family]int{}}
	heard := max(a.Bars, 1)
	if a.LoopBars != nil {
		heard = *a.LoopBars
	}
	p.bars = min(heard, groove.MaxBars)
	if !p.all {
		p.bars = *a.CycleBars
	}
	keys := d.Kit.Keys(nil)
	p.gather(heard, func(h *transcribe.Hit) *sound.Voice {
		v := d.Kit.ForFamily(h.Family)
		if h.Key != nil {
			v = d.Kit.ForKey(h.Family, *h.Key, keys)
		}
		if v == nil {
			v = d.Kit.Voice(ask.places[string(h.Family)])
		}
		return v
	})
	d.Groove.Bars, d.Groove.Grid = p.bars, a.Steps*a.Unit/4
	d.Groove.Meter = music.Meter{Beats: a.Grid.PerBar, Unit: a.Unit}
	for i := range d.Groove.Lanes {
		d.Groove.Lanes[i] = groove.Lane{Voice: d.Groove.Lanes[i].Voice, Hits: []groove.Hit{}}
	}
	for _, v := range d.Kit.Voices {
		hits := p.lanes[v.ID]
		if len(hits) == 0 {
			continue
		}
		l := d.Groove.EnsureLane(v.ID)
		for _, h := range p.pattern(hits, heard) {
			h.ID = fmt.Sprintf("h%d", len(l.Hits)+1)
			l.Hits = append(l.Hits, h.Hit)
			p.fell[HitRef{v.ID, h.ID}] = h.fell
		}
		l.Sort()
	}
	d.orderLanes()
	p.say(heard)
	return p
}

// pattern are the hits of a voice as a groove has them: flams and rolls one hit each, each
// in a place of its own, in order.
func (p *heardPattern) pattern(hits []heardHit, heard int) []heardHit {
	hits = p.flams(p.rolls(hits))
	if !p.all {
		hits = p.common(hits, max(heard/p.bars, 1))
	}
	hits = p.apart(hits)
	slices.SortStableFunc(hits, func(a, b heardHit) int { return a.Tick - b.Tick })
	return hits
}

// gather files the hits under voices.
func (p *heardPattern) gather(heard int, voiceOf func(h *transcribe.Hit) *sound.Voice) {
	a := p.a
	stepTicks := music.PPQ * 4 / a.Unit / a.Steps
	early, late := 0, 0
	for _, h := range a.Counted() {
		if h.Bar == nil {
			continue
		}
		bar := *h.Bar
		if a.LoopBars != nil && bar >= 0 {
			bar %= *a.LoopBars // an early hit of the next pass
		}
		switch {
		case bar < 0:
			early++
			continue
		case p.all && bar >= p.bars, !p.all && bar >= p.bars*max(heard/p.bars, 1):
			late++
			continue
		}
		v := voiceOf(&h)
		if v == nil {
			p.orphans[h.Family]++
			continue
		}
		step := bar*a.StepsPerBar() + *h.Step
		one := heardHit{of: h}
		one.Tick, one.Velocity = step*stepTicks+h.Within, h.Velocity
		one.fell = float64(one.Tick) + *h.Offset/1000/a.Grid.BeatSeconds(float64(one.Tick)*float64(a.Unit)/4/music.PPQ)*music.PPQ*4/float64(a.Unit)
		if h.Key != nil { // the file's own grid, not one that was moved to the anchor
			one.fell += a.Feel.OriginShift / 1000 / a.Grid.BeatSeconds(float64(one.Tick)*float64(a.Unit)/4/music.PPQ) * music.PPQ * 4 / float64(a.Unit)
			one.Tick = p.finer(&one)
		}
		p.lanes[v.ID] = append(p.lanes[v.ID], one)
	}
	if early > 0 {
		p.note("%s before bar one were left out.", count(early, "hit"))
	}
	if late > 0 && p.all {
		p.note("%s after bar %d were left out: a groove has at most %d bars.", count(late, "hit"), p.bars, groove.MaxBars)
	}
}

func (p *heardPattern) note(format string, args ...any) {
	p.notes = append(p.notes, fmt.Sprintf(format, args...))
}

// finer is the place of a hit of a MIDI file that stands between the steps of a straight
// grid on purpose: on a triplet or a finer part of the beat.
func (p *heardPattern) finer(h *heardHit) int {
	if s := p.a.Feel.Swing; h.of.Within != 0 || h.of.Grace || s != nil && math.Abs(*s-50) > 1 {
		return h.Tick
	}
	const far, near = 30, 3 // ticks
	if math.Abs(h.fell-float64(h.Tick)) < far {
		return h.Tick
	}
	for _, unit := range []float64{80, 60, 40} { // triplets of eighths, thirty-seconds, their triplets
		if at := math.Round(h.fell/unit) * unit; math.Abs(at-h.fell) <= near && at >= 0 {
			return int(at)
		}
	}
	return h.Tick
}

// rolls makes one hit of the strokes of each roll, as long as their velocities go straight
// from the first to the last.
func (p *heardPattern) rolls(hits []heardHit) []heardHit {
	const bent = 14 // steps of velocity away from the straight way
	at := map[string]int{}
	for i := range hits {
		at[hits[i].of.ID] = i
	}
	straight := func(ids []string) bool {
		n := len(ids) - 1
		if n < 1 || n >= groove.MaxStrokes {
			return false
		}
		for k, id := range ids {
			first, ok := at[ids[0]]
			i, also := at[id]
			last, too := at[ids[n]]
			if !ok || !also || !too { // a part of it is left out
				return false
			}
			way := float64(hits[first].Velocity) + float64(hits[last].Velocity-hits[first].Velocity)*float64(k)/float64(n)
			if math.Abs(float64(hits[i].Velocity)-way) > bent {
				return false
			}
		}
		return true
	}
	gone := make([]bool, len(hits))
	for _, r := range p.a.Rolls {
		ids := r.Hits
		if !straight(ids) {
			ids = ids[:len(ids)-1] // without the stroke that it lands on, which is often an accent
		}
		if !straight(ids) {
			continue
		}
		h, last := &hits[at[ids[0]]], hits[at[ids[len(ids)-1]]].Velocity
		h.Roll = groove.Even{Strokes: len(ids)}
		h.Length = len(ids) * music.PPQ / r.PerQuarter
		if last != h.Velocity {
			h.Roll.VelocityTo = last
		}
		for _, id := range ids[1:] {
			gone[at[id]] = true
		}
	}
	out := make([]heardHit, 0, len(hits))
	for i := range hits {
		if !gone[i] {
			out = append(out, hits[i])
		}
	}
	return out
}

// flams takes grace notes into the hits that they lead to.
func (p *heardPattern) flams(hits []heardHit) []heardHit {
	const longest = 80.0 // ms
	var out, graces []heardHit
	lone := 0
	for i := range hits {
		h := hits[i]
		if h.of.Grace {
			graces = append(graces, h)
			continue
		}
		var mine []heardHit
		for _, g := range graces {
			if ms := (h.of.Time - g.of.Time) * 1000; ms > 0 && ms <= longest {
				mine = append(mine, g)
			} else {
				lone++
			}
		}
		graces = nil
		if n := min(len(mine), 8); n > 0 {
			var level float64
			for _, g := range mine {
				level += 40 * math.Log10(float64(g.Velocity)/float64(h.Velocity)) / float64(len(mine))
			}
			spacing := (h.of.Time - mine[len(mine)-n].of.Time) * 1000 / float64(n)
			h.Flam = groove.Flam{Strokes: n, Spacing: math.Round(spacing*1000) / 1000, Level: math.Max(math.Round(level*100)/100, -40)}
		}
		out = append(out, h)
	}
	if lone += len(graces); lone > 0 {
		p.note("%s that lead to no hit were left out.", count(lone, "grace note"))
	}
	return out
}

// common keeps one pass of what repeats: places struck in at least half of the passes, at
// their mean velocity, with the flam or the roll that most of them have.
func (p *heardPattern) common(hits []heardHit, passes int) []heardHit {
	length := p.bars * p.a.StepsPerBar() * music.PPQ * 4 / p.a.Unit / p.a.Steps
	at := map[int][]heardHit{}
	for _, h := range hits {
		h.Tick %= length
		at[h.Tick] = append(at[h.Tick], h)
	}
	var out []heardHit
	for _, list := range at {
		if 2*len(list) < passes {
			continue
		}
		// Of strokes that differ in kind the most usual kind stands for all.
		kinds := map[[2]bool][]heardHit{}
		for _, h := range list {
			k := [2]bool{h.Flam.Strokes > 0, h.Rolls()}
			kinds[k] = append(kinds[k], h)
		}
		var usual []heardHit
		for _, k := range [][2]bool{{false, false}, {true, false}, {false, true}, {true, true}} {
			if len(kinds[k]) > len(usual) {
				usual = kinds[k]
			}
		}
		one, sum := usual[0], 0
		for _, h := range list {
			sum += h.Velocity
		}
		one.Velocity = min(max(int(math.Round(float64(sum)/float64(len(list)))), 1), 127)
		out = append(out, one)
	}
	slices.SortFunc(out, func(a, b heardHit) int { return a.Tick - b.Tick })
	return out
}

// apart gives each hit a place of its own: of two that would share one, the one that fell
// farther from it stands where it fell.
func (p *heardPattern) apart(hits []heardHit) []heardHit {
	taken := map[int]int{}
	out := slices.Clone(hits)
	end := p.bars * p.a.StepsPerBar() * music.PPQ * 4 / p.a.Unit / p.a.Steps
	same := 0
	for i := range out {
		other, ok := taken[out[i].Tick]
		if !ok {
			taken[out[i].Tick] = i
			continue
		}
		move := i
		if math.Abs(out[other].fell-float64(out[other].Tick)) > math.Abs(out[i].fell-float64(out[i].Tick)) {
			move = other
			taken[out[i].Tick] = i
		}
		to := min(max(int(math.Round(out[move].fell)), 0), end-1)
		if _, ok := taken[to]; ok {
			out[move].Tick = -1
			same++
			continue
		}
		out[move].Tick, taken[to] = to, move
	}
	if same > 0 {
		p.note("%s fell in one place with another one of the same voice and were left out.", count(same, "hit"))
	}
	return slices.DeleteFunc(out, func(h heardHit) bool { return h.Tick < 0 })
}

// say names what cannot be kept.
func (p *heardPattern) say(heard int) {
	if heard > p.bars && !p.all {
		// The cycle stands for all its passes; that is what was asked for.
		p.note("%s of %s are taken: what half of the passes strike.", count(p.bars, "bar"), count(heard, "bar"))
	}
	for _, f := range sound.Families {
		if n := p.orphans[f]; n > 0 {
			p.note("%s of family %s have no matching voice in this kit and were left out. Ctrl Z brings them back.", count(n, "hit"), f)
		}
	}
	if n := p.a.OtherNotes; n > 0 {
		p.note("%s on other channels than the drums' were left out.", count(n, "note"))
	}
	if changes := tempoChanges(p.a); changes != "" {
		p.note("The tempo of the reference changes (%s); a groove keeps one tempo, so its hits are taken by bar and beat.", changes)
	}
}

// tempoChanges returns of the tempos of a grid that is not steady: where the beat changes by
// more than 2 % and stays so for a bar.
func tempoChanges(a *transcribe.Analysis) string {
	var out []string
	was := 0.0
	for beat := 0; beat+a.Grid.PerBar <= len(a.Grid.Beats)-1-a.Grid.Downbeat; beat += a.Grid.PerBar {
		bar := a.Grid.Seconds(float64(beat+a.Grid.PerBar)) - a.Grid.Seconds(float64(beat))
		bpm := 60 * float64(a.Grid.PerBar) / bar * 4 / float64(a.Unit)
		if was > 0 && math.Abs(bpm/was-1) > 0.02 {
			out = append(out, fmt.Sprintf("%s → %s BPM at bar %d", amount(was, ""), amount(bpm, ""), beat/a.Grid.PerBar+1))
		}
		was = bpm
	}
	if len(out) > 4 {
		return fmt.Sprintf("%s and %d more", strings.Join(out[:4], ", "), len(out)-4)
	}
	return strings.Join(out, ", ")
}

// nudgeTo moves hits to where they fell in the reference: what the feel does not do is a
// nudge, and nothing scatters them any more.
func (d *Document) nudgeTo(p *heardPattern) {
	for id, v := range d.Groove.Feel.Voices {
		v.Scatter = 0
		d.Groove.Feel.Voices[id] = v
	}
	g := d.Groove
	line := groove.NewLine(&g, d.Tempo, 0)
	for i := range d.Groove.Lanes {
		l := &d.Groove.Lanes[i]
		falls := line.Falls(i)
		for j := range l.Hits {
			h := &l.Hits[j]
			at, ok := p.fell[HitRef{l.Voice, h.ID}]
			if !ok {
				continue
			}
			ms := (line.Seconds(at) - line.Seconds(float64(h.Tick))) * 1000
			h.Nudge = limit(math.Round((ms-falls[j].Offset)*1000)/1000, groove.MaxNudge)
		}
	}
}

// HitsHeard are edits that put all hits heard in a loop on the lanes of voices of this
// document, by family, again and again to the groove's end; a groove that is shorter than
// the loop grows. With timing each falls as far from the grid as it did, at this tempo; a
// loop without a beat goes by its seconds. What was left out is noted.
func (d *Document) HitsHeard(a *transcribe.Analysis, voices map[sound.Family]string, timing bool) (Edits, []string) {
	p := &heardPattern{a: a, all: true, lanes: map[string][]heardHit{}, orphans: map[sound.Family]int{}}
	voiceOf := func(h *transcribe.Hit) *sound.Voice { return d.Kit.Voice(voices[h.Family]) }
	bar := d.Groove.Meter.BarTicks()
	length := bar
	if a.Grid != nil && a.Feel != nil {
		p.bars = min(max(a.Bars, 1), groove.MaxBars)
		if a.LoopBars != nil {
			p.bars = min(*a.LoopBars, groove.MaxBars)
		}
		length = p.bars * a.StepsPerBar() * music.PPQ * 4 / a.Unit / a.Steps
		p.gather(p.bars, voiceOf)
	} else {
		step := d.Groove.StepTicks()
		for _, h := range a.Counted() {
			v := voiceOf(&h)
			if v == nil {
				p.orphans[h.Family]++
				continue
			}
			one := heardHit{of: h, fell: h.Time * d.Tempo[0].BPM / 60 * music.PPQ}
			one.Velocity, one.Tick = h.Velocity, int(math.Round(one.fell/float64(step)))*step
			length = max(length, (one.Tick/bar+1)*bar)
			p.lanes[v.ID] = append(p.lanes[v.ID], one)
		}
	}
	var edits Edits
	bars := min((length+bar-1)/bar, groove.MaxBars)
	if d.Groove.Bars < bars {
		edits = append(edits, SetBars{bars})
	}
	end := max(d.Groove.Bars, bars) * bar
	put := PutHits{}
	for _, v := range d.Kit.Voices {
		hits := p.lanes[v.ID]
		if len(hits) == 0 {
			continue
		}
		if p.bars > 0 {
			hits = p.pattern(hits, p.bars)
		}
		for from := 0; from < end; from += length {
			for _, h := range hits {
				at := from + h.Tick
				if at >= end {
					continue
				}
				if timing {
					ms := (h.fell - float64(h.Tick)) / music.PPQ * 60000 / d.Tempo[0].BPM
					h.Nudge = limit(round2(ms-d.feelAt(v.ID, at)), groove.MaxNudge)
				}
				h.Tick = at
				put.Hits = append(put.Hits, NewHit{v.ID, h.Hit})
			}
		}
	}
	for _, f := range sound.Families {
		if n := p.orphans[f]; n > 0 {
			p.note("%s of family %s have no sound of their own and were left out.", count(n, "hit"), f)
		}
	}
	return append(edits, put), p.notes
}
