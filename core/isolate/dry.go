package isolate

import (
	"math"
	"slices"
)

// room is what the drums of a recording have in common after they are over: by band, how
// fast it falls, dB a frame; 0 where it is not known.
type room struct{ fall []float64 }

// lateFrames is how long a fall must be known to count, frames.
const lateFrames = 10

// roomOf is the slower of the falls of all drums, where several agree.
func roomOf(rows []*row) *room {
	if len(rows) == 0 {
		return &room{}
	}
	out := &room{fall: make([]float64, len(rows[0].bands))}
	for n := range out.fall {
		var falls []float64
		for _, r := range rows {
			if late, _, ok := r.falls(n); ok {
				falls = append(falls, late)
			}
		}
		slices.Sort(falls)
		if len(falls) >= 2 && falls[1] < 2*falls[0] {
			out.fall[n] = (falls[0] + falls[1]) / 2
		}
	}
	return out
}

// falls are how fast a band falls late and early, dB a frame, where both are known.
func (r *row) falls(n int) (late, early float64, ok bool) {
	x, y := r.fallOf(n)
	if len(x) < lateFrames+4 {
		return 0, 0, false
	}
	half := len(x) - lateFrames
	return slopeOf(x[half:], y[half:]), slopeOf(x[:max(half, 4)], y[:max(half, 4)]), true
}

// fallOf are the frames and levels, dB, of a band from its peak on as far as it is known
// without a gap.
func (r *row) fallOf(n int) (x, y []float64) {
	top := 0
	for k := range r.level {
		if r.sure[k][n] < SurelyKnown && r.level[k][n] > r.level[top][n] {
			top = k
		}
	}
	for k := top; k < len(r.level) && r.sure[k][n] < SurelyKnown; k++ {
		x, y = append(x, float64(k)), append(y, 10*math.Log10(r.level[k][n]+1e-20))
	}
	return x, y
}

// slopeOf is the fall of levels over frames: the median of slopes between points (Theil
// 1950, Sen 1968).
func slopeOf(x, y []float64) float64 {
	var slopes []float64
	for i := range x {
		for j := i + 2; j < len(x); j++ {
			slopes = append(slopes, (y[i]-y[j])/(x[j]-x[i]))
		}
	}
	if len(slopes) == 0 {
		return 0
	}
	slices.Sort(slopes)
	return slopes[len(slopes)/2]
}

// driest is the least that is left of what the room is taken off.
const driest = 0.1

// off are gains, by frame and band, that take the room off a drum: of bands that fall twice
// as fast at first as the room does, the room's line through their last known levels is
// taken off in power. nil where no band does; sure is the share of the known bands.
func (m *room) off(r *row) (gains [][]float64, sure float64) {
	gains = plane(len(r.level), len(r.bands))
	var two, all float64
	for k := range gains {
		for n := range gains[k] {
			gains[k][n] = 1
		}
	}
	for n := range r.bands {
		late, early, ok := r.falls(n)
		if !ok {
			continue
		}
		all++
		if len(m.fall) <= n || m.fall[n] == 0 || early < 2*m.fall[n] || late > 1.7*m.fall[n] {
			continue
		}
		two++
		x, y := r.fallOf(n)
		end, level := x[len(x)-1], 0.0
		for i := len(y) - lateFrames; i < len(y); i++ { // through the middle of what is late
			level += (y[i] - m.fall[n]*(end-x[i])) / lateFrames
		}
		for k := int(x[0]) + 1; k < len(r.level); k++ {
			reverb := math.Pow(10, (level+m.fall[n]*(end-float64(k)))/10)
			if float64(k) > end {
				gains[k][n] = driest
				continue
			}
			gains[k][n] = math.Sqrt(math.Max(1-reverb/(r.level[k][n]+1e-20), driest*driest))
		}
	}
	if two == 0 {
		return nil, 0
	}
	return gains, math.Round(100*two/all) / 100
}
