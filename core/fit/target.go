// Package fit searches a recipe whose render is as near as can be to a target: a drum of a
// reference with its map of what is known, a file, or another voice.
package fit

import (
	"errors"
	"math"

	"jubrak/core/audio"
	"jubrak/core/isolate"
	"jubrak/core/measure"
	"jubrak/core/sound"
)

// Target is what a fit is to come near to.
type Target struct {
	// Sound is one stroke; its rate and channels are its own.
	Sound *audio.Buffer
	// Family is what drum the recipe is to be.
	Family sound.Family
	// Known is what of the sound is known; nil where all of it is. Lead is where in Sound
	// the stroke is, seconds, which Known counts from.
	Known *isolate.Known
	Lead  float64
	// Soft is a soft stroke of the same drum, by how many dB it is softer; nil where none
	// is known.
	Soft   *audio.Buffer
	SoftBy float64
	// Facts are what is known of its measures; nil is all that can be measured.
	Facts *measure.Measures
}

// goal is a target made ready.
type goal struct {
	family sound.Family
	levels [][]float64 // power by frame and mel band
	weight [][]float64 // of each cell in which the target sounds
	sure   [][]float64 // how far each cell is known, 0 to 1
	energy float64     // K-weighted, of the first 300 ms
	floor  float64     // power below which nothing lies
	frames int
	ms     float64 // how long it is rendered
	facts  *measure.Measures
	hz     float64 // where its pitch comes to rest; 0 where it has none
	at     int     // its onset
	partly bool    // not all of it is known
	wave   []float64
	low    []float64 // its lows, at lowRate, from its onset less lowAhead on
}

// Errors that a user can mend.
var (
	ErrSilent = errors.New("the target is silent: choose a part of it that sounds")
	ErrShort  = errors.New("the target is shorter than 10 ms: that is not enough to fit a drum to")
)

const (
	longest  = 1.6   // seconds of a target that are fitted
	shortest = 0.010 // seconds
	late     = 0.25  // weight of a cell after the first 300 ms
	after    = 0.15  // seconds after its end that are silent
	ahead    = 2     // ms before the onset at which frames begin
)

// ready makes a target ready.
func (t *Target) ready() (*goal, error) {
	b := t.Sound.Resample(measure.DistanceRate)
	if b.Frames() < int(shortest*measure.DistanceRate) {
		return nil, ErrShort
	}
	g := &goal{family: t.Family, facts: measure.Measure(b), wave: level(b)}
	peak := b.Peak()
	if peak < 1e-4 {
		return nil, ErrSilent
	}
	if t.Facts != nil {
		g.facts = t.Facts
	}
	g.partly = t.Known != nil
	g.at = measure.Onset(g.wave, measure.DistanceRate)
	last := len(g.wave)
	for last > g.at && math.Abs(g.wave[last-1]) < peak/2000 {
		last--
	}
	seconds := math.Min(math.Max(float64(last-g.at)/measure.DistanceRate, 0.05), longest)
	seconds += after // what rings on after it is too long
	g.frames = int(seconds * measure.DistanceRate / measure.DistanceFrame)
	g.ms = seconds*1000 + 10
	g.levels = measure.MelLevels(g.wave, g.at-ahead*measure.DistanceRate/1000, g.frames)
	top := 0.0
	for k := range g.levels {
		for _, p := range g.levels[k] {
			top = math.Max(top, p)
		}
	}
	g.floor = top * math.Pow(10, -measure.DistanceFloor/10.0)
	lead := float64(g.at)/measure.DistanceRate - t.Lead
	g.weight, g.sure = make([][]float64, g.frames), make([][]float64, g.frames)
	for k := range g.weight {
		g.weight[k], g.sure[k] = make([]float64, measure.DistanceBands), make([]float64, measure.DistanceBands)
		for n, p := range g.levels[k] {
			g.sure[k][n] = 1
			if t.Known != nil {
				g.sure[k][n] = trust(t.Known, lead+(float64(k*measure.DistanceFrame)/measure.DistanceRate-ahead/1000.0), n)
			}
			if p < top*math.Pow(10, -measure.DistanceRange/10.0) {
				continue
			}
			w := 1.0
			if k >= measure.DistanceFrames {
				w = late
			}
			g.weight[k][n] = w * g.sure[k][n]
		}
	}
	g.energy = measure.MelEnergy(known(g.levels, g.weight))
	if g.energy == 0 {
		return nil, ErrSilent
	}
	if hz, ok := measure.Arrives(g.facts.PitchCurve); ok {
		g.hz = hz
	} else if g.facts.Fundamental != nil {
		g.hz = *g.facts.Fundamental
	}
	if tonal(t.Family) {
		g.low = lows(g.wave, g.at)
	}
	return g, nil
}

// brief is the first 450 ms of the goal, which is what most of a search looks at.
func (g *goal) brief() *goal {
	b := *g
	b.frames = min(g.frames, 84)
	b.levels, b.weight, b.sure = g.levels[:b.frames], g.weight[:b.frames], g.sure[:b.frames]
	b.ms = math.Min(g.ms, 460)
	return &b
}

// sound is the target as it is compared: mono, without its offset.
func (g *goal) sound() *audio.Buffer {
	b := audio.New(measure.DistanceRate, 1, len(g.wave))
	for i, v := range g.wave {
		b.Channels[0][i] = float32(v)
	}
	return b
}

// level is mono sound without its offset.
func level(b *audio.Buffer) []float64 {
	x := b.Mono()
	if dc := measure.Offset(x, b.Rate); dc != 0 {
		for i := range x {
			x[i] -= dc
		}
	}
	return x
}

// trust is the weight of a mel band so many seconds after the stroke by a map: all of it
// where it is known within 3 dB, none where it is off by 10.
func trust(m *isolate.Known, seconds float64, band int) float64 {
	k := int(seconds/m.Frame + 0.5)
	if k < 0 {
		k = 0
	}
	if k >= len(m.Error) {
		return 0
	}
	edges := measure.MelEdges()
	hz := (edges[band] + edges[band+1]) / 2
	for n := range m.Error[k] {
		if hz >= m.Edges[n] && hz < m.Edges[n+1] {
			return math.Min(math.Max((10-m.Error[k][n])/(10-isolate.SurelyKnown), 0), 1)
		}
	}
	return 0
}

// known is the levels of cells that count, first 300 ms.
func known(levels, weight [][]float64) [][]float64 {
	out := make([][]float64, min(len(levels), measure.DistanceFrames))
	for k := range out {
		out[k] = make([]float64, len(levels[k]))
		for n, w := range weight[k] {
			if w > 0 {
				out[k][n] = levels[k][n]
			}
		}
	}
	return out
}
