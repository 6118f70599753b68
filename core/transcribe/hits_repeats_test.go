package transcribe

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/floats"
	"pgregory.net/rapid"

	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// burst is a sound that repeats: noise, or a falling tone, from a seed.
func burst(f sound.Family, seed uint64) []float64 {
	r := rand.New(rand.NewPCG(seed, 1))
	x := make([]float64, rate/8)
	for i := range x {
		t := float64(i) / rate
		switch f {
		case sound.Kick:
			x[i] = math.Sin(2*math.Pi*(55*t+3*(1-math.Exp(-t*60)))) * math.Exp(-t*22)
			x[i] += 0.4 * r.NormFloat64() * math.Exp(-t*400)
		case sound.Snare:
			x[i] = 0.5*math.Sin(2*math.Pi*190*t)*math.Exp(-t*40) + 0.4*r.NormFloat64()*math.Exp(-t*30)
		default:
			v := r.NormFloat64() * math.Exp(-t*60)
			x[i] = v
			if i > 0 {
				x[i] = 0.3 * (v - 0.9*x[i-1])
			}
		}
	}
	return x
}

// struckOf puts bursts into a sound at times, with gains, and says where.
type struckOf struct {
	f     sound.Family
	at    []int // samples
	gains []float64
}

func mixed(length int, all []struckOf) (x []float32, hits []found, times []float64) {
	x = make([]float32, length)
	for n, s := range all {
		wave := burst(s.f, uint64(n))
		for k, at := range s.at {
			for i, v := range wave {
				if at+i < length {
					x[at+i] += float32(s.gains[k] * v)
				}
			}
			// The search begins up to 2 ms off.
			times = append(times, (float64(at)+float64((k%5-2)*44))/rate)
			hits = append(hits, found{family: s.f, level: 20 * math.Log10(s.gains[k]), confidence: 1})
		}
	}
	return x, hits, times
}

// Derivation: the gains that were put in, against the first of each family.
func TestRepeatsTellWhatWasPutIn(t *testing.T) {
	kick := struckOf{f: sound.Kick}
	snare := struckOf{f: sound.Snare}
	hat := struckOf{f: sound.HatClosed}
	for i := range 24 {
		at := 4000 + i*9000
		hat.at, hat.gains = append(hat.at, at+37*(i%4)), append(hat.gains, []float64{0.2, 0.11, 0.15, 0.09}[i%4])
		if i%4 < 3 && i%8 != 6 {
			kick.at, kick.gains = append(kick.at, at), append(kick.gains, 0.8-0.02*float64(i))
		}
		if i%4 == 2 {
			snare.at, snare.gains = append(snare.at, at+101), append(snare.gains, 0.5+0.03*float64(i%8))
		}
	}
	x, hits, times := mixed(24*9000+8000, []struckOf{kick, snare, hat})
	again := remember(x, drumnet.LowsOf(x), hits, times, searched).find(hits, times)
	i := 0
	for _, s := range []struckOf{kick, snare, hat} {
		z := map[sound.Family]int{sound.Kick: lowZone, sound.Snare: midZone, sound.HatClosed: highZone}[s.f]
		first := i
		for k := range s.at {
			r, r0 := again[i][z], again[first][z]
			require.NotNil(t, r.kind, "%s %d", s.f, k)
			assert.InDelta(t, 20*math.Log10(s.gains[k]/s.gains[0]), r.level-r0.level, 1, "%s %d, dB", s.f, k)
			assert.InDelta(t, float64(s.at[k]-s.at[0])/rate*1000, (r.start-r0.start)*1000, float64(zones[z].every)*1500/rate, "%s %d, ms", s.f, k)
			assert.Greater(t, r.fit, 0.25)
			i++
		}
	}
}

