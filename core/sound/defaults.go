package sound

// quiet is a recipe with every part switched off and sensible ranges, the
// ground on which the presets below are written.
var quiet = Recipe{
	Body:  Body{Level: Silent, Start: 200, End: 50, Fall: 100, Attack: 0.5, Decay: 300},
	Noise: Noise{Level: Silent, Colour: 4000, Width: 2, Decay: 150},
	Metal: Metal{Level: Silent, Pitch: 540, Decay: 80},
	Snap:  Snap{Level: Silent, Colour: 4000, Decay: 6},
	Drive: Drive{Attack: 0, Body: 0, Fall: 40},
	Cut:   Cut{Low: 10},
}

// DefaultRecipe is the starting point for a drum of the family. Values are
// common practice: a round kick settles near 49 Hz in about 105 ms, a snare's
// body lies near 200 Hz with noise above 1 kHz, hats are cut below 500 Hz or
// higher, an 808 is a long driven sine.
func DefaultRecipe(f Family) Recipe {
	r := quiet
	switch f {
	case Snare, Clap, Rim:
		r.Body = Body{Level: -3, Start: 320, End: 196, Fall: 30, Attack: 0.3, Decay: 180}
		r.Noise = Noise{Level: -4, Colour: 3200, Width: 3, Decay: 220}
		r.Snap = Snap{Level: -10, Colour: 5000, Decay: 4}
		r.Drive = Drive{Attack: 30, Body: 8, Fall: 25}
		r.Cut.Low = 110
	case HatClosed, Shaker, Tambourine:
		r.Noise = Noise{Level: -10, Colour: 9500, Width: 1.6, Decay: 70}
		r.Metal = Metal{Level: -8, Pitch: 540, Decay: 80}
		r.Cut.Low = 5500
	case HatOpen, Ride, Crash:
		r.Noise = Noise{Level: -10, Colour: 9000, Width: 1.8, Decay: 420}
		r.Metal = Metal{Level: -8, Pitch: 540, Decay: 520}
		r.Cut.Low = 5000
	case Bass808:
		r.Body = Body{Level: 0, Start: 87.3, End: 43.654, Fall: 60, Attack: 3, Decay: 1600}
		r.Drive = Drive{Attack: 35, Body: 18, Fall: 120}
		r.Cut.Low = 20
	default:
		r.Body = Body{Level: 0, Start: 320, End: 49, Fall: 105, Attack: 0.3, Decay: 420}
		r.Snap = Snap{Level: -14, Colour: 4500, Decay: 5}
		r.Drive = Drive{Attack: 35, Body: 6, Fall: 50}
		r.Cut.Low = 20
	}
	return r
}

// firstLayer is the id of the layer that a new voice begins with.
const firstLayer = "drum"

// NewVoice is a voice of a family with one layer, its default recipe.
func NewVoice(id, name string, f Family) Voice {
	v := Voice{ID: id, Name: name, Family: f, CutBy: []string{}, Layers: []Layer{Synthesized(firstLayer, "Drum", DefaultRecipe(f))}}
	v.Level, v.Mono = -12, f == Bass808
	return v
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
