package isolate

import "math"

// field is the power that drums add by their own noise, whose phase is not known, by frame
// of the recording and bin.
type field struct{ power [][]float32 }

// at is a frame of the field, nil outside of what anything was added to.
func (f *field) at(k int) []float32 {
	if k < 0 || k >= len(f.power) {
		return nil
	}
	return f.power[k]
}

// grown is a frame of the field to add to, from 0 on.
func (f *field) grown(k, bins int) []float32 {
	for k >= len(f.power) {
		f.power = append(f.power, nil)
	}
	if f.power[k] == nil {
		f.power[k] = make([]float32, bins)
	}
	return f.power[k]
}

// frameOf is the frame of the field in which a stroke's drum begins.
func frameOf(t *transform, place float64) int {
	return int(math.Round((place - lead) / float64(t.hop)))
}

// expect adds the noise of all strokes of the row to the field, times a sign.
func (r *row) expect(t *transform, sign float32) {
	for i := range r.strokes {
		s := &r.strokes[i]
		from := frameOf(t, s.place)
		for k := range r.own {
			at := from + k
			if at < 0 || at > longestPart/t.hop {
				continue
			}
			g := sign * float32(s.gain*s.gain)
			f := r.field.grown(at, t.bins)
			for b, v := range r.own[k] {
				f[b] += g * float32(v)
			}
		}
	}
}

// explains is whether a stroke is taken for the drum to the sample: where most strokes of the
// row are much alike, one that little else hides is, too.
func (r *row) explains(s *stroke) bool {
	if s.match >= leastMatch {
		return true
	}
	return s.match >= hiddenMatch && r.alike()
}

const (
	hiddenMatch = 0.1 // of a stroke under something else
	muchAlike   = 0.5 // the middle of a row whose strokes are alike to the sample
)

// alike is whether the strokes of the row are alike to the sample.
func (r *row) alike() bool {
	n := 0
	for i := range r.strokes {
		if r.strokes[i].match > muchAlike {
			n++
		}
	}
	return 2*n > len(r.strokes)
}

// add adds what the row's strokes have in common to x, times a sign; what is not alike
// explains nothing.
func (r *row) add(x []float32, sign float32) {
	for i := range r.strokes {
		s := &r.strokes[i]
		if !r.explains(s) {
			continue
		}
		at := s.place - lead
		whole := int(math.Floor(at))
		part := float32(at - float64(whole))
		g := sign * float32(s.gain)
		before := float32(0)
		for j, v := range r.wave {
			y := v*(1-part) + before*part
			before = v
			if k := whole + j; k >= 0 && k < len(x) {
				x[k] += g * y
			}
		}
	}
}

// weighSeconds is how much of a stroke is weighed.
const weighSeconds = 0.08

// weigh measures the level of each stroke against the drum, where the drum leads: by
// projection on what strokes have in common and, as far as the drum is its own noise, by
// power. rest is what nothing of this row is taken off.
func (r *row) weigh(t *transform, rest []float32) {
	frames := min(t.frames(lead+int(weighSeconds*rate)), len(r.same))
	X := grid(frames, t.bins)
	least := 1e-14 // what is 40 dB below the drum's peak counts little
	for k := range X {
		for _, c := range r.same[k] {
			least = math.Max(least, 1e-4*power(c))
		}
	}
	change, n := 0.0, 0.0
	gains := make([]float64, len(r.strokes))
	for i := range r.strokes {
		s := &r.strokes[i]
		gains[i] = s.gain
		if s.place < 0 || s.place >= float64(len(rest)) {
			continue
		}
		t.run(rest, s.place-lead, X)
		var dot, norm, excess, noise float64
		from := frameOf(t, s.place)
		for k := range X {
			other := r.field.at(from + k)
			for b, c := range X[k] {
				d, own := r.same[k][b], r.own[k][b]
				w := 1 / (r.around[k][b] + r.chance[k][b]*float64(r.count) + own + least)
				dot += w * (real(c)*real(d) + imag(c)*imag(d))
				norm += w * power(d)
				if own > r.around[k][b] {
					p := power(c)
					if other != nil {
						p -= float64(other[b])
					}
					excess += w * p
					noise += w * (power(d) + own)
				}
			}
		}
		g := s.gain
		switch {
		case norm > 0 && r.explains(s) && dot > 0:
			g = dot / norm
		case noise > 0 && excess > 0:
			g = math.Sqrt(excess / noise)
		}
		gains[i] = s.gain * math.Min(math.Max(g/s.gain, 0.5), 2)
		if s.used {
			change, n = change+math.Log(gains[i]/s.gain), n+1
		}
	}
	if n == 0 {
		return
	}
	same := math.Exp(-change / n) // the drum stays as loud as it is
	for i := range gains {
		r.strokes[i].gain = gains[i] * same
	}
}
