package measure

import (
	"bytes"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/audio"
	"jubrak/core/format"
	"jubrak/core/internal/peer"
)

func sine(rate, channels int, hz, dbfs, seconds float64) *audio.Buffer {
	b := audio.New(rate, channels, int(seconds*float64(rate)))
	for _, ch := range b.Channels {
		for i := range ch {
			ch[i] = float32(audio.Gain(dbfs) * math.Sin(2*math.Pi*hz*float64(i)/float64(rate)))
		}
	}
	return b
}

// Published: ITU-R BS.1770-4, annex 1, tables 1 and 2.
func TestKWeightingCoefficients(t *testing.T) {
	shelf, high := kWeight(48000)
	for i, want := range []float64{1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585} {
		assert.InDelta(t, want, []float64{shelf.B0, shelf.B1, shelf.B2, shelf.A1, shelf.A2}[i], 1e-9, "stage 1, %d", i)
	}
	for i, want := range []float64{1, -2, 1, -1.99004745483398, 0.99007225036621} {
		assert.InDelta(t, want, []float64{high.B0, high.B1, high.B2, high.A1, high.A2}[i], 1e-9, "stage 2, %d", i)
	}
}

// Published: EBU Tech 3341 (stereo 1 kHz sine at -23 dBFS reads -23.0 LUFS)
// and ITU-R BS.1770-4 (997 Hz at 0 dBFS in one channel reads -3.01).
// Derivation: the same filters, one sample after the other.
func TestPairOfKWeightsIsTwoFilters(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) []float32 {
			return rapid.SliceOfN(rapid.Float32Range(-1, 1), 40, 40).Draw(t, name)
		}
		left, right := draw("left"), draw("right")
		k := newKPair(44100)
		var l, r float64
		for _, part := range [][2]int{{0, 17}, {17, 40}} {
			a, b := k.energies(left[part[0]:part[1]], right[part[0]:part[1]])
			l, r = l+a, r+b
		}
		for _, c := range []struct {
			x    []float32
			said float64
		}{{left, l}, {right, r}} {
			shelf, high := kWeight(44100)
			var sum float64
			for _, v := range c.x {
				y := high.Next(shelf.Next(float64(v)))
				sum += y * y
			}
			assert.InDelta(t, sum, c.said, 1e-9*(1+sum))
		}
	})
}

func TestIntegratedLoudness(t *testing.T) {
	for _, rate := range []int{44100, 48000, 96000} {
		v, ok := Integrated(sine(rate, 2, 1000, -23, 5))
		require.True(t, ok)
		assert.InDelta(t, -23, v, 0.1, "%d Hz", rate)
		v, _ = Integrated(sine(rate, 1, 997, 0, 5))
		assert.InDelta(t, -3.01, v, 0.05, "%d Hz", rate)
	}
	// EBU Tech 3341 case 3: -36, -23, -36 dBFS: the gate leaves the middle.
	b := sine(48000, 2, 1000, -36, 10)
	middle := sine(48000, 2, 1000, -23, 60)
	for c := range b.Channels {
		quiet := append([]float32(nil), b.Channels[c]...)
		b.Channels[c] = append(append(b.Channels[c], middle.Channels[c]...), quiet...)
	}
	v, _ := Integrated(b)
	assert.InDelta(t, -23, v, 0.1)
	_, ok := Integrated(sine(48000, 2, 1000, -23, 0.3))
	assert.False(t, ok, "shorter than a block")
	_, ok = Integrated(audio.New(48000, 2, 96000))
	assert.False(t, ok, "silence")
}

func noiseBursts() *audio.Buffer {
	r := rand.New(rand.NewPCG(1, 2))
	b := audio.New(48000, 2, 48000*8)
	for i := range b.Channels[0] {
		level := 0.5 * math.Exp(-float64(i%24000)/4000)
		b.Channels[0][i] = float32(level * r.NormFloat64() * 0.4)
		b.Channels[1][i] = float32(level * math.Sin(float64(i)*0.3))
	}
	return b
}

// Library: ffmpeg -af ebur128=peak=true, within 0.1 LU and 0.3 dB.
func TestLoudnessAgainstPeer(t *testing.T) {
	b := noiseBursts()
	var buf bytes.Buffer
	require.NoError(t, format.WriteWAV(&buf, b, format.WAV32F))
	path := filepath.Join(t.TempDir(), "x.wav")
	require.NoError(t, os.WriteFile(path, buf.Bytes(), 0o644))
	out := peer.Run(t, "ffmpeg", "-hide_banner", "-i", path, "-af", "ebur128=peak=true", "-f", "null", "-")
	summary := out[bytes.LastIndex([]byte(out), []byte("Summary:")):]
	read := func(name string) float64 {
		m := regexp.MustCompile(name + `:\s+(-?[\d.]+) (LUFS|dBFS)`).FindStringSubmatch(summary)
		require.NotNil(t, m, summary)
		v, err := strconv.ParseFloat(m[1], 64)
		require.NoError(t, err)
		return v
	}
	v, ok := Integrated(b)
	require.True(t, ok)
	assert.InDelta(t, read("I"), v, 0.1)
	assert.InDelta(t, read("Peak"), TruePeak(b), 0.3)
}

