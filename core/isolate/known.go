package isolate

import (
	"math"
	"slices"
)

// Known is the map of what is known of a drum: how wrong a level may be, by frame and band.
// Nothing above SurelyKnown is a measurement.
type Known struct {
	// Edges are those of the bands, Hz.
	Edges []float64 `json:"edges_hz"`
	// Frame is from frame to frame, seconds; the first begins at the stroke.
	Frame float64 `json:"frame_s"`
	// Error is by frame and band, in dB, at most 40.
	Error [][]float64 `json:"error_db"`
	// Level is by frame and band, in dB against the loudest, at least -99.
	Level [][]float64 `json:"level_db"`
	// To is how long after the stroke the drum is known, ms.
	To float64 `json:"to_ms"`
}

// SurelyKnown is up to which error a level counts as measured, dB.
const SurelyKnown = 3.0

const (
	honesty     = 1.5 // how much more an error is taken for than it comes out as
	caution     = 1.5 // how much more again is reported
	trusted     = 6.0 // times as strong may be what else sounds at a stroke
	usualSpread = 8.0 // how far drums of a family lie from the usual one, dB
	mostError   = 40.0
	surely      = 16.0 // times what chance leaves is no stray: the drum still sounds
	fallsAfter  = 90   // ms after its stroke a drum falls in every band
	risesBy     = 6.3  // as beating partials and rooms do, in power
	patience    = 4    // frames that may be unknown in what is known
	sounding    = 40.0 // dB below the loudest: what counts as sounding
)

// bandsOf are parts of an octave, of a bin at least.
func bandsOf(t *transform) (out [][2]int) {
	for from := 0; from < t.bins; {
		to := min(max(from+1, int(math.Round(float64(from)*1.23))), t.bins)
		out = append(out, [2]int{from, to})
		from = to
	}
	return out
}

// levels works out the drum's level by frame and band and how wrong it may be. What
// averaging leaves of all else stands at the end of the window, when the drum is over, and
// is taken off (as a noise floor is from a decay: ISO 3382-1). Where it hides the drum, the
// level is between what was measured and what is usual of the family.
func (r *row) levels(t *transform) {
	r.bands = bandsOf(t)
	frames := len(r.same)
	r.level, r.sure, r.claimed = plane(frames, len(r.bands)), plane(frames, len(r.bands)), plane(frames, len(r.bands))
	upper := plane(frames, len(r.bands))
	end := min(frames, max(int((lead+r.gap())/float64(t.hop)), int(lead+0.25*rate)/t.hop))
	for n, band := range r.bands {
		r.measured(n, band, end, upper)
	}
	r.guess(t, upper)
}

// measured is what was measured of a band.
func (r *row) measured(n int, band [2]int, end int, upper [][]float64) {
	count := math.Max(float64(r.count), 1)
	var strays []float64
	for k := end * 2 / 3; k < end-3; k++ {
		sum := 1e-20
		for b := band[0]; b < band[1]; b++ {
			sum += math.Min(power(r.same[k][b]), surely*r.chance[k][b]) + r.own[k][b]
		}
		strays = append(strays, sum)
	}
	slices.Sort(strays)
	floor, high := strays[len(strays)*4/10], strays[len(strays)*8/10]
	falling := (lead + fallsAfter*rate/1000) / (analysisSize / 4)
	lowest, recent := math.Inf(1), 0.0
	for k := range r.level {
		var total, spread, single float64
		for b := band[0]; b < band[1]; b++ {
			p, v, own := power(r.same[k][b]), r.chance[k][b], r.own[k][b]
			total += p + own
			around := own + r.around[k][b]
			single += math.Max(math.Max(v*count-own, 0), r.around[k][b])
			spread += 2*math.Max(p-v, 0)*v + v*v + around*around/count
		}
		again := false
		recent += (math.Max(total, floor) - recent) / 5
		if k > falling { // a drum that falls does not rise again
			if again = total > lowest*risesBy; again {
				total = lowest
			}
			lowest = math.Min(lowest, recent)
		}
		upper[k][n] = total + 1e-20
		total -= floor
		r.level[k][n] = math.Max(total, 0)
		r.sure[k][n] = honesty * 4.34 * math.Sqrt(spread+high*high) / math.Max(total, 1e-20)
		if total*trusted < single || r.count < 2 {
			r.sure[k][n] = math.Max(r.sure[k][n], 2*SurelyKnown)
		}
		r.claimed[k][n] = caution * r.sure[k][n]
		if again {
			r.sure[k][n] = mostError
		}
		if total < 3*single || total < 4*high || again {
			r.claimed[k][n] = math.Max(r.claimed[k][n], 2*SurelyKnown)
		}
	}
}

