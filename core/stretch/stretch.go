// Package stretch makes sounds longer or shorter with their pitch kept.
package stretch

import (
	"math"
	"sort"

	"jubrak/core/audio"
)

const (
	pre  = 0.012 // seconds kept as they are before an onset
	post = 0.030 // and after it
)

// span is a part of the source that is copied as it is to a place of the
// output; frames. last is where its last onset is in the source.
type span struct{ from, to, out, last int }

// Sound plays the buffer at speed (0.25 to 1) with its pitch kept: waveform
// similarity overlap-add (Verhelst & Roelands, ICASSP 1993) between onsets,
// while 12 ms before to 30 ms after each onset are copied as they are, so that
// attacks are neither smeared nor doubled. onsets are seconds.
func Sound(b *audio.Buffer, speed float64, onsets []float64) *audio.Buffer {
	n := b.Frames()
	length := int(float64(n) / speed)
	out := audio.New(b.Rate, len(b.Channels), length)
	mono := b.Mono()
	frame := b.Rate * 24 / 1000 / 2 * 2
	half := frame / 2
	spans := kept(onsets, speed, n-half, b.Rate)
	window := make([]float32, frame)
	for i := range window {
		window[i] = float32(0.5 - 0.5*math.Cos(2*math.Pi*(float64(i)+0.5)/float64(frame)))
	}
	before := 0 // where the last frame was read
	at := 0     // of spans
	for k := -1; k*half < length; k++ {
		start := k * half
		middle := start + half
		for at < len(spans) && spans[at].out+spans[at].to-spans[at].from <= middle {
			at++
		}
		var read int
		if at < len(spans) && middle >= spans[at].out {
			read = spans[at].from + start - spans[at].out
		} else {
			read = between(mono, spans, at, start, middle, before+half, frame, speed)
		}
		before = read
		for c, ch := range b.Channels {
			for i := range frame {
				if j, o := read+i, start+i; j >= 0 && j < n && o >= 0 && o < length {
					out.Channels[c][o] += ch[j] * window[i]
				}
			}
		}
	}
	return out
}

// kept lays out the spans around the onsets, within the first n frames; those
// that touch in the source are one.
func kept(onsets []float64, speed float64, n, rate int) []span {
	sorted := append([]float64(nil), onsets...)
	sort.Float64s(sorted)
	var out []span
	for _, t := range sorted {
		from, to := int((t-pre)*float64(rate)), min(int((t+post)*float64(rate)), n)
		if to <= max(from, 0) {
			continue
		}
		if l := len(out) - 1; l >= 0 && from <= out[l].to {
			out[l].to, out[l].last = to, int(t*float64(rate))
			continue
		}
		out = append(out, span{from, to, int(t/speed*float64(rate)) - int(pre*float64(rate)), int(t * float64(rate))})
	}
	return out
}

// between finds where to read a frame that lies between spans: near where the
// time map points, and where it continues the frame before best.
func between(x []float64, spans []span, at, start, middle, natural, frame int, speed float64) int {
	lo, hi := 0, len(x)-frame
	fromSource, fromOut := 0.0, 0.0
	toSource, toOut := float64(len(x)), float64(len(x))/speed
	if at > 0 {
		s := spans[at-1]
		lo, fromSource, fromOut = s.to-frame/2, float64(s.to), float64(s.out+s.to-s.from)
		// Close to the end the tail is all there is to go on with, but the
		// attack is not heard twice.
		lo = min(lo, max(hi-frame/2, s.last+frame/4))
	}
	if at < len(spans) {
		s := spans[at]
		hi, toSource, toOut = min(hi, s.from+int(pre*0.6*float64(frame)/0.024)-frame), float64(s.from), float64(s.out)
	}
	want := int(fromSource + (float64(middle)-fromOut)/math.Max(toOut-fromOut, 1)*(toSource-fromSource))
	want = min(max(want-frame/2, lo), max(hi, lo))
	reach := frame / 2
	best, bestScore := want, math.Inf(-1)
	for p := max(want-reach, lo); p <= min(want+reach, max(hi, lo)); p += 2 {
		if score := likeness(x, p, natural, frame/2); score > bestScore {
			best, bestScore = p, score
		}
	}
	return best
}

// likeness is the normalised correlation of n samples at two places, read at
// every third sample.
func likeness(x []float64, a, b, n int) float64 {
	if a < 0 || b < 0 || a+n >= len(x) || b+n >= len(x) {
		return -2
	}
	var ab, aa float64
	for i := 0; i < n; i += 3 {
		ab += x[a+i] * x[b+i]
		aa += x[a+i] * x[a+i]
	}
	return ab / math.Sqrt(aa+1e-9)
}

// Varispeed plays the buffer at speed with its pitch, as tape does.
func Varispeed(b *audio.Buffer, speed float64) *audio.Buffer {
	slow := &audio.Buffer{Rate: int(math.Round(float64(b.Rate) * speed)), Channels: b.Channels}
	return slow.Resample(b.Rate)
}
