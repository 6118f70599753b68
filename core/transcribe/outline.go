package transcribe

import (
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/sound"
)

// Outline is the shape of a whole recording, bar by bar: which drums play where, how loud
// it is, and where sections seem to begin.
type Outline struct {
	Bars []OutlineBar `json:"bars"`
	// Families are the drums that are heard, in the order of sound.Families.
	Families []sound.Family   `json:"families"`
	Sections []OutlineSection `json:"sections"`
}

// OutlineBar is a bar of a recording.
type OutlineBar struct {
	From float64 `json:"from_s"`
	// Energy is its level against the loudest bar, dB.
	Energy float64 `json:"energy_db"`
	// Hits are how many of each family are heard, in the order of Families.
	Hits []int `json:"hits"`
	// Change is how unlike what follows is what came before, 0..1.
	Change float64 `json:"change"`
}

// OutlineSection is a guess at a section.
type OutlineSection struct {
	// From and Bars are bars, counted from 0.
	From int `json:"from"`
	Bars int `json:"bars"`
	// Like is a letter: sections of one letter are alike.
	Like string `json:"like"`
	// Certainty is how sure its beginning is, 0..1.
	Certainty float64 `json:"certainty"`
}

// outlineReach is how many bars before and behind a place are compared.
const outlineReach = 4

// OutlineOf finds the shape of a recording that was listened to. It needs a beat; without
// one it has no bars. Changes are found as peaks of novelty: a checkerboard is laid over
// the likeness of the bars (Foote 2000, "Automatic audio segmentation using a measure of
// audio novelty", ICME).
func OutlineOf(b *audio.Buffer, a *Analysis) *Outline {
	out := &Outline{Bars: []OutlineBar{}, Families: []sound.Family{}, Sections: []OutlineSection{}}
	if a.Grid == nil || len(a.Downbeats) < 2 {
		return out
	}
	downs := a.Downbeats
	for _, f := range sound.Families {
		if slices.ContainsFunc(a.Hits, func(h Hit) bool { return h.Family == f && h.Confidence >= 0.5 }) {
			out.Families = append(out.Families, f)
		}
	}
	bands := bandLevels(b, downs)
	loudest := -200.0
	for i := range downs {
		to := b.Seconds()
		if i+1 < len(downs) {
			to = downs[i+1]
		} else if to-downs[i] < 0.5*(downs[i]-downs[i-1]) {
			break // a rest of a bar
		}
		bar := OutlineBar{From: downs[i], Hits: make([]int, len(out.Families))}
		early := 0.08 * (to - downs[i])
		for _, h := range a.Hits {
			if k := slices.Index(out.Families, h.Family); k >= 0 && h.Time >= downs[i]-early/4 && h.Time < to-early/4 && h.Confidence >= 0.5 {
				bar.Hits[k]++
			}
		}
		bar.Energy = bands[i][len(bands[i])-1]
		loudest = max(loudest, bar.Energy)
		out.Bars = append(out.Bars, bar)
	}
	for i := range out.Bars {
		out.Bars[i].Energy = math.Round((out.Bars[i].Energy-loudest)*10) / 10
	}
	features := outlineFeatures(out, bands)
	novelty := noveltyOf(features)
	for i := range out.Bars {
		out.Bars[i].Change = certainty(novelty[i])
	}
	out.Sections = sectionsOf(features, novelty)
	return out
}

// bandLevels are the levels of each bar in four bands and in all, dB.
func bandLevels(b *audio.Buffer, downs []float64) [][]float64 {
	mono := b.Mono()
	edges := []float64{30, 150, 600, 2500, 10000}
	const size = 4096
	f := dsp.NewFFT(size / 2)
	bins := make([]complex128, size/2)
	x := make([]float64, size)
	out := make([][]float64, len(downs))
	for i, from := range downs {
		to := b.Seconds()
		if i+1 < len(downs) {
			to = downs[i+1]
		}
		sums := make([]float64, len(edges))
		n := 0
		for at := max(int(from*float64(b.Rate)), 0); at+size <= min(int(to*float64(b.Rate)), len(mono)); at += size {
			copy(x, mono[at:at+size])
			f.Real(x, bins[:size/2])
			for k, c := range bins[:size/2] {
				hz := float64(k) * float64(b.Rate) / size
				p := real(c)*real(c) + imag(c)*imag(c)
				for e := 0; e+1 < len(edges); e++ {
					if hz >= edges[e] && hz < edges[e+1] {
						sums[e] += p
					}
				}
				sums[len(edges)-1] += p
			}
			n++
		}
		for e := range sums {
			out[i] = append(out[i], 10*math.Log10(sums[e]/float64(max(n, 1))/size+1e-9))
		}
	}
	return out
}