// Derivation: soft hats 12 ms after a kick are looked for at the kick, where a
// network hears them, and found where they were struck.
func TestASoftHatIsFoundBehindAKick(t *testing.T) {
	kick, hat := struckOf{f: sound.Kick}, struckOf{f: sound.HatClosed}
	for i := range 24 {
		at := 4000 + i*9000
		hat.at, hat.gains = append(hat.at, at), append(hat.gains, 0.2)
		if i%4 == 0 {
			kick.at, kick.gains = append(kick.at, at-rate*12/1000), append(kick.gains, 0.7)
		}
	}
	x, hits, times := mixed(24*9000+8000, []struckOf{kick, hat})
	for k := range hat.at {
		if k%4 == 0 {
			times[len(kick.at)+k] -= 0.012
		}
	}
	apart := func(zones [Zones]zone) (worst float64) {
		again := remember(x, drumnet.LowsOf(x), hits, times, zones).find(hits, times)[len(kick.at):]
		for k, r := range again {
			require.NotNil(t, r[highZone].kind)
			worst = math.Max(worst, math.Abs(r[highZone].start-again[1][highZone].start-float64(hat.at[k]-hat.at[1])/rate))
		}
		return worst
	}
	assert.Less(t, apart(searched), 0.001)
	assert.Greater(t, apart(zones), 0.005, "too far to be seen by what judges moments")
}

// Where a family does not live, where it is rare, and where its hits have
// nothing in common, nothing is reported.
func TestRepeatsOfNothing(t *testing.T) {
	hat := struckOf{f: sound.HatClosed, at: []int{4000, 24000, 44000, 64000}, gains: []float64{1, 1, 1, 1}}
	rare := struckOf{f: sound.Snare, at: []int{14000, 34000}, gains: []float64{1, 1}}
	x, hits, times := mixed(80000, []struckOf{hat, rare})
	for i, r := range remember(x, drumnet.LowsOf(x), hits, times, searched).find(hits, times) {
		assert.Nil(t, r[lowZone].kind)
		assert.Equal(t, hits[i].family == sound.HatClosed, r[highZone].kind != nil)
	}
	r := rand.New(rand.NewPCG(3, 3))
	noise := make([]float32, 80000)
	for i := range noise {
		noise[i] = float32(r.NormFloat64())
	}
	for _, r := range remember(noise, drumnet.LowsOf(noise), hits, times, searched).find(hits, times) {
		assert.Nil(t, r[highZone].kind, "noise does not repeat")
	}
	for _, r := range remember(make([]float32, 80000), make([]float32, 5000), hits, times, searched).find(hits, times) {
		assert.Nil(t, r[highZone].kind, "silence neither")
	}
}

// Any times at all, also at the ends of the file, give finite numbers.
func TestRepeatsStayFinite(t *testing.T) {
	x, _, _ := mixed(30000, []struckOf{{sound.HatClosed, []int{100, 9000, 20000}, []float64{1, 0.5, 0.7}}, {sound.Kick, []int{100, 9000, 20000}, []float64{1, 0.5, 0.7}}})
	rapid.Check(t, func(r *rapid.T) {
		n := rapid.IntRange(0, 9).Draw(r, "hits")
		hits, times := make([]found, n), make([]float64, n)
		for i := range hits {
			hits[i].family = rapid.SampledFrom([]sound.Family{sound.Kick, sound.HatClosed, sound.Tom}).Draw(r, "family")
			times[i] = rapid.Float64Range(0, 0.72).Draw(r, "time")
		}
		for _, zonesOf := range remember(x, drumnet.LowsOf(x), hits, times, searched).find(hits, times) {
			for _, p := range zonesOf {
				if p.kind != nil {
					require.False(r, math.IsNaN(p.level) || math.IsInf(p.level, 0) || math.IsNaN(p.start))
					require.True(r, p.fit >= 0 && p.fit <= 1)
				}
			}
		}
	})
}

func TestChordsAreShort(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		times := rapid.SliceOfN(rapid.Float64Range(0, 3), 1, 60).Draw(r, "times")
		chords := chordsOf(make([]found, len(times)), times)
		n := 0
		for i, c := range chords {
			n += len(c.hits)
			assert.LessOrEqual(r, c.last-c.first, 0.05)
			if i > 0 {
				assert.Greater(r, c.first, chords[i-1].last)
			}
		}
		assert.Equal(r, len(times), n)
	})
}

