package project

import (
	"fmt"
	"jubrak/core/groove"
	"jubrak/core/music"
	"slices"
)

// SetMeter changes the meter. Hits beyond the new end go.
type SetMeter struct {
	Meter music.Meter `json:"meter"`
}

func (e SetMeter) apply(d *Document, _ Env) ([]string, error) {
	if err := e.Meter.Validate(); err != nil {
		return nil, err
	}
	d.Groove.Meter = e.Meter
	return SetBars{d.Groove.Bars}.apply(d, nil)
}

func (e SetMeter) name(_, after *Document) string {
	return fmt.Sprintf("Meter %d/%d", after.Groove.Meter.Beats, after.Groove.Meter.Unit)
}

// TimesGroove stretches the whole pattern: 2 is half the time, twice as long; 0.5 is
// double time. Lengths of hits and of lanes go along.
type TimesGroove struct {
	// Times is 0.5 or 2.
	Times float64 `json:"times"`
}

func (e TimesGroove) apply(d *Document, _ Env) ([]string, error) {
	g := &d.Groove
	if e.Times != 0.5 && e.Times != 2 {
		return nil, fmt.Errorf("a pattern is stretched to twice or to half its length")
	}
	bars := float64(g.Bars) * e.Times
	if bars < 1 || bars != float64(int(bars)) || bars > groove.MaxBars {
		return nil, fmt.Errorf("%s cannot be stretched so: a groove has 1 to %d whole bars", count(g.Bars, "bar"), groove.MaxBars)
	}
	g.Bars = int(bars)
	lost := 0
	for i := range g.Lanes {
		l := &g.Lanes[i]
		own(l)
		taken := map[int]bool{}
		for j := range l.Hits {
			h := &l.Hits[j]
			h.Tick = int(float64(h.Tick) * e.Times)
			h.Length = int(float64(h.Length) * e.Times)
		}
		l.Hits = slices.DeleteFunc(l.Hits, func(h groove.Hit) bool {
			again := taken[h.Tick] && h.Sound == ""
			taken[h.Tick] = true
			if again {
				lost++
			}
			return again
		})
		if l.Steps > 0 {
			l.Steps = max(int(float64(l.Steps)*e.Times), 1)
			end := g.LaneTicks(i)
			remove(l, func(h groove.Hit) bool { return h.Tick >= end })
		}
	}
	if lost > 0 {
		return []string{fmt.Sprintf("%s landed on places already taken and were removed.", count(lost, "hit"))}, nil
	}
	return nil, nil
}

func (e TimesGroove) name(_, _ *Document) string {
	if e.Times < 1 {
		return "Pattern in double time"
	}
	return "Pattern in half time"
}

// RepeatBars plays some bars more than once: what follows moves back, and the groove
// grows. Lanes with a length of their own stay as they are.
type RepeatBars struct {
	// From is the first bar, counted from 1.
	From int `json:"from"`
	// Bars is how many bars.
	Bars int `json:"bars"`
	// Times is how often they are played in all, 2 or more.
	Times int `json:"times"`
}

func (e RepeatBars) apply(d *Document, _ Env) ([]string, error) {
	g := &d.Groove
	if e.From < 1 || e.Bars < 1 || e.From+e.Bars-1 > g.Bars || e.Times < 2 {
		return nil, fmt.Errorf("bars of the groove are repeated two times or more")
	}
	if g.Bars+e.Bars*(e.Times-1) > groove.MaxBars {
		return nil, fmt.Errorf("a groove has at most %d bars", groove.MaxBars)
	}
	bar := g.Meter.BarTicks()
	from, to := (e.From-1)*bar, (e.From-1+e.Bars)*bar
	more := e.Bars * bar * (e.Times - 1)
	g.Bars += e.Bars * (e.Times - 1)
	for i := range g.Lanes {
		l := &g.Lanes[i]
		if l.Steps > 0 {
			continue
		}
		var copies []groove.Hit
		own(l)
		for j := range l.Hits {
			h := &l.Hits[j]
			switch {
			case h.Tick >= to:
				h.Tick += more
			case h.Tick >= from:
				for n := 1; n < e.Times; n++ {
					again := *h
					again.Tick += n * e.Bars * bar
					copies = append(copies, again)
				}
			}
		}
		for _, h := range copies {
			h.ID = l.NewHitID()
			l.Hits = append(l.Hits, h)
		}
		l.Sort()
	}
	return nil, nil
}

func (e RepeatBars) name(_, _ *Document) string {
	if e.Bars == 1 {
		return fmt.Sprintf("Bar %d played %d times", e.From, e.Times)
	}
	return fmt.Sprintf("Bars %d to %d played %d times", e.From, e.From+e.Bars-1, e.Times)
}

// noDoubles refuses two hits of a lane in one place with the same sound.
func (d *Document) noDoubles() error {
	for i := range d.Groove.Lanes {
		hits := d.Groove.Lanes[i].Hits
		for j := 1; j < len(hits); j++ {
			if samePlace(&hits[j-1], &hits[j]) {
				return fmt.Errorf("two of the hits would land in one place; move them apart first")
			}
		}
	}
	return nil
}
