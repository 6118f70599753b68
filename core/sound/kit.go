package sound

import (
	"fmt"
	"reflect"
	"strings"
	"unicode/utf8"

	"jubrak/core/param"
)

// Voice is one drum of a kit and one row on every screen: layers that are struck
// together.
type Voice struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Family Family  `json:"family"`
	Level  float64 `json:"level_db"`
	// Pan runs from -1 (left) to 1 (right).
	Pan  float64 `json:"pan"`
	Mute bool    `json:"mute"`
	// Mono voices play one note at a time: a new note stops the one before.
	Mono   bool    `json:"mono"`
	Layers []Layer `json:"layers"`
	// CutBy names the voices whose hits stop this one.
	CutBy []string `json:"cut_by"`
}

// VoiceParams is the table of the numbers of a voice itself.
var VoiceParams = param.Table[Voice]{
	param.Number(param.Param{ID: "level_db", Label: "Level", Unit: "dB", Min: -60, Max: 12, Default: -12, Scale: param.DB}, func(v *Voice) *float64 { return &v.Level }),
	param.Number(param.Param{ID: "pan", Label: "Pan", Min: -1, Max: 1, Scale: param.Linear}, func(v *Voice) *float64 { return &v.Pan }),
	param.Flag("mute", "Mute", func(v *Voice) *bool { return &v.Mute }),
	param.Flag("mono", "One note at a time", func(v *Voice) *bool { return &v.Mono }),
}

// Synth is the first layer of a recipe that sounds, else the first of one, or
// nil: the one that is meant where a voice is to be tuned or shaped as a whole.
func (v *Voice) Synth() *Layer {
	var found *Layer
	for i := range v.Layers {
		if l := &v.Layers[i]; l.Recipe != nil && (found == nil || found.Mute && !l.Mute) {
			found = l
		}
	}
	return found
}

// Kit is the set of voices of a project, in order of rows.
type Kit struct {
	Voices []Voice `json:"voices"`
}

// MaxVoices is the largest kit, MaxName the longest name of a voice, letters.
const (
	MaxVoices = 32
	MaxName   = 40
)

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

// SameLayers tells whether two voices have the same layers; quick where they
// share them.
func (v *Voice) SameLayers(o *Voice) bool {
	if len(v.Layers) != len(o.Layers) {
		return false
	}
	return len(v.Layers) == 0 || &v.Layers[0] == &o.Layers[0] || reflect.DeepEqual(v.Layers, o.Layers)
}

// Validate checks ids, families, ranges and recipes.
func (k *Kit) Validate() error {
	if len(k.Voices) > MaxVoices {
		return fmt.Errorf("a kit holds at most %d voices", MaxVoices)
	}
	seen := map[string]bool{}
	for i := range k.Voices {
		v := &k.Voices[i]
		if v.ID == "" || strings.Contains(v.ID, "/") || seen[v.ID] {
			return fmt.Errorf("voice %d needs an id of its own", i+1)
		}
		seen[v.ID] = true
		if !v.Family.Known() {
			return fmt.Errorf("voice %q has an unknown family %q", v.Name, v.Family)
		}
		if n := utf8.RuneCountInString(strings.TrimSpace(v.Name)); n == 0 || n > MaxName {
			return fmt.Errorf("voice %d needs a name of 1 to %d letters", i+1, MaxName)
		}
		if err := VoiceParams.Validate(v); err != nil {
			return fmt.Errorf("voice %q: %w", v.Name, err)
		}
		if len(v.Layers) > MaxLayers {
			return fmt.Errorf("voice %q: a voice has at most %d layers; take one away first", v.Name, MaxLayers)
		}
		ids := map[string]bool{}
		for j := range v.Layers {
			if ids[v.Layers[j].ID] {
				return fmt.Errorf("voice %q: layer %d needs an id of its own", v.Name, j+1)
			}
			ids[v.Layers[j].ID] = true
			if err := v.Layers[j].Validate(); err != nil {
				return fmt.Errorf("voice %q: %w", v.Name, err)
			}
		}
	}
	return nil
}
