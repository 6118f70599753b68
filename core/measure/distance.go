package measure

import (
	"math"
	"sync"

	"jubrak/core/audio"
	"jubrak/core/dsp"
)

// The distance between two drums lies between their levels in bands and frames.
const (
	DistanceRate   = 48000 // samples a second of all that is compared
	DistanceFrame  = 256   // 5.3 ms
	DistanceBands  = 26
	DistanceFrames = 56 // 300 ms
	DistanceRange  = 40 // dB below the peak: what counts
	DistanceFloor  = 60 // dB below the peak, nothing lies
	shifts         = 8  // ms either way
)

// MelEdges are the edges of the bands, Hz: 26 from 20 Hz to 20 kHz, of equal width in mel
// (2595·log10(1 + f/700), O'Shaughnessy 1987).
func MelEdges() []float64 {
	mel := func(hz float64) float64 { return 2595 * math.Log10(1+hz/700) }
	edges := make([]float64, DistanceBands+1)
	for i := range edges {
		m := mel(20) + (mel(20000)-mel(20))*float64(i)/DistanceBands
		edges[i] = 700 * (math.Pow(10, m/2595) - 1)
	}
	return edges
}

// share is how much of a bin lies in a band.
type share struct {
	bin, band int
	part      float64
}

var sharesOfBins = sync.OnceValue(func() (out []share) {
	const step = DistanceRate / float64(2*DistanceFrame)
	edges := MelEdges()
	for k := range DistanceFrame + 1 {
		for b := range DistanceBands {
			lo, hi := math.Max(edges[b], (float64(k)-0.5)*step), math.Min(edges[b+1], (float64(k)+0.5)*step)
			if hi > lo {
				out = append(out, share{k, b, (hi - lo) / step})
			}
		}
	}
	return out
})

var distanceWindow = sync.OnceValue(func() []float64 {
	w := make([]float64, 2*DistanceFrame)
	for i := range w {
		w[i] = 0.5 - 0.5*math.Cos(2*math.Pi*(float64(i)+0.5)/float64(len(w)))
	}
	return w
})

// MelLevels are powers by frame and mel band of mono sound at DistanceRate: so many frames
// from a place on.
func MelLevels(x []float64, from, frames int) [][]float64 {
	const size = 2 * DistanceFrame
	fft, window := dsp.NewFFT(size), distanceWindow()
	buf, power, other := make([]float64, size), make([]float64, size/2+1), make([]float64, size/2+1)
	out := make([][]float64, frames)
	cells := make([]float64, frames*DistanceBands)
	for t := range out {
		out[t], cells = cells[:DistanceBands], cells[DistanceBands:]
		begin := from + t*DistanceFrame - DistanceFrame/2
		if begin >= len(x) {
			continue
		}
		for i := range buf {
			buf[i] = 0
			if j := begin + i; j >= 0 && j < len(x) {
				buf[i] = x[j] * window[i]
			}
		}
		fft.Powers(buf, buf, power, other)
		for _, s := range sharesOfBins() {
			out[t][s.band] += s.part * power[s.bin]
		}
	}
	return out
}

var bandWeights = sync.OnceValue(func() []float64 {
	edges, out := MelEdges(), make([]float64, DistanceBands)
	for b := range out {
		out[b] = audio.Gain(2 * KWeight(math.Sqrt(math.Max(edges[b], 30)*edges[b+1])))
	}
	return out
})

// MelEnergy is the K-weighted energy of levels (ITU-R BS.1770-4).
func MelEnergy(levels [][]float64) (sum float64) {
	for b, g := range bandWeights() {
		for t := range levels {
			sum += g * levels[t][b]
		}
	}
	return sum
}

// Distance is how far a drum lies from the true one, dB: the mean difference of level in
// mel bands and frames of 5.3 ms over the first 300 ms, where the true one is within 40 dB
// of its peak, both of the same K-weighted energy, at the best shift within 8 ms.
func Distance(drum, truth *audio.Buffer) float64 {
	a, b := drum.Resample(DistanceRate).Mono(), truth.Resample(DistanceRate).Mono()
	want := MelLevels(b, Onset(b, DistanceRate)-2*DistanceRate/1000, DistanceFrames)
	wanted, top := MelEnergy(want), 0.0
	for t := range want {
		for _, p := range want[t] {
			top = math.Max(top, p)
		}
	}
	start := Onset(a, DistanceRate) - 2*DistanceRate/1000
	best := math.Inf(1)
	for shift := -shifts * 48; shift <= shifts*48; shift += 48 {
		got := MelLevels(a, start+shift, DistanceFrames)
		best = math.Min(best, between(got, want, wanted/(MelEnergy(got)+1e-30), top))
	}
	return best
}

func between(got, want [][]float64, gain, top float64) float64 {
	floor := top * math.Pow(10, -DistanceFloor/10.0)
	sum, n := 0.0, 0.0
	for t := range want {
		for b, p := range want[t] {
			if p < top*math.Pow(10, -DistanceRange/10.0) {
				continue
			}
			sum += math.Abs(10 * math.Log10((gain*got[t][b]+floor)/(p+floor)))
			n++
		}
	}
	return sum / math.Max(n, 1)
}

// SpectralDistance is the mean difference of magnitudes, dB, of two sounds that begin
// together and are equally loud, over frames of 256 to 4,096 samples (as the multi-scale
// spectral loss of Engel et al. 2020) of the first 1.2 s, where the true one is within 60 dB
// of its peak at that size.
func SpectralDistance(drum, truth *audio.Buffer) float64 {
	a, b := drum.Resample(DistanceRate).Mono(), truth.Resample(DistanceRate).Mono()
	from, at := Onset(a, DistanceRate), Onset(b, DistanceRate)
	gain := math.Sqrt(energyFrom(b, at) / (energyFrom(a, from) + 1e-30))
	sum, n := 0.0, 0.0
	for size := 256; size <= 4096; size *= 2 {
		got, want := magnitudesOf(a, from, size), magnitudesOf(b, at, size)
		top := 0.0
		for _, v := range want {
			top = math.Max(top, v)
		}
		s, c := 0.0, 0.0
		for i, v := range want {
			if v > top/1000 {
				s += math.Abs(20 * math.Log10((gain*got[i]+top/1e4)/(v+top/1e4)))
				c++
			}
		}
		if c > 0 {
			sum, n = sum+s/c, n+1
		}
	}
	return sum / math.Max(n, 1)
}

const spectralSeconds = 1.2

func energyFrom(x []float64, from int) (sum float64) {
	for i := max(from, 0); i < min(from+int(spectralSeconds*DistanceRate), len(x)); i++ {
		sum += x[i] * x[i]
	}
	return sum
}

func magnitudesOf(x []float64, from, size int) []float64 {
	fft := dsp.NewFFT(size)
	buf, power, other := make([]float64, size), make([]float64, size/2+1), make([]float64, size/2+1)
	var out []float64
	for at := from - size/4; at < from+int(spectralSeconds*DistanceRate); at += size / 4 {
		for i := range buf {
			buf[i] = 0
			if j := at + i; j >= 0 && j < len(x) {
				buf[i] = x[j] * (0.5 - 0.5*math.Cos(2*math.Pi*(float64(i)+0.5)/float64(size)))
			}
		}
		fft.Powers(buf, buf, power, other)
		for _, p := range power {
			out = append(out, math.Sqrt(p))
		}
	}
	return out
}
