package effect

// line is a delay line that is read at any place, of a length that is a power
// of two.
type line struct {
	x    []float64
	at   int
	used int // how many have been written since it was empty
}

func newLine(frames int) line {
	n := 4
	for n < frames {
		n *= 2
	}
	return line{x: make([]float64, n)}
}

// write adds the newest sample.
func (l *line) write(v float64) {
	l.x[l.at] = v
	l.at = (l.at + 1) & (len(l.x) - 1)
	l.used++
}

// read is the sample so many frames before the one that is written next, 1 for
// the last one written; straight between samples.
func (l *line) read(frames float64) float64 {
	whole := int(frames)
	part := frames - float64(whole)
	mask := len(l.x) - 1
	a := l.x[(l.at-whole)&mask]
	if part == 0 {
		return a
	}
	return a + (l.x[(l.at-whole-1)&mask]-a)*part
}

func (l *line) reset() {
	if l.used < len(l.x) {
		for i := 1; i <= l.used; i++ { // a short sound has not filled it
			l.x[(l.at-i)&(len(l.x)-1)] = 0
		}
	} else {
		clear(l.x)
	}
	l.at, l.used = 0, 0
}
