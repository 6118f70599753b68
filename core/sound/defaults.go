package sound

// quiet is a recipe with every part switched off and sensible ranges, the
// ground on which the presets below are written.
var quiet = Recipe{
	Body:   Body{Level: Silent, Start: 200, End: 50, Fall: 100, Attack: 0.5, Decay: 300},
	Noise:  Noise{Level: Silent, Colour: 4000, Width: 2, Decay: 150},
	Metal:  Metal{Level: Silent, Pitch: 540, Decay: 80},
	Snap:   Snap{Level: Silent, Colour: 4000, Decay: 6},
	Drive:  Drive{Attack: 0, Body: 0, Fall: 40},
	LowCut: 10,
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
		r.LowCut = 110
	case HatClosed, Shaker, Tambourine:
		r.Noise = Noise{Level: -10, Colour: 9500, Width: 1.6, Decay: 70}
		r.Metal = Metal{Level: -8, Pitch: 540, Decay: 80}
		r.LowCut = 5500
	case HatOpen, Ride, Crash:
		r.Noise = Noise{Level: -10, Colour: 9000, Width: 1.8, Decay: 420}
		r.Metal = Metal{Level: -8, Pitch: 540, Decay: 520}
		r.LowCut = 5000
	case Bass808:
		r.Body = Body{Level: 0, Start: 87.3, End: 43.654, Fall: 60, Attack: 3, Decay: 1600}
		r.Drive = Drive{Attack: 35, Body: 18, Fall: 120}
		r.LowCut = 20
	default:
		r.Body = Body{Level: 0, Start: 320, End: 49, Fall: 105, Attack: 0.3, Decay: 420}
		r.Snap = Snap{Level: -14, Colour: 4500, Decay: 5}
		r.Drive = Drive{Attack: 35, Body: 6, Fall: 50}
		r.LowCut = 20
	}
	return r
}

// DefaultKit is the kit of a new project: kick, snare, closed hat, open hat
// and 808. The open hat is cut by the closed one; the 808 is mono.
func DefaultKit() Kit {
	return Kit{Voices: []Voice{
		{ID: "kick", Name: "Kick", Family: Kick, Recipe: DefaultRecipe(Kick), Gain: -6, CutBy: []string{}},
		{ID: "snare", Name: "Snare", Family: Snare, Recipe: DefaultRecipe(Snare), Gain: -9, CutBy: []string{}},
		{ID: "hat", Name: "Hat", Family: HatClosed, Recipe: DefaultRecipe(HatClosed), Gain: -14, Pan: 0.15, CutBy: []string{}},
		{ID: "open", Name: "Open hat", Family: HatOpen, Recipe: DefaultRecipe(HatOpen), Gain: -15, Pan: 0.15, CutBy: []string{"hat"}},
		{ID: "808", Name: "808", Family: Bass808, Recipe: DefaultRecipe(Bass808), Gain: -11, Mono: true, CutBy: []string{}},
	}}
}
