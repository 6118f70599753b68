package arrange

import (
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/param"
)

// TempoAddress is the address of the tempo, which a section may draw.
const TempoAddress = "tempo/bpm"

func feelParam(address string) *param.Param {
	const feel = "groove/feel/"
	if len(address) <= len(feel) {
		return nil
	}
	row := groove.FeelParams.Find(address[len(feel):])
	if row == nil {
		return nil
	}
	return &row.Param
}

// ticks is the length of the piece.
func (a *Arrangement) ticks(grooves Grooves) (n int) {
	for i := range a.Sections {
		s := &a.Sections[i]
		n += s.Ticks(grooves(s.Variation))
	}
	return n
}

// tempo is the tempo map of the piece: each section's own tempo, what it draws, or what
// goes on from before. Until a section sets one, the song's changes repeat with its
// groove as they do in the loop.
func (a *Arrangement) tempo(grooves Grooves, song music.TempoMap) music.TempoMap {
	factor := a.Speed.Tempo()
	out, at, last := music.TempoMap{}, 0, song[0].BPM
	loose := len(song) > 1
	put := func(tick int, bpm, to float64) {
		c := music.TempoChange{Tick: tick, BPM: bpm * factor}
		if to != 0 && to != bpm {
			c.To = to * factor
		}
		if n := len(out); n > 0 && out[n-1].Tick == tick {
			out[n-1] = c
			return
		} else if n > 0 && out[n-1].To == 0 && c.To == 0 && out[n-1].BPM == c.BPM {
			return
		}
		out = append(out, c)
	}
	for i := range a.Sections {
		s := &a.Sections[i]
		g := grooves(s.Variation)
		end := at + s.Ticks(g)
		bar := float64(s.MeterOf(g).BarTicks())
		drawn := s.AutomationOf(TempoAddress)
		switch {
		case drawn != nil:
			loose = false
			points := drawn.Points
			put(at, points[0].Value, 0)
			for k, p := range points {
				tick := at + int(p.Bar*bar+0.5)
				if tick >= end {
					break
				}
				to := 0.0
				if k+1 < len(points) {
					to = points[k+1].Value
				}
				put(tick, p.Value, to)
			}
			last = points[len(points)-1].Value
		case s.Tempo != 0 || s.TempoTo != 0:
			loose = false
			if s.Tempo != 0 {
				last = s.Tempo
			}
			put(at, last, s.TempoTo)
			if s.TempoTo != 0 {
				last = s.TempoTo
			}
		case loose:
			cycle := g.CycleTicks()
			for base := at; base < end; base += cycle {
				for _, c := range song {
					if t := base + c.Tick; c.Tick < cycle && t < end {
						put(t, c.BPM, 0)
					}
				}
			}
		default:
			put(at, last, 0)
		}
		at = end
	}
	if len(out) == 0 {
		return song
	}
	if out[len(out)-1].To != 0 { // the last ramp ends with the piece
		out = append(out, music.TempoChange{Tick: at, BPM: last * factor})
	}
	return out
}
