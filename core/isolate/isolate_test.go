package isolate_test

import (
	"context"
	"errors"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/isolate"
	"jubrak/core/measure"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
	"jubrak/demo/rink"
	"jubrak/fixtures/alone"

	"jubrak/internal/brief"
)

func silent(float64) {}

// struck is a falling tone at each time, with hits where they are.
func struck(frames int, times []float64, gain func(i int) float64, drum func(t float64) float64) (*audio.Buffer, []transcribe.Hit) {
	b := audio.New(48000, 1, frames)
	var hits []transcribe.Hit
	for i, at := range times {
		for j := range 20000 {
			t := float64(j)/48000 - (at - math.Floor(at*48000)/48000)
			if k := int(at*48000) + j; k < frames && t >= 0 {
				b.Channels[0][k] += float32(gain(i) * drum(t))
			}
		}
		hits = append(hits, transcribe.Hit{ID: string(rune('a' + i)), Time: at + 0.0007*float64(i%3-1), Family: sound.Kick, Velocity: int(112 * math.Sqrt(gain(i))), Confidence: 1})
	}
	return b, hits
}

func kick(t float64) float64 {
	return math.Sin(2*math.Pi*(60*t+3*(1-math.Exp(-t*40)))) * math.Exp(-t/0.09)
}

func find(t *testing.T, b *audio.Buffer, hits []transcribe.Hit) []isolate.Drum {
	t.Helper()
	list, err := isolate.Find(context.Background(), b, hits, isolate.Choices{}, silent)
	require.NoError(t, err)
	return list
}

// errorOf is the power of what a drum has below 2 kHz that the true one has not, dB, at the
// best gain and place.
func errorOf(d *isolate.Drum, drum func(t float64) float64) float64 {
	best := 0.0
	low := func(x []float64) []float64 {
		for range 2 {
			f := dsp.LowPass(2000, 0.7, 48000)
			f.Run(x)
		}
		return x
	}
	x := low(d.Sound.Mono())
	for shift := -240; shift <= 240; shift++ {
		truth := make([]float64, 14400)
		for i := range truth {
			if t := (float64(i) + float64(shift)/4) / 48000; t >= 0 {
				truth[i] = drum(t)
			}
		}
		var xy, xx, yy float64
		for i, y := range low(truth) {
			v := x[480+i]
			xy, xx, yy = xy+v*y, xx+v*v, yy+y*y
		}
		best = min(best, 10*math.Log10(1-xy*xy/(xx*yy)))
	}
	return best
}

func TestStrokesAreAlignedAndLevelled(t *testing.T) {
	var times []float64
	for i := range 12 {
		times = append(times, 0.2+0.4*float64(i)+0.00001*float64(i*i))
	}
	gain := func(i int) float64 { return []float64{0.8, 0.3, 0.5}[i%3] }
	b, hits := struck(6*48000, times, gain, kick)
	list := find(t, b, hits)
	require.Len(t, list, 1)
	d := &list[0]
	assert.Less(t, errorOf(d, kick), -30.0)
	require.Len(t, d.Strokes, 12)
	for i, s := range d.Strokes {
		assert.InDelta(t, times[i]-times[0], s.Time-d.Strokes[0].Time, 0.00001, "within half a sample")
		assert.InDelta(t, 20*math.Log10(gain(i)/gain(0)), s.Level-d.Strokes[0].Level, 0.5)
		assert.Greater(t, s.Match, 0.95)
	}
	require.NotNil(t, d.Facts.Fundamental)
	assert.InDelta(t, 60, d.Facts.Fundamental.Value, 0.4)
	if f := d.Facts.Decay; f != nil {
		assert.InEpsilon(t, 0.09*6.9*1000, f.Value, 0.15, "e to the -6.9 is 60 dB")
	}
	require.NotNil(t, d.Soft, "four strokes are 8 dB softer")
	assert.InDelta(t, -8.5, d.Soft.Level, 1)
}

// A bass that sounds with half of the strokes, at two pitches, is not the kick.
func TestABassIsNotTheKick(t *testing.T) {
	var times []float64
	for i := range 24 {
		times = append(times, 0.2+0.5*float64(i))
	}
	b, hits := struck(13*48000, times, func(int) float64 { return 0.5 }, kick)
	for i, at := range times {
		hz := []float64{98, 0, 82.4, 0, 0}[i%5]
		for j := range 20000 {
			if k := int(at*48000) + j; hz > 0 {
				b.Channels[0][k] += float32(0.4 * math.Sin(2*math.Pi*hz*float64(j)/48000+float64(i)))
			}
		}
	}
	d := find(t, b, hits)[0]
	if f := d.Facts.Fundamental; f != nil {
		assert.InDelta(t, 60, f.Value, 0.7)
	}
	assert.Less(t, errorOf(&d, kick), -8.0)
}

