package project

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jubrak/core/music"
)

// A name without an octave is the nearest note of that name.
func TestTunedToANameAlone(t *testing.T) {
	d := apply(t, New("x"), SetNote{Voice: "kick", Note: "A1"})
	for note, want := range map[string]float64{"B": 35, "G": 31, "F#": 30, "E": 28, "C": 36} {
		assert.InDelta(t, want, music.NoteOf(apply(t, d, SetNote{Voice: "kick", Note: note}).Kit.Voice("kick").RootHz()), 1e-6, note)
	}
	_, _, err := d.Apply(Edits{SetNote{Voice: "kick", Note: "H"}}, nil)
	assert.Error(t, err)
}
