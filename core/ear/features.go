package ear

import "math"

// slots are the stretches of time around a candidate, in frames from it,
// that the network sees: fine at the onset, coarse before and after.
var slots = [][2]int{{-10, -7}, {-6, -4}, {-3, -3}, {-2, -2}, {-1, -1}, {0, 0}, {1, 1}, {2, 2}, {3, 3}, {4, 5}, {6, 8}, {9, 13}, {14, 20}, {21, 30}}

// Inputs is the number of features of a candidate: log power by slot and
// band, and how loud each band is in the file at large.
const Inputs = 14*Bands + Bands

// Scene is a sound prepared for the network.
type Scene struct {
	*Spectrum
	*Flux
	// Candidates are frames at which something may start, rising.
	Candidates []int
	logs       [][Bands]float32
	usual      [Bands]float32
}

// NewScene prepares a spectrum.
func NewScene(s *Spectrum) *Scene {
	c := &Scene{Spectrum: s, logs: s.logs()}
	c.Flux = newFlux(c.logs)
	c.Candidates = c.Flux.candidates()
	column := make([]float64, len(c.logs))
	for b := range Bands {
		for i := range c.logs {
			column[i] = float64(c.logs[i][b])
		}
		c.usual[b] = float32(quantile(column, 0.97))
	}
	return c
}

// Features writes what the network sees at a frame to dst, of length Inputs.
func (c *Scene) Features(frame int, dst []float64) {
	last := len(c.logs) - 1
	at := 0
	for _, s := range slots {
		for b := range Bands {
			var sum float32
			for i := s[0]; i <= s[1]; i++ {
				if frame+i >= 0 { // before the file is silence
					sum += c.logs[min(frame+i, last)][b]
				}
			}
			dst[at] = float64(sum/float32(s[1]-s[0]+1))/3 - 1
			at++
		}
	}
	for b := range Bands {
		dst[at] = float64(c.usual[b])/3 - 1
		at++
	}
}

// Reference is the level in dB against which the network tells levels.
func (c *Scene) Reference() float64 { return 10 * math.Log10(math.Max(c.loudest(), 1e-12)) }
