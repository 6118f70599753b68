package sound

import (
	"math"

	"jubrak/core/param"
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
	Cut   Cut   `json:"cut"`
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

// Cut takes away what no drum of the kind has.
type Cut struct {
	// Low is the corner of a second-order high-pass over the whole drum, Hz.
	Low float64 `json:"low_hz"`
}

// Silent is the level in dB at which a part is switched off.
const Silent = -60

// Params is the table of every number in a Recipe, in order of display. What
// each starts from in a drum of a family is DefaultRecipe; the default here is
// that of a part just switched on.
var Params = param.Table[Recipe]{
	param.Number(param.Param{ID: "body.level_db", Part: "body", Label: "Level", Unit: "dB", Min: Silent, Max: 6, Default: Silent, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Body.Level }),
	param.Number(param.Param{ID: "body.start_hz", Part: "body", Label: "Start pitch", Unit: "Hz", Min: 20, Max: 4000, Default: 200, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Body.Start }),
	param.Number(param.Param{ID: "body.end_hz", Part: "body", Label: "End pitch", Unit: "Hz", Min: 20, Max: 2000, Default: 50, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Body.End }),
	param.Number(param.Param{ID: "body.fall_ms", Part: "body", Label: "Fall time", Unit: "ms", Min: 1, Max: 500, Default: 100, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Body.Fall }),
	param.Number(param.Param{ID: "body.attack_ms", Part: "body", Label: "Attack", Unit: "ms", Min: 0.1, Max: 100, Default: 0.5, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Body.Attack }),
	param.Number(param.Param{ID: "body.decay_ms", Part: "body", Label: "Decay", Unit: "ms", Min: 10, Max: 6000, Default: 300, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Body.Decay }),
	param.Number(param.Param{ID: "noise.level_db", Part: "noise", Label: "Level", Unit: "dB", Min: Silent, Max: 6, Default: Silent, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Noise.Level }),
	param.Number(param.Param{ID: "noise.colour_hz", Part: "noise", Label: "Colour", Unit: "Hz", Min: 100, Max: 16000, Default: 4000, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Noise.Colour }),
	param.Number(param.Param{ID: "noise.width_oct", Part: "noise", Label: "Width", Unit: "oct", Min: 0.3, Max: 6, Default: 2, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Noise.Width }),
	param.Number(param.Param{ID: "noise.decay_ms", Part: "noise", Label: "Decay", Unit: "ms", Min: 5, Max: 4000, Default: 150, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Noise.Decay }),
	param.Number(param.Param{ID: "metal.level_db", Part: "metal", Label: "Level", Unit: "dB", Min: Silent, Max: 6, Default: Silent, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Metal.Level }),
	param.Number(param.Param{ID: "metal.pitch_hz", Part: "metal", Label: "Pitch", Unit: "Hz", Min: 100, Max: 2000, Default: 540, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Metal.Pitch }),
	param.Number(param.Param{ID: "metal.decay_ms", Part: "metal", Label: "Decay", Unit: "ms", Min: 5, Max: 4000, Default: 80, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Metal.Decay }),
	param.Number(param.Param{ID: "snap.level_db", Part: "snap", Label: "Level", Unit: "dB", Min: Silent, Max: 6, Default: Silent, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Snap.Level }),
	param.Number(param.Param{ID: "snap.colour_hz", Part: "snap", Label: "Colour", Unit: "Hz", Min: 500, Max: 16000, Default: 4000, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Snap.Colour }),
	param.Number(param.Param{ID: "snap.decay_ms", Part: "snap", Label: "Decay", Unit: "ms", Min: 1, Max: 60, Default: 6, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Snap.Decay }),
	param.Number(param.Param{ID: "drive.attack_percent", Part: "drive", Label: "At the attack", Unit: "%", Min: 0, Max: 100, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Drive.Attack }),
	param.Number(param.Param{ID: "drive.body_percent", Part: "drive", Label: "In the body", Unit: "%", Min: 0, Max: 100, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Drive.Body }),
	param.Number(param.Param{ID: "drive.fall_ms", Part: "drive", Label: "Fall time", Unit: "ms", Min: 1, Max: 500, Default: 40, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Drive.Fall }),
	param.Number(param.Param{ID: "cut.low_hz", Part: "cut", Label: "Low cut", Unit: "Hz", Min: 10, Max: 12000, Default: 10, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Cut.Low }),
}

// Validate checks every number of the recipe against Params.
func (r *Recipe) Validate() error { return Params.Validate(r) }

// Tuned returns the recipe with body and metal moved by semitones; both ends
// of the pitch fall move together.
func (r Recipe) Tuned(semitones float64) Recipe {
	ratio := math.Exp2(semitones / 12)
	r.Body.Start *= ratio
	r.Body.End *= ratio
	r.Metal.Pitch *= ratio
	return r
}
