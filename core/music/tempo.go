package music

import (
	"fmt"
	"math"
	"sort"
)

// TempoChange sets the tempo from a tick on, in quarter notes per minute. Where To is
// not 0 the tempo runs straight in ticks to To, which it reaches at the next change: a
// ramp. The last change has none.
type TempoChange struct {
	Tick int     `json:"tick"`
	BPM  float64 `json:"bpm"`
	To   float64 `json:"to_bpm,omitempty"`
}

// ShortestRamp is the least length of a ramp, ticks: a beat.
const ShortestRamp = PPQ

// TempoMap is a list of tempo changes in order of tick, the first at tick 0.
// It is the only place where ticks become seconds.
type TempoMap []TempoChange

// Steady is the map of one tempo in quarter notes per minute.
func Steady(bpm float64) TempoMap { return TempoMap{{Tick: 0, BPM: bpm}} }

// ValidTempo refuses a tempo outside MinBPM to MaxBPM.
func ValidTempo(bpm float64) error {
	if math.IsNaN(bpm) || bpm < MinBPM || bpm > MaxBPM {
		return fmt.Errorf("tempo %.4g BPM is outside %d to %d", bpm, MinBPM, MaxBPM)
	}
	return nil
}

// Validate checks that the map starts at tick 0, is sorted and in range, and that no
// ramp is shorter than ShortestRamp.
func (t TempoMap) Validate() error {
	if len(t) == 0 || t[0].Tick != 0 {
		return fmt.Errorf("the tempo map must start at tick 0")
	}
	for i, c := range t {
		if err := ValidTempo(c.BPM); err != nil {
			return err
		}
		if i > 0 && c.Tick <= t[i-1].Tick {
			return fmt.Errorf("tempo changes must be in order of time")
		}
		if c.To == 0 {
			continue
		}
		if err := ValidTempo(c.To); err != nil {
			return err
		}
		if i+1 == len(t) {
			return fmt.Errorf("a tempo ramp needs a place where it ends")
		}
		if t[i+1].Tick-c.Tick < ShortestRamp {
			return fmt.Errorf("a tempo ramp of %d ticks is too short; give it at least a beat, or change the tempo at once", t[i+1].Tick-c.Tick)
		}
	}
	return nil
}

// Seconds returns the time of a tick (fractions allowed) in seconds. Ticks
// before 0 take the first tempo.
func (t TempoMap) Seconds(tick float64) float64 {
	var at float64
	for i := range t {
		s := t.stretch(i)
		if i+1 < len(t) && tick >= float64(t[i+1].Tick) {
			at += s.seconds(s.ticks)
			continue
		}
		return at + s.seconds(tick-float64(t[i].Tick))
	}
	return at
}

// Ticks is the inverse of Seconds.
func (t TempoMap) Ticks(seconds float64) float64 {
	var at float64
	for i := range t {
		s := t.stretch(i)
		if i+1 < len(t) {
			if length := s.seconds(s.ticks); seconds >= at+length {
				at += length
				continue
			}
		}
		return float64(t[i].Tick) + s.inverse(seconds-at)
	}
	return 0
}

// BPM is the tempo at a tick.
func (t TempoMap) BPM(tick float64) float64 {
	i := sort.Search(len(t), func(i int) bool { return float64(t[i].Tick) > tick }) - 1
	s := t.stretch(max(i, 0))
	return s.bpm(tick - float64(t[max(i, 0)].Tick))
}

// stretch is a part of a map: a tempo, or a straight ramp between two over so many ticks.
type stretch struct{ from, to, ticks float64 }

// stretch is the part that begins with a change.
func (t TempoMap) stretch(i int) stretch {
	s := stretch{from: t[i].BPM, to: t[i].BPM}
	if i+1 < len(t) {
		s.ticks = float64(t[i+1].Tick - t[i].Tick)
		if t[i].To != 0 {
			s.to = t[i].To
		}
	}
	return s
}

// bpm is the tempo after so many ticks.
func (s stretch) bpm(ticks float64) float64 {
	if s.to == s.from {
		return s.from
	}
	return s.from + (s.to-s.from)*min(max(ticks/s.ticks, 0), 1)
}

// seconds is how long the first ticks last. With a tempo b(x) = b0 + k·x that runs
// straight in ticks, the time to x is the integral of 60/(PPQ·b):
//
//	t(x) = 60/(PPQ·k) · ln(1 + k·x/b0)
//
// (elementary calculus; k of 0 is its limit, 60·x/(PPQ·b0)).
func (s stretch) seconds(ticks float64) float64 {
	if s.to == s.from || ticks < 0 {
		return ticks * 60 / (s.from * PPQ)
	}
	k := (s.to - s.from) / s.ticks
	return 60 / (PPQ * k) * math.Log1p(k*ticks/s.from)
}

// inverse is how many ticks the first seconds hold.
func (s stretch) inverse(seconds float64) float64 {
	if s.to == s.from || seconds < 0 {
		return seconds * s.from * PPQ / 60
	}
	k := (s.to - s.from) / s.ticks
	return s.from / k * math.Expm1(seconds*PPQ*k/60)
}

// Times is a tempo map made ready for many questions: each takes a search among the
// changes.
type Times struct {
	tempo TempoMap
	parts []stretch
	at    []float64 // seconds of each change
}

// NewTimes makes a valid map ready.
func NewTimes(t TempoMap) *Times {
	out := &Times{tempo: t}
	at := 0.0
	for i := range t {
		s := t.stretch(i)
		out.parts = append(out.parts, s)
		out.at = append(out.at, at)
		at += s.seconds(s.ticks)
	}
	return out
}

// Map is the map that was made ready.
func (t *Times) Map() TempoMap { return t.tempo }

// Seconds is TempoMap.Seconds.
func (t *Times) Seconds(tick float64) float64 {
	i := max(sort.Search(len(t.tempo), func(i int) bool { return float64(t.tempo[i].Tick) > tick })-1, 0)
	return t.at[i] + t.parts[i].seconds(tick-float64(t.tempo[i].Tick))
}

// Ticks is TempoMap.Ticks.
func (t *Times) Ticks(seconds float64) float64 {
	i := max(sort.SearchFloat64s(t.at, seconds+1e-15)-1, 0)
	return float64(t.tempo[i].Tick) + t.parts[i].inverse(seconds-t.at[i])
}
