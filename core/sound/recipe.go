package sound

import (
	"fmt"

	"jubrak/core/effect"
)

// Recipe is a synthesized drum: up to six parts that sound together, then effects
// of colour in order. Curves, velocity, note and chance may move any of its
// numbers. A part whose Level is at Silent is not rendered. Decays are the time
// to fall 60 dB, in ms.
type Recipe struct {
	Body  Body  `json:"body"`
	Sub   Sub   `json:"sub"`
	Snap  Snap  `json:"snap"`
	Noise Noise `json:"noise"`
	Metal Metal `json:"metal"`
	Ring  Ring  `json:"ring"`
	// Effects are the colour, in the order in which sound goes through them.
	Effects     []effect.Effect `json:"effects"`
	Curves      []Curve         `json:"curves"`
	Modulations []Modulation    `json:"modulations"`
}

// Body is a tone whose pitch falls from Start to End. The fall is exponential;
// Fall is the time after which 5 % of it is left. The phase at the start is
// always the same.
type Body struct {
	Level float64 `json:"level_db"`
	// Wave is one of Waves.
	Wave  int     `json:"wave"`
	Phase float64 `json:"phase_deg"`
	Start float64 `json:"start_hz"`
	End   float64 `json:"end_hz"`
	Fall  float64 `json:"fall_ms"`
	// Attack, Hold and Decay shape its level, unless a curve moves that.
	Attack float64 `json:"attack_ms"`
	Hold   float64 `json:"hold_ms"`
	Decay  float64 `json:"decay_ms"`
	// Copies sound together, up to Detune cents above and below, from left to
	// right where Spread is 100 %.
	Copies int     `json:"copies"`
	Detune float64 `json:"detune_ct"`
	Spread float64 `json:"spread_percent"`
	// A second tone at Ratio times its pitch modulates its phase, by 8 radians at
	// 100 %, and decays by itself.
	Second      float64 `json:"second_percent"`
	SecondRatio float64 `json:"second_ratio"`
	SecondDecay float64 `json:"second_decay_ms"`
	// Cycle is one drawn period, values from -1 to 1; empty where none is drawn.
	Cycle []float64 `json:"cycle"`
}

// Waves are the body's waves by number.
var Waves = []string{"sine", "triangle", "saw", "square", "drawn"}

// DrawnWave is the wave of Body.Cycle, MaxCycle the most values of one.
const (
	DrawnWave = 4
	MaxCycle  = 256
)

// Sub is a sine so many octaves under the body, which follows its pitch.
type Sub struct {
	Level   float64 `json:"level_db"`
	Octaves int     `json:"octaves"`
	Attack  float64 `json:"attack_ms"`
	Hold    float64 `json:"hold_ms"`
	Decay   float64 `json:"decay_ms"`
}

// Snap is the beater or stick at the very start.
type Snap struct {
	Level float64 `json:"level_db"`
	// Kind is one of SnapKinds.
	Kind   int     `json:"kind"`
	Colour float64 `json:"colour_hz"`
	Decay  float64 `json:"decay_ms"`
	// Sample names the recorded sound whose start it is, of kind "sample".
	Sample string `json:"blob"`
}

// SnapKinds are the kinds of snap by number.
var SnapKinds = []string{"noise", "impulse", "chirp", "sample"}

// Noise is noise through a filter at Colour.
type Noise struct {
	Level float64 `json:"level_db"`
	// Kind is one of NoiseKinds, Filter one of NoiseFilters.
	Kind   int     `json:"kind"`
	Filter int     `json:"filter"`
	Colour float64 `json:"colour_hz"`
	Width  float64 `json:"width_oct"`
	// Pitch is by how much faster it is read, semitones.
	Pitch  float64 `json:"pitch_st"`
	Attack float64 `json:"attack_ms"`
	Hold   float64 `json:"hold_ms"`
	Decay  float64 `json:"decay_ms"`
	// Bursts follow each other Spacing apart, made uneven by up to half of it;
	// each is BurstStep louder than the one before and falls by BurstDecay, the
	// last by Decay.
	Bursts     int     `json:"bursts"`
	Spacing    float64 `json:"spacing_ms"`
	Uneven     float64 `json:"uneven_percent"`
	BurstStep  float64 `json:"burst_step_db"`
	BurstDecay float64 `json:"burst_decay_ms"`
	// Vary is by how much each hit's bursts are its own: times by up to that part of
	// half the spacing, levels by up to that part of 6 dB.
	Vary float64 `json:"vary_percent"`
	// Each moves bursts one by one, on top of that.
	Each [MaxBursts]Burst `json:"each"`
	// Sample names the recorded sound of kind "sample", read once or round and
	// round.
	Sample string `json:"blob"`
	Loop   bool   `json:"loop"`
}

// MaxBursts is the most bursts of a noise.
const MaxBursts = 8

// Burst is how one burst of a noise differs from what spacing and level step make of it.
type Burst struct {
	// Shift is how much later it comes.
	Shift float64 `json:"shift_ms"`
	Level float64 `json:"level_db"`
}

// NoiseKinds are the kinds of noise by number, NoiseFilters its filters.
var (
	NoiseKinds   = []string{"white", "pink", "brown", "velvet", "metallic hiss", "sample"}
	NoiseFilters = []string{"band", "low pass", "high pass"}
)

// FromSample is the kind of a snap, and of a noise, that is a recorded sound.
const (
	SnapFromSample  = 3
	NoiseFromSample = 5
)

