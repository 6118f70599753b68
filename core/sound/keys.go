package sound

import (
	"cmp"
	"slices"
)

// percussion are the keys of General MIDI Level 1's percussion map (channel 10) that a
// family has, in the order in which voices of it take them; toms, congas and the like from
// low to high.
var percussion = map[Family][]int{
	Kick: {36, 35}, Snare: {38, 40}, Clap: {39}, Rim: {37}, HatClosed: {42, 44}, HatOpen: {46},
	Shaker: {70, 82, 69}, Tambourine: {54}, Ride: {51, 59, 53}, Crash: {49, 57, 55, 52},
	Tom: {41, 43, 45, 47, 48, 50}, Conga: {64, 63, 62, 61, 60}, Cowbell: {56},
	Perc:    {76, 77, 75, 67, 68, 65, 66, 73, 74, 71, 72, 78, 79, 80, 81, 58},
	Bass808: {35},
}

// byPitch are the families whose keys go from low to high.
var byPitch = []Family{Tom, Conga}

// Percussion files each key of General MIDI's percussion map under its family.
func Percussion() map[int]Family {
	out := map[int]Family{}
	for key := 35; key <= 82; key++ {
		out[key] = FamilyOfKey(key)
	}
	return out
}

// Keys are the MIDI keys of the kit's voices, by id: a voice's own where it has one, the
// user's for its family, else one of General MIDI's that no other voice has yet. Where a
// family has more voices than keys, the last share one.
func (k *Kit) Keys(own map[Family]int) map[string]int {
	out, taken := map[string]int{}, map[int]bool{}
	for i := range k.Voices {
		if v := &k.Voices[i]; v.Key > 0 {
			out[v.ID], taken[v.Key] = v.Key, true
		}
	}
	for _, f := range Families {
		var voices []*Voice
		for i := range k.Voices {
			if v := &k.Voices[i]; v.Family == f && v.Key == 0 {
				voices = append(voices, v)
			}
		}
		keys := slices.Clone(percussion[f])
		if len(voices) == 0 || len(keys) == 0 {
			continue
		}
		if key, ok := own[f]; ok {
			keys = append([]int{key}, slices.DeleteFunc(keys, func(o int) bool { return o == key })...)
		} else if slices.Contains(byPitch, f) {
			slices.SortStableFunc(voices, func(a, b *Voice) int { return cmp.Compare(a.RootHz(), b.RootHz()) })
			keys = spread(keys, len(voices))
		}
		for i, v := range voices {
			key := keys[min(i, len(keys)-1)]
			for _, other := range keys {
				if !taken[key] {
					break
				}
				if !taken[other] {
					key = other
				}
			}
			out[v.ID], taken[key] = key, true
		}
	}
	return out
}

// spread chooses n of some keys from low to high, evenly; one alone is the middle one.
func spread(keys []int, n int) []int {
	if n >= len(keys) {
		return keys
	}
	out := make([]int, n)
	for i := range out {
		out[i] = keys[(2*i+1)*len(keys)/(2*n)]
	}
	return append(out, keys...)
}

// ForKey finds the voice of a family that should play a MIDI key: the one that has it,
// else of several that whose key lies nearest, else what ForFamily finds.
func (k *Kit) ForKey(f Family, key int, keys map[string]int) *Voice {
	var best *Voice
	near := 1 << 30
	for i := range k.Voices {
		v := &k.Voices[i]
		if v.Key == key {
			return v
		}
		if d := max(keys[v.ID]-key, key-keys[v.ID]); v.Family == f && d < near {
			best, near = v, d
		}
	}
	if best != nil {
		return best
	}
	return k.ForFamily(f)
}
