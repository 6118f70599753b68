package sound

import (
	"fmt"
	"reflect"
	"strings"
	"unicode/utf8"

	"jubrak/core/mixer"
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
	// Release is the time in which a note that is stopped fades.
	Release float64 `json:"release_ms"`
	// Touch is how much velocity changes the level: at 100 %, 40 dB for a tenth
	// of it; at 0 every hit is as loud.
	Touch float64 `json:"touch_percent"`
	// TouchBend bows the way from soft to hard: above 0 soft hits are louder, below
	// 0 softer; the hardest stays as it is.
	TouchBend float64 `json:"touch_bend"`
	// Glide is how long the pitch of a voice of one note at a time takes from
	// note to note. With Legato a note that follows while the one before sounds
	// goes on from it, without a new attack.
	Glide  float64 `json:"glide_ms"`
	Legato bool    `json:"legato"`
	// Key is the MIDI key by which the voice is written and read; 0 is one of its
	// family's, see Kit.Keys.
	Key int `json:"midi_key"`
	// Gate lets the voice sound only while another one opens it; nil leaves it
	// open.
	Gate *Gate `json:"gate"`
	// Row is its place in the mix: what its sound goes through, and where.
	mixer.Row
}

// Gate is opened by the sound of another voice.
type Gate struct {
	// By is the voice whose dry sound opens it.
	By        string  `json:"by"`
	Threshold float64 `json:"threshold_db"`
	// Hysteresis is how much lower than it opens it closes.
	Hysteresis float64 `json:"hysteresis_db"`
	Floor      float64 `json:"floor_db"`
	Attack     float64 `json:"attack_ms"`
	Hold       float64 `json:"hold_ms"`
	Release    float64 `json:"release_ms"`
}

// GateParams is the table of a gate's numbers. Its defaults are those by which a
// kick makes a tone of 70 to 80 Hz an 808 (common practice).
var GateParams = param.Table[Gate]{
	gate("threshold_db", "Threshold", "dB", -80, 0, -52, param.DB, func(g *Gate) *float64 { return &g.Threshold }),
	gate("hysteresis_db", "Hysteresis", "dB", 0, 24, 2.5, param.DB, func(g *Gate) *float64 { return &g.Hysteresis }),
	gate("floor_db", "Range", "dB", -90, 0, -61, param.DB, func(g *Gate) *float64 { return &g.Floor }),
	gate("attack_ms", "Attack", "ms", 0.1, 500, 27, param.Log, func(g *Gate) *float64 { return &g.Attack }),
	gate("hold_ms", "Hold", "ms", 0, 2000, 330, param.Linear, func(g *Gate) *float64 { return &g.Hold }),
	gate("release_ms", "Release", "ms", 1, 4000, 509, param.Log, func(g *Gate) *float64 { return &g.Release }),
}

func gate(id, label, unit string, low, high, value float64, scale param.Scale, at func(*Gate) *float64) param.Row[Gate] {
	return param.Number(param.Param{ID: "gate." + id, Part: "gate", Label: label, Unit: unit, Min: low, Max: high, Default: value, Scale: scale}, at)
}

// VoiceParams is the table of the numbers of a voice itself.
var VoiceParams = param.Table[Voice]{
	param.Number(param.Param{ID: "level_db", Label: "Level", Unit: "dB", Min: -60, Max: 12, Default: -12, Scale: param.DB}, func(v *Voice) *float64 { return &v.Level }),
	param.Number(param.Param{ID: "pan", Label: "Pan", Min: -1, Max: 1, Scale: param.Linear}, func(v *Voice) *float64 { return &v.Pan }),
	param.Flag("mute", "Mute", func(v *Voice) *bool { return &v.Mute }),
	param.Flag("mono", "Monophonic", func(v *Voice) *bool { return &v.Mono }),
	param.Number(param.Param{ID: "release_ms", Label: "Choke release", Unit: "ms", Min: 1, Max: 500, Default: 4, Scale: param.Log}, func(v *Voice) *float64 { return &v.Release }),
	param.Number(param.Param{ID: "touch_percent", Label: "Velocity to level", Unit: "%", Min: 0, Max: 200, Default: 100, Scale: param.Linear}, func(v *Voice) *float64 { return &v.Touch }),
	param.Number(param.Param{ID: "touch_bend", Label: "Velocity curve", Min: -1, Max: 1, Scale: param.Linear}, func(v *Voice) *float64 { return &v.TouchBend }),
	param.Number(param.Param{ID: "glide_ms", Label: "Glide", Unit: "ms", Min: 0, Max: 1000, Scale: param.Linear}, func(v *Voice) *float64 { return &v.Glide }),
	param.Flag("legato", "Legato", func(v *Voice) *bool { return &v.Legato }),
	param.Whole(param.Param{ID: "midi_key", Label: "MIDI key", Min: 0, Max: 127}, func(v *Voice) *int { return &v.Key }),
}

// Sounding are the layers that sound on some hit: those not muted, or those that
// are solo where any is.
func (v *Voice) Sounding() []*Layer {
	solo := false
	for i := range v.Layers {
		solo = solo || v.Layers[i].Solo && !v.Layers[i].Mute
	}
	var out []*Layer
	for i := range v.Layers {
		if l := &v.Layers[i]; !l.Mute && (l.Solo || !solo) {
			out = append(out, l)
		}
	}
	return out
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

// Relations are the families that may stand in for one, nearest first.
func Relations(f Family) []Family { return relations[f] }

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

// SameSound reports whether two voices sound the same when they are struck, apart
// from their own level and pan; quick where they share their layers.
func (v *Voice) SameSound(o *Voice) bool {
	return v.Touch == o.Touch && v.Release == o.Release && v.SameLayers(o)
}

// SameLayers reports whether two voices have the same layers; quick where they
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
		if err := v.Row.Validate(); err != nil {
			return fmt.Errorf("voice %q: %w", v.Name, err)
		}
		if v.Gate != nil {
			if err := GateParams.Validate(v.Gate); err != nil {
				return fmt.Errorf("voice %q: %w", v.Name, err)
			}
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
