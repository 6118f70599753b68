package music

import (
	"fmt"
	"math"
)

// PPQ is the number of ticks in a quarter note. It divides by 2, 3, 4, 5, 6,
// 8, 12, 16, 24 and 32, so every grid this program offers is exact.
const PPQ = 960

// Tempo limits in quarter notes per minute.
const (
	MinBPM = 20
	MaxBPM = 400
)

// Meter is a time signature: Beats notes of value 1/Unit fill a bar.
type Meter struct {
	Beats int `json:"beats"`
	Unit  int `json:"unit"`
}

// String writes the meter as in a score, for example "4/4".
func (m Meter) String() string { return fmt.Sprintf("%d/%d", m.Beats, m.Unit) }

// ParseMeter reads what String writes.
func ParseMeter(text string) (Meter, error) {
	var m Meter
	if _, err := fmt.Sscanf(text, "%d/%d", &m.Beats, &m.Unit); err != nil {
		return m, fmt.Errorf("%q is not a meter; write it like 4/4", text)
	}
	return m, m.Validate()
}

// BarTicks is the length of one bar in ticks.
func (m Meter) BarTicks() int { return m.Beats * PPQ * 4 / m.Unit }

// BeatTicks is the length of one counted beat (a note of value 1/Unit) in ticks.
func (m Meter) BeatTicks() int { return PPQ * 4 / m.Unit }

// Validate refuses meters outside 1..16 beats of a quarter, eighth or sixteenth.
func (m Meter) Validate() error {
	if m.Beats < 1 || m.Beats > 16 || (m.Unit != 2 && m.Unit != 4 && m.Unit != 8 && m.Unit != 16) {
		return fmt.Errorf("meter %d/%d is not usable; give 1 to 16 beats of 2, 4, 8 or 16", m.Beats, m.Unit)
	}
	return nil
}

// TempoChange sets the tempo from a tick on, in quarter notes per minute.
type TempoChange struct {
	Tick int     `json:"tick"`
	BPM  float64 `json:"bpm"`
}

// TempoMap is a list of tempo changes in order of tick, the first at tick 0.
// It is the only place where ticks become seconds.
type TempoMap []TempoChange

// Steady is the map of one tempo in quarter notes per minute.
func Steady(bpm float64) TempoMap { return TempoMap{{Tick: 0, BPM: bpm}} }

// Validate checks that the map starts at tick 0, is sorted and in range.
func (t TempoMap) Validate() error {
	if len(t) == 0 || t[0].Tick != 0 {
		return fmt.Errorf("the tempo map must start at tick 0")
	}
	for i, c := range t {
		if math.IsNaN(c.BPM) || c.BPM < MinBPM || c.BPM > MaxBPM {
			return fmt.Errorf("tempo %.4g BPM is outside %d to %d", c.BPM, MinBPM, MaxBPM)
		}
		if i > 0 && c.Tick <= t[i-1].Tick {
			return fmt.Errorf("tempo changes must be in order of time")
		}
	}
	return nil
}

// Seconds returns the time of a tick (fractions allowed) in seconds. Ticks
// before 0 take the first tempo.
func (t TempoMap) Seconds(tick float64) float64 {
	var at float64
	for i, c := range t {
		perTick := 60 / (c.BPM * PPQ)
		if i+1 < len(t) && tick >= float64(t[i+1].Tick) {
			at += float64(t[i+1].Tick-c.Tick) * perTick
			continue
		}
		return at + (tick-float64(c.Tick))*perTick
	}
	return at
}

// Ticks is the inverse of Seconds.
func (t TempoMap) Ticks(seconds float64) float64 {
	var at float64
	for i, c := range t {
		perTick := 60 / (c.BPM * PPQ)
		if i+1 < len(t) {
			length := float64(t[i+1].Tick-c.Tick) * perTick
			if seconds >= at+length {
				at += length
				continue
			}
		}
		return float64(c.Tick) + (seconds-at)/perTick
	}
	return 0
}
