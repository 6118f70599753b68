package format

import (
	"bytes"
	"encoding/binary"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/internal/peer"
)

func funk(t *testing.T) []byte { return fixture(t, "gm/funk-102.flac") }

// Peer: sox encodes, and decodes to raw samples; all of them are alike, at every
// depth and for one to six channels.
func TestFLACAgainstAnotherDecoder(t *testing.T) {
	dir := t.TempDir()
	for name, effects := range map[string][]string{
		"16 bit": {"-b", "16"},
		"8 bit":  {"-b", "8"},
		"24 bit": {"-b", "24", "-r", "96000"},
		"mono":   {"-b", "16", "-c", "1"},
		"six":    {"-b", "16", "-c", "6"},
		"packed": {"-b", "16", "-C", "8"},
	} {
		path, raw := filepath.Join(dir, name+".flac"), filepath.Join(dir, name+".raw")
		peer.Run(t, "sox", append(append([]string{"../../fixtures/gm/funk-102.flac"}, effects...), path, "trim", "0", "3.1")...)
		peer.Run(t, "sox", path, "-b", "32", "-e", "signed-integer", "-L", raw)
		want, err := os.ReadFile(raw)
		require.NoError(t, err)
		got := read(t, path)
		require.Equal(t, len(want)/4, got.Frames()*len(got.Channels), name)
		for i := range got.Frames() * len(got.Channels) {
			v := float64(int32(binary.LittleEndian.Uint32(want[4*i:]))) / (1 << 31)
			require.InDelta(t, v, got.Channels[i%len(got.Channels)][i/len(got.Channels)], 1.0/(1<<24), "%s, sample %d", name, i)
		}
	}
}

// Derivation: a stretch is that part of the whole, to the sample, wherever in
// a block it begins.
func TestAStretchOfAFLAC(t *testing.T) {
	data := funk(t)
	whole, err := Decode(data)
	require.NoError(t, err)
	rapid.Check(t, func(r *rapid.T) {
		from := rapid.IntRange(0, whole.Frames()-2).Draw(r, "from")
		to := rapid.IntRange(from+1, whole.Frames()).Draw(r, "to")
		k := &keeper{from: (float64(from) + 0.5) / float64(whole.Rate), to: (float64(to) + 0.5) / float64(whole.Rate)}
		if err := readFLAC(data, k, unwatched); err != errEnough {
			require.NoError(r, err)
		}
		for c := range whole.Channels {
			require.Equal(r, whole.Channels[c][from:to], k.b.Channels[c])
		}
	})
}

// Derivation: what is cut off or damaged is reported, and what lies before it is as
// it was.
func TestABrokenFLAC(t *testing.T) {
	path := filepath.Join(t.TempDir(), "short.flac")
	peer.Run(t, "sox", "../../fixtures/gm/funk-102.flac", path, "trim", "0", "4")
	data, err := os.ReadFile(path)
	require.NoError(t, err)
	whole, err := Decode(data)
	require.NoError(t, err)
	first := 4 // byte of the first frame, behind what the file returns of itself
	for last := false; !last; first += 4 + int(binary.BigEndian.Uint32(data[first:])&0xffffff) {
		last = data[first]&0x80 != 0
	}
	var broken *Error
	_, err = Decode(data[:len(data)/2])
	require.ErrorAs(t, err, &broken)
	assert.Equal(t, CodeTruncated, broken.Code)
	rapid.Check(t, func(r *rapid.T) {
		bad := bytes.Clone(data)
		at := rapid.IntRange(first, len(bad)-1).Draw(r, "at")
		for i := at; i < min(at+rapid.IntRange(1, 40).Draw(r, "bytes"), len(bad)); i++ {
			bad[i] ^= byte(rapid.IntRange(1, 255).Draw(r, "flip"))
		}
		k := &keeper{size: len(bad)}
		err := readFLAC(bad, k, unwatched)
		require.ErrorAs(r, err, &broken)
		require.Less(r, k.b.Frames(), whole.Frames())
		for c := range k.b.Channels {
			require.Equal(r, whole.Channels[c][:k.b.Frames()], k.b.Channels[c])
		}
	})
	// A stretch that cannot be searched for is reached from the beginning, or
	// it is said why not.
	bad := bytes.Clone(data)
	for i := len(bad) * 6 / 10; i < len(bad)*7/10; i++ {
		bad[i] = 0x55
	}
	b, err := DecodeStretch(bad, 1, 2, unwatched)
	require.NoError(t, err)
	assert.Equal(t, whole.Channels[0][whole.Rate:2*whole.Rate], b.Channels[0])
}

func TestAFLACCanBeStopped(t *testing.T) {
	stop := fail(CodeUnusable, "enough")
	_, err := DecodeWatched(funk(t), func(float64) error { return stop })
	assert.Equal(t, stop, err)
}
