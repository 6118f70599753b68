package preset

import "jubrak/core/sound"

// Kit is a kit of the library.
type Kit struct {
	ID     string        `json:"id"`
	Name   string        `json:"name"`
	Tags   []string      `json:"tags"`
	Voices []sound.Voice `json:"voices"`
}

// Kits are those that ship with the program.
func Kits() []Kit { return shippedKits }

var shippedKits = []Kit{
	kit("house", "House lights", []string{"round", "dry"}, "kick-house-lights", "snare-rink-snap", "clap-four-hands", "hat_closed-two-noises", "hat_open-held", "shaker-seeds", "conga-open-high", "cowbell-short-bell"),
	kit("dusty", "Dust under the seats", []string{"dusty", "warm"}, "kick-cardboard", "snare-dust-board", "rim-dust-stick", "hat_closed-dusty-tick", "hat_open-dust-open", "tambourine-dust-jingle", "perc-bottle"),
	kit("acoustic", "Drums in the rink", []string{"acoustic", "roomy"}, "kick-drum-room", "snare-deep-shell", "rim-side-stick", "hat_closed-pedal", "hat_open-wash", "ride-stick-ride", "crash-crash-one", "tom-low-tom", "tom-mid-tom", "tom-high-tom"),
	kit("techno", "Slab", []string{"hard", "deep"}, "kick-techno-slab", "clap-folded-hands", "hat_closed-metal-six", "hat_open-cluster", "ride-machine-ride", "perc-shifted", "tom-laser-tom"),
	kit("half-time", "Half-time", []string{"deep", "bright"}, "kick-half-time", "snare-trap-line", "clap-bright-snap", "hat_closed-tight-one", "hat_open-half-open", "perc-triangle", "808-driven-low"),
	kit("hands", "Hands and skins", []string{"warm", "acoustic"}, "kick-felt", "snare-brush", "conga-open-low", "conga-open-high", "conga-slap", "conga-bongo-high", "conga-bongo-low", "shaker-sand", "cowbell-agogo-high", "cowbell-agogo-low"),
}

// inMix are the levels of voices of a family beside each other, dB (common
// practice).
var inMix = map[sound.Family]float64{
	sound.Kick: -6, sound.Snare: -8, sound.Clap: -10, sound.Rim: -10, sound.HatClosed: -12, sound.HatOpen: -13, sound.Shaker: -14, sound.Tambourine: -13,
	sound.Ride: -14, sound.Crash: -12, sound.Tom: -9, sound.Conga: -11, sound.Cowbell: -13, sound.Perc: -12, sound.Bass808: -8,
}

func kit(id, name string, tags []string, sounds ...string) Kit {
	k := Kit{ID: id, Name: name, Tags: tags}
	closed := ""
	for _, s := range sounds {
		of := Find(s)
		if of == nil {
			panic("there is no sound " + s)
		}
		v := of.Voice()
		v.Level = inMix[of.Family]
		n := 0
		for i := range k.Voices {
			if k.Voices[i].Family == of.Family {
				n++
			}
		}
		v.ID = string(of.Family)
		if n > 0 {
			v.ID += string(rune('1' + n))
		}
		switch of.Family {
		case sound.HatClosed:
			v.Pan, closed = 0.15, v.ID
		case sound.HatOpen:
			v.Pan = 0.15
			if closed != "" {
				v.CutBy = []string{closed}
			}
		}
		k.Voices = append(k.Voices, v)
	}
	return k
}
