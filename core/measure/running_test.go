package measure

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
)

// What comes block by block is as loud as it is in one piece.
func TestRunningLoudnessIsThatOfTheWhole(t *testing.T) {
	b := audio.New(48000, 2, 9*48000)
	for i := range b.Channels[0] {
		at := float64(i) / 48000
		x := float32(0.3 * math.Sin(2*math.Pi*997*at) * math.Exp(-math.Mod(at, 0.7)*4))
		b.Channels[0][i], b.Channels[1][i] = x, x/2
	}
	want, ok := Integrated(b)
	require.True(t, ok)
	r := NewRunning(48000)
	_, ok = r.Integrated()
	assert.False(t, ok)
	for at := 0; at < b.Frames(); at += 333 {
		n := min(333, b.Frames()-at)
		l, rr := make([]float64, n), make([]float64, n)
		for i := range n {
			l[i], rr[i] = float64(b.Channels[0][at+i]), float64(b.Channels[1][at+i])
		}
		r.Add(l, rr)
	}
	got, ok := r.Integrated()
	require.True(t, ok)
	assert.InDelta(t, want, got, 0.05)
}
