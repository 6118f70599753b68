package transcribe

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"

	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// mixInputs is the number of features that show how loud the whole mix is
// about a hit, and what it does to the rest: a compressor pushes down what
// sounds beside a loud drum, so that a hat under a kick is softer in the mix
// than it was played.
const mixInputs = 9

// mixLevels is the level of the mix about each hit, and how the rest follows.
type mixLevels struct {
	near   [][3]float64 // before, at and just after each hit, dB against the file's loud moments
	dip    []float64    // how far the bands in which nothing starts fall there, dB
	file   [3]float64   // the mean dip at the loudest quarter of hits, at all, and their mean level, dB
	follow map[sound.Family][2]float64
}

func newMixLevels(s *drumnet.Scene, hits []found) *mixLevels {
	m := &mixLevels{follow: map[sound.Family][2]float64{}}
	if len(hits) == 0 {
		return m
	}
	loudness := func(frame, first, last int) float64 {
		top := 1e-12
		for i := max(frame+first, 0); i <= min(frame+last, len(s.Power)-1); i++ {
			var sum float64
			for _, p := range s.Power[i] {
				sum += float64(p)
			}
			top = math.Max(top, sum)
		}
		return 10 * math.Log10(top)
	}
	at := make([]float64, len(hits))
	for i, h := range hits {
		m.near = append(m.near, [3]float64{loudness(h.frame, -12, -4), loudness(h.frame, -3, 0), loudness(h.frame, 1, 5)})
		m.dip = append(m.dip, dip(s, h.frame))
		at[i] = math.Max(m.near[i][1], m.near[i][2])
	}
	sorted := slices.Sorted(slices.Values(at))
	loud, quarter := sorted[len(sorted)*9/10], sorted[len(sorted)*3/4]
	var n float64
	for i := range hits {
		if at[i] >= quarter {
			m.file[0] += m.dip[i]
			n++
		}
		for k := range m.near[i] {
			m.near[i][k] = math.Max(m.near[i][k]-loud, -40)
		}
	}
	m.file[0] /= n
	m.file[1] = stat.Mean(m.dip, nil)
	m.file[2] = math.Max(stat.Mean(at, nil)-loud, -40)
	return m
}

// dip is how far the spectrum falls at a frame where nothing starts: the lower
// quartile over the bands of the least power in the 12 to 40 ms after against
// that before, dB, at most 0.
func dip(s *drumnet.Scene, frame int) float64 {
	var falls []float64
	for b := range drumnet.Bands {
		var before float64
		for i := max(frame-5, 0); i <= max(frame-3, 0); i++ {
			before += float64(s.Power[i][b]) / 3
		}
		after := math.Inf(1)
		for i := min(frame+2, len(s.Power)-1); i <= min(frame+7, len(s.Power)-1); i++ {
			after = math.Min(after, float64(s.Power[i][b]))
		}
		falls = append(falls, 10*math.Log10((after+1e-10)/(before+1e-10)))
	}
	slices.Sort(falls)
	return math.Max(math.Min(falls[len(falls)/4], 0), -20)
}

// learn measures over a family's hits how their level follows that of the mix
// before and with them: the correlation and the slope.
func (m *mixLevels) learn(f sound.Family, cases []LevelCase, list []int) {
	if len(list) < 4 {
		return
	}
	var level, mix []float64
	for _, i := range list {
		level = append(level, cases[i].Usual())
		mix = append(mix, math.Max(m.near[i][0], m.near[i][1]))
	}
	if r := stat.Correlation(mix, level, nil); !math.IsNaN(r) {
		_, slope := stat.LinearRegression(mix, level, nil, false)
		m.follow[f] = [2]float64{r, math.Min(math.Max(slope, -1.5), 1.5)}
	}
}

// inputs are the features of hit i.
func (m *mixLevels) inputs(i int, f sound.Family) []float64 {
	near, follow := m.near[i], m.follow[f]
	return []float64{
		near[0] / levelUnit, near[1] / levelUnit, near[2] / levelUnit, m.dip[i] / levelUnit,
		m.file[0] / levelUnit, m.file[1] / levelUnit, m.file[2] / levelUnit,
		follow[0], follow[1],
	}
}
