package sound

import (
	"fmt"

	"jubrak/core/effect"
)

// Blank is a recipe with every part switched off, each with the numbers of a part
// just switched on.
func Blank() Recipe {
	r := Recipe{Effects: []effect.Effect{}, Curves: []Curve{}, Modulations: []Modulation{}}
	r.Body.Cycle = []float64{}
	Params.Reset(&r)
	return r
}

// With sets numbers of the recipe by their ids, held inside their ranges. It is for
// recipes that are written down; an unknown id is a mistake in them.
func (r Recipe) With(values map[string]float64) Recipe {
	r.Own()
	for id, v := range values {
		n, ok := r.Number(id)
		if !ok {
			panic(fmt.Sprintf("a recipe has no number %q", id))
		}
		if err := n.Set(&r, v); err != nil {
			panic(err)
		}
	}
	return r
}

// Then adds an effect of a kind, with the numbers that are not its defaults.
func (r Recipe) Then(kind string, values map[string]float64) Recipe {
	r.Own()
	r.Effects = append(r.Effects, effect.New(r.freeID(kind), effect.KindOf(kind), values))
	return r
}

func (r *Recipe) freeID(kind string) string {
	for n := 1; ; n++ {
		id := fmt.Sprintf("%s%d", kind, n)
		if r.Effect(id) == nil && r.Curve(id) == nil {
			return id
		}
	}
}

// Curved adds a curve and lets it move numbers, each from its first value where the
// curve is at 1 to its second where it is at 0.
func (r Recipe) Curved(c Curve, moves map[string][2]float64) Recipe {
	r.Own()
	if c.ID == "" {
		c.ID = r.freeID("curve")
	}
	if c.Name == "" {
		c.Name = fmt.Sprintf("Curve %d", len(r.Curves)+1)
	}
	if c.Unit == "" {
		c.Unit = MS
	}
	r.Curves = append(r.Curves, c)
	for i := range Params { // in the order of the table, so that equal recipes are equal
		if ends, ok := moves[Params[i].ID]; ok {
			r.Modulations = append(r.Modulations, Modulation{c.ID, Params[i].ID, ends[0], ends[1]})
		}
	}
	for _, s := range r.Effects {
		for _, p := range effect.KindOf(s.Kind).Params {
			at := "effects/" + s.ID + "/" + p.ID
			if ends, ok := moves[at]; ok {
				r.Modulations = append(r.Modulations, Modulation{c.ID, at, ends[0], ends[1]})
			}
		}
	}
	return r
}

// By adds a move by velocity, note or chance.
func (r Recipe) By(source, at string, from, to float64) Recipe {
	r.Own()
	r.Modulations = append(r.Modulations, Modulation{source, at, from, to})
	return r
}

// FallingDrive adds a soft drive that is at one amount at the stroke and at another
// once so many ms are over.
func (r Recipe) FallingDrive(from, to, ms float64) Recipe {
	r = r.Then("drive", map[string]float64{"amount_percent": to})
	if from == to {
		return r
	}
	at := "effects/" + r.Effects[len(r.Effects)-1].ID + "/amount_percent"
	return r.Curved(Curve{Name: "Dirt", Round: -1, Points: []CurvePoint{{At: 0, Value: 1, Bend: 0.45}, {At: ms * 1.5, Value: 0}}}, map[string][2]float64{at: {from, to}})
}

// LowCut adds a high pass of 12 dB an octave.
func (r Recipe) LowCut(hz float64) Recipe {
	return r.Then("filter", map[string]float64{"shape": 1, "corner_hz": hz})
}

