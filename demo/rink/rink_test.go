package rink

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/format"
	"jubrak/core/sound"
)

// The committed recordings are what the generator makes.
func TestRecordingsAreCurrent(t *testing.T) {
	for i := range Takes {
		data, err := os.ReadFile(Takes[i].Name + ".flac")
		require.NoError(t, err)
		got, err := format.Decode(data)
		require.NoError(t, err)
		want := Takes[i].Record()
		require.Equal(t, want.Frames(), got.Frames())
		for k := range want.Channels[0] {
			require.InDelta(t, want.Channels[0][k], got.Channels[0][k], 1.0/(1<<15), "%s, frame %d: run go run ./demo/rink/gen", Takes[i].Name, k)
		}
	}
}

func TestTheDrummerPlaysAsWritten(t *testing.T) {
	warm := Takes[0]
	var first, last, n float64
	for _, s := range warm.Strokes() {
		assert.True(t, s.Velocity >= 1 && s.Velocity <= 127)
		if s.Family == sound.Kick {
			bar := (s.Time - Lead) / (240 / warm.BPM)
			switch frac := bar - float64(int(bar)); {
			case int(bar)%4 == 0 && frac < 0.01:
				first += s.Time - Lead - float64(int(bar))*240/warm.BPM
				n++
			case int(bar)%4 == 3 && frac < 0.01:
				last += s.Time - Lead - float64(int(bar))*240/warm.BPM
			}
		}
	}
	assert.InDelta(t, 14, (first-last)/n*1000, 5, "the kick drifts from 14 ms to none")
}
