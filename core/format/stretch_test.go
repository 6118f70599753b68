package format

import (
	"bytes"
	"errors"
	"math"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/audio"
)

func unwatched(float64) error { return nil }

// ramp is a sound whose samples show where they are.
func ramp(rate, channels, frames int) []byte {
	b := audio.New(rate, channels, frames)
	for c := range b.Channels {
		for i := range b.Channels[c] {
			b.Channels[c][i] = float32(i%20000)/20000 - float32(c)/8
		}
	}
	var buf bytes.Buffer
	if err := WriteWAV(&buf, b, WAV32F); err != nil {
		panic(err)
	}
	return buf.Bytes()
}

func TestAStretchIsThatPartOfTheWhole(t *testing.T) {
	if testing.Short() {
		t.Skip("decodes the same files many times")
	}
	files := map[string][]byte{"wav": ramp(8000, 2, 90_000)}
	for name, path := range map[string]string{"flac": "../../fixtures/gm/funk-102.flac", "mp3": "../../fixtures/set/full-house-124.mp3"} {
		data, err := os.ReadFile(path)
		require.NoError(t, err)
		files[name] = data
	}
	for name, data := range files {
		whole, err := Decode(data)
		require.NoError(t, err)
		survey, err := SurveyFile(data, unwatched)
		require.NoError(t, err)
		assert.InDelta(t, whole.Seconds(), survey.Seconds, 1e-9, name)
		assert.Equal(t, len(whole.Channels), survey.Channels)
		assert.Equal(t, whole.Rate, survey.Rate)
		assert.Len(t, survey.Peaks, int(math.Ceil(whole.Seconds()/survey.Every)), name)
		var peak float32
		for _, p := range survey.Peaks {
			peak = max(peak, p)
		}
		assert.InDelta(t, whole.Peak(), peak, 1e-6, name)
		for _, span := range [][2]float64{{0, 0.5}, {1.2345, 2.5}, {2, 999}, {whole.Seconds() - 0.01, whole.Seconds()}} {
			part, err := DecodeStretch(data, span[0], span[1], unwatched)
			require.NoError(t, err)
			want := whole.Slice(int(span[0]*float64(whole.Rate)), int(span[1]*float64(whole.Rate)))
			require.True(t, slices.EqualFunc(want.Channels, part.Channels, slices.Equal), "%s %v", name, span)
		}
	}
}

func TestAnyStretch(t *testing.T) {
	data := ramp(8000, 2, 20_000)
	whole, err := Decode(data)
	require.NoError(t, err)
	rapid.Check(t, func(r *rapid.T) {
		from := rapid.Float64Range(0, 3).Draw(r, "from")
		to := from + rapid.Float64Range(0.001, 3).Draw(r, "length")
		part, err := DecodeStretch(data, from, to, unwatched)
		if int(from*8000) >= whole.Frames() || int(from*8000) == int(to*8000) {
			require.Error(r, err)
			return
		}
		require.NoError(r, err)
		want := whole.Slice(int(from*8000), int(to*8000))
		require.True(r, slices.EqualFunc(want.Channels, part.Channels, slices.Equal))
	})
}

func TestStretchesThatAreNone(t *testing.T) {
	data := ramp(8000, 1, 8000)
	for name, span := range map[string][2]float64{"beyond": {5, 6}, "backwards": {0.5, 0.2}, "empty": {0.5, 0.5}, "no number": {math.NaN(), 1}, "before": {-1, 1}} {
		_, err := DecodeStretch(data, span[0], span[1], unwatched)
		var e *Error
		require.ErrorAs(t, err, &e, name)
	}
	_, err := DecodeStretch(data, 5, 6, unwatched)
	assert.ErrorContains(t, err, "1.0 seconds long")
	stop := errors.New("stop")
	_, err = SurveyFile(data, func(float64) error { return stop })
	assert.ErrorIs(t, err, stop)
	_, err = SurveyFile([]byte("nonsense"), unwatched)
	assert.Error(t, err)
}

// Memory follows the stretch: an hour of stereo is looked through, and a part
// of it read, though it is too long to be read whole.
func TestALongFileIsReadInPart(t *testing.T) {
	if testing.Short() {
		t.Skip("writes a large file")
	}
	const rate, seconds = 8000, 4300
	data := ramp(rate, 2, rate*seconds)
	_, err := Decode(data)
	var e *Error
	require.ErrorAs(t, err, &e)
	assert.Equal(t, CodeTooLong, e.Code)
	s, err := SurveyFile(data, unwatched)
	require.NoError(t, err)
	assert.InDelta(t, seconds, s.Seconds, 1e-9)
	assert.InDelta(t, MaxSamples/2/48000, s.Length(), 1, "as long as it may be once it is at 48 kHz")
	assert.InDelta(t, MaxSamples/48000, (&Survey{Rate: 8000, Channels: 1}).Length(), 1)
	assert.InDelta(t, MaxSamples/2/96000, (&Survey{Rate: 96000, Channels: 2}).Length(), 1)
	b, err := DecodeStretch(data, 4000, 4002, unwatched)
	require.NoError(t, err)
	assert.Equal(t, 2*rate, b.Frames())
	assert.InDelta(t, float64(4000*rate%20000)/20000, float64(b.Channels[0][0]), 1e-6)
}

func TestTheFullestStretch(t *testing.T) {
	s := &Survey{Every: 0.5, Peaks: []float32{0, 0, 0.1, 0.9, 1, 0.8, 0.1, 0, 0, 0}}
	assert.Equal(t, 1.5, s.Fullest(1.5))
	assert.Equal(t, 0.0, s.Fullest(99))
	assert.Equal(t, 0.0, (&Survey{Every: 0.5}).Fullest(1))
}

// A file that breaks off is surveyed as far as it is whole, and all of that can
// be read; what is not even a second long is refused.
func TestWhatIsLeftOfABrokenFile(t *testing.T) {
	flac, err := os.ReadFile("../../fixtures/gm/funk-102.flac")
	require.NoError(t, err)
	whole, err := Decode(flac)
	require.NoError(t, err)
	var wav bytes.Buffer
	require.NoError(t, WriteWAV(&wav, whole, WAV16))
	for name, data := range map[string][]byte{
		"flac": flac[:len(flac)/2],
		"wav":  wav.Bytes()[:wav.Len()/2],
		"mp3":  slices.Concat(house(t)[:80_000], make([]byte, 3000), house(t)[90_000:]),
	} {
		_, err := Decode(data)
		var broken *Error
		require.ErrorAs(t, err, &broken, name)
		require.True(t, broken.Partial(), name)
		s, err := SurveyFile(data, unwatched)
		require.NoError(t, err, name)
		assert.Equal(t, broken.Message, s.Damage, name)
		require.Greater(t, s.Seconds, 3.0, name)
		b, err := DecodeStretch(data, 0, s.Seconds, unwatched)
		require.NoError(t, err, name)
		assert.InDelta(t, s.Seconds, b.Seconds(), 0.001, name)
	}
	_, err = SurveyFile(flac[:12_000], unwatched)
	assert.ErrorContains(t, err, "cut short")
	s, err := SurveyFile(flac, unwatched)
	require.NoError(t, err)
	assert.Empty(t, s.Damage)
}