// DefaultRecipe is the starting point for a drum of the family. Values are
// common practice: a round kick settles near 49 Hz in about 105 ms, a snare's
// body lies near 200 Hz with noise above 1 kHz, a clap is a few uneven bursts of
// noise around 1 to 2 kHz, hats are cut below 500 Hz or higher, a shaker is
// noise with a soft attack, toms and hand drums are membranes, an 808 is a long
// driven sine. Harder hits have more stick in them.
func DefaultRecipe(f Family) Recipe {
	type v = map[string]float64
	r := Blank()
	switch f {
	case Snare:
		r = r.With(v{
			"body.level_db": -3, "body.start_hz": 320, "body.end_hz": 196, "body.fall_ms": 30, "body.attack_ms": 0.3, "body.decay_ms": 180,
			"noise.level_db": -4, "noise.colour_hz": 3200, "noise.width_oct": 3, "noise.decay_ms": 220,
			"snap.level_db": -10, "snap.colour_hz": 5000, "snap.decay_ms": 4,
		}).FallingDrive(30, 8, 25).LowCut(110).By(ByVelocity, "snap.level_db", -8, 0)
	case Clap:
		r = r.With(v{
			"noise.level_db": 2, "noise.colour_hz": 1400, "noise.width_oct": 1.2, "noise.decay_ms": 200, "noise.bursts": 4,
			"noise.spacing_ms": 10, "noise.uneven_percent": 35, "noise.burst_decay_ms": 22, "noise.burst_step_db": 0.5, "noise.vary_percent": 15,
		}).FallingDrive(25, 10, 40).LowCut(500)
	case Rim:
		r = r.With(v{
			"body.level_db": -2, "body.start_hz": 1900, "body.end_hz": 1620, "body.fall_ms": 6, "body.attack_ms": 0.1, "body.decay_ms": 45,
			"ring.level_db": -8, "ring.kind": 1, "ring.pitch_hz": 480, "ring.modes": 4, "ring.decay_ms": 70, "ring.drop_st": 0,
			"snap.level_db": -6, "snap.colour_hz": 3500, "snap.decay_ms": 3,
		}).FallingDrive(30, 10, 15).LowCut(300)
	case HatClosed, HatOpen:
		decay := 80.0
		if f == HatOpen {
			decay = 520
		}
		r = r.With(v{
			"noise.level_db": -10, "noise.colour_hz": 9500, "noise.width_oct": 1.6, "noise.hold_ms": 3, "noise.decay_ms": 0.85 * decay,
			"metal.level_db": -8, "metal.pitch_hz": 540, "metal.decay_ms": decay,
		}).LowCut(5500)
	case Shaker:
		r = r.With(v{"noise.level_db": -2, "noise.colour_hz": 7500, "noise.width_oct": 1.4, "noise.attack_ms": 18, "noise.decay_ms": 110}).LowCut(3500)
	case Tambourine:
		r = r.With(v{
			"noise.level_db": -9, "noise.kind": 4, "noise.colour_hz": 9000, "noise.width_oct": 1.5, "noise.decay_ms": 90,
			"metal.level_db": -6, "metal.set": 2, "metal.wave": 1, "metal.pitch_hz": 1900, "metal.partials": 8, "metal.ringing_percent": 40, "metal.decay_ms": 210,
		}).LowCut(2500)
	case Ride:
		r = r.With(v{
			"metal.level_db": -6, "metal.pitch_hz": 420, "metal.partials": 12, "metal.set": 1, "metal.ringing_percent": 35, "metal.decay_ms": 1400,
			"noise.level_db": -20, "noise.colour_hz": 8000, "noise.width_oct": 2, "noise.decay_ms": 700, "snap.level_db": -12, "snap.colour_hz": 6000, "snap.decay_ms": 5,
		}).LowCut(1200)
	case Crash:
		r = r.With(v{
			"noise.level_db": -6, "noise.colour_hz": 6500, "noise.width_oct": 3, "noise.attack_ms": 2, "noise.decay_ms": 1600,
			"metal.level_db": -12, "metal.pitch_hz": 380, "metal.partials": 12, "metal.set": 1, "metal.ringing_percent": 60, "metal.decay_ms": 1900,
		}).LowCut(700)
	case Tom:
		r = r.With(v{
			"ring.level_db": 0, "ring.pitch_hz": 98, "ring.modes": 8, "ring.strike_percent": 30, "ring.decay_ms": 480, "ring.damping_percent": 55, "ring.drop_st": 3, "ring.drop_ms": 90,
			"snap.level_db": -14, "snap.colour_hz": 3000, "snap.decay_ms": 6,
		}).FallingDrive(20, 5, 40).LowCut(45).By(ByVelocity, "snap.level_db", -8, 0)
	case Conga:
		r = r.With(v{
			"ring.level_db": 0, "ring.pitch_hz": 210, "ring.modes": 7, "ring.strike_percent": 65, "ring.decay_ms": 260, "ring.damping_percent": 50, "ring.drop_st": 1, "ring.drop_ms": 30,
			"noise.level_db": -16, "noise.colour_hz": 1800, "noise.width_oct": 2, "noise.decay_ms": 25,
		}).LowCut(110)
	case Cowbell:
		r = r.With(v{"metal.level_db": 0, "metal.set": 3, "metal.pitch_hz": 562, "metal.partials": 2, "metal.hold_ms": 8, "metal.decay_ms": 320}).
			Then("filter", v{"shape": 2, "corner_hz": 1000, "resonance_percent": 20}).LowCut(400)
	case Perc:
		r = r.With(v{
			"ring.level_db": -2, "ring.kind": 1, "ring.pitch_hz": 720, "ring.modes": 4, "ring.strike_percent": 10, "ring.decay_ms": 160, "ring.drop_st": 0,
			"snap.level_db": -10, "snap.colour_hz": 2500, "snap.decay_ms": 4,
		}).LowCut(250)
	case Bass808:
		r = r.With(v{"body.level_db": 0, "body.start_hz": 87.3, "body.end_hz": 43.654, "body.fall_ms": 60, "body.attack_ms": 3, "body.decay_ms": 1600}).
			FallingDrive(35, 18, 120).LowCut(20)
	default:
		r = r.With(v{
			"body.level_db": 0, "body.start_hz": 320, "body.end_hz": 49, "body.fall_ms": 105, "body.attack_ms": 0.3, "body.decay_ms": 420,
			"snap.level_db": -14, "snap.colour_hz": 4500, "snap.decay_ms": 5,
		}).FallingDrive(35, 6, 50).LowCut(20).By(ByVelocity, "snap.level_db", -8, 0)
	}
	return r
}

