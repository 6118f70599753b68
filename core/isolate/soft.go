package isolate

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/measure"
)

// Soft is how the drum changes from loud to soft strokes.
type Soft struct {
	// Sound is a soft stroke, as loud as the drum itself would be: a velocity layer.
	Sound *audio.Buffer `json:"-"`
	// Strokes is how many soft ones there are, Level how loud they are against loud ones, dB.
	Strokes int     `json:"strokes"`
	Level   float64 `json:"level_db"`
	// Brightness and Decay are those of soft strokes against loud ones, as ratios; nil
	// where they cannot be measured.
	Brightness *float64 `json:"brightness_ratio"`
	Decay      *float64 `json:"decay_ratio"`
}

const (
	softBelow  = 6.0 // dB below loud ones
	softLeast  = -24.0
	leastSofts = 4
)

// soft puts together the strokes that are at least 6 dB softer than loud ones, and
// compares them with those; nil where there are not enough of either.
func (r *row) soft(t *transform, rest []float32) *Soft {
	top := 0.0
	for _, i := range r.inUse() {
		top = math.Max(top, r.strokes[i].gain)
	}
	kind := func(from, to float64) (*row, float64) {
		k := *r
		k.strokes = append([]stroke(nil), r.strokes...)
		level, n := 0.0, 0
		for i := range k.strokes {
			s := &k.strokes[i]
			db := 20 * math.Log10(s.gain/top)
			s.used = !s.out && n < mostStrokes && s.place >= 0 && s.place < float64(len(rest)) && db > from && db <= to
			if s.used {
				level, n = level+db, n+1
			}
		}
		if n < leastSofts {
			return nil, 0
		}
		k.estimate(t, rest)
		k.levels(t)
		return &k, level / float64(n)
	}
	soft, low := kind(softLeast, -softBelow)
	loud, high := kind(-softBelow/2, 0)
	if soft == nil || loud == nil {
		return nil
	}
	sound := func(k *row) *audio.Buffer {
		x := t.inverse(k.shaped(t, nil), k.length)
		clear(x[:lead-quietLead])
		return &audio.Buffer{Rate: rate, Channels: [][]float32{x}}
	}
	out := &Soft{Sound: sound(soft), Strokes: soft.count, Level: round1(low - high)}
	a, b := measure.Measure(out.Sound), measure.Measure(sound(loud))
	out.Brightness, out.Decay = ratio(a.Centroid, b.Centroid), ratio(a.Decay, b.Decay)
	return out
}

func ratio(a, b *float64) *float64 {
	if a == nil || b == nil || *b == 0 {
		return nil
	}
	v := math.Round(*a / *b * 100) / 100
	return &v
}
