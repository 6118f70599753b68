package compare

import (
	"fmt"
	"math"
	"math/cmplx"
	"slices"
	"strings"

	"gonum.org/v1/gonum/dsp/fourier"

	"jubrak/core/engine"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// Together is how the layers of a voice add up.
type Together struct {
	// Losses are where the sum has less energy than its layers by themselves, in
	// order of frequency.
	Losses []Loss `json:"losses"`
	// Text says it in a sentence; empty for a voice of fewer than two layers.
	Text string `json:"text"`
	// Change says what would make the layers add up better, Edits do it; both are
	// empty where little is to be won: half a decibel where layers cancel, 2 dB
	// where they do not.
	Change string        `json:"change"`
	Edits  project.Edits `json:"edits"`
}

// Loss is a part of the spectrum where layers cancel.
type Loss struct {
	From float64 `json:"from_hz"`
	To   float64 `json:"to_hz"`
	// By is the energy of the sum against that of its layers, dB, negative.
	By float64 `json:"by_db"`
}

const (
	sumFrames = 1 << 15 // 0.68 s
	farthest  = 0.010   // seconds that a layer is moved at most
	lossFrom  = -2.0    // dB from which a loss is reported
	worthIt   = 0.5     // dB that a change must win where layers cancel
	worthMore = 2.0     // and where they do not: to move an attack costs something, too
	heardDown = 20.0    // dB below the fullest third octave that are looked at
)

// AddUp renders each layer of a voice by itself and sets their sum against them,
// by third octaves. What would align them best is reported: the lag and the polarity
// of each against the fullest, by cross-correlation.
func AddUp(v *sound.Voice, samples sound.Samples) *Together {
	out := &Together{Losses: []Loss{}, Edits: project.Edits{}}
	var layers []*sound.Layer
	var places []int
	fft := fourier.NewFFT(sumFrames)
	for i := range v.Layers {
		l := &v.Layers[i]
		if l.Rumble != nil || l.Turn != sound.Always {
			continue // it is not struck together with the others
		}
		if s := spectrumOf(v, i, samples, fft, 1); !l.Mute && energy(s, 0, len(s)) > 0 {
			layers, places = append(layers, l), append(places, i)
		}
	}
	if len(layers) < 2 {
		return out
	}
	// Noise differs from hit to hit: what it cancels by chance is no loss.
	var strokes [][][]complex128
	for seed := range uint64(4) {
		var spectra [][]complex128
		for _, i := range places {
			spectra = append(spectra, spectrumOf(v, i, samples, fft, seed))
		}
		strokes = append(strokes, spectra)
	}
	spectra := strokes[0]
	out.Losses = losses(strokes)
	out.Text = "No cancellation between layers."
	if len(out.Losses) > 0 {
		var parts []string
		for _, l := range out.Losses {
			parts = append(parts, fmt.Sprintf("%.0f dB at %.0f to %.0f Hz", l.By, l.From, l.To))
		}
		out.Text = minus.Replace(" Layers cancel: " + strings.Join(parts, ", ") + ".")[1:]
	}
	out.align(v.ID, layers, spectra, fft)
	return out
}

// spectrumOf is the spectrum of a stroke of a layer by itself, as it is among the others.
func spectrumOf(v *sound.Voice, layer int, samples sound.Samples, fft *fourier.FFT, seed uint64) []complex128 {
	one := sound.Alone(slices.Clone(v.Layers)...)
	for i := range one.Layers {
		one.Layers[i].Solo, one.Layers[i].Mute = i == layer, false
	}
	x := make([]float64, sumFrames)
	copy(x, synth.Shot(one, samples, engine.Rate, synth.Hard(110, seed), 600).Mono())
	return fft.Coefficients(nil, x)
}

func energy(s []complex128, from, to int) (sum float64) {
	for _, c := range s[from:to] {
		sum += real(c)*real(c) + imag(c)*imag(c)
	}
	return sum
}

// losses compares the sums of the layers' spectra with them, over some strokes,
// by third octaves (centres 1000·10^(n/10) Hz, IEC 61260-1) from 25 Hz on.
func losses(strokes [][][]complex128) []Loss {
	type band struct{ from, to, own, sum float64 }
	var bands []band
	fullest := 0.0
	edge := math.Pow(10, 0.05)
	var totals [][]complex128
	for _, spectra := range strokes {
		totals = append(totals, sumOf(spectra))
	}
	for n := -16; n <= 12; n++ {
		centre := 1000 * math.Pow(10, float64(n)/10)
		b := band{from: centre / edge, to: centre * edge}
		lo, hi := int(math.Ceil(b.from*sumFrames/engine.Rate)), int(math.Ceil(b.to*sumFrames/engine.Rate))
		for i, spectra := range strokes {
			for _, s := range spectra {
				b.own += energy(s, lo, hi)
			}
			b.sum += energy(totals[i], lo, hi)
		}
		fullest = math.Max(fullest, b.own)
		bands = append(bands, b)
	}
	out := []Loss{}
	joins := false
	for _, b := range bands {
		by := 10 * math.Log10(math.Max(b.sum, 1e-30)/math.Max(b.own, 1e-30))
		lost := by < lossFrom && b.own > fullest*math.Pow(10, -heardDown/10)
		switch {
		case lost && joins:
			l := &out[len(out)-1]
			l.To, l.By = b.to, math.Min(l.By, by)
		case lost:
			out = append(out, Loss{b.from, b.to, by})
		}
		joins = lost
	}
	return out
}

func sumOf(spectra [][]complex128) []complex128 {
	out := make([]complex128, len(spectra[0]))
	for _, s := range spectra {
		for k := range s {
			out[k] += s[k]
		}
	}
	return out
}

// align finds where each layer would add most to the fullest one.
func (t *Together) align(voice string, layers []*sound.Layer, spectra [][]complex128, fft *fourier.FFT) {
	anchor := 0
	for i := range spectra {
		if energy(spectra[i], 0, len(spectra[i])) > energy(spectra[anchor], 0, len(spectra[anchor])) {
			anchor = i
		}
	}
	starts := make([]float64, len(layers))
	flips := make([]bool, len(layers))
	earliest := 0.0
	var parts []string
	won := append([]complex128(nil), spectra[anchor]...)
	for i, l := range layers {
		starts[i] = l.Start
		if i == anchor {
			continue
		}
		lag, flip := bestLag(spectra[anchor], spectra[i], fft)
		starts[i] += float64(lag) / engine.Rate * 1000
		flips[i] = flip
		earliest = math.Min(earliest, starts[i])
		for k := range won {
			turn := cmplx.Rect(1, -2*math.Pi*float64(k)*float64(lag)/sumFrames)
			if flip {
				turn = -turn
			}
			won[k] += spectra[i][k] * turn
		}
		if lag != 0 || flip {
			text := l.Name
			if lag != 0 {
				text += fmt.Sprintf(" %+.1f ms", float64(lag)/engine.Rate*1000)
			}
			if flip {
				text += " inverted"
			}
			parts = append(parts, text)
		}
	}
	now := sumOf(spectra)
	win := 10 * math.Log10(energy(won, 0, len(won))/math.Max(energy(now, 0, len(now)), 1e-30))
	least := worthIt
	if len(t.Losses) == 0 {
		least = worthMore
	}
	if len(parts) == 0 || win < least {
		return
	}
	t.Change = minus.Replace(fmt.Sprintf("Align: %s (%+.1f dB)", strings.Join(parts, "; "), win))
	for i, l := range layers {
		if start := starts[i] - earliest; math.Abs(start-l.Start) > 1e-9 {
			t.Edits = append(t.Edits, project.SetNumber{At: project.LayerAddress(voice, l.ID, "start_ms"), Value: start})
		}
		if flips[i] {
			flip := 1.0
			if l.Flip {
				flip = 0
			}
			t.Edits = append(t.Edits, project.SetNumber{At: project.LayerAddress(voice, l.ID, "flip"), Value: flip})
		}
	}
}

// bestLag is by how many frames x is to come later, and whether turned over, to
// add most to a.
func bestLag(a, x []complex128, fft *fourier.FFT) (lag int, flip bool) {
	product := make([]complex128, len(a))
	for k := range a {
		product[k] = a[k] * cmplx.Conj(x[k])
	}
	c := fft.Sequence(nil, product)
	best, asItIs := 0.0, math.Abs(c[0])
	most := int(farthest * engine.Rate)
	for d := -most; d <= most; d++ {
		v := c[(d+len(c))%len(c)]
		if worth := math.Abs(v); worth > best {
			best, lag, flip = worth, d, v < 0
		}
	}
	if asItIs > 0.995*best { // nobody hears the rest
		return 0, c[0] < 0
	}
	return lag, flip
}
