package music

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// Scale is the notes of a key: a root, 0 for C to 11 for B, and the semitones above it.
type Scale struct {
	Root      int
	Intervals []int
}

// modes by what may follow the root of a key.
var modes = map[string][]int{
	"":           {0, 2, 4, 5, 7, 9, 11},
	"major":      {0, 2, 4, 5, 7, 9, 11},
	"m":          {0, 2, 3, 5, 7, 8, 10},
	"minor":      {0, 2, 3, 5, 7, 8, 10},
	"dorian":     {0, 2, 3, 5, 7, 9, 10},
	"phrygian":   {0, 1, 3, 5, 7, 8, 10},
	"lydian":     {0, 2, 4, 6, 7, 9, 11},
	"mixolydian": {0, 2, 4, 5, 7, 9, 10},
	"pentatonic": {0, 3, 5, 7, 10},
}

// Modes are the scales by what may follow the root of a key: the semitones above it. The
// map is the caller's own.
func Modes() map[string][]int { return maps.Clone(modes) }

// ParseKey reads a key as musicians write it: "Gm", "F minor", "C♯ dorian", "Eb".
func ParseKey(text string) (*Scale, error) {
	name, rest, ok := pitchName(strings.TrimSpace(text))
	if !ok {
		return nil, fmt.Errorf("%q is not a key; write one such as Gm or F minor", text)
	}
	rest = strings.TrimSpace(rest)
	if rest != "m" {
		rest = strings.ToLower(rest)
	}
	intervals, ok := modes[rest]
	if !ok {
		return nil, fmt.Errorf("%q is not a key; write one such as Gm or F minor", text)
	}
	return &Scale{name, intervals}, nil
}

// pitchName reads a note name without an octave at the start of a text.
func pitchName(s string) (class int, rest string, ok bool) {
	if s == "" {
		return 0, s, false
	}
	base, ok := map[byte]int{'C': 0, 'D': 2, 'E': 4, 'F': 5, 'G': 7, 'A': 9, 'B': 11}[s[0]]
	rest = s[1:]
	switch {
	case strings.HasPrefix(rest, "#"), strings.HasPrefix(rest, "b"):
		if rest[0] == '#' {
			base++
		} else {
			base--
		}
		rest = rest[1:]
	case strings.HasPrefix(rest, "♯"):
		base, rest = base+1, strings.TrimPrefix(rest, "♯")
	case strings.HasPrefix(rest, "♭"):
		base, rest = base-1, strings.TrimPrefix(rest, "♭")
	}
	return (base + 12) % 12, rest, ok
}

// Has reports whether a MIDI note is one of the scale's.
func (s *Scale) Has(note int) bool {
	return slices.Contains(s.Intervals, ((note-s.Root)%12+12)%12)
}

// Transpose is the note so many steps of the scale above a note, below where negative. One
// outside the scale keeps its distance from the step below it.
func (s *Scale) Transpose(note, degrees int) int {
	above := ((note-s.Root)%12 + 12) % 12
	base := note - above
	i := 0
	for k, st := range s.Intervals {
		if st <= above {
			i = k
		}
	}
	off := above - s.Intervals[i]
	n := len(s.Intervals)
	to := i + degrees
	octave := to / n
	if to%n < 0 {
		octave--
	}
	to = ((to % n) + n) % n
	return base + 12*octave + s.Intervals[to] + off
}

// Chord is the root of one chord and where it is struck, in beats from the start.
type Chord struct {
	// Class is the root, 0 for C to 11 for B.
	Class int
	Name  string
	At    float64
	// Beats is how long it lasts.
	Beats float64
}

// ParseChords reads chords as they are written over bars: bars are divided by |, and
// the chords of a bar share it evenly, as in "Fm | Db Ab | Eb . . Fm"; a dot holds the
// chord before. Whatever follows the root is the chord's kind and only kept as its
// name. A bass after a slash is the root that counts.
func ParseChords(text string, beatsPerBar float64) ([]Chord, error) {
	var out []Chord
	bars := strings.Split(strings.Trim(strings.TrimSpace(text), "|"), "|")
	for i, bar := range bars {
		words := strings.Fields(bar)
		if len(words) == 0 {
			return nil, fmt.Errorf("bar %d holds no chord; write a dot to hold the one before", i+1)
		}
		each := beatsPerBar / float64(len(words))
		for j, w := range words {
			if w == "." {
				if len(out) == 0 {
					return nil, fmt.Errorf("a dot holds the chord before it, and there is none")
				}
				out[len(out)-1].Beats += each
				continue
			}
			root := w
			if k := strings.LastIndexByte(w, '/'); k >= 0 {
				root = w[k+1:]
			}
			class, _, ok := pitchName(root)
			if !ok {
				return nil, fmt.Errorf("%q is not a chord; write its root as a capital, such as Fm or Db", w)
			}
			out = append(out, Chord{class, w, float64(i)*beatsPerBar + float64(j)*each, each})
		}
	}
	if len(out) > 512 {
		return nil, fmt.Errorf("at most 512 chords are read")
	}
	return out, nil
}
