package arrange

import (
	"slices"
	"strconv"

	"jubrak/core/groove"
	"jubrak/core/mixer"
)

// Own makes the lists of a section its own, so that they may be changed.
func (s *Section) Own() {
	s.Rests, s.Placed, s.Dropouts = slices.Clone(s.Rests), slices.Clone(s.Placed), slices.Clone(s.Dropouts)
	s.Automation = slices.Clone(s.Automation)
}

// Clipped is the section without what lies behind its end, and how many things went.
func (s *Section) Clipped(g *groove.Groove) (Section, int) {
	return s.part(0, s.Bars, s.Bars, s.Ticks(g))
}

// Split divides the section before a bar, 1 to Bars-1. Both play on as before; the second
// has the first's id until it is given another one. A ramp of the tempo is divided in
// bars.
func (s *Section) Split(bar int, g *groove.Groove) (first, second Section) {
	ticks := s.MeterOf(g).BarTicks()
	first, _ = s.part(0, bar, bar, bar*ticks)
	second, _ = s.part(bar, s.Bars, s.Bars-bar, s.Bars*ticks-bar*ticks)
	second.From = s.From + bar
	first.Cuts = false
	if s.TempoTo != 0 {
		from := s.Tempo
		first.TempoTo, second.Tempo = 0, 0
		if from != 0 {
			middle := from + (s.TempoTo-from)*float64(bar)/float64(s.Bars)
			first.TempoTo, second.Tempo = middle, middle
		} else {
			second.TempoTo = s.TempoTo
		}
	} else {
		second.Tempo = 0
	}
	return first, second
}

// part is the section between two of its bars, so many bars or ticks long, and how many
// things it does not hold any more.
func (s *Section) part(from, to, bars, ticks int) (Section, int) {
	out, gone := *s, 0
	out.Bars = bars
	start := 0
	if from > 0 {
		start = from * (ticks / bars)
	}
	end := start + ticks
	out.Rests, out.Placed, out.Dropouts, out.Automation = nil, nil, nil, nil
	for _, r := range s.Rests {
		if r.From, r.To = max(r.From, start)-start, min(r.To, end)-start; r.To > r.From {
			out.Rests = append(out.Rests, r)
		}
	}
	for _, p := range s.Placed {
		if p.At < start || p.At >= end {
			gone++
			continue
		}
		p.At -= start
		p.Length = min(p.Length, ticks-p.At)
		out.Placed = append(out.Placed, p)
	}
	for _, d := range s.Dropouts {
		a, b := max(d.At, start), min(d.At+d.Length, end)
		if b <= a {
			gone++
			continue
		}
		if d.At < start {
			d.Hit = ""
		}
		d.At, d.Length = a-start, b-a
		out.Dropouts = append(out.Dropouts, d)
	}
	for _, m := range s.Automation {
		out.Automation = append(out.Automation, cutAutomation(m, float64(from), float64(to)))
	}
	list := []Section{out}
	tidy(list)
	return list[0], gone
}

// cutAutomation is the part of a move between two bars, with a point where it was cut off.
func cutAutomation(m mixer.Automation, from, to float64) mixer.Automation {
	out := mixer.Automation{At: m.At}
	n := len(m.Points)
	at := func(bar float64) float64 {
		i := slices.IndexFunc(m.Points, func(p mixer.AutomationPoint) bool { return p.Bar >= bar })
		switch {
		case i < 0:
			return m.Points[n-1].Value
		case i == 0:
			return m.Points[0].Value
		}
		a, b := m.Points[i-1], m.Points[i]
		return a.Value + (b.Value-a.Value)*(bar-a.Bar)/(b.Bar-a.Bar)
	}
	if m.Points[0].Bar < from {
		out.Points = append(out.Points, mixer.AutomationPoint{Bar: 0, Value: at(from)})
	}
	for _, p := range m.Points {
		if p.Bar >= from && p.Bar <= to {
			out.Points = append(out.Points, mixer.AutomationPoint{Bar: p.Bar - from, Value: p.Value})
		}
	}
	if k := len(out.Points); m.Points[n-1].Bar > to && (k == 0 || out.Points[k-1].Bar < to-from) {
		out.Points = append(out.Points, mixer.AutomationPoint{Bar: to - from, Value: at(to)})
	}
	return out
}

// Paint lets rows play, or not, between two ticks of the section.
func (s *Section) Paint(voices []string, from, to int, plays bool) {
	var out []Rest
	for _, r := range s.Rests {
		if !slices.Contains(voices, r.Voice) {
			out = append(out, r)
			continue
		}
		if r.From < from {
			out = append(out, Rest{r.Voice, r.From, min(r.To, from)})
		}
		if r.To > to {
			out = append(out, Rest{r.Voice, max(r.From, to), r.To})
		}
	}
	if !plays {
		for _, v := range voices {
			out = append(out, Rest{v, from, to})
		}
	}
	slices.SortFunc(out, func(a, b Rest) int {
		if a.Voice != b.Voice {
			if a.Voice < b.Voice {
				return -1
			}
			return 1
		}
		return a.From - b.From
	})
	s.Rests = []Rest{}
	for _, r := range out { // those that touch are one
		if n := len(s.Rests); n > 0 && s.Rests[n-1].Voice == r.Voice && s.Rests[n-1].To >= r.From {
			s.Rests[n-1].To = max(s.Rests[n-1].To, r.To)
			continue
		}
		s.Rests = append(s.Rests, r)
	}
}

// FreeID is an id that nothing on the section has.
func (s *Section) FreeID() string {
	for n := len(s.Placed) + len(s.Dropouts) + 1; ; n++ {
		id := "o" + strconv.Itoa(n)
		if !slices.ContainsFunc(s.Placed, func(p Placed) bool { return p.ID == id }) && !slices.ContainsFunc(s.Dropouts, func(d Dropout) bool { return d.ID == id }) {
			return id
		}
	}
}