func TestLeftOutAndDivided(t *testing.T) {
	var times []float64
	for i := range 12 {
		times = append(times, 0.2+0.4*float64(i))
	}
	b, hits := struck(6*48000, times, func(int) float64 { return 0.5 }, kick)
	list, err := isolate.Find(context.Background(), b, hits, isolate.Choices{LeftOut: []string{"c"}}, silent)
	require.NoError(t, err)
	assert.True(t, list[0].Strokes[2].Out)
	assert.False(t, list[0].Strokes[2].Used)
	// Two drums in one row: every third stroke is a block of wood.
	block := func(t float64) float64 { return math.Sin(2*math.Pi*1100*t) * math.Exp(-t/0.02) }
	two, _ := struck(6*48000, nil, nil, nil)
	for i, at := range times {
		drum := kick
		if i%3 == 2 {
			drum = block
		}
		for j := range 12000 {
			two.Channels[0][int(at*48000)+j] += float32(0.5 * drum(float64(j)/48000))
		}
	}
	list = find(t, two, hits)
	require.Len(t, list, 2, "they are told apart")
	assert.Equal(t, []int{1, 2}, []int{list[0].Group, list[1].Group})
	assert.Len(t, list[0].Strokes, 8)
	assert.Len(t, list[1].Strokes, 4)
	assert.Less(t, errorOf(&list[1], block), -15.0)
	joined, err := isolate.Find(context.Background(), two, hits, isolate.Choices{Rows: map[sound.Family]int{sound.Kick: 1}}, silent)
	require.NoError(t, err)
	assert.Len(t, joined, 1)
	split, err := isolate.Find(context.Background(), b, hits, isolate.Choices{Rows: map[sound.Family]int{sound.Kick: 2}}, silent)
	require.NoError(t, err)
	assert.Len(t, split, 2, "where the user says so")
}

// What bounds are kept on three of the loops of fixtures/alone; go run ./fixtures/alone/table
// prints all (docs/drums.md).
func TestDrumsOfLoops(t *testing.T) {
	most := map[string]map[sound.Family]float64{
		alone.Dry:  {sound.Kick: 0.10, sound.Snare: 0.18, sound.HatClosed: 0.18},
		alone.Room: {sound.Kick: 0.22, sound.Snare: 0.30, sound.HatClosed: 0.30},
		alone.Mix:  {sound.Kick: 0.30, sound.Snare: 0.30, sound.HatClosed: 0.40},
	}
	scale := map[sound.Family]float64{sound.Kick: 9.4, sound.Snare: 9.4, sound.HatClosed: 13.2}
	var known, right float64
	for _, l := range alone.Numbered(brief.First(2, 7, 22, 13)...) {
		raw, err := transcribe.Analyze(context.Background(), l.Audio, func(string, float64) {})
		require.NoError(t, err)
		list := find(t, l.Audio, transcribe.Finish(raw, nil).Hits)
		if hz := isolate.KickHz(list); hz != nil {
			want, ok := measure.Arrives(measure.Measure(l.Dry[sound.Kick]).PitchCurve)
			require.True(t, ok, "%s: a kick whose pitch does not come to rest has no fundamental", l.Name)
			assert.InDelta(t, 0, 1200*math.Log2(*hz/want), 20, l.Name)
		}
		for _, f := range alone.Families {
			if l.Strokes[f] < 4 {
				continue
			}
			d := alone.Of(list, f)
			require.NotNil(t, d, "%s: %s", l.Name, f)
			assert.Less(t, measure.Distance(d.Sound, l.Drums[f])/scale[f], most[l.Kind][f], "%s: %s", l.Name, f)
			k, r, _ := alone.Honest(d.Sound, l.Drums[f], &d.Known)
			known, right = known+k, right+r
		}
		if l.Rest != nil {
			played := audio.New(l.Audio.Rate, 1, l.Audio.Frames())
			for i := range played.Channels[0] {
				played.Channels[0][i] = l.Audio.Channels[0][i] - l.Rest.Channels[0][i]
			}
			one, _ := measure.Integrated(played)
			other, _ := measure.Integrated(l.Rest)
			require.NotNil(t, isolate.Share(list))
			assert.InDelta(t, one-other, isolate.Share(list).DB, 1.5, "drums against the rest")
			struck, rest, err := isolate.Split(context.Background(), l.Audio.Resample(48000), 0, list)
			require.NoError(t, err)
			x, whole := rest.Channels[0], l.Audio.Resample(48000).Channels[0]
			for i := 0; i < len(x); i += 997 {
				assert.InDelta(t, whole[i], x[i]+struck.Channels[0][i], 1e-6, "they add up to the whole")
			}
		}
	}
	assert.Greater(t, right/known, 0.85, "of what is said to be known is within 3 dB")
}