// Published: ITU-R BS.1770-4 annex 2; EBU Tech 3341 cases 15-19 ask for
// +0.2/-0.4 dB: a sine at a quarter of the rate, 45 degrees off its peaks.
func TestTruePeak(t *testing.T) {
	b := audio.New(48000, 1, 48000)
	for i := range b.Channels[0] {
		fade := math.Min(1, math.Min(float64(i), float64(48000-i))/4800)
		b.Channels[0][i] = float32(fade * 0.5 * math.Sin(2*math.Pi*float64(i)/4+math.Pi/4))
	}
	assert.InDelta(t, -9.03, audio.DB(b.Peak()), 0.02)
	v := TruePeak(b)
	assert.Less(t, v, -6.02+0.2)
	assert.Greater(t, v, -6.02-0.4)
	assert.True(t, math.IsInf(TruePeak(audio.New(48000, 1, 10)), -1))
}

func TestMeterFollows(t *testing.T) {
	m := NewMeter(48000)
	b := sine(48000, 2, 1000, -23, 1)
	for i := range b.Channels[0] {
		m.Add([]float64{float64(b.Channels[0][i])}, []float64{float64(b.Channels[1][i])})
	}
	assert.InDelta(t, -23, m.Momentary(), 0.1)
	l, r := m.TakePeak()
	assert.InDelta(t, audio.Gain(-23), l, 1e-4)
	assert.Equal(t, l, r)
	l, _ = m.TakePeak()
	assert.Zero(t, l)
}

// Published: ISO 3382-1: decaying noise of known T60, within 2 %... of the
// mean over several noises, since each is random itself.
func TestDecayOfKnownNoise(t *testing.T) {
	for _, want := range []float64{120, 300, 900} {
		var sum float64
		const runs = 12
		for run := range runs {
			r := rand.New(rand.NewPCG(uint64(run), 3))
			b := audio.New(48000, 1, int(want/1000*48000*1.6))
			for i := range b.Channels[0] {
				b.Channels[0][i] = float32(0.3 * r.NormFloat64() * math.Pow(10, -3*float64(i)/(want/1000*48000)))
			}
			m := Measure(b)
			require.NotNil(t, m.Decay)
			sum += *m.Decay / runs
		}
		assert.InEpsilon(t, want, sum, 0.02)
	}
}

func TestFundamental(t *testing.T) {
	for _, rate := range []int{44100, 48000} {
		for _, hz := range []float64{36.708, 43.654, 55, 196, 440} {
			x := make([]float64, rate)
			for i := range x {
				s := float64(i) / float64(rate)
				x[i] = (math.Sin(2*math.Pi*hz*s) + 0.3*math.Sin(2*math.Pi*2.7*hz*s)*math.Exp(-s/0.05)) * math.Exp(-s/0.15)
			}
			got, ok := Fundamental(x, rate, 25, 1200)
			require.True(t, ok, hz)
			assert.InDelta(t, 0, 1200*math.Log2(got/hz), 3, "cents from %g Hz at %d", hz, rate)
		}
	}
	r := rand.New(rand.NewPCG(1, 1))
	noise := make([]float64, 48000)
	for i := range noise {
		noise[i] = r.NormFloat64()
	}
	_, ok := Fundamental(noise, 48000, 25, 1200)
	assert.False(t, ok, "noise has no pitch")
	_, ok = Fundamental(noise[:100], 48000, 25, 1200)
	assert.False(t, ok)
}

// Published: IEC 61260-1: exact centres 1000·10^(n/10).
func TestThirdOctavesAndBalance(t *testing.T) {
	m := Measure(sine(48000, 1, 50.12, -6, 1))
	assert.InDelta(t, 0, m.ThirdOctave["50"], 0.1)
	assert.Less(t, m.ThirdOctave["63"], -20.0)
	assert.InDelta(t, 0, m.Balance["sub"], 0.1)
	high := Measure(sine(48000, 1, 8000, -6, 1))
	assert.InDelta(t, 0, high.Balance["air"], 0.1)
	assert.InDelta(t, 8000, *high.Centroid, 60)
	assert.Len(t, high.ThirdOctave, 30)
	b := Balance(sine(48000, 1, 100, -6, 2).Mono(), 48000)
	assert.InDelta(t, 0, b["low"], 0.1)
	assert.Empty(t, Balance(make([]float64, 48000), 48000))
}

func TestOnset(t *testing.T) {
	x := make([]float64, 48000)
	for i := 4800; i < len(x); i++ {
		x[i] = math.Sin(2*math.Pi*200*float64(i-4800)/48000) * math.Exp(-float64(i-4800)/5000)
	}
	assert.InDelta(t, 4800, Onset(x, 48000), 48)
	m := Measure(&audio.Buffer{Rate: 48000, Channels: [][]float32{float32s(x)}})
	assert.InDelta(t, 100, m.LeadingSilence, 1)
}

func float32s(x []float64) []float32 {
	out := make([]float32, len(x))
	for i, v := range x {
		out[i] = float32(v)
	}
	return out
}

func TestSilenceAndStubs(t *testing.T) {
	m := Measure(audio.New(48000, 2, 4800))
	assert.Nil(t, m.Peak)
	assert.Nil(t, m.Fundamental)
	assert.Nil(t, m.FamilyGuess)
	for _, n := range []int{1, 2, 10, 500} {
		b := audio.New(48000, 1, n)
		b.Channels[0][0] = 1
		assert.NotPanics(t, func() { Measure(b) }, fmt.Sprint(n))
	}
}

func TestCorrelation(t *testing.T) {
	b := sine(48000, 2, 100, -6, 0.2)
	assert.InDelta(t, 1, *Measure(b).Correlation, 1e-6)
	for i := range b.Channels[1] {
		b.Channels[1][i] *= -1
	}
	m := Measure(b)
	assert.InDelta(t, -1, *m.Correlation, 1e-6)
}
