package drumnet

import (
	"bytes"
	"compress/gzip"
	"context"
	"io"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
)

// bursts is decaying sines at the given times.
func bursts(seconds, hz, decay float64, times ...float64) []float32 {
	x := make([]float32, int(seconds*Rate))
	for _, at := range times {
		from := int(at * Rate)
		for i := from; i < len(x) && i < from+Rate/2; i++ {
			t := float64(i-from) / Rate
			x[i] += float32(0.5 * math.Sin(2*math.Pi*hz*t) * math.Exp(-t/decay))
		}
	}
	return x
}

func spectrumOf(t *testing.T, x []float32) *Spectrum {
	t.Helper()
	s, err := NewSpectrum(context.Background(), x, func(float64) {})
	require.NoError(t, err)
	return s
}

func TestSpectrumFilesFrequencies(t *testing.T) {
	for _, c := range []struct {
		hz   float64
		band int
	}{{43, 0}, {86, 1}, {258, 5}, {1000, 12}, {8000, 24}, {15000, 28}} {
		s := spectrumOf(t, bursts(1, c.hz, 10, 0))
		row := s.Power[len(s.Power)/2]
		best := 0
		for b := range row {
			if row[b] > row[best] {
				best = b
			}
		}
		assert.Equal(t, c.band, best, "%g Hz", c.hz)
	}
	assert.Less(t, edge(Bands), size/2+2, "the bands end below half the rate")
	for b := range Bands {
		assert.Greater(t, edge(b+1), edge(b), "band %d holds a bin", b)
	}
}

// A kick at 50 Hz and a bass note at 78 Hz share the coarse bands; the finer
// ones part them, at the power that the coarse ones show.
func TestFineBandsPartNeighbouringLows(t *testing.T) {
	for hz, band := range map[float64]int{43: 1, 54: 2, 78: 4, 172: 13, 237: 17} {
		s := spectrumOf(t, bursts(1, hz, 10, 0))
		n := len(s.Fine) / 4
		row := s.Fine[n]
		best := 0
		for b := range row {
			if row[b] > row[best] {
				best = b
			}
		}
		assert.Equal(t, band, best, "%g Hz", hz)
	}
	kick, bass := spectrumOf(t, bursts(1, 49, 10, 0)), spectrumOf(t, bursts(1, 81, 10, 0))
	n := len(kick.Fine) / 4
	for _, b := range []int{1, 2} {
		assert.Greater(t, 10*math.Log10(float64(kick.Fine[n][b]/bass.Fine[n][b])), 20.0, "band %d", b)
	}
	assert.InDelta(t, 0, 10*math.Log10(float64((kick.Power[n][0]+kick.Power[n][1])/(kick.Fine[n][1]+kick.Fine[n][2]))), 3, "on one scale")
	for b := range FineBands {
		assert.Greater(t, fineEdge(b+1), fineEdge(b))
	}
	assert.Less(t, fineEdge(FineBands), fineSize/2)
}

func TestFeaturePitchesFollowTheSpectrum(t *testing.T) {
	x := make([]float32, Inputs)
	for _, hz := range []float64{60, 230, 1000, 8000} {
		scene := NewScene(spectrumOf(t, bursts(1, hz, 0.2, 0.4)))
		scene.Features(Rate*45/100/Hop, x)
		best := 0
		for j := range x {
			if x[j] > x[best] {
				best = j
			}
		}
		assert.InDelta(t, hz, BandHz(int(math.Round(FeaturePitch(best)))), 25+hz/8, "%g Hz", hz)
	}
}

func TestCandidatesAtOnsetsAlone(t *testing.T) {
	scene := NewScene(spectrumOf(t, bursts(2, 200, 0.04, 0.5, 1.2)))
	require.Len(t, scene.Candidates, 2, "ringing makes no onsets")
	for i, at := range []float64{0.5, 1.2} {
		assert.InDelta(t, at, float64(scene.Candidates[i])*Hop/Rate, 0.012)
	}
	assert.Empty(t, NewScene(spectrumOf(t, make([]float32, Rate))).Candidates, "silence has none")
	cut := NewScene(spectrumOf(t, bursts(1, 60, 0.08, 0, 0.5)))
	require.NotEmpty(t, cut.Candidates)
	assert.LessOrEqual(t, cut.Candidates[0], 2, "a hit on the first sample is one")
}

