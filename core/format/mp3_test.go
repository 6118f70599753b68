package format

import (
	"bytes"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"

	"github.com/hajimehoshi/go-mp3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// inOrder is all frames of an MP3 as the library gives them from first to last.
func inOrder(t *testing.T, data []byte) (left []float32) {
	d, err := mp3.NewDecoder(bytes.NewBuffer(data))
	require.NoError(t, err)
	raw, err := io.ReadAll(d)
	require.NoError(t, err)
	for i := 0; i+3 < len(raw); i += 4 {
		left = append(left, float32(int16(uint16(raw[i])|uint16(raw[i+1])<<8))/(1<<15))
	}
	return left
}

// piecewise is the same in pieces of a length.
func piecewise(t *testing.T, data []byte, length int64) (left []float32) {
	f := &mp3File{data: data}
	require.NoError(t, f.open())
	for at := int64(0); at < f.frames; {
		for _, p := range f.decode(at, length) {
			require.NoError(t, p.err)
			left = append(left, p.sound[0]...)
			if at += int64(len(p.sound[0])); p.last {
				return left
			}
		}
	}
	return left
}

// Pieces put together are what decoding in order gives, sample by sample, also
// where a frame draws on those far before it and where the file is cut off.
func TestPiecesOfAnMP3(t *testing.T) {
	data, err := os.ReadFile("../../fixtures/set/full-house-124.mp3")
	require.NoError(t, err)
	files := map[string][]byte{"as it is": data, "cut off": data[:len(data)*2/3-100]}
	if os.Getenv("JUBRAK_PEERS") != "" {
		for name, flags := range map[string]string{"thin": "-b 32 -m m", "half rate": "-b 16 -m m --resample 22.05", "variable": "-V 7"} {
			out := filepath.Join(t.TempDir(), "a.mp3")
			wav := filepath.Join(t.TempDir(), "a.wav")
			require.NoError(t, exec.Command("sox", "../../fixtures/gm/funk-102.flac", wav).Run())
			require.NoError(t, exec.Command("sh", "-c", fmt.Sprintf("lame --quiet %s %s %s", flags, wav, out)).Run())
			files[name], err = os.ReadFile(out)
			require.NoError(t, err)
		}
	}
	for name, data := range files {
		want := inOrder(t, data)
		require.Greater(t, len(want), 3*44100, name)
		lastFrame := int64(len(want)) // a piece of its own for what is cut off
		for _, length := range []int64{1 << 40, 50_001, lastFrame} {
			assert.True(t, slices.Equal(want, piecewise(t, data, length)), "%s in pieces of %d", name, length)
		}
	}
}

// What lies before a stretch is passed over, not decoded: damage there is not
// met.
func TestAStretchOfAnMP3IsReachedAtOnce(t *testing.T) {
	data, err := os.ReadFile("../../fixtures/set/full-house-124.mp3")
	require.NoError(t, err)
	untold := bytes.ReplaceAll(bytes.ReplaceAll(data, []byte("Info"), []byte("none")), []byte("Xing"), []byte("none"))
	long := bytes.Repeat(untold, 6) // with a length told, only that would be kept
	whole, err := Decode(long)
	require.NoError(t, err)
	require.Greater(t, whole.Seconds(), 50.0)
	calls := 0
	part, err := DecodeStretch(long, 45, 47, func(float64) error { calls++; return nil })
	require.NoError(t, err)
	assert.True(t, slices.EqualFunc(whole.Slice(45*whole.Rate, 47*whole.Rate).Channels, part.Channels, slices.Equal))
	assert.LessOrEqual(t, calls, 1, "of pieces of 20 s only the third is decoded")
}

// A file that says how long its sound is holds no more, whatever follows.
func TestAStretchBeyondTheLengthThatIsTold(t *testing.T) {
	data, err := os.ReadFile("../../fixtures/set/full-house-124.mp3")
	require.NoError(t, err)
	whole, err := Decode(data)
	require.NoError(t, err)
	_, err = DecodeStretch(bytes.Repeat(data, 6), 45, 47, unwatched)
	require.ErrorContains(t, err, fmt.Sprintf("which is %.1f seconds long", whole.Seconds()))
}

// Derivation: at the seventh second stand frames of Layer II (ISO/IEC 11172-3),
// which the library does not read.
func TestADamagedMP3SaysHowFarItCouldBeRead(t *testing.T) {
	data, err := os.ReadFile("../../fixtures/set/full-house-124.mp3")
	require.NoError(t, err)
	whole, err := Decode(data)
	require.NoError(t, err)
	broken := bytes.Clone(data)
	copy(broken[int(7/whole.Seconds()*float64(len(data))):], bytes.Repeat([]byte{0xff, 0xfd, 0x90, 0x04}, 500))
	_, err = Decode(broken)
	require.ErrorContains(t, err, "damaged after")
	var at float64
	_, scanned := fmt.Sscanf(err.Error(), "The MP3 file is damaged after %f seconds.", &at)
	require.NoError(t, scanned)
	assert.InDelta(t, 7, at, 0.3)
	early, err := DecodeStretch(broken, 1, 3, unwatched)
	require.NoError(t, err)
	assert.True(t, slices.EqualFunc(whole.Slice(whole.Rate, 3*whole.Rate).Channels, early.Channels, slices.Equal), "what lies before can be used")
}

func TestAnMP3CanBeStopped(t *testing.T) {
	data, err := os.ReadFile("../../fixtures/set/full-house-124.mp3")
	require.NoError(t, err)
	stop := fail(CodeUnusable, "enough")
	_, err = DecodeWatched(data, func(float64) error { return stop })
	assert.Equal(t, stop, err)
}
