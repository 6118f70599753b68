package audition

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/measure"
	"jubrak/core/sound"
	"jubrak/core/stretch"
)

// Both is one hit of mine, then the reference's drum of the same family.
type Both struct {
	Family sound.Family `json:"family"`
}

// Blind is one side of a blind test.
type Blind struct {
	Game string `json:"game"`
	// Side is a, b or x.
	Side string `json:"side"`
}

const (
	bothHit   = 0.7  // seconds of a hit at most
	bothPause = 0.25 // seconds
	bothSlow  = 0.25
	bothPeak  = 0.7
)

// OneAfterOther is two hits, as loud as each other, one after the other, then both at a
// quarter of the speed, at the rate of the first, each in two channels.
func OneAfterOther(first, second *audio.Buffer) *audio.Buffer {
	second = second.Resample(first.Rate)
	list := []*audio.Buffer{hitOf(first), hitOf(second)}
	loud := []float64{measure.Loudest(list[0], 0.1), measure.Loudest(list[1], 0.1)}
	peak := 0.0
	for i, b := range list {
		if g := audio.Gain(math.Min(loud[0], loud[1]) - loud[i]); !math.IsNaN(g) && !math.IsInf(g, 0) {
			scaleBy(b, g)
		}
		peak = math.Max(peak, b.Peak())
	}
	out := audio.New(first.Rate, 2, 0)
	add := func(b *audio.Buffer) {
		scaleBy(b, bothPeak/math.Max(peak, 1e-6))
		for c := range out.Channels {
			out.Channels[c] = append(out.Channels[c], b.Channels[min(c, len(b.Channels)-1)]...)
			out.Channels[c] = append(out.Channels[c], make([]float32, int(bothPause*float64(first.Rate)))...)
		}
	}
	slow := []*audio.Buffer{stretch.Varispeed(list[0], bothSlow), stretch.Varispeed(list[1], bothSlow)}
	for _, b := range append(list, slow...) {
		add(b)
	}
	return out
}

func hitOf(b *audio.Buffer) *audio.Buffer {
	out := b.Slice(0, min(b.Frames(), int(bothHit*float64(b.Rate)))).Clone()
	n := min(b.Rate/100, out.Frames())
	for _, ch := range out.Channels {
		for i := range n {
			ch[len(ch)-1-i] *= float32(i) / float32(n)
		}
	}
	return out
}

func scaleBy(b *audio.Buffer, g float64) {
	for _, ch := range b.Channels {
		for i := range ch {
			ch[i] *= float32(g)
		}
	}
}
