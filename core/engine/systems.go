package engine

import (
	"fmt"

	"jubrak/core/effect"
)

// System is a simulated stand-in for the speaker simulation: a chain that stands behind the
// meters and is never part of a bounce.
type System struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	// Says what it is a stand-in for.
	Says  string          `json:"says"`
	Chain []effect.Effect `json:"chain"`
}

// Systems are those that ship, the full range first. Their limits are common practice.
var Systems = []System{
	{"full", "Full range", "no simulation", []effect.Effect{}},
	{"phone", "Phone", "one small speaker, nothing below 400 Hz", chainOf(eqOf(
		[4]float64{4, 400, 3, 0}, [4]float64{1, 1800, 4, 0.8}, [4]float64{5, 9000, 1, 0}), newEffect("trim", "sides", 1))},
	{"laptop", "Laptop", "two small speakers, little below 180 Hz", chainOf(eqOf(
		[4]float64{4, 180, 3, 0}, [4]float64{1, 900, -2, 1}, [4]float64{1, 3000, 3, 1}, [4]float64{5, 15000, 1, 0}))},
	{"radio", "Small radio", "one paper cone, 200 Hz to 5 kHz", chainOf(eqOf(
		[4]float64{4, 200, 3, 0}, [4]float64{1, 1200, 3, 1}, [4]float64{5, 5000, 3, 0}), newEffect("trim", "sides", 1), newEffect("drive", "amount_percent", 12))},
	{"club", "Club", "a big system that stops at 37 Hz", chainOf(eqOf(
		[4]float64{4, 37, 7, 0}, [4]float64{2, 90, 4, 0.7}, [4]float64{5, 16000, 1, 0}), newEffect("width", "mono_below_hz", 120))},
	{"car", "Car", "a small cabin that booms at 110 Hz", chainOf(eqOf(
		[4]float64{4, 45, 1, 0}, [4]float64{1, 110, 5, 1.6}, [4]float64{1, 350, -3, 1}, [4]float64{5, 13000, 1, 0}))},
	{"mono", "Mono", "left and right summed", chainOf(newEffect("trim", "sides", 1))},
	{"side", "One side", "left speaker only", chainOf(newEffect("trim", "sides", 2))},
}

func chainOf(list ...effect.Effect) []effect.Effect {
	for i := range list {
		list[i].ID = fmt.Sprintf("s%d", i)
	}
	return list
}

func newEffect(kind, number string, value float64) effect.Effect {
	return effect.New("s", effect.KindOf(kind), map[string]float64{number: value})
}

// eqOf is an equalizer of bands of shape, Hz, dB or slope, Q.
func eqOf(bands ...[4]float64) effect.Effect {
	v := map[string]float64{}
	for i := range 8 {
		at := func(id string) string { return fmt.Sprintf("band%d.%s", i+1, id) }
		v[at("shape")] = 0
		if i >= len(bands) {
			continue
		}
		b := bands[i]
		v[at("shape")], v[at("hz")] = b[0], b[1]
		if b[0] == 4 || b[0] == 5 {
			v[at("slope")] = b[2]
		} else {
			v[at("gain_db")], v[at("q")] = b[2], b[3]
		}
	}
	return effect.New("s", effect.KindOf("equalizer"), v)
}

// SystemOf finds a system by its id, or nil.
func SystemOf(id string) *System {
	for i := range Systems {
		if Systems[i].ID == id {
			return &Systems[i]
		}
	}
	return nil
}
