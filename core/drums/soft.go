package drums

import "math"

// Soft is how the drum changes from loud to soft strokes.
type Soft struct {
	// Strokes is how many soft ones there are, Level how loud they are against loud ones, dB.
	Strokes int     `json:"strokes"`
	Level   float64 `json:"level_db"`
	// Brightness is how much brighter the soft ones are, as a ratio of spectral centroids
	// of their first 80 ms; Decay how much longer.
	Brightness float64 `json:"brightness_ratio"`
	Decay      float64 `json:"decay_ratio"`
}

const (
	softBelow  = 6.0 // dB below loud ones
	leastSofts = 3
)

// soft compares the strokes that are at least 6 dB softer than loud ones with those; nil
// where there are not enough of either.
func (r *row) soft(t *transform, rest []float32) *Soft {
	var loud, soft []int
	top := 0.0
	for _, i := range r.inUse() {
		top = math.Max(top, r.strokes[i].gain)
	}
	for i := range r.strokes {
		s := &r.strokes[i]
		if s.out || s.place < 0 || s.place >= float64(len(rest)) {
			continue
		}
		switch db := 20 * math.Log10(s.gain/top); {
		case db > -softBelow/2:
			loud = append(loud, i)
		case db < -softBelow && db > -30:
			soft = append(soft, i)
		}
	}
	if len(loud) < leastSofts || len(soft) < leastSofts {
		return nil
	}
	lb, ld, ll := r.kindOf(t, rest, loud)
	sb, sd, sl := r.kindOf(t, rest, soft)
	if lb == 0 || sb == 0 || ld == 0 || sd == 0 {
		return nil
	}
	round := func(v float64) float64 { return math.Round(v*100) / 100 }
	return &Soft{Strokes: len(soft), Level: round1(sl - ll), Brightness: round(sb / lb), Decay: round(sd / ld)}
}

// kindOf is the brightness of some strokes, Hz, how long they last (the middle of their
// power in time), frames, and how loud they are, dB: medians over bins of what is known.
func (r *row) kindOf(t *transform, rest []float32, strokes []int) (brightness, lasts, level float64) {
	frames := min(t.frames(lead+int(weighSeconds*rate)), len(r.same))
	X := grid(frames, t.bins)
	sum := plane(frames, len(r.bands))
	gain := 0.0
	for _, i := range strokes {
		s := &r.strokes[i]
		gain += 20 * math.Log10(s.gain) / float64(len(strokes))
		t.run(rest, s.place-lead, X)
		if s.match >= leastMatch {
			put(X, r.same[:frames], s.gain)
		}
		for k := range X {
			other := r.field.at(frameOf(t, s.place) + k)
			for n, band := range r.bands {
				for b := band[0]; b < band[1]; b++ {
					p := power(X[k][b])
					if other != nil {
						p -= math.Max(float64(other[b])-s.gain*s.gain*r.own[k][b], 0)
					}
					sum[k][n] += p / (s.gain * s.gain)
				}
			}
		}
	}
	var all, hz, late float64
	for k := range sum {
		for n, v := range sum[k] {
			if r.sure[k][n] >= SurelyKnown || v <= 0 {
				continue
			}
			p := math.Sqrt(v)
			all += p
			hz += p * float64(r.bands[n][0]+r.bands[n][1]) / 2 * rate / analysisSize
			late += p * float64(k)
		}
	}
	if all == 0 {
		return 0, 0, gain
	}
	return hz / all, late / all, gain
}
