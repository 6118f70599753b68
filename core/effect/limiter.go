package effect

import "math"

// ahead is how far the limiter looks ahead, frames: 1.3 ms at 48 kHz.
const ahead = 64

// Limiter keeps samples from going beyond full scale, whatever comes in, and
// leaves what stays below as it is. It looks ahead: the gain that a sample needs
// is reached by a straight fall before it comes, and released over a tenth of a
// second. What is not a number is silence.
//
// The gain is a running minimum over the look-ahead, smoothed by a running mean
// of the same length, so that no sample can escape it (the usual form of a
// look-ahead limiter; common practice).
type Limiter struct {
	release float64
	held    [ahead]float64 // what each of the next samples needs
	soft    [ahead]float64 // the gains that are averaged
	sum     float64        // of soft
	env     float64
	late    [2][ahead]float64
	at      int
	calm    int // frames since anything was turned down
	low     float64
	lowAt   int // frames until low has gone
}

// releaseMS is the time in which most of a gain reduction is over.
const releaseMS = 100

// NewLimiter is a limiter at rest.
func NewLimiter(rate float64) Limiter {
	l := Limiter{release: 1 - math.Exp(-1000/(releaseMS*rate))}
	l.Reset()
	return l
}

// Process limits both channels alike.
func (l *Limiter) Process(b Block, _ []float64) {
	right := b.Right
	if right == nil {
		right = b.Left
	}
	for i := range b.Left {
		x, y := sound(b.Left[i]), sound(right[i])
		l.next(b.Left, right, i, x, y, max(math.Abs(x), math.Abs(y)))
	}
}

// limit is Process with the peaks that each frame has, which may be larger than its
// samples.
func (l *Limiter) limit(b Block, peaks []float64) {
	for i, peak := range peaks {
		x, y := sound(b.Left[i]), sound(b.Right[i])
		l.next(b.Left, b.Right, i, x, y, max(peak, max(math.Abs(x), math.Abs(y))))
	}
}

// next takes one frame and its peak, and puts what comes out in its place.
func (l *Limiter) next(left, right []float64, i int, x, y, peak float64) {
	need := 1.0
	if peak > 1 {
		need = 1 / peak
	}
	l.held[l.at] = need
	l.late[0][l.at], l.late[1][l.at] = x, y
	gain := l.gain(need)
	if l.at++; l.at == ahead {
		l.at = 0
	}
	outX, outY := l.late[0][l.at], l.late[1][l.at]
	left[i] = clip(outX * gain)
	right[i] = clip(outY * gain)
}

// gain is that of the sample which comes out now.
func (l *Limiter) gain(need float64) float64 {
	if need == 1 && l.calm >= 2*ahead {
		return 1
	}
	low := l.least(need)
	if low < l.env {
		l.env = low
	} else if l.env += (low - l.env) * l.release; l.env > 1-1e-6 {
		l.env = 1
	}
	l.sum += l.env - l.soft[l.at]
	l.soft[l.at] = l.env
	if l.env < 1 {
		l.calm = 0
	} else if l.calm++; l.calm == 2*ahead {
		l.sum = ahead
	}
	return l.sum / ahead
}

// least is the running minimum of what is held. It is looked for anew only when the
// one that it was has gone.
func (l *Limiter) least(need float64) float64 {
	switch {
	case need <= l.low:
		l.low, l.lowAt = need, ahead
	case l.lowAt == 0:
		l.low = 1
		for k := range ahead { // the newest last, so that it stays longest
			if v := l.held[(l.at+1+k)%ahead]; v <= l.low {
				l.low, l.lowAt = v, k+1
			}
		}
	}
	l.lowAt--
	return l.low
}

// sound is x, or silence where x is no number or absurdly large.
func sound(x float64) float64 {
	if !(math.Abs(x) < 1e9) {
		return 0
	}
	return x
}

func clip(x float64) float64 { return min(max(x, -1), 1) }

// Holding reports whether the limiter turns something down.
func (l *Limiter) Holding() bool { return l.calm < 2*ahead }

// Latency is the look-ahead.
func (l *Limiter) Latency() int { return ahead - 1 }

// Tail is 0.
func (l *Limiter) Tail() int { return 0 }

// Reset forgets the past.
func (l *Limiter) Reset() {
	for i := range l.held {
		l.held[i], l.soft[i] = 1, 1
	}
	l.sum, l.env, l.calm, l.at = ahead, 1, 2*ahead, 0
	l.low, l.lowAt = 1, 0
	l.late = [2][ahead]float64{}
}