// guess fills in what is not known with a usual drum of the family, set to what is known.
func (r *row) guess(t *transform, upper [][]float64) {
	begin := strokeFrame(t)
	var sum, count float64
	sums, counts := make([]float64, len(r.bands)), make([]float64, len(r.bands))
	for k := range r.level {
		for n := range r.bands {
			if db, ok := usual(r.family, n, k-begin); ok && r.sure[k][n] < SurelyKnown {
				d := 10*math.Log10(r.level[k][n]+1e-20) - db
				sums[n], counts[n] = sums[n]+d, counts[n]+1
				if db > -50 {
					sum, count = sum+d, count+1
				}
			}
		}
	}
	for n := range r.bands {
		shift := 0.0
		if count > 0 {
			shift = sum / count
		}
		if counts[n] > 0 {
			shift = sums[n] / counts[n]
		}
		for k := range r.level {
			db, ok := usual(r.family, n, k-begin)
			if r.sure[k][n] < SurelyKnown || !ok || count == 0 {
				continue
			}
			measured, wide := math.Max(r.level[k][n], 0.1*upper[k][n]), math.Min(r.sure[k][n], 12)
			wm, wg := 1/(wide*wide), 1/(usualSpread*usualSpread)
			level := (wm*10*math.Log10(measured) + wg*(db+shift)) / (wm + wg)
			r.level[k][n] = math.Min(math.Pow(10, level/10), upper[k][n])
		}
	}
}

// shaped is the drum in frames: what strokes have in common and its own noise, brought to
// the levels that are known or guessed, times gains by frame and band (nil is 1).
func (r *row) shaped(t *transform, gains [][]float64) [][]complex128 {
	out := grid(len(r.same), t.bins)
	own, want := make([]float64, t.bins), make([]float64, t.bins)
	for k := range r.same {
		smoothOver(own, r.own[k], 3)
		for n, band := range r.bands {
			sum := 1e-20
			for b := band[0]; b < band[1]; b++ {
				p := power(r.same[k][b])
				want[b] = math.Max(p-r.chance[k][b], 0) + own[b] + 0.02*p
				sum += want[b]
			}
			g := r.level[k][n] / sum
			if gains != nil {
				g *= gains[k][n] * gains[k][n]
			}
			for b := band[0]; b < band[1]; b++ {
				out[k][b] = r.same[k][b] * complex(math.Sqrt(g*want[b]/(power(r.same[k][b])+1e-20)), 0)
			}
		}
	}
	return out
}

// common is what strokes have in common without what chance leaves of all else.
func (r *row) common() [][]complex128 {
	out := grid(len(r.same), len(r.same[0]))
	for k := range r.same {
		for b, c := range r.same[k] {
			out[k][b] = c * complex(math.Max(1-r.chance[k][b]/(power(c)+1e-20), 0), 0)
		}
	}
	return out
}

// side is the drum's side: estimated by the same strokes, as the middle is, and brought to
// no more than is measured.
func (r *row) side(t *transform, x []float32) []float32 {
	s := &row{family: r.family, strokes: r.strokes, length: r.length, field: &field{}}
	s.estimate(t, x)
	s.levels(t)
	for k := range s.level {
		for n := range s.bands {
			if s.sure[k][n] >= SurelyKnown {
				s.level[k][n] = 0
			}
		}
	}
	out := t.inverse(s.shaped(t, nil), r.length)
	clear(out[:lead-quietLead])
	return out
}

// known is the map.
func (r *row) known(t *transform) Known {
	k := Known{Frame: FrameSeconds}
	for _, band := range r.bands {
		k.Edges = append(k.Edges, float64(band[0])*rate/analysisSize)
	}
	k.Edges = append(k.Edges, float64(t.bins)*rate/analysisSize)
	begin := strokeFrame(t)
	top, missed := 1e-20, 0
	for f := begin; f < len(r.level); f++ {
		top = math.Max(top, slices.Max(r.level[f]))
	}
	for f := begin; f < len(r.level); f++ {
		errors, levels := make([]float64, len(r.bands)), make([]float64, len(r.bands))
		var sure, all float64
		for n, v := range r.level[f] {
			errors[n] = round1(math.Min(r.claimed[f][n], mostError))
			levels[n] = round1(math.Max(10*math.Log10(v/top+1e-20), -99))
			if levels[n] > -sounding {
				all += v
				if errors[n] < SurelyKnown {
					sure += v
				}
			}
		}
		k.Error, k.Level = append(k.Error, errors), append(k.Level, levels)
		if missed > patience {
			continue
		}
		missed++
		if sure > 0.5*all && all > 0 {
			k.To, missed = math.Round(float64(f-begin+1)*FrameSeconds*1000), 0
		}
	}
	return k
}

// Sounds is whether the drum sounds in a frame and band, as far as is known or guessed.
func (k *Known) Sounds(frame, band int) bool { return k.Level[frame][band] > -sounding }

// typical is the error of the drum's level, weighted by power, dB.
func (k *Known) typical() float64 {
	var sum, all float64
	for f := range k.Level {
		for n, l := range k.Level[f] {
			p := math.Pow(10, l/10)
			sum, all = sum+p*k.Error[f][n], all+p
		}
	}
	return sum / math.Max(all, 1e-20)
}
