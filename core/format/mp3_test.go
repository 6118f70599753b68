package format

import (
	"bytes"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/internal/peer"
)

func house(t *testing.T) []byte { return fixture(t, "set/full-house-124.mp3") }

// fixture is the content of a file of the fixtures.
func fixture(t *testing.T, name string) []byte {
	data, err := os.ReadFile(filepath.Join("../../fixtures", name))
	require.NoError(t, err)
	return data
}

// Peer: lame encodes and decodes; what it added before and after the sound is
// left out by both, at every rate, mono and stereo, and with a variable rate.
func TestMP3AgainstItsEncoder(t *testing.T) {
	dir := t.TempDir()
	wav := filepath.Join(dir, "a.wav")
	peer.Run(t, "sox", "../../fixtures/gm/funk-102.flac", wav)
	original := read(t, wav)
	for name, flags := range map[string][]string{
		"joint":     {"-b", "128"},
		"thin":      {"-b", "32", "-m", "m"},
		"half rate": {"-b", "16", "-m", "m", "--resample", "22.05"},
		"least":     {"-b", "8", "-m", "m", "--resample", "8"},
		"shortest":  {"-b", "8", "-m", "m", "--resample", "24"}, // frames of 24 bytes
		"variable":  {"-V", "7"},
	} {
		mp3, back := filepath.Join(dir, name+".mp3"), filepath.Join(dir, name+".wav")
		peer.Run(t, "lame", append(append([]string{"--quiet"}, flags...), wav, mp3)...)
		peer.Run(t, "lame", "--quiet", "--decode", mp3, back)
		got, want := read(t, mp3), read(t, back)
		require.Equal(t, want.Rate, got.Rate, name)
		require.Equal(t, want.Frames(), got.Frames(), name)
		unknown := 0.12 // at the lowest rates a frame has no room to say what was added
		if name == "joint" || name == "variable" {
			unknown = 0.0001
		}
		require.InDelta(t, original.Seconds(), got.Seconds(), unknown, name)
		require.Len(t, got.Channels, len(want.Channels), name)
		for c := range want.Channels {
			worst := 0.0
			for i, v := range want.Channels[c] {
				worst = math.Max(worst, math.Abs(float64(v-min(max(got.Channels[c][i], -1), 1))))
			}
			assert.Less(t, worst, 2.0/(1<<15), name)
		}
	}
}

func read(t *testing.T, path string) *audio.Buffer {
	data, err := os.ReadFile(path)
	require.NoError(t, err)
	b, err := Decode(data)
	require.NoError(t, err)
	return b
}

// A stretch is what decoding all gives there, sample by sample, although what
// lies before it is not decoded.
func TestAStretchOfAnMP3(t *testing.T) {
	long := bytes.Repeat(house(t), 6)
	whole, err := Decode(long)
	require.NoError(t, err)
	require.Greater(t, whole.Seconds(), 50.0)
	calls := 0
	part, err := DecodeStretch(long, 45, 47, func(float64) error { calls++; return nil })
	require.NoError(t, err)
	assert.LessOrEqual(t, calls, 1)
	for c, want := range whole.Slice(45*whole.Rate, 47*whole.Rate).Channels {
		require.Len(t, part.Channels[c], len(want))
		for i := range want {
			if math.Abs(float64(want[i]-part.Channels[c][i])) > 1e-6 {
				t.Fatalf("frame %d: %g, %g", i, want[i], part.Channels[c][i])
			}
		}
	}
	_, err = DecodeStretch(house(t), 45, 47, unwatched)
	require.ErrorContains(t, err, "seconds long")
}

// Derivation: at the seventh second stand bytes that are no frames of Layer
// III.
func TestADamagedMP3SaysHowFarItCouldBeRead(t *testing.T) {
	data := house(t)
	whole, err := Decode(data)
	require.NoError(t, err)
	at := int(7 / whole.Seconds() * float64(len(data)))
	for name, broken := range map[string][]byte{
		"other bytes": slices.Concat(data[:at], bytes.Repeat([]byte{0xff, 0xfd, 0x90, 0x04}, 500), data[at+2000:]),
		"zeros":       slices.Concat(data[:at], make([]byte, 2000), data[at+2000:]),
		"a gap":       slices.Concat(data[:at], data[at+100_000:]),
	} {
		_, err = Decode(broken)
		require.ErrorContains(t, err, "damaged after", name)
		var said float64
		_, scanned := fmt.Sscanf(err.Error(), "The MP3 file is damaged after %f seconds.", &said)
		require.NoError(t, scanned)
		assert.InDelta(t, 7, said, 0.3, name)
		early, err := DecodeStretch(broken, 1, 3, unwatched)
		require.NoError(t, err, name)
		assert.True(t, slices.EqualFunc(whole.Slice(whole.Rate, 3*whole.Rate).Channels, early.Channels, slices.Equal), "what lies before can be used")
	}
}

// What taggers write before and after the frames is not damage.
func TestAnMP3WithTags(t *testing.T) {
	data := house(t)
	whole, err := Decode(data)
	require.NoError(t, err)
	front := append([]byte("ID3\x04\x00\x00\x00\x00\x02\x00"), make([]byte, 256)...)
	short := append([]byte("TAG"), bytes.Repeat([]byte("rink "), 25)...)
	ape := append(append([]byte("APETAGEX"), make([]byte, 56)...), "Lantern Street"...)
	for name, tagged := range map[string][]byte{
		"ID3v2": slices.Concat(front, data),
		"ID3v1": slices.Concat(data, short),
		"APE":   slices.Concat(data, ape, short),
		"cut":   data[:len(data)-100], // within the last frame
	} {
		b, err := Decode(tagged)
		require.NoError(t, err, name)
		assert.InDelta(t, whole.Frames(), b.Frames(), 1200, name)
	}
}

func TestAnMP3CanBeStopped(t *testing.T) {
	stop := fail(CodeUnusable, "enough")
	_, err := DecodeWatched(house(t), func(float64) error { return stop })
	assert.Equal(t, stop, err)
}

// A free bit rate may be distinguished by frames of five bytes, two seconds of "sound"
// from a hundred: a small file would grow to hours.
func TestFramesTooShortForSound(t *testing.T) {
	for _, n := range []int{2, 20, 100_000} {
		tagged := append([]byte("ID3\x04\x00\x00\x00\x00\x00\x00"), bytes.Repeat([]byte{0xff, 0xe4, 0, 0, 0}, n)...)
		_, err := Decode(tagged)
		require.ErrorContains(t, err, "damaged after 0.0 seconds", n)
	}
}

func TestNoMP3AtAll(t *testing.T) {
	_, err := Decode(append([]byte("ID3\x04\x00\x00\x00\x00\x00\x00"), bytes.Repeat([]byte("rink"), 5000)...))
	require.ErrorContains(t, err, "no readable sound")
	_, err = Decode([]byte{0xff, 0xfb, 0x90, 0x64})
	require.ErrorContains(t, err, "no readable sound")
}
