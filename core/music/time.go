package music

import (
	"fmt"
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
