// Package music holds the exact quantities of written music: notes, meters,
// ticks and tempo maps. It knows nothing of sound or of screens.
package music

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Hz returns the frequency in Hz of MIDI note n in equal temperament with
// A4 = note 69 = 440 Hz (ISO 16). Fractions of a note are cents / 100.
func Hz(n float64) float64 { return 440 * math.Exp2((n-69)/12) }

// NoteOf is the inverse of Hz: the fractional MIDI note of a frequency in Hz.
// It returns NaN for a frequency that is not positive.
func NoteOf(hz float64) float64 {
	if hz <= 0 {
		return math.NaN()
	}
	return 69 + 12*math.Log2(hz/440)
}

var noteNames = [12]string{"C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B"}

// NoteName names the nearest MIDI note, with C4 = MIDI 60, and says how far
// above it (positive) or below it the given fractional note lies, in cents.
func NoteName(n float64) (name string, cents float64) {
	near := math.Round(n)
	pitch := ((int(near) % 12) + 12) % 12
	octave := int(math.Floor(near/12)) - 1
	return noteNames[pitch] + strconv.Itoa(octave), (n - near) * 100
}

// ParsePitch reads a note name as ParseNote does, perhaps with cents after it, as in
// "G1 +12" or "F#1 -3 ct", and returns the fractional MIDI note. Cents are at most
// 100 either way.
func ParsePitch(s string) (float64, error) {
	text := strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(strings.ReplaceAll(s, "−", "-")), "ct"))
	name, cents := text, 0.0
	if i := strings.LastIndexAny(text, "+- "); i > 0 {
		// An octave may be negative: "C-1" has no cents.
		if c, err := strconv.ParseFloat(strings.ReplaceAll(text[i:], " ", ""), 64); err == nil {
			if _, err := ParseNote(text[:i]); err == nil {
				name, cents = text[:i], c
			}
		}
	}
	n, err := ParseNote(name)
	if err == nil && !(math.Abs(cents) <= 100) {
		err = fmt.Errorf("a note takes at most 100 cents either way, not %g", cents)
	}
	return float64(n) + cents/100, err
}

// ParseNote reads a note name such as "F1", "F#1", "F♯1" or "Gb1" into its
// MIDI number, C4 = 60. The result must lie in 0..127.
func ParseNote(s string) (int, error) {
	text := strings.TrimSpace(s)
	if text == "" {
		return 0, fmt.Errorf("no note given; write a name such as F1")
	}
	base, ok := map[byte]int{'C': 0, 'D': 2, 'E': 4, 'F': 5, 'G': 7, 'A': 9, 'B': 11}[strings.ToUpper(text[:1])[0]]
	if !ok {
		return 0, fmt.Errorf("%q is not a note; write a name such as F1 or F#1", s)
	}
	rest := text[1:]
	for {
		switch {
		case strings.HasPrefix(rest, "#"):
			base, rest = base+1, rest[1:]
			continue
		case strings.HasPrefix(rest, "♯"):
			base, rest = base+1, strings.TrimPrefix(rest, "♯")
			continue
		case strings.HasPrefix(rest, "b"):
			base, rest = base-1, rest[1:]
			continue
		case strings.HasPrefix(rest, "♭"):
			base, rest = base-1, strings.TrimPrefix(rest, "♭")
			continue
		}
		break
	}
	octave, err := strconv.Atoi(rest)
	if err != nil {
		return 0, fmt.Errorf("%q has no octave; write a name such as F1", s)
	}
	n := base + 12*(octave+1)
	if n < 0 || n > 127 {
		return 0, fmt.Errorf("%q is outside the range of MIDI notes", s)
	}
	return n, nil
}

// NoteText is a fractional MIDI note as ParsePitch reads it, to a tenth of a cent: "A1" or
// "A1 +12.5".
func NoteText(n float64) string {
	name, cents := NoteName(n)
	if cents = math.Round(cents*10) / 10; cents == 0 {
		return name
	}
	return fmt.Sprintf("%s %+g", name, cents)
}
