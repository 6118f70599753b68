// Package sound says what a drum is: its family, its recipe, its voice and
// the kit it belongs to. It holds plain data with validation and defaults;
// package synth turns it into samples.
package sound

import "slices"

// Family is the role of a drum in a groove, the same for a voice of ours and
// for a hit heard in a reference.
type Family string

// The families that the program reports apart.
const (
	Kick       Family = "kick"
	Snare      Family = "snare"
	Clap       Family = "clap"
	Rim        Family = "rim"
	HatClosed  Family = "hat_closed"
	HatOpen    Family = "hat_open"
	Shaker     Family = "shaker"
	Tambourine Family = "tambourine"
	Ride       Family = "ride"
	Crash      Family = "crash"
	Tom        Family = "tom"
	Conga      Family = "conga"
	Cowbell    Family = "cowbell"
	Perc       Family = "perc"
	Bass808    Family = "808"
)

// Families lists every family in the order in which rows stand on a screen.
var Families = []Family{Kick, Snare, Clap, Rim, HatClosed, HatOpen, Shaker, Tambourine, Ride, Crash, Tom, Conga, Cowbell, Perc, Bass808}

// Label is the family's name for people.
func (f Family) Label() string { return labels[f] }

var labels = map[Family]string{
	Kick: "Kick", Snare: "Snare", Clap: "Clap", Rim: "Rim", HatClosed: "Hat", HatOpen: "Open hat", Shaker: "Shaker", Tambourine: "Tambourine",
	Ride: "Ride", Crash: "Crash", Tom: "Tom", Conga: "Conga", Cowbell: "Cowbell", Perc: "Percussion", Bass808: "808",
}

// Known reports whether f is one of Families.
func (f Family) Known() bool {
	for _, k := range Families {
		if f == k {
			return true
		}
	}
	return false
}

// Key is the General MIDI Level 1 percussion key that stands for the family
// (channel 10). An 808 has no percussion key of its own and is written as
// 35, the second bass drum.
func (f Family) Key() int {
	switch keys := percussion[f]; {
	case len(keys) == 0:
		return 56
	case slices.Contains(byPitch, f):
		return spread(keys, 1)[0]
	default:
		return keys[0]
	}
}

// FamilyOfKey files a General MIDI Level 1 percussion key under its family.
// Keys outside the percussion map are Perc.
func FamilyOfKey(key int) Family {
	switch key {
	case 35, 36:
		return Kick
	case 37:
		return Rim
	case 38, 40:
		return Snare
	case 39:
		return Clap
	case 42, 44:
		return HatClosed
	case 46:
		return HatOpen
	case 41, 43, 45, 47, 48, 50:
		return Tom
	case 49, 52, 55, 57:
		return Crash
	case 51, 53, 59:
		return Ride
	case 54:
		return Tambourine
	case 56:
		return Cowbell
	case 60, 61, 62, 63, 64:
		return Conga
	case 69, 70, 82:
		return Shaker
	}
	return Perc
}