func TestFeaturesStayInRangeAtTheEdges(t *testing.T) {
	scene := NewScene(spectrumOf(t, bursts(0.2, 200, 0.08, 0)))
	x := make([]float32, Inputs)
	for _, frame := range []int{0, 3, len(scene.Power) - 1} {
		scene.Features(frame, x)
		for i, v := range x {
			require.False(t, v != v || v < -1.001 || v > 2, "input %d at frame %d is %g", i, frame, v)
		}
	}
}

// What rings on, or was there long before, shows in the far slots alone.
func TestFarSlotsTellWhatLasts(t *testing.T) {
	far := func(decay float64) []float32 {
		scene := NewScene(spectrumOf(t, bursts(3, 3000, decay, 1)))
		x := make([]float32, Inputs)
		scene.Features(Rate/Hop, x)
		return x[NearInputs:][:farInputs]
	}
	const band = 19 // about 3 kHz
	short, long := far(0.03), far(0.4)
	for slot, name := range []string{"before", "after", "long after"} {
		at := slot*Bands + band
		if slot == 0 {
			assert.InDelta(t, -1, short[at], 1e-3, name)
			assert.InDelta(t, -1, long[at], 1e-3, name)
			continue
		}
		assert.Greater(t, long[at], short[at]+0.5, "%s: 15 dB and more", name)
	}
}

func longFramesOf(t *testing.T, x []float32) *longFrames {
	t.Helper()
	return newLongFrames(x, spectrumOf(t, x).floor())
}

// Derivation: all power of a tone is in three bins under a Hann window, that
// of noise in all bins of a band alike.
func TestLongFramesPartTonesFromNoise(t *testing.T) {
	const band = 18 // 2.85 kHz
	stands := func(x []float32) float64 {
		f := make([]float32, longInputs)
		l := longFramesOf(t, x)
		l.features(Rate/2/Hop, f)
		l.finish()
		f = f[2*longBands:] // the second frame, 46 ms after
		return 10 * FeatureUnit * float64(f[longBands+band]-f[band])
	}
	r := rand.New(rand.NewPCG(1, 2))
	noise, tone := make([]float32, Rate), make([]float32, Rate)
	for i := range noise {
		noise[i] = float32(0.1 * r.NormFloat64())
		tone[i] = float32(0.1 * math.Sin(2*math.Pi*2950*float64(i)/Rate))
	}
	assert.InDelta(t, 10*math.Log10(2.0/3), stands(tone), 0.6)
	assert.Less(t, stands(noise), -6.0)
	for b := range longBands {
		assert.Greater(t, longEdge(b+1), longEdge(b), "band %d holds a bin", b)
	}
	assert.Less(t, longEdge(longBands), longSize/2+2)
}

// A tone has one level, however long the frames are.
func TestLongFramesAreOnOneScale(t *testing.T) {
	x := bursts(1, 2950, 10, 0)
	scene := NewScene(spectrumOf(t, x))
	f := make([]float32, Inputs)
	scene.Features(Rate/4/Hop, f)
	top := func(part []float32) float64 { return 10 * FeatureUnit * float64(slices.Max(part)) }
	near := top(f[5*Bands:][:Bands]) // at the candidate
	assert.InDelta(t, near, top(f[NearInputs+farInputs:][2*longBands:][:longBands]), 1)
}

// Before and after the file is silence.
func TestLongFramesReachBeyondTheEnds(t *testing.T) {
	l := longFramesOf(t, bursts(0.05, 2950, 10, 0))
	f := make([]float32, longInputs)
	for _, frame := range []int{0, 8} {
		l.features(frame, f)
		l.finish()
		for i, v := range f {
			require.False(t, v != v || v < -1 || v > 2, "feature %d at frame %d is %g", i, frame, v)
		}
	}
	l.features(0, f)
	l.finish()
	assert.Equal(t, slices.Repeat([]float32{-1}, 2*longBands), f[:2*longBands], "nothing was there before")
}

// Frames of two candidates are transformed together.
func TestLongFramesOfTwoAreThoseOfEach(t *testing.T) {
	l := longFramesOf(t, bursts(1, 700, 0.1, 0.2, 0.4))
	alone, both := make([]float32, 2*longInputs), make([]float32, 2*longInputs)
	for i, frame := range []int{30, 60} {
		l.features(frame, alone[i*longInputs:])
		l.finish()
	}
	for i, frame := range []int{30, 60} {
		l.features(frame, both[i*longInputs:])
	}
	l.finish()
	assert.InDeltaSlice(t, alone, both, 1e-5)
	assert.NotEqual(t, alone[:longInputs], alone[longInputs:])
}

