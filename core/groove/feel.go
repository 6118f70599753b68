package groove

import (
	"fmt"
	"math"
	"slices"
)

// Feel is what moves hits off the straight grid. See Offset for the formula.
type Feel struct {
	// Pair is the note value whose pairs swing: 8 or 16.
	Pair int `json:"pair"`
	// Swing is where the second of each pair falls, in percent of the pair:
	// 50 straight, 66.67 triplet.
	Swing float64 `json:"swing_percent"`
	// Strength is how much of the systematic parts is applied, percent.
	Strength float64 `json:"strength_percent"`
	// ScatterKind is how the scatter of neighbours hangs together.
	ScatterKind ScatterKind          `json:"scatter_kind"`
	Voices      map[string]VoiceFeel `json:"voices"`
	Drift       Drift                `json:"drift"`
	Ramp        Ramp                 `json:"ramp,omitzero"`
}

// ScatterKind is how the scatter of neighbouring hits hangs together.
type ScatterKind string

// White scatter is independent from hit to hit, Pink is correlated over a long
// range (1/f).
const (
	White ScatterKind = "white"
	Pink  ScatterKind = "pink"
)

// VoiceFeel is the part of a feel that belongs to one voice. Tables go by
// step of the grid and repeat with their own length; empty means none.
type VoiceFeel struct {
	Lean            float64   `json:"lean_ms"`
	Scatter         float64   `json:"scatter_ms"`
	VelocityScatter float64   `json:"velocity_scatter"`
	Contour         []float64 `json:"contour_ms"`
	// Accent multiplies velocity; 1 leaves it.
	Accent []float64 `json:"accent"`
	// Swing is the voice's own, percent of the pair; 0 swings as all do.
	Swing float64 `json:"swing_percent,omitempty"`
}

// Drift is a curve of lateness over several bars that returns: Curve has one
// value in ms at the start of each bar, runs straight between them and wraps, in the
// last bar towards the first value unless it stays.
type Drift struct {
	Curve  []float64 `json:"curve_ms"`
	Voices []string  `json:"voices"`
	// Stays holds the last value through its bar, before the curve begins again:
	// one that ends at 0 is then on the beat to the end.
	Stays bool `json:"stays,omitempty"`
}

// Ramp is a curve of loudness over several bars that returns, as Drift is one of time:
// percent by which velocities are raised at the start of each bar.
type Ramp struct {
	Curve  []float64 `json:"curve_percent"`
	Voices []string  `json:"voices"`
	// Stays is as a drift's.
	Stays bool `json:"stays,omitempty"`
}

// FeelPart is a part of a feel.
type FeelPart string

// The parts of a feel, those of time first.
const (
	PartSwing           FeelPart = "swing"
	PartLean            FeelPart = "lean"
	PartContour         FeelPart = "contour"
	PartDrift           FeelPart = "drift"
	PartScatter         FeelPart = "scatter"
	PartNudge           FeelPart = "nudge"
	PartAccent          FeelPart = "accent"
	PartVelocityScatter FeelPart = "velocity_scatter"
	PartRamp            FeelPart = "ramp"
)

// FeelParts are all of them.
var FeelParts = []FeelPart{PartSwing, PartLean, PartContour, PartDrift, PartScatter, PartNudge, PartAccent, PartVelocityScatter, PartRamp}

// Only is the feel without all but some of its parts. Nudges are of hits, not of the
// feel, and stay.
func (f *Feel) Only(parts ...FeelPart) Feel {
	out := Straight()
	has := func(p FeelPart) bool { return slices.Contains(parts, p) }
	out.Pair, out.Strength, out.ScatterKind = f.Pair, f.Strength, f.ScatterKind
	if has(PartSwing) {
		out.Swing = f.Swing
	}
	if has(PartDrift) {
		out.Drift = f.Drift
	}
	if has(PartRamp) {
		out.Ramp = f.Ramp
	}
	for id, v := range f.Voices {
		only := VoiceFeel{}
		if has(PartSwing) {
			only.Swing = v.Swing
		}
		if has(PartLean) {
			only.Lean = v.Lean
		}
		if has(PartContour) {
			only.Contour = v.Contour
		}
		if has(PartScatter) {
			only.Scatter = v.Scatter
		}
		if has(PartAccent) {
			only.Accent = v.Accent
		}
		if has(PartVelocityScatter) {
			only.VelocityScatter = v.VelocityScatter
		}
		out.Voices[id] = only
	}
	return out
}

