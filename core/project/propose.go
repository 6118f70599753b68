package project

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/dsp"
	"jubrak/core/groove"
	"jubrak/core/sound"
)

// Proposals are what may be done to a groove to make a variation of it.
var Proposals = []string{"thin", "fill", "drop", "ghosts", "move", "accents"}

// Ask asks for proposals.
type Ask struct {
	// Kind is one of Proposals: thin out, fill a place, drop what plays in a bar, add
	// ghosts, move hits by a step, give accents.
	Kind string `json:"kind"`
	// Amount is how much, percent.
	Amount float64 `json:"amount_percent"`
	// Bar is the bar of a fill or a drop, counted from 1; 0 is the last.
	Bar int `json:"bar"`
	// From is the step of the bar where a fill begins, counted from 0.
	From int `json:"from"`
	// Voice is the one meant; empty is all, or the one that suits.
	Voice string `json:"voice"`
	Seed  int64  `json:"seed"`
}

// Proposed is one change that may be taken or left.
type Proposed struct {
	What  string `json:"what"`
	Voice string `json:"voice"`
	// Tick is where it is heard.
	Tick  int   `json:"tick"`
	Edits Edits `json:"edits"`
}

// Propose draws changes of the groove by a seed. Each stands alone and may be taken
// without the others.
func (d *Document) Propose(a Ask) ([]Proposed, error) {
	if !slices.Contains(Proposals, a.Kind) {
		return nil, fmt.Errorf("there are no proposals of kind %q", a.Kind)
	}
	if !(a.Amount >= 0 && a.Amount <= 100) {
		return nil, fmt.Errorf("an amount lies between 0 and 100 %%")
	}
	if a.Bar < 0 || a.Bar > d.Groove.Bars {
		return nil, fmt.Errorf("the groove has %d bars, no bar %d", d.Groove.Bars, a.Bar)
	}
	if a.Voice != "" && d.Kit.Voice(a.Voice) == nil {
		return nil, noVoice(a.Voice)
	}
	p := proposer{d: d, ask: a, bar: d.Groove.Meter.BarTicks()}
	if p.ask.Bar == 0 {
		p.ask.Bar = d.Groove.Bars
	}
	switch a.Kind {
	case "thin":
		p.thin()
	case "drop":
		p.drop()
	case "fill":
		p.fill()
	case "ghosts":
		p.ghosts()
	case "move":
		p.move()
	case "accents":
		p.accents()
	}
	slices.SortStableFunc(p.out, func(a, b Proposed) int { return a.Tick - b.Tick })
	return p.out, nil
}

type proposer struct {
	d   *Document
	ask Ask
	bar int // ticks
	out []Proposed
}

// chance draws 0 to 1, by what it is about.
func (p *proposer) chance(what ...uint64) float64 {
	key := dsp.Key(append([]uint64{uint64(p.ask.Seed)}, what...)...)
	return float64(key>>11) / (1 << 53)
}

func (p *proposer) each(f func(v *sound.Voice, lane int, h *groove.Hit)) {
	for i := range p.d.Groove.Lanes {
		v := p.d.Kit.Voice(p.d.Groove.Lanes[i].Voice)
		if v == nil || p.ask.Voice != "" && v.ID != p.ask.Voice {
			continue
		}
		for j := range p.d.Groove.Lanes[i].Hits {
			f(v, i, &p.d.Groove.Lanes[i].Hits[j])
		}
	}
}

func (p *proposer) add(v *sound.Voice, tick int, what string, edits ...Edit) {
	p.out = append(p.out, Proposed{fmt.Sprintf("%s, %s: %s", v.Name, p.d.placeName(tick), what), v.ID, tick, edits})
}

func about(h *groove.Hit, lane int) []uint64 { return []uint64{uint64(lane), uint64(h.Tick)} }

// thin leaves out soft hits between the beats first.
func (p *proposer) thin() {
	beat := p.bar / p.d.Groove.Meter.Beats
	p.each(func(v *sound.Voice, lane int, h *groove.Hit) {
		weight := float64(h.Velocity) / 127
		if h.Tick%beat == 0 {
			weight += 0.6
		}
		if p.chance(about(h, lane)...)+weight*0.7 < p.ask.Amount/100*1.3 {
			p.add(v, h.Tick, "left out", DeleteHits{[]HitRef{{v.ID, h.ID}}})
		}
	})
}

// drop leaves out what a voice, by default the kick, plays in a bar.
func (p *proposer) drop() {
	from, to := (p.ask.Bar-1)*p.bar, p.ask.Bar*p.bar
	voice := p.ask.Voice
	if voice == "" {
		voice = p.d.anchor()
	}
	p.each(func(v *sound.Voice, _ int, h *groove.Hit) {
		if v.ID == voice && h.Tick >= from && h.Tick < to {
			p.add(v, h.Tick, "dropped", TouchHits{[]HitRef{{v.ID, h.ID}}, "drop"})
		}
	})
}

