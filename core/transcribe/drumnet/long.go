package drumnet

import (
	"math"

	"gonum.org/v1/gonum/dsp/window"
	"gonum.org/v1/gonum/floats"

	"jubrak/core/dsp"
)

// Long frames, of 93 ms, part the partials of what rings: a ride, a cowbell and
// a chord have few that stand out, a hat and a shaker have none: the strongest
// bin against all of its band is the spectral crest (Peeters 2004, A large set of
// audio features; from memory). They are made where something may start only.
const (
	longSize  = 4096
	longBands = 36 // eighths of an octave from longFirst on
	longFirst = 600.0
	// longInputs is the number of features: power and strongest bin of each
	// band of each frame.
	longInputs = 3 * 2 * longBands
)

// longCentres are the middles of the frames, seconds from the candidate: what
// was there before, what starts, and what is left of it.
var longCentres = [...]float64{-0.052, 0.046, 0.139}

// longEdge is the first bin of a band.
func longEdge(b int) int {
	return int(math.Round(longFirst * math.Exp2(float64(b)/8) * longSize / Rate))
}

// longPitch is the place of a band in the spectrum, in the numbers of the
// coarse bands.
func longPitch(b int) float64 {
	return singles + 4*math.Log2(longFirst*math.Exp2(float64(b)/8)/firstHz)
}

type longFrames struct {
	sound      []float32
	floor      float64
	fft        *dsp.FFT
	win        []float64
	edges      [longBands + 1]int
	waiting    int // frames that are not transformed yet
	frame, pow [2][]float64
	to         [2][]float32 // where their features go
}

func newLongFrames(sound []float32, floor float64) *longFrames {
	const tones = (longSize / size) * (longSize / size) // on the scale of Spectrum.Power
	l := &longFrames{sound: sound, floor: floor * tones, fft: dsp.NewFFT(longSize), win: make([]float64, longSize)}
	for i := range l.win {
		l.win[i] = 1
	}
	window.Hann(l.win)
	for i := range l.frame {
		l.frame[i], l.pow[i] = make([]float64, longSize), make([]float64, longSize/2+1)
	}
	for b := range l.edges {
		l.edges[b] = longEdge(b)
	}
	return l
}

// features writes log power over the floor by frame and band, and then that of
// the strongest bin of each. What is written is complete after finish: frames
// are transformed two at a time, also of two candidates.
func (l *longFrames) features(candidate int, dst []float32) {
	for i, centre := range longCentres {
		k := l.waiting
		clear(l.frame[k])
		l.cut(candidate*Hop+int(centre*Rate)-longSize/2, l.frame[k])
		l.to[k] = dst[2*longBands*i:][:2*longBands]
		if l.waiting++; l.waiting == len(l.frame) {
			l.finish()
		}
	}
}

// finish writes what waits for a second frame.
func (l *longFrames) finish() {
	if l.waiting == 1 {
		clear(l.frame[1])
	}
	if l.waiting > 0 {
		l.fft.Powers(l.frame[0], l.frame[1], l.pow[0], l.pow[1])
	}
	for i := range l.waiting {
		for b := range longBands {
			bins := l.pow[i][l.edges[b]:l.edges[b+1]]
			l.to[i][b], l.to[i][longBands+b] = l.feature(floats.Sum(bins)), l.feature(floats.Max(bins))
		}
	}
	l.waiting = 0
}

// cut writes the sound from a sample on under the window; beyond its ends is
// silence.
func (l *longFrames) cut(from int, dst []float64) {
	for i := max(0, -from); i < len(dst) && from+i < len(l.sound); i++ {
		dst[i] = float64(l.sound[from+i]) * l.win[i]
	}
}

func (l *longFrames) feature(power float64) float32 {
	return float32(math.Log10(1+power/l.floor))/FeatureUnit - 1
}