// outlineFeatures are a vector for each bar: its drums, and how loud it is in each band.
func outlineFeatures(o *Outline, bands [][]float64) [][]float64 {
	out := make([][]float64, len(o.Bars))
	most := make([]float64, len(o.Families))
	for _, b := range o.Bars {
		for k, n := range b.Hits {
			most[k] = max(most[k], float64(n))
		}
	}
	for i, b := range o.Bars {
		for k, n := range b.Hits {
			out[i] = append(out[i], 1.5*math.Sqrt(float64(n)/max(most[k], 1)))
		}
		for _, db := range bands[i] {
			out[i] = append(out[i], min(max(db, -60), 60)/12)
		}
	}
	return out
}

func unlike(a, b []float64) float64 {
	sum := 0.0
	for i := range a {
		sum += (a[i] - b[i]) * (a[i] - b[i])
	}
	return math.Sqrt(sum / float64(len(a)))
}

// noveltyOf is how much more unlike the bars on both sides of each are than those on one
// side among themselves, 0 and up.
func noveltyOf(features [][]float64) []float64 {
	n := len(features)
	out := make([]float64, n)
	for i := 1; i < n; i++ {
		across, within, pairs, same := 0.0, 0.0, 0, 0
		for a := max(i-outlineReach, 0); a < i; a++ {
			for b := i; b < min(i+outlineReach, n); b++ {
				across += unlike(features[a], features[b])
				pairs++
			}
			for b := a + 1; b < i; b++ {
				within += unlike(features[a], features[b])
				same++
			}
		}
		for a := i; a < min(i+outlineReach, n); a++ {
			for b := a + 1; b < min(i+outlineReach, n); b++ {
				within += unlike(features[a], features[b])
				same++
			}
		}
		d := across / float64(pairs)
		if same > 0 {
			d -= within / float64(same)
		}
		out[i] = max(d, 0)
	}
	return out
}

// certainty is how sure a change of some novelty is, 0..1: one of fullChange is.
func certainty(novelty float64) float64 {
	return math.Round(min(novelty/fullChange, 1)*100) / 100
}

const fullChange = 0.6

// sectionsOf cuts at the peaks of novelty, and gives sections that are alike one letter.
func sectionsOf(features [][]float64, novelty []float64) []OutlineSection {
	n := len(features)
	cuts := []int{0}
	for i := 1; i < n; i++ {
		if certainty(novelty[i]) < 0.25 || i-cuts[len(cuts)-1] < 2 {
			continue
		}
		peak := true
		for k := max(i-2, 1); k < min(i+3, n); k++ {
			if novelty[k] > novelty[i] || novelty[k] == novelty[i] && k < i {
				peak = false
			}
		}
		if peak {
			cuts = append(cuts, i)
		}
	}
	var out []OutlineSection
	var means [][]float64
	for c, from := range cuts {
		to := n
		if c+1 < len(cuts) {
			to = cuts[c+1]
		}
		mean := make([]float64, len(features[from]))
		for i := from; i < to; i++ {
			for k, v := range features[i] {
				mean[k] += v / float64(to-from)
			}
		}
		like := -1
		for k := range means {
			if unlike(means[k], mean) < 0.2 && (like < 0 || unlike(means[k], mean) < unlike(means[like], mean)) {
				like = k
			}
		}
		if like < 0 {
			like = len(means)
			means = append(means, mean)
		}
		sure := certainty(novelty[from])
		if from == 0 {
			sure = 1
		}
		out = append(out, OutlineSection{From: from, Bars: to - from, Like: string(rune('A' + like%26)), Certainty: sure})
	}
	return out
}
