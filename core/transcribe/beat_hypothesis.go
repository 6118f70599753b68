package transcribe

import (
	_ "embed"
	"math"
	"sort"

	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// Hypothesis is one way to lay beats and bars over hits: a steady beat, and
// which of its beats starts a bar.
type Hypothesis struct {
	Period, Start float64 // seconds; Start is a beat that starts a bar
	// RMS is how far the hits lie from their sixteenths, in ms.
	RMS float64
}

// HypothesisInputs is the number of features of a hypothesis.
const HypothesisInputs = 4*16 + 16 + 8

// part says which of four rows a family speaks in: kick, snare, hat, others.
func part(f sound.Family) int {
	switch f {
	case sound.Kick:
		return 0
	case sound.Snare, sound.Clap, sound.Rim:
		return 1
	case sound.HatClosed, sound.HatOpen, sound.Shaker, sound.Tambourine, sound.Ride:
		return 2
	}
	return 3
}

// Hypotheses lists the ways to lay bars of four beats over hits: tempi at
// which the hits repeat and their simple multiples, each with its beat on
// every quarter of the beat and its bar on every beat. Hits must be in order.
func Hypotheses(hits []Hit) []Hypothesis {
	var out []Hypothesis
	for _, bpm := range tempi(hits) {
		period, start, rms, ok := steady(bpm, hits)
		if !ok {
			continue
		}
		for quarter := range 16 {
			out = append(out, Hypothesis{period, start + float64(quarter)*period/4, rms})
		}
	}
	return out
}

// tempi are the tempi worth a try: peaks of the autocorrelation of the hits
// and their halves, doubles and three-to-twos, each fitted only once.
func tempi(hits []Hit) (out []float64) {
	for _, base := range tempoCandidates(pulse(hits), 5) {
		for _, ratio := range []float64{1, 2, 0.5, 1.5, 2. / 3, 4. / 3, 0.75} {
			bpm := base * ratio
			known := bpm < slowest || bpm > fastest
			for _, o := range out {
				known = known || math.Abs(math.Log2(bpm/o)) < 0.02
			}
			if !known {
				out = append(out, bpm)
			}
		}
	}
	return out
}

// pulse is the hits as an onset function, at the frames of the ear.
func pulse(hits []Hit) []float64 {
	if len(hits) == 0 {
		return nil
	}
	f := make([]float64, int(hits[len(hits)-1].Time*rate/hop)+100)
	for i := range hits {
		h := &hits[i]
		at := h.Time * rate / hop
		for j := int(at) - 5; j <= int(at)+5; j++ {
			if j >= 0 && j < len(f) {
				d := (float64(j) - at) / 1.6
				f[j] += weight(h.Family) * (0.3 + float64(h.Velocity)/127) * math.Exp(-d*d/2)
			}
		}
	}
	return f
}

// steady finds the period near bpm and the place of its beats, so that the
// hits' beats and eighths lie best: by search on 24 seconds from the middle,
// then by least squares on ever longer parts, so that the phase is never lost.
func steady(bpm float64, hits []Hit) (period, start, rms float64, ok bool) {
	part := around(hits, 24)
	period, start, _ = scan(60/bpm, 0.015, 30, part)
	for _, width := range []float64{0.002, 0.0005} {
		period, start, _ = scan(period, width, 10, part)
	}
	whole := hits[len(hits)-1].Time - hits[0].Time
	for seconds := 24.0; ; seconds *= 2 {
		period, start = refine(period, start, around(hits, seconds))
		if seconds >= whole {
			break
		}
	}
	var sum, n float64
	for i := range hits {
		x := (hits[i].Time - start) / period * 2
		d := (x - math.Round(x)) * period / 2
		if math.Abs(d) < 0.06*period {
			sum, n = sum+d*d, n+1
		}
	}
	if n < 4 {
		return 0, 0, 0, false
	}
	return period, start, 1000 * math.Sqrt(sum/n), true
}

// around is the hits of so many seconds from the middle.
func around(hits []Hit, seconds float64) []Hit {
	middle := (hits[0].Time + hits[len(hits)-1].Time) / 2
	from := sort.Search(len(hits), func(i int) bool { return hits[i].Time >= middle-seconds/2 })
	to := sort.Search(len(hits), func(i int) bool { return hits[i].Time > middle+seconds/2 })
	if to-from < 4 {
		return hits
	}
	return hits[from:to]
}

// Features writes what the network sees of a hypothesis to dst, of length
// HypothesisInputs: how much of each part is struck on each sixteenth of the
// bar, where in the bar the first hit lies, the tempo and how well it fits,
// and how many hits and bars speak for it.
func (y *Hypothesis) Features(hits []Hit, dst []float64) {
	clear(dst)
	step := y.Period / 4
	var strokes, odd, off float64
	first, last := math.Inf(1), math.Inf(-1)
	for i := range hits {
		h := &hits[i]
		x := (h.Time - y.Start) / step
		k := math.Round(x)
		d := math.Abs(x - k)
		at := ((int(k) % 16) + 16) % 16
		dst[part(h.Family)*16+at] += (0.25 + 0.75*float64(h.Velocity)/127) * h.Confidence
		strokes++
		if at%2 == 1 {
			odd++
		}
		off += d
		first, last = math.Min(first, k), math.Max(last, k)
	}
	bars := math.Max((last-first+1)/16, 0.5)
	for i := range 64 {
		dst[i] /= bars
	}
	dst[64+((int(first)%16)+16)%16] = 1
	tempo := math.Log2(60 / y.Period / 110)
	copy(dst[80:], []float64{tempo, tempo * tempo, y.RMS / 20, strokes / (4 * bars) / 4, odd / strokes, off / strokes * 4, math.Log2(strokes) / 5, math.Log2(bars) / 3})
}

//go:embed grid.bin.gz
var gridWeights []byte

var gridModel = drumnet.Shipped(gridWeights)

// weighed are the ways to lay bars over hits and how likely each is; that none
// of them is right takes the rest to 1.
type weighed struct {
	all []Hypothesis
	p   []float64
	top int
}

// weigh judges the hypotheses against each other, and against that none of
// them is right, whose log odds are 0.
func weigh(hits []Hit) (w weighed, ok bool) {
	w.all = Hypotheses(hits)
	if len(w.all) == 0 {
		return w, false
	}
	x := make([]float64, HypothesisInputs)
	w.p = make([]float64, len(w.all))
	for i := range w.all {
		w.all[i].Features(hits, x)
		w.p[i] = gridModel().Run(x)[0]
		if w.p[i] > w.p[w.top] {
			w.top = i
		}
	}
	most := w.p[w.top]
	sum := math.Exp(-most)
	for i, o := range w.p {
		w.p[i] = math.Exp(o - most)
		sum += w.p[i]
	}
	for i := range w.p {
		w.p[i] /= sum
	}
	return w, true
}

// best is the likeliest hypothesis.
func (w *weighed) best() Hypothesis { return w.all[w.top] }

// tempo is how likely a beat of so many seconds is, with any bar one.
func (w *weighed) tempo(period float64) (p float64) {
	for i := range w.all {
		if math.Abs(w.all[i].Period/period-1) < 0.01 {
			p += w.p[i]
		}
	}
	return p
}

// barOne is how likely a beat of so many seconds is with bars that start there.
func (w *weighed) barOne(period, start float64) (p float64) {
	for i := range w.all {
		if math.Abs(w.all[i].Period/period-1) >= 0.01 {
			continue
		}
		beats := (w.all[i].Start - start) / period
		if d := beats/4 - math.Round(beats/4); math.Abs(d) < 0.04 {
			p += w.p[i]
		}
	}
	return p
}