// Of a long recording a part is worked on; what is struck elsewhere is there, too.
func TestALongRecording(t *testing.T) {
	var times []float64
	for i := range 60 {
		times = append(times, 0.5+1.5*float64(i))
	}
	b, hits := struck(125*48000, times, func(int) float64 { return 0.5 }, kick)
	bell := func(t float64) float64 { return math.Sin(2*math.Pi*900*t) * math.Exp(-t/0.05) }
	for i, at := range []float64{110, 111.3, 112.9, 114.4, 116} {
		for j := range 12000 {
			b.Channels[0][int(at*48000)+j] += float32(0.5 * bell(float64(j)/48000))
		}
		hits = append(hits, transcribe.Hit{ID: "bell" + string(rune('0'+i)), Time: at, Family: sound.Cowbell, Velocity: 79})
	}
	list := find(t, b, hits)
	require.Equal(t, 2, len(list))
	assert.Less(t, errorOf(&list[0], kick), -20.0)
	assert.Equal(t, sound.Cowbell, list[1].Family)
	assert.Less(t, errorOf(&list[1], bell), -15.0)
	assert.InDelta(t, 110, list[1].Strokes[0].Time, 0.001)
}

// The demo's kick rings at 54 Hz, sagging; its drums are not of the engine's making.
func TestTheDemosKick(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	b := rink.Takes[0].Record()
	raw, err := transcribe.Analyze(context.Background(), b, func(string, float64) {})
	require.NoError(t, err)
	list := find(t, b, transcribe.Finish(raw, nil).Hits)
	d := alone.Of(list, sound.Kick)
	require.NotNil(t, d)
	assert.Greater(t, d.Known.To, 300.0)
	if hz := isolate.KickHz(list); hz != nil {
		assert.InDelta(t, 54, *hz, 1)
	} else {
		t.Error("its pitch is not detected")
	}
}

func TestUnusualRecordings(t *testing.T) {
	b, hits := struck(3*48000, []float64{0.5, 1, 1.5, 2}, func(int) float64 { return 0.9 }, kick)
	for name, c := range map[string]struct {
		sound *audio.Buffer
		hits  []transcribe.Hit
		drums int
	}{
		"no hits":       {b, nil, 0},
		"one":           {b, hits[:1], 1},
		"8 kHz":         {b.Resample(8000), hits, 1},
		"no sound":      {audio.New(48000, 2, 0), hits, 1},
		"silence":       {audio.New(48000, 2, 48000), hits, 1},
		"before it":     {b, []transcribe.Hit{{ID: "x", Time: -3, Family: sound.Kick, Velocity: 100}}, 1},
		"after its end": {b, []transcribe.Hit{{ID: "x", Time: 99, Family: sound.Kick, Velocity: 100}, {ID: "y", Time: 2.999, Family: sound.Kick, Velocity: 0}}, 1},
	} {
		list := find(t, c.sound, c.hits)
		assert.Len(t, list, c.drums, name)
		for i := range list {
			for _, v := range list[i].Sound.Channels[0] {
				require.False(t, math.IsNaN(float64(v)) || math.IsInf(float64(v), 0), name)
			}
			assert.NotEmpty(t, list[i].Words, name)
		}
		_, _, err := isolate.Split(context.Background(), c.sound, 0, list)
		require.NoError(t, err, name)
	}
	one := find(t, b, hits[:1])[0]
	assert.Contains(t, one.Words[0], "One stroke")
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	_, err := isolate.Find(ctx, b, hits, isolate.Choices{}, silent)
	assert.True(t, errors.Is(err, context.Canceled))
}

func TestWhateverIsHeard(t *testing.T) {
	b, _ := struck(48000, []float64{0.1, 0.4, 0.7}, func(int) float64 { return 0.9 }, kick)
	rapid.Check(t, func(r *rapid.T) {
		var hits []transcribe.Hit
		for i := range rapid.IntRange(0, 4).Draw(r, "hits") {
			hits = append(hits, transcribe.Hit{ID: string(rune('a' + i)), Time: rapid.Float64Range(-0.1, 1.1).Draw(r, "time"), Family: rapid.SampledFrom(sound.Families).Draw(r, "family"), Velocity: rapid.IntRange(1, 127).Draw(r, "velocity")})
		}
		list, err := isolate.Find(context.Background(), b, hits, isolate.Choices{Rows: map[sound.Family]int{sound.Kick: rapid.IntRange(0, 2).Draw(r, "drums")}}, silent)
		require.NoError(r, err)
		strokes := 0
		for _, d := range list {
			strokes += len(d.Strokes)
			for f := range d.Known.Level {
				for n, e := range d.Known.Error[f] {
					assert.True(r, e >= 0 && e <= 40 && d.Known.Level[f][n] <= 0)
				}
			}
		}
		assert.Equal(r, len(hits), strokes, "each hit is a stroke of one drum")
	})
}
