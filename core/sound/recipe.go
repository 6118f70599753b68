package sound

import (
	"fmt"
	"math"
)

// Recipe is a synthesized drum: up to four parts that sound together, then
// drive and a low cut. A part whose Level is at Silent is not rendered.
// Decays are the time to fall 60 dB, in ms.
type Recipe struct {
	Body  Body  `json:"body"`
	Noise Noise `json:"noise"`
	Metal Metal `json:"metal"`
	Snap  Snap  `json:"snap"`
	Drive Drive `json:"drive"`
	// LowCut is the corner of a second-order high-pass over the whole drum, Hz.
	LowCut float64 `json:"low_cut_hz"`
}

// Body is a sine whose pitch falls from Start to End. The fall is
// exponential; Fall is the time after which 5 % of it is left. The phase at
// the start is always the same.
type Body struct {
	Level  float64 `json:"level_db"`
	Start  float64 `json:"start_hz"`
	End    float64 `json:"end_hz"`
	Fall   float64 `json:"fall_ms"`
	Attack float64 `json:"attack_ms"`
	Decay  float64 `json:"decay_ms"`
}

// Noise is white noise through a band-pass at Colour.
type Noise struct {
	Level  float64 `json:"level_db"`
	Colour float64 `json:"colour_hz"`
	Width  float64 `json:"width_oct"`
	Decay  float64 `json:"decay_ms"`
}

// Metal is six inharmonic square tones above Pitch, high-passed.
type Metal struct {
	Level float64 `json:"level_db"`
	Pitch float64 `json:"pitch_hz"`
	Decay float64 `json:"decay_ms"`
}

// Snap is the beater or stick: a few ms of bright noise at the very start.
type Snap struct {
	Level  float64 `json:"level_db"`
	Colour float64 `json:"colour_hz"`
	Decay  float64 `json:"decay_ms"`
}

// Drive is a soft clipper whose amount falls from the attack to the body:
// Attack percent at the start, Body percent once Fall ms are over.
type Drive struct {
	Attack float64 `json:"attack_percent"`
	Body   float64 `json:"body_percent"`
	Fall   float64 `json:"fall_ms"`
}

// Silent is the level in dB at which a part is switched off.
const Silent = -60

// Param describes one editable number of a recipe: where it belongs, how it
// is named and its range. The interface builds its controls from this table
// and Set validates against it, so the two cannot differ.
type Param struct {
	ID    string  `json:"id"`
	Part  string  `json:"part"`
	Label string  `json:"label"`
	Unit  string  `json:"unit"`
	Min   float64 `json:"min"`
	Max   float64 `json:"max"`
	// Log is true where equal ratios, not equal steps, feel alike.
	Log   bool                   `json:"log"`
	field func(*Recipe) *float64 `json:"-"`
}

// Params is the table of every number in a Recipe, in order of display.
var Params = []Param{
	{"body.level_db", "body", "Level", "dB", Silent, 6, false, func(r *Recipe) *float64 { return &r.Body.Level }},
	{"body.start_hz", "body", "Start pitch", "Hz", 20, 4000, true, func(r *Recipe) *float64 { return &r.Body.Start }},
	{"body.end_hz", "body", "End pitch", "Hz", 20, 2000, true, func(r *Recipe) *float64 { return &r.Body.End }},
	{"body.fall_ms", "body", "Fall time", "ms", 1, 500, true, func(r *Recipe) *float64 { return &r.Body.Fall }},
	{"body.attack_ms", "body", "Attack", "ms", 0.1, 100, true, func(r *Recipe) *float64 { return &r.Body.Attack }},
	{"body.decay_ms", "body", "Decay", "ms", 10, 6000, true, func(r *Recipe) *float64 { return &r.Body.Decay }},
	{"noise.level_db", "noise", "Level", "dB", Silent, 6, false, func(r *Recipe) *float64 { return &r.Noise.Level }},
	{"noise.colour_hz", "noise", "Colour", "Hz", 100, 16000, true, func(r *Recipe) *float64 { return &r.Noise.Colour }},
	{"noise.width_oct", "noise", "Width", "oct", 0.3, 6, true, func(r *Recipe) *float64 { return &r.Noise.Width }},
	{"noise.decay_ms", "noise", "Decay", "ms", 5, 4000, true, func(r *Recipe) *float64 { return &r.Noise.Decay }},
	{"metal.level_db", "metal", "Level", "dB", Silent, 6, false, func(r *Recipe) *float64 { return &r.Metal.Level }},
	{"metal.pitch_hz", "metal", "Pitch", "Hz", 100, 2000, true, func(r *Recipe) *float64 { return &r.Metal.Pitch }},
	{"metal.decay_ms", "metal", "Decay", "ms", 5, 4000, true, func(r *Recipe) *float64 { return &r.Metal.Decay }},
	{"snap.level_db", "snap", "Level", "dB", Silent, 6, false, func(r *Recipe) *float64 { return &r.Snap.Level }},
	{"snap.colour_hz", "snap", "Colour", "Hz", 500, 16000, true, func(r *Recipe) *float64 { return &r.Snap.Colour }},
	{"snap.decay_ms", "snap", "Decay", "ms", 1, 60, true, func(r *Recipe) *float64 { return &r.Snap.Decay }},
	{"drive.attack_percent", "drive", "At the attack", "%", 0, 100, false, func(r *Recipe) *float64 { return &r.Drive.Attack }},
	{"drive.body_percent", "drive", "In the body", "%", 0, 100, false, func(r *Recipe) *float64 { return &r.Drive.Body }},
	{"drive.fall_ms", "drive", "Fall time", "ms", 1, 500, true, func(r *Recipe) *float64 { return &r.Drive.Fall }},
	{"low_cut_hz", "cut", "Low cut", "Hz", 10, 12000, true, func(r *Recipe) *float64 { return &r.LowCut }},
}

// ParamByID finds a row of Params.
func ParamByID(id string) (Param, bool) {
	for _, p := range Params {
		if p.ID == id {
			return p, true
		}
	}
	return Param{}, false
}

// Get reads the parameter from a recipe.
func (p Param) Get(r *Recipe) float64 { return *p.field(r) }

// Set writes the parameter, held inside its range. It refuses a value that
// is not a number.
func (p Param) Set(r *Recipe, v float64) error {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return fmt.Errorf("%s must be a number between %g and %g %s", p.Label, p.Min, p.Max, p.Unit)
	}
	*p.field(r) = math.Min(math.Max(v, p.Min), p.Max)
	return nil
}

// Validate checks every number of the recipe against Params.
func (r *Recipe) Validate() error {
	for _, p := range Params {
		v := p.Get(r)
		if math.IsNaN(v) || v < p.Min || v > p.Max {
			return fmt.Errorf("%s is %g; it must lie between %g and %g %s", p.ID, v, p.Min, p.Max, p.Unit)
		}
	}
	return nil
}

// Tuned returns the recipe with body and metal moved by semitones; both ends
// of the pitch fall move together.
func (r Recipe) Tuned(semitones float64) Recipe {
	ratio := math.Exp2(semitones / 12)
	r.Body.Start *= ratio
	r.Body.End *= ratio
	r.Metal.Pitch *= ratio
	return r
}