// Straight is the feel of a machine.
func Straight() Feel {
	return Feel{Pair: 16, Swing: 50, Strength: 100, ScatterKind: White, Voices: map[string]VoiceFeel{}, Drift: Drift{Curve: []float64{}, Voices: []string{}}}
}

// Validate checks every range. Swing beyond 50..75 is allowed down to 25
// because played music measures so.
func (f *Feel) Validate() error {
	if f.Pair != 8 && f.Pair != 16 {
		return fmt.Errorf("swing acts on pairs of eighths (8) or sixteenths (16), not %d", f.Pair)
	}
	if err := FeelParams.Validate(f); err != nil {
		return err
	}
	if f.ScatterKind != White && f.ScatterKind != Pink {
		return fmt.Errorf("scatter is white or pink, not %q", f.ScatterKind)
	}
	for id, v := range f.Voices {
		if err := VoiceFeelParams.Validate(&v); err != nil {
			return fmt.Errorf("feel of %q: %w", id, err)
		}
		if v.Swing != 0 && v.Swing < 25 {
			return fmt.Errorf("feel of %q: its own swing lies between 25 and 75 %%; 0 swings as all do", id)
		}
		if len(v.Contour) > 1024 || len(v.Accent) > 1024 {
			return fmt.Errorf("feel of %q: tables hold at most 1024 steps", id)
		}
		for _, c := range v.Contour {
			if !(math.Abs(c) <= MaxLean) {
				return fmt.Errorf("feel of %q: contour is at most %g ms", id, MaxLean)
			}
		}
		for _, a := range v.Accent {
			if !(a >= 0 && a <= 8) {
				return fmt.Errorf("feel of %q: accents lie between 0 and 8", id)
			}
		}
	}
	if len(f.Drift.Curve) > MaxBars {
		return fmt.Errorf("drift runs over at most %d bars", MaxBars)
	}
	for _, d := range f.Drift.Curve {
		if !(math.Abs(d) <= MaxLean) {
			return fmt.Errorf("drift is at most %g ms", MaxLean)
		}
	}
	if len(f.Ramp.Curve) > MaxBars {
		return fmt.Errorf("a ramp runs over at most %d bars", MaxBars)
	}
	for _, d := range f.Ramp.Curve {
		if !(d >= -100 && d <= 100) {
			return fmt.Errorf("a ramp raises or lowers by at most 100 %%")
		}
	}
	return nil
}

// PairTicks is the length of the pair that swings: a quarter note for pairs
// of eighths, an eighth for pairs of sixteenths.
func PairTicks(pair int) int { return 4 * 960 * 2 / pair }

// SwingShape is how much of the swing delay a tick takes: 0 on the first of
// a pair, 1 on the second, straight between, so that finer steps stay in
// order. The delay itself is (swing/100 − 1/2) · pair.
func SwingShape(tick float64, pair int) float64 {
	length := float64(PairTicks(pair))
	x := math.Mod(tick, length) / length
	if x < 0 {
		x++
	}
	if x <= 0.5 {
		return 2 * x
	}
	return 2 * (1 - x)
}

// at reads a table that repeats both ways; empty gives the default.
func at(table []float64, i int, otherwise float64) float64 {
	if len(table) == 0 {
		return otherwise
	}
	return table[wrap(i, len(table))]
}

// wrap is i modulo n, never negative.
func wrap(i, n int) int { return ((i % n) + n) % n }

// at is the drift in ms at a position in bars.
func (d *Drift) at(voice string, bars float64) float64 {
	return overBars(d.Curve, d.Voices, voice, bars, d.Stays)
}

// at is the ramp in percent at a position in bars.
func (r *Ramp) at(voice string, bars float64) float64 {
	return overBars(r.Curve, r.Voices, voice, bars, r.Stays)
}

func overBars(curve []float64, voices []string, voice string, bars float64, stays bool) float64 {
	n := len(curve)
	if n == 0 || !slices.Contains(voices, voice) {
		return 0
	}
	whole := math.Floor(bars)
	i, frac := wrap(int(whole), n), bars-whole
	if stays && i == n-1 {
		return curve[i]
	}
	return curve[i]*(1-frac) + curve[(i+1)%n]*frac
}
