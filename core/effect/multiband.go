package effect

import (
	"fmt"
	"slices"

	"jubrak/core/param"
)

// mostBands is the most bands of a multiband compressor, fewestBands the fewest.
const fewestBands, mostBands = 2, 6

var _ = register(Kind{
	ID: "multiband", Label: "Multiband compressor", Group: Dynamics, Order: 5, Hint: "Two to six bands, each with a threshold and ratio of its own", Rows: true,
	Picture: Levels, Reduces: true, Alike: true, MidSide: true,
	Params: slices.Concat(
		[]param.Param{param.Choice("bands", "", "Bands", "2", "3", "4", "5", "6")},
		crossoverParams(),
		[]param.Param{
			param.Decibels("knee_db", "Knee", 0, 24, 6),
			param.Milliseconds("attack_ms", "Attack", 0.1, 200, 5),
			param.Milliseconds("release_ms", "Release", 5, 2000, 100),
		}, multibandParams()),
	Words: func(s Said) [2]string {
		return [2]string{s.Name("bands") + "-band compressor", fmt.Sprintf("−%s dB", param.Text(s.Taken))}
	},
	Lift: func(v func(string) float64) float64 {
		most := 0.0
		for _, id := range multibandIDs {
			most = max(most, v(id.gain))
		}
		return most
	},
	make: func(rate float64) Tuned { return newMultiband(rate) },
})

// multibandIDs are the ids of the parameters of each band; cross is that of the crossover
// above it, but for the last.
var multibandIDs = func() (out [mostBands]struct{ cross, threshold, ratio, gain string }) {
	for i := range out {
		at := func(id string) string { return fmt.Sprintf("part%d.%s", i+1, id) }
		out[i].cross, out[i].threshold, out[i].ratio, out[i].gain = fmt.Sprintf("cross%d_hz", i+1), at("threshold_db"), at("ratio"), at("gain_db")
	}
	return out
}()

// fromBands are the choices of how many bands with at least so many.
func fromBands(n int) (out []float64) {
	for k := max(n, fewestBands); k <= mostBands; k++ {
		out = append(out, float64(k-fewestBands))
	}
	return out
}

func crossoverParams() (out []param.Param) {
	for i, hz := range []float64{120, 500, 2000, 6000, 11000} {
		out = append(out, when(param.Hertz(multibandIDs[i].cross, fmt.Sprintf("Crossover %d", i+1), 30, 18000, hz), "bands", fromBands(i+2)...))
	}
	return out
}

func multibandParams() (out []param.Param) {
	for i := range mostBands {
		for _, p := range named(fmt.Sprintf("part%d", i+1), fmt.Sprintf("Band %d,", i+1),
			param.Decibels("threshold_db", "threshold", -60, 0, -24), param.Ratio("ratio", "ratio", 1, 30, 3), param.Decibels("gain_db", "gain", -24, 24, 0)) {
			out = append(out, when(p, "bands", fromBands(i+1)...))
		}
	}
	return out
}

// Multiband compresses two to six bands apart, divided by crossovers of fourth order (Linkwitz
// & Riley 1976, J. Audio Eng. Soc. 24:2): left alone they add up flat. A crossover never lies
// below the one before it.
type Multiband struct {
	rate  float64
	n     int
	split [mostBands - 1]crossing
	each  [mostBands]Compressor
	band  [mostBands][2][MaxBlock]float64
}

func newMultiband(rate float64) *Multiband {
	m := &Multiband{rate: rate, n: fewestBands}
	for i := range m.each {
		m.each[i] = *newCompressor(rate)
	}
	return m
}

// Tune takes the parameters of its kind.
func (m *Multiband) Tune(v Values, glide int) {
	m.n = int(v.Get("bands")) + fewestBands
	lowest := 0.0
	for i := range m.n - 1 {
		lowest = max(v.Get(multibandIDs[i].cross), lowest)
		m.split[i].to(lowest, m.rate, glide)
	}
	attack, release, knee := v.Get("attack_ms"), v.Get("release_ms"), v.Get("knee_db")
	for i := range m.n {
		id := &multibandIDs[i]
		m.each[i].set(gainComputer{v.Get(id.threshold), v.Get(id.ratio), knee, quiet, 1}, attack, release, v.Get(id.gain), glide)
	}
}

func (m *Multiband) at(c Clock) {
	for i := range m.n {
		m.each[i].at(c)
	}
}

// Process compresses.
func (m *Multiband) Process(b Block, _ []float64) {
	var bands [mostBands]Block
	for k := range m.n {
		bands[k] = within(&m.band[k], b)
	}
	divide(b, m.split[:m.n-1], bands[:m.n])
	b.Clear()
	for k := range m.n {
		m.each[k].Process(bands[k], nil)
		b.add(bands[k])
	}
}

// Latency is 0.
func (m *Multiband) Latency() int { return 0 }

// Tail is what the lowest crossover rings.
func (m *Multiband) Tail() int { return int(8 / m.split[0].hz * m.rate) }

// Reset forgets the past.
func (m *Multiband) Reset() {
	for i := range m.split {
		m.split[i].reset()
	}
	for i := range m.each {
		m.each[i].Reset()
	}
}
