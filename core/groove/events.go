package groove

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/music"
)

// Event is a hit made concrete for one pass of the cycle.
type Event struct {
	Lane, Hit int
	// Tick is the straight place from the start of the cycle.
	Tick int
	// Offset is how late the hit falls against Tick, ms.
	Offset    float64
	Velocity  int
	Semitones float64
	// Key names the random numbers of this one stroke.
	Key uint64
}

// Events appends every event of pass number cycle (0, 1, 2…) to dst and
// returns it; it allocates only when dst is too small. Offsets follow
//
//	offset = strength · (swing + lean + contour + drift) + scatter + nudge
//
// with swing as a delay in ms at the tempo of the tick.
func (g *Groove) Events(tempo music.TempoMap, cycle int, dst []Event) []Event {
	length := g.CycleTicks()
	for i := range g.Lanes {
		l := &g.Lanes[i]
		lane := g.LaneTicks(i)
		voice := g.Feel.Voices[l.Voice]
		key := dsp.Key(uint64(g.Seed), dsp.KeyString(l.Voice))
		for pass := 0; pass*lane < length; pass++ {
			for j := range l.Hits {
				h := &l.Hits[j]
				tick := pass*lane + h.Tick
				e := Event{Lane: i, Hit: j, Tick: tick, Semitones: h.Semitones}
				e.Key = dsp.Key(key, dsp.KeyString(h.ID), uint64(cycle), uint64(pass))
				step := (cycle*length + tick) / g.StepTicks()
				e.Offset = g.systematic(l.Voice, &voice, tempo, cycle*length+tick, step)*g.Feel.Strength/100 + h.Nudge
				e.Offset += voice.Scatter * g.random(&e, key, step)
				e.Velocity = g.velocity(&voice, h, step, e.Key)
				dst = append(dst, e)
			}
		}
	}
	return dst
}

func (g *Groove) systematic(id string, v *VoiceFeel, tempo music.TempoMap, tick, step int) float64 {
	pair := float64(PairTicks(g.Feel.Pair))
	first := math.Floor(float64(tick)/pair) * pair
	length := tempo.Seconds(first+pair) - tempo.Seconds(first)
	swing := (g.Feel.Swing/100 - 0.5) * length * 1000 * SwingShape(float64(tick), g.Feel.Pair)
	bars := float64(tick) / float64(g.Meter.BarTicks())
	return swing + v.Lean + at(v.Contour, step, 0) + g.Feel.Drift.at(id, bars)
}

// random is the unit-variance scatter of an event.
func (g *Groove) random(e *Event, voice uint64, step int) float64 {
	if g.Feel.ScatterKind == "pink" {
		return dsp.Pink(voice, step)
	}
	return math.Min(math.Max(dsp.Gauss(e.Key), -3), 3)
}

func (g *Groove) velocity(v *VoiceFeel, h *Hit, step int, key uint64) int {
	accent := 1 + (at(v.Accent, step, 1)-1)*g.Feel.Strength/100
	x := float64(h.Velocity)*accent + v.VelocityScatter*dsp.Gauss(dsp.Key(key, 7))
	return int(math.Min(math.Max(math.Round(x), 1), 127))
}
