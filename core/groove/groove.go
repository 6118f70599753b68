// Package groove says what a groove is and where its hits fall, and measures
// the feel of hits that were heard: one model in both directions.
package groove

import (
	"cmp"
	"fmt"
	"slices"

	"jubrak/core/music"
)

// Limits of a groove.
const (
	MaxBars      = 64
	MaxHits      = 20000
	MaxNudge     = 200.0 // ms
	MaxLean      = 100.0 // ms
	MaxScatter   = 50.0  // ms
	MaxSemitones = 36
	MaxBackwards = 200
	MaxLength    = 64 * 4 * music.PPQ // of a hit, ticks
)

// Groove is a pattern of hits on lanes, one lane for each voice, and the feel
// that moves them off the grid. Its exact positions are ticks.
type Groove struct {
	Name  string      `json:"name"`
	Bars  int         `json:"bars"`
	Meter music.Meter `json:"meter"`
	// Grid is the number of steps per quarter note, one of Grids.
	Grid  int    `json:"grid"`
	Lanes []Lane `json:"lanes"`
	Feel  Feel   `json:"feel"`
	// Seed names the take: another seed gives other scatter.
	Seed int64 `json:"seed"`
}

// Lane is the row of one voice.
type Lane struct {
	Voice string `json:"voice"`
	Hits  []Hit  `json:"hits"`
	// Steps is the lane's own length in steps of its grid; 0 means as long as the
	// groove. A lane of 15 steps runs against a 16-step bar.
	Steps int `json:"steps"`
	// Grid is the lane's own grid, steps per quarter note; 0 is the groove's.
	Grid int `json:"grid,omitempty"`
}

// Ticks is the groove's length in ticks, without longer cycles of lanes.
func (g *Groove) Ticks() int { return g.Bars * g.Meter.BarTicks() }

// StepTicks is the length of one step of the grid.
func (g *Groove) StepTicks() int { return music.PPQ / g.Grid }

// LaneTicks is the length after which lane i repeats.
func (g *Groove) LaneTicks(i int) int {
	if s := g.Lanes[i].Steps; s > 0 {
		return s * g.LaneStep(i)
	}
	return g.Ticks()
}

// LaneStep is the length of one step of lane i.
func (g *Groove) LaneStep(i int) int {
	if n := g.Lanes[i].Grid; n > 0 {
		return music.PPQ / n
	}
	return g.StepTicks()
}

// Longest is the length of the longest lane, at least the groove's own, ticks: what
// there is to draw of it.
func (g *Groove) Longest() int {
	most := g.Ticks()
	for i := range g.Lanes {
		most = max(most, g.LaneTicks(i))
	}
	return most
}

// LongestCycle stands for every cycle that is longer, in ticks: years. Lanes
// of coprime lengths meet again only then; nothing may list a whole cycle.
const LongestCycle = 1 << 50

// CycleTicks is the least common multiple of all lanes' lengths, at most
// LongestCycle.
func (g *Groove) CycleTicks() int {
	cycle := g.Ticks()
	for i := range g.Lanes {
		n := g.LaneTicks(i)
		n /= gcd(cycle, n)
		if cycle > LongestCycle/n {
			return LongestCycle
		}
		cycle *= n
	}
	return cycle
}

// CycleIsLonger reports whether the lanes meet again only after LongestCycle, or beyond.
func (g *Groove) CycleIsLonger() bool { return g.CycleTicks() >= LongestCycle }

// BarsOf is the number of bars that a length in ticks fills, the last perhaps
// in part.
func (g *Groove) BarsOf(ticks int) int {
	bar := g.Meter.BarTicks()
	return (ticks + bar - 1) / bar
}