// firstLayer is the id of the layer that a new voice begins with.
const firstLayer = "drum"

// NewVoice is a voice of a family with one layer, its default recipe.
func NewVoice(id, name string, f Family) Voice {
	v := Voice{ID: id, Name: name, Family: f, CutBy: []string{}, Layers: []Layer{Synthesized(firstLayer, "Drum", DefaultRecipe(f))}}
	VoiceParams.Reset(&v)
	v.Level, v.Mono = -12, f == Bass808
	if v.Mono {
		v.Release = 12
	}
	return v
}

// Alone is a voice of layers, as they are without anything of a voice's own.
func Alone(layers ...Layer) *Voice {
	v := NewVoice("alone", "Alone", Perc)
	v.Layers = layers
	return &v
}

// DefaultKit is the kit of a new project: kick, snare, closed hat, open hat
// and 808. The open hat is cut by the closed one; the 808 is mono.
func DefaultKit() Kit {
	kit := Kit{Voices: []Voice{
		NewVoice("kick", "Kick", Kick), NewVoice("snare", "Snare", Snare), NewVoice("hat", "Hat", HatClosed),
		NewVoice("open", "Open hat", HatOpen), NewVoice("808", "808", Bass808),
	}}
	for i, level := range []float64{-6, -9, -14, -15, -11} {
		kit.Voices[i].Level = level
	}
	kit.Voices[2].Pan, kit.Voices[3].Pan = 0.15, 0.15
	kit.Voices[3].CutBy = []string{"hat"}
	return kit
}