// A hat in doubt is proved where it was struck under a kick, and not where
// only the kick was.
func TestProofs(t *testing.T) {
	kick, hat := struckOf{f: sound.Kick}, struckOf{f: sound.HatClosed}
	for i := range 16 {
		kick.at, kick.gains = append(kick.at, 4000+i*20000), append(kick.gains, 0.8)
		hat.at, hat.gains = append(hat.at, 14000+i*20000), append(hat.gains, 0.3)
	}
	hat.at, hat.gains = append(hat.at, kick.at[5]), append(hat.gains, 0.2)
	x, hits, times := mixed(17*20000, []struckOf{kick, hat})
	var heard []drumnet.Heard
	for _, at := range []int{kick.at[5], kick.at[6], hat.at[3]} {
		h := drumnet.Heard{Frame: at / hop}
		for k, f := range drumnet.Families {
			h.Odds[k] = -9
			if f == sound.Kick || f == sound.HatClosed || f == sound.Snare {
				h.Odds[k] = -1
			}
			h.Delay[k] = float64(at%hop) / rate * 1000
		}
		heard = append(heard, h)
	}
	proofs := remember(x, drumnet.LowsOf(x), hits[:32], times[:32], zones).prove(heard)
	with, without, alone := proofs[0][closedHat], proofs[1][closedHat], proofs[2][closedHat]
	require.True(t, with.Known && without.Known && alone.Known)
	assert.Greater(t, with.Fit[0], 0.5)
	assert.Less(t, without.Fit[0], 0.1)
	assert.Greater(t, alone.Fit[0], 0.8)
	assert.InDelta(t, 20*math.Log10(0.2/0.3), with.Level[0], 1, "against the usual, dB")
	assert.False(t, proofs[0][1].Known, "no snare is known")
	assert.Less(t, proofs[2][0].Fit[0], 0.25, "no kick there")
	assert.False(t, proofs[0][openHat].Known, "nor is looked for what is out of the question")
}

// Where a family is rare, what may have been struck is suspected, without
// confidence; where there is enough of it, only what was likely.
func TestSuspects(t *testing.T) {
	snare := 1
	moments := func(sure int, odds ...float64) []drumnet.Heard {
		var out []drumnet.Heard
		for i := range sure + len(odds) {
			h := drumnet.Heard{Frame: 100 * i}
			for k := range h.Odds {
				h.Odds[k] = -9
			}
			h.Odds[snare] = 3
			if i >= sure {
				h.Odds[snare] = odds[i-sure]
			}
			out = append(out, h)
		}
		return out
	}
	rare := suspected(moments(4, -1, -0.2, -2))
	require.Len(t, rare, 6)
	assert.Positive(t, rare[0].confidence)
	assert.Zero(t, rare[4].confidence)
	assert.Zero(t, rare[5].confidence)
	assert.Len(t, suspected(moments(14, -1, -0.2)), 14)
	assert.Empty(t, suspected(nil))
}

// Derivation: the correlation by transform is the one by its definition, but
// for a factor.
func TestCorrelationsAreTheirDefinition(t *testing.T) {
	m := newMatcher(nil, nil, zones[midZone])
	r := rand.New(rand.NewPCG(5, 6))
	x, wave := make([]float64, m.length+2*m.reach), make([]float64, m.length)
	for i := range x {
		x[i] = math.Sin(float64(i)/7) + 0.3*r.NormFloat64()
	}
	for i := range wave {
		wave[i] = math.Sin(float64(i)/9) * math.Exp(-float64(i)/200)
	}
	kind := m.newTemplate(wave, 1)
	m.listenTo(x, 0)
	fast := slices.Clone(m.correlations(kind, x))
	require.Len(t, fast, m.reach+1)
	few := zones[midZone]
	few.size = 0
	slow := newMatcher(nil, nil, few).correlations(kind, x)
	factor := floats.Dot(fast, slow) / floats.Dot(slow, slow)
	for i := range slow {
		assert.InDelta(t, slow[i]*factor, fast[i], 0.02*math.Abs(factor)*floats.Norm(slow, math.Inf(1)))
	}
}