func gcd(a, b int) int {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

// Lane finds the lane of a voice, or nil.
func (g *Groove) Lane(voice string) *Lane {
	for i := range g.Lanes {
		if g.Lanes[i].Voice == voice {
			return &g.Lanes[i]
		}
	}
	return nil
}

// EnsureLane finds or adds the lane of a voice.
func (g *Groove) EnsureLane(voice string) *Lane {
	if l := g.Lane(voice); l != nil {
		return l
	}
	g.Lanes = append(g.Lanes, Lane{Voice: voice, Hits: []Hit{}})
	return &g.Lanes[len(g.Lanes)-1]
}

// Find returns the hit with the id, or nil.
func (l *Lane) Find(id string) *Hit {
	for i := range l.Hits {
		if l.Hits[i].ID == id {
			return &l.Hits[i]
		}
	}
	return nil
}

// SameHits reports whether two lanes have the same hits; quick where they share
// them.
func (l *Lane) SameHits(o *Lane) bool {
	if len(l.Hits) != len(o.Hits) {
		return false
	}
	return len(l.Hits) == 0 || &l.Hits[0] == &o.Hits[0] || slices.Equal(l.Hits, o.Hits)
}

// Sort puts the hits in order of tick, then id.
func (l *Lane) Sort() {
	if order := func(a, b Hit) int { return cmp.Or(cmp.Compare(a.Tick, b.Tick), cmp.Compare(a.ID, b.ID)) }; !slices.IsSortedFunc(l.Hits, order) {
		slices.SortStableFunc(l.Hits, order)
	}
}

// NewHitID names a hit that is not in the lane yet.
func (l *Lane) NewHitID() string {
	for n := len(l.Hits) + 1; ; n++ {
		id := fmt.Sprintf("h%d", n)
		if l.Find(id) == nil {
			return id
		}
	}
}

// Grids are the steps per quarter note on offer.
var Grids = []int{1, 2, 3, 4, 5, 6, 8, 10, 12, 16, 24}

// ValidateFrame checks what places are counted by: bars, meter, grids and lengths of
// lanes. It is cheap beside Validate, which checks the hits as well.
func (g *Groove) ValidateFrame() error {
	if g.Bars < 1 || g.Bars > MaxBars {
		return fmt.Errorf("a groove has 1 to %d bars, not %d", MaxBars, g.Bars)
	}
	if err := g.Meter.Validate(); err != nil {
		return err
	}
	if !slices.Contains(Grids, g.Grid) {
		return fmt.Errorf("grid %d is not one of %v steps per quarter note", g.Grid, Grids)
	}
	for i := range g.Lanes {
		l := &g.Lanes[i]
		if l.Steps < 0 || l.Steps > 1024 {
			return fmt.Errorf("lane %q: %d steps is outside 0 to 1024", l.Voice, l.Steps)
		}
		if l.Grid != 0 && !slices.Contains(Grids, l.Grid) {
			return fmt.Errorf("lane %q: grid %d is not one of %v steps per quarter note", l.Voice, l.Grid, Grids)
		}
	}
	return nil
}

// Validate checks ranges, order and ids.
func (g *Groove) Validate() error {
	if err := g.ValidateFrame(); err != nil {
		return err
	}
	total, backwards := 0, 0
	for i := range g.Lanes {
		l := &g.Lanes[i]
		if total += len(l.Hits); total > MaxHits {
			return fmt.Errorf("a groove holds at most %d hits", MaxHits)
		}
		seen := make(map[string]bool, len(l.Hits))
		for j, h := range l.Hits {
			if h.ID == "" || seen[h.ID] {
				return fmt.Errorf("lane %q: each hit needs an id of its own", l.Voice)
			}
			seen[h.ID] = true
			if j > 0 && l.Hits[j-1].Tick > h.Tick {
				return fmt.Errorf("lane %q: hits must be in order of time", l.Voice)
			}
			if h.Tick < 0 || h.Tick >= g.LaneTicks(i) {
				return fmt.Errorf("lane %q: hit %s lies outside the lane", l.Voice, h.ID)
			}
			if h.Reverse {
				if backwards++; backwards > MaxBackwards {
					return fmt.Errorf("at most %d hits of a groove play backwards", MaxBackwards)
				}
			}
			err := HitParams.Validate(&l.Hits[j])
			if err == nil {
				err = l.Hits[j].validate(func(id string) bool { return g.Lane(id) != nil })
			}
			if err != nil {
				return fmt.Errorf("lane %q, hit %s: %w", l.Voice, h.ID, err)
			}
		}
	}
	return g.Feel.Validate()
}
