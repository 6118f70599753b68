package music

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Published: ISO 16 (A4 = 440 Hz) and equal temperament.
func TestHzOfNotes(t *testing.T) {
	for note, hz := range map[float64]float64{69: 440, 26: 36.708, 29: 43.654, 31: 48.999, 38: 73.416, 28: 41.203} {
		assert.InDelta(t, hz, Hz(note), 0.001, "note %g", note)
	}
}

func TestNoteNames(t *testing.T) {
	for name, n := range map[string]int{"C4": 60, "A4": 69, "F1": 29, "G1": 31, "F#1": 30, "F♯1": 30, "Gb1": 30, "D2": 38, "C-1": 0, "G9": 127, "b0": 23} {
		got, err := ParseNote(name)
		require.NoError(t, err, name)
		assert.Equal(t, n, got, name)
	}
	for _, bad := range []string{"", "H1", "F", "F1x", "C99", "♯1"} {
		_, err := ParseNote(bad)
		assert.Error(t, err, bad)
	}
	name, cents := NoteName(30.98)
	assert.Equal(t, "G1", name)
	assert.InDelta(t, -2, cents, 1e-9)
}

func TestNoteNameInvertsParse(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(0, 127).Draw(t, "note")
		name, cents := NoteName(float64(n))
		back, err := ParseNote(name)
		require.NoError(t, err)
		assert.Equal(t, n, back)
		assert.Zero(t, cents)
	})
}

// Derivation: 126 BPM, a quarter is 60000/126 ms; a sixteenth triplet at 120
// is a sixth of 500 ms.
func TestLengths(t *testing.T) {
	assert.InDelta(t, 0.47619, Steady(126).Seconds(PPQ), 1e-5)
	assert.InDelta(t, 0.083333, Steady(120).Seconds(PPQ/6), 1e-6)
	for _, n := range []int{2, 3, 4, 6, 8, 12, 16, 24, 32} {
		assert.Zero(t, PPQ%n, "PPQ divides by %d", n)
	}
}

func TestRefusals(t *testing.T) {
	assert.Error(t, TempoMap{}.Validate())
	assert.Error(t, TempoMap{{Tick: 5, BPM: 120}}.Validate())
	assert.Error(t, Meter{Beats: 4, Unit: 3}.Validate())
	assert.NoError(t, Meter{Beats: 7, Unit: 8}.Validate())
	assert.Equal(t, 3360, Meter{Beats: 7, Unit: 8}.BarTicks())
}

func TestPitchesWithCents(t *testing.T) {
	for text, want := range map[string]float64{"G1": 31, "G1 +12": 31.12, "g1+12": 31.12, "F#1 -3 ct": 29.97, "Gb1 −3 ct": 29.97, "C-1": 0, "C-1 +50": 0.5, "A4 0 ct": 69} {
		n, err := ParsePitch(text)
		require.NoError(t, err, text)
		assert.InDelta(t, want, n, 1e-9, text)
	}
	for _, text := range []string{"", "12", "G1 +120", "G +12", "G1 twelve"} {
		_, err := ParsePitch(text)
		assert.Error(t, err, text)
	}
}

func TestScales(t *testing.T) {
	fm, err := ParseKey("F minor")
	require.NoError(t, err)
	for _, n := range []int{41, 43, 44, 46, 48, 49, 51, 53} { // F G A♭ B♭ C D♭ E♭ F
		assert.True(t, fm.Has(n), n)
	}
	for _, n := range []int{42, 45, 47, 50, 52} {
		assert.False(t, fm.Has(n), n)
	}
	assert.Equal(t, 43, fm.Transpose(41, 1))
	assert.Equal(t, 53, fm.Transpose(41, 7))
	assert.Equal(t, 39, fm.Transpose(41, -1), "E flat below")
	assert.Equal(t, 29, fm.Transpose(41, -7))
	assert.Equal(t, 44, fm.Transpose(42, 1), "what lies outside keeps its distance")
	for _, text := range []string{"Gm", "C♯ dorian", "Eb", "B major", "A pentatonic"} {
		_, err := ParseKey(text)
		assert.NoError(t, err, text)
	}
	for _, text := range []string{"", "H", "F mi nor", "12"} {
		_, err := ParseKey(text)
		assert.Error(t, err, text)
	}
}

func TestChords(t *testing.T) {
	c, err := ParseChords("| Fm | Db Ab | Eb . . C/E |", 4)
	require.NoError(t, err)
	assert.Equal(t, []Chord{{5, "Fm", 0, 4}, {1, "Db", 4, 2}, {8, "Ab", 6, 2}, {3, "Eb", 8, 3}, {4, "C/E", 11, 1}}, c)
	for _, text := range []string{"", "Fm | | Ab", ". Fm", "nothing"} {
		_, err := ParseChords(text, 4)
		assert.Error(t, err, text)
	}
}
