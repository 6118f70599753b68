package preset

import (
	"fmt"
	"strings"
)

// ThanWords are the words of Than.
var ThanWords = []string{"darker", "brighter", "shorter", "longer", "lower", "higher"}

// ParseThan reads words of ThanWords, separated by commas; none asks for nothing.
func ParseThan(text string) (t Than, err error) {
	at := map[string]*bool{"darker": &t.Darker, "brighter": &t.Brighter, "shorter": &t.Shorter, "longer": &t.Longer, "lower": &t.Lower, "higher": &t.Higher}
	for _, w := range strings.Split(text, ",") {
		if w = strings.TrimSpace(w); w == "" {
			continue
		}
		if at[w] == nil {
			return t, fmt.Errorf("sounds are %s, not %q", strings.Join(ThanWords, ", "), w)
		}
		*at[w] = true
	}
	return t, nil
}

// Than asks for sounds that differ from one in a way that has a word.
type Than struct {
	Darker, Brighter, Shorter, Longer, Lower, Higher bool
}

// clearly is by how much a measure must differ, as a ratio, for the word to hold.
const clearly = 1.06

// Holds reports whether a sound is as asked beside one of a fundamental in Hz, a decay in ms
// and a spectral centroid in Hz. What is not known of either does not hold.
func (t Than) Holds(f Facts, fundamental, decay, brightness *float64) bool {
	less := func(a, b *float64) bool { return a != nil && b != nil && *a*clearly < *b }
	for _, asked := range []struct {
		on    bool
		holds bool
	}{
		{t.Darker, less(f.Brightness, brightness)}, {t.Brighter, less(brightness, f.Brightness)},
		{t.Shorter, less(f.Decay, decay)}, {t.Longer, less(decay, f.Decay)},
		{t.Lower, less(f.Fundamental, fundamental)}, {t.Higher, less(fundamental, f.Fundamental)},
	} {
		if asked.on && !asked.holds {
			return false
		}
	}
	return true
}