func TestCommitteesAreStoredAndRun(t *testing.T) {
	m := &Model{Layers: []Layer{
		{In: 2, Out: 2, W: []float32{1, -1, 2, 0}, B: []float32{0, -1}},
		{In: 2, Out: 1, W: []float32{1, 10}, B: []float32{0.5}},
	}}
	half := &Model{Layers: []Layer{{In: 2, Out: 1, W: []float32{0.5, 0}, B: []float32{0}}}}
	// 3−5 is cut to 0; 6−1 is 5; 0 + 50 + 0.5.
	assert.Equal(t, []float64{50.5}, Committee{m}.Run([]float64{3, 5}))
	both := Committee{m, half}
	assert.Equal(t, []float64{26}, both.Run([]float64{3, 5}), "the mean of 50.5 and 1.5")
	var buf bytes.Buffer
	require.NoError(t, both.Write(&buf))
	again, err := ReadCommittee(bytes.NewReader(buf.Bytes()))
	require.NoError(t, err)
	assert.Equal(t, both, again)
	_, err = ReadCommittee(bytes.NewReader([]byte{1, 0, 0, 0, 255, 255, 255, 255}))
	assert.Error(t, err)
}

// Derivation: what is cut anywhere but between two models is no committee.
func TestReadCommitteeOfPart(t *testing.T) {
	var whole bytes.Buffer
	m := randomModel(3, 2)
	require.NoError(t, m.write(&whole))
	for n := range 2 * whole.Len() {
		var packed bytes.Buffer
		z := gzip.NewWriter(&packed)
		_, err := z.Write(slices.Concat(whole.Bytes(), whole.Bytes())[:n])
		require.NoError(t, err)
		require.NoError(t, z.Close())
		c, err := ReadCommittee(&packed)
		if n%whole.Len() == 0 {
			require.NoError(t, err)
			assert.Len(t, c, n/whole.Len())
		} else {
			assert.ErrorIs(t, err, io.ErrUnexpectedEOF, "%d bytes", n)
		}
	}
}

func TestTrainedCommittee(t *testing.T) {
	require.Len(t, Trained(), 4)
	assert.Len(t, Families, Classes)
	scene := NewScene(spectrumOf(t, bursts(1, 60, 0.08, 0.2, 0.6)))
	all := Trained().Hear(scene)
	require.NotEmpty(t, all)
	mean := make([]float64, len(all))
	for i, m := range Trained() {
		assert.Equal(t, i >= 2, m.seesFar(), "what the first sees is made for every candidate")
		assert.Equal(t, 3*Classes, m.Layers[len(m.Layers)-1].Out)
		for i, h := range (Committee{m}).Hear(scene) {
			mean[i] += h.Odds[0] / 4
		}
	}
	for i := range all {
		assert.InDelta(t, mean[i], all[i].Odds[0], 1e-9, "they are heard with one voice")
	}
	assert.Greater(t, all[0].Odds[0], 0.0, "a low burst is a kick")
}

// Where the first network hears nothing at all, its word is enough.
func TestHopelessMomentsAskOnlyTheFirst(t *testing.T) {
	says := func(odds float32) *Model {
		b := make([]float32, 3*Classes)
		for k := range Classes {
			b[k] = odds
		}
		return &Model{Layers: []Layer{{In: Inputs, Out: 3 * Classes, W: make([]float32, Inputs*3*Classes), B: b}}}
	}
	scene := NewScene(spectrumOf(t, bursts(1, 60, 0.08, 0.2, 0.6)))
	assert.InDelta(t, -6, Committee{says(-6), says(2)}.Hear(scene)[0].Odds[0], 1e-6)
	assert.InDelta(t, -0.5, Committee{says(-3), says(2)}.Hear(scene)[0].Odds[0], 1e-6)
}

func TestPrepareSurvivesOppositeSides(t *testing.T) {
	x := bursts(0.5, 300, 0.1, 0.1)
	b := audio.New(Rate, 2, len(x))
	for i, v := range x {
		b.Channels[0][i], b.Channels[1][i] = v, -v
	}
	var sum float64
	for _, v := range Prepare(b) {
		sum += float64(v) * float64(v)
	}
	assert.Greater(t, sum, 1.0, "the sides do not cancel")
}