// fillFamilies play fills, in order (common practice).
var fillFamilies = []sound.Family{sound.Tom, sound.Snare, sound.Rim, sound.Conga, sound.Clap, sound.Perc}

// fill strikes voices that suit, denser and louder towards the bar's end.
func (p *proposer) fill() {
	g := &p.d.Groove
	step := g.StepTicks()
	from, to := (p.ask.Bar-1)*p.bar+min(max(p.ask.From, 0), p.bar/step-1)*step, p.ask.Bar*p.bar
	var voices []*sound.Voice
	for _, f := range fillFamilies {
		for i := range p.d.Kit.Voices {
			if v := &p.d.Kit.Voices[i]; v.Family == f && (p.ask.Voice == "" || p.ask.Voice == v.ID) {
				voices = append(voices, v)
			}
		}
	}
	if p.ask.Voice != "" && len(voices) == 0 {
		voices = append(voices, p.d.Kit.Voice(p.ask.Voice))
	}
	if len(voices) == 0 {
		return
	}
	lastVoice := 0
	for tick := from; tick < to; tick += step {
		way := float64(tick-from) / float64(max(to-from, 1))
		if p.chance(uint64(tick), 1) > 0.25+0.6*way+p.ask.Amount/250 {
			continue
		}
		if p.chance(uint64(tick), 2) < 0.4 {
			lastVoice = min(int(p.chance(uint64(tick), 3)*float64(len(voices))), len(voices)-1)
		}
		v := voices[lastVoice]
		h := groove.Hit{Tick: tick, Velocity: 60 + int(50*way) + int(12*p.chance(uint64(tick), 4))}
		what := "a stroke"
		if p.chance(uint64(tick), 5) < p.ask.Amount/100*0.25 && tick+step <= to {
			h.Length, h.Roll = step, groove.Even{Strokes: 2 + int(2*p.chance(uint64(tick), 6)), VelocityTo: min(h.Velocity+10, 127)}
			what = "a roll"
		} else if p.chance(uint64(tick), 7) < p.ask.Amount/100*0.2 {
			h.Flam = groove.Flam{Strokes: 1, Spacing: 18, Level: -10}
			what = "a flam"
		}
		p.add(v, tick, what, PutHits{[]NewHit{{v.ID, h}}})
	}
}

// ghosts puts soft strokes of the snare before and after its loud ones.
func (p *proposer) ghosts() {
	g := &p.d.Groove
	step := g.StepTicks()
	p.each(func(v *sound.Voice, lane int, h *groove.Hit) {
		if p.ask.Voice == "" && v.Family != sound.Snare || h.Velocity < 80 {
			return
		}
		for _, away := range []int{-1, 3, -2} {
			tick := h.Tick + away*step
			if tick < 0 || tick >= g.LaneTicks(lane) || slices.ContainsFunc(g.Lanes[lane].Hits, func(o groove.Hit) bool { return o.Tick == tick }) {
				continue
			}
			if p.chance(uint64(lane), uint64(tick), uint64(away+5)) < p.ask.Amount/100*0.6 {
				p.add(v, tick, "a ghost", PutHits{[]NewHit{{v.ID, groove.Hit{Tick: tick, Velocity: 28 + int(18*p.chance(uint64(tick), 9))}}}})
			}
		}
	})
}

// move shifts hits between the beats by a step where nothing is in the way.
func (p *proposer) move() {
	g := &p.d.Groove
	step, beat := g.StepTicks(), p.bar/g.Meter.Beats
	taken := map[cell]bool{}
	p.each(func(v *sound.Voice, lane int, h *groove.Hit) {
		if h.Tick%beat == 0 && v.Family != sound.Kick || h.Tick%p.bar == 0 || p.chance(about(h, lane)...) >= p.ask.Amount/100*0.7 {
			return
		}
		by := step
		if p.chance(uint64(lane), uint64(h.Tick), 2) < 0.5 {
			by = -step
		}
		to := h.Tick + by
		if to < 0 || to >= g.LaneTicks(lane) || taken[cell{v.ID, to}] || slices.ContainsFunc(g.Lanes[lane].Hits, func(o groove.Hit) bool { return o.Tick == to }) {
			return
		}
		taken[cell{v.ID, to}] = true
		way := "a step later"
		if by < 0 {
			way = "a step earlier"
		}
		p.add(v, h.Tick, way, MoveHits{Hits: []HitRef{{v.ID, h.ID}}, Ticks: by})
	})
}

// accents makes some hits louder and others softer.
func (p *proposer) accents() {
	row := groove.HitParams.Find("velocity")
	p.each(func(v *sound.Voice, lane int, h *groove.Hit) {
		x := p.chance(about(h, lane)...)*2 - 1
		by := math.Round(x * p.ask.Amount / 100 * 40)
		if math.Abs(by) < 5 {
			return
		}
		to := math.Min(math.Max(float64(h.Velocity)+by, row.Min), row.Max)
		p.add(v, h.Tick, fmt.Sprintf("velocity %d → %g", h.Velocity, to), SetHits{[]HitRef{{v.ID, h.ID}}, "velocity", to})
	})
}
