package sound

import "fmt"

// Voice is one drum of a kit and one row on every screen.
type Voice struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Family Family  `json:"family"`
	Recipe Recipe  `json:"recipe"`
	Gain   float64 `json:"gain_db"`
	// Pan runs from -1 (left) to 1 (right).
	Pan  float64 `json:"pan"`
	Mute bool    `json:"mute"`
	// Mono voices play one note at a time: a new note stops the one before.
	Mono bool `json:"mono"`
	// SynthOff leaves only the layers.
	SynthOff bool    `json:"synth_off"`
	Layers   []Layer `json:"layers"`
	// CutBy names the voices whose hits stop this one.
	CutBy []string `json:"cut_by"`
}

// Kit is the set of voices of a project, in order of rows.
type Kit struct {
	Voices []Voice `json:"voices"`
}

// MaxVoices is the largest kit.
const MaxVoices = 32

// Voice finds a voice by its id, or nil.
func (k *Kit) Voice(id string) *Voice {
	for i := range k.Voices {
		if k.Voices[i].ID == id {
			return &k.Voices[i]
		}
	}
	return nil
}

// ForFamily finds the voice that should play a hit of family f: the same
// family, else its nearest relation by role, else nil.
func (k *Kit) ForFamily(f Family) *Voice {
	for _, want := range append([]Family{f}, relations[f]...) {
		for i := range k.Voices {
			if k.Voices[i].Family == want {
				return &k.Voices[i]
			}
		}
	}
	return nil
}

// relations lists stand-ins by role (common practice).
var relations = map[Family][]Family{
	Clap: {Snare}, Rim: {Snare, Clap}, Snare: {Clap, Rim},
	HatOpen: {HatClosed}, HatClosed: {Shaker, HatOpen}, Shaker: {HatClosed},
	Tambourine: {HatClosed}, Ride: {HatClosed, HatOpen}, Crash: {HatOpen},
	Bass808: {Kick},
}

// Layer finds a layer by its id, or nil.
func (v *Voice) Layer(id string) *Layer {
	for i := range v.Layers {
		if v.Layers[i].ID == id {
			return &v.Layers[i]
		}
	}
	return nil
}

// Validate checks ids, families, ranges and recipes.
func (k *Kit) Validate() error {
	if len(k.Voices) > MaxVoices {
		return fmt.Errorf("a kit holds at most %d voices", MaxVoices)
	}
	seen := map[string]bool{}
	for i := range k.Voices {
		v := &k.Voices[i]
		if v.ID == "" || seen[v.ID] {
			return fmt.Errorf("voice %d needs an id of its own", i+1)
		}
		seen[v.ID] = true
		if !v.Family.Known() {
			return fmt.Errorf("voice %q has an unknown family %q", v.Name, v.Family)
		}
		if !(v.Gain >= -60 && v.Gain <= 12) || !(v.Pan >= -1 && v.Pan <= 1) {
			return fmt.Errorf("voice %q: gain must lie between -60 and 12 dB, pan between -1 and 1", v.Name)
		}
		if err := v.Recipe.Validate(); err != nil {
			return fmt.Errorf("voice %q: %w", v.Name, err)
		}
		if len(v.Layers) > MaxLayers {
			return fmt.Errorf("voice %q: a voice has at most %d layers; take one away first", v.Name, MaxLayers)
		}
		for j := range v.Layers {
			if err := v.Layers[j].Validate(); err != nil {
				return fmt.Errorf("voice %q: %w", v.Name, err)
			}
		}
	}
	return nil
}