// Metal is 2 to 12 inharmonic tones above Pitch.
type Metal struct {
	Level float64 `json:"level_db"`
	// Set is one of MetalSets, Wave of MetalWaves.
	Set      int     `json:"set"`
	Wave     int     `json:"wave"`
	Pitch    float64 `json:"pitch_hz"`
	Partials int     `json:"partials"`
	// Ringing is how much of it is the product of neighbours.
	Ringing float64 `json:"ringing_percent"`
	Hold    float64 `json:"hold_ms"`
	Decay   float64 `json:"decay_ms"`
}

// MetalSets are the sets of ratios by number, MetalWaves the waves.
var (
	MetalSets  = []string{"plate", "cluster", "bell", "two tones"}
	MetalWaves = []string{"square", "sine"}
)

// Ring is a struck membrane or bar: the modes of its physics.
type Ring struct {
	Level float64 `json:"level_db"`
	// Kind is one of RingKinds.
	Kind  int     `json:"kind"`
	Pitch float64 `json:"pitch_hz"`
	Modes int     `json:"modes"`
	// Strike is where it is struck: 0 the middle of a membrane or the end of a
	// bar, 100 % the edge or the middle.
	Strike float64 `json:"strike_percent"`
	Decay  float64 `json:"decay_ms"`
	// Damping makes high modes die sooner.
	Damping float64 `json:"damping_percent"`
	// Drop is by how much it starts higher, semitones: a membrane is stretched by
	// the stroke. DropTime is the time after which 5 % of it is left.
	Drop     float64 `json:"drop_st"`
	DropTime float64 `json:"drop_ms"`
	// Wires is how loud the snares under it rattle.
	Wires float64 `json:"wires_db"`
}

// RingKinds are what rings, by number.
var RingKinds = []string{"membrane", "bar"}

// Silent is the level in dB at which a part is switched off.
const Silent = -60

// Limits of a recipe.
const (
	MaxEffects     = 12
	MaxCurves      = 12
	MaxModulations = 48
)

// Validate checks every number of the recipe, its effects, curves and moves.
func (r *Recipe) Validate() error {
	if err := Params.Validate(r); err != nil {
		return err
	}
	if len(r.Body.Cycle) > MaxCycle {
		return fmt.Errorf("a drawn wave has at most %d values", MaxCycle)
	}
	for _, v := range r.Body.Cycle {
		if !(v >= -1 && v <= 1) {
			return fmt.Errorf("a drawn wave runs from -1 to 1")
		}
	}
	if len(r.Effects) > MaxEffects || len(r.Curves) > MaxCurves || len(r.Modulations) > MaxModulations {
		return fmt.Errorf("a recipe has at most %d effects, %d curves and %d moves", MaxEffects, MaxCurves, MaxModulations)
	}
	seen := map[string]bool{}
	for i := range r.Effects {
		if seen[r.Effects[i].ID] {
			return fmt.Errorf("effect %d needs an id of its own", i+1)
		}
		seen[r.Effects[i].ID] = true
		if err := r.Effects[i].Validate(); err != nil {
			return err
		}
		if k := effect.KindOf(r.Effects[i].Kind); k.Rows {
			return fmt.Errorf("%s is an effect of the mix, not of a recipe", k.Label)
		}
	}
	for i := range r.Curves {
		c := &r.Curves[i]
		if c.ID == "" || seen[c.ID] || fixedSource(c.ID) {
			return fmt.Errorf("curve %d needs an id of its own", i+1)
		}
		seen[c.ID] = true
		if err := c.Validate(); err != nil {
			return fmt.Errorf("curve %s: %w", c.Name, err)
		}
	}
	taken := map[string]bool{}
	for i := range r.Modulations {
		m := &r.Modulations[i]
		if err := r.validateModulation(m); err != nil {
			return err
		}
		if by := m.kind() + m.At; taken[by] {
			return fmt.Errorf("%s is moved twice by the same kind of thing", m.At)
		} else {
			taken[by] = true
		}
	}
	return nil
}

// Untidy reports whether a list of the recipe is absent rather than empty.
func (r *Recipe) Untidy() bool {
	return r.Body.Cycle == nil || r.Effects == nil || r.Curves == nil || r.Modulations == nil
}

// Tidy makes lists that hold nothing empty rather than absent.
func (r *Recipe) Tidy() {
	if r.Body.Cycle == nil {
		r.Body.Cycle = []float64{}
	}
	if r.Effects == nil {
		r.Effects = []effect.Effect{}
	}
	if r.Curves == nil {
		r.Curves = []Curve{}
	}
	if r.Modulations == nil {
		r.Modulations = []Modulation{}
	}
}

// Effect finds an effect by its id, or nil.
func (r *Recipe) Effect(id string) *effect.Effect {
	for i := range r.Effects {
		if r.Effects[i].ID == id {
			return &r.Effects[i]
		}
	}
	return nil
}

// Curve finds a curve by its id, or nil.
func (r *Recipe) Curve(id string) *Curve {
	for i := range r.Curves {
		if r.Curves[i].ID == id {
			return &r.Curves[i]
		}
	}
	return nil
}

// DrivenBy is the move of a number by a curve, or nil.
func (r *Recipe) DrivenBy(at string) *Modulation {
	for i := range r.Modulations {
		if m := &r.Modulations[i]; m.At == at && m.Curve() {
			return m
		}
	}
	return nil
}

// Blobs are the recorded sounds that the recipe uses.
func (r *Recipe) Blobs() (out []string) {
	if r.Snap.Kind == SnapFromSample && r.Snap.Sample != "" {
		out = append(out, r.Snap.Sample)
	}
	if r.Noise.Kind == NoiseFromSample && r.Noise.Sample != "" {
		out = append(out, r.Noise.Sample)
	}
	return out
}
