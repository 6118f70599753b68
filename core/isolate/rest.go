package isolate

import (
	"context"
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/measure"
	"jubrak/core/transcribe"
)

// Split parts a stretch of a recording, which begins at from seconds, into its drums and
// the rest, which add up to it. At each stroke the drum is taken off band by band as far as
// it is there to the sample; what of it is left as noise is taken off in power (a Wiener
// gain). but names drums that stay in the rest, by their index.
func Split(ctx context.Context, b *audio.Buffer, from float64, list []Drum, but ...int) (struck, rest *audio.Buffer, err error) {
	b = b.Resample(rate)
	struck, rest = &audio.Buffer{Rate: rate}, &audio.Buffer{Rate: rate}
	for c := range b.Channels {
		x := slices.Clone(b.Channels[c])
		t := newTransform(analysisSize)
		noise := &field{}
		for i := range list {
			if slices.Contains(but, i) {
				continue
			}
			if err := ctx.Err(); err != nil {
				return nil, nil, err
			}
			d := &list[i]
			wave := d.Sound.Channels[min(c, len(d.Sound.Channels)-1)]
			X := grid(t.frames(len(wave)), t.bins)
			t.run(wave, 0, X)
			for _, s := range d.Strokes {
				t.takeOff(x, (s.Time-from)*rate, X, math.Pow(10, s.Level/20), len(wave), noise)
			}
		}
		t.quieten(x, noise)
		rest.Channels = append(rest.Channels, x)
		y := make([]float32, len(x))
		for i := range y {
			y[i] = b.Channels[c][i] - x[i]
		}
		struck.Channels = append(struck.Channels, y)
	}
	return struck, rest, nil
}

// against measures how loud each drum is against the rest of a part of the recording, which
// begins at from seconds, both K-weighted (ITU-R BS.1770-4).
func against(ctx context.Context, b *audio.Buffer, from float64, list []Drum) error {
	struck, rest, err := Split(ctx, b, from, list)
	if err != nil {
		return err
	}
	drums, some := measure.Integrated(struck)
	others, both := measure.Integrated(rest)
	if !some || !both {
		return nil
	}
	all, each := 0.0, make([]float64, len(list))
	for i := range list {
		x := list[i].Sound.Mono()
		each[i] = measure.MelEnergy(measure.MelLevels(x, 0, len(x)/measure.DistanceFrame)) * list[i].struck()
		all += each[i]
	}
	for i := range list {
		db := drums - others + 10*math.Log10(each[i]/math.Max(all, 1e-20)+1e-12)
		list[i].Facts.Rest = &Measure{round1(db), round1(math.Max(list[i].Known.typical(), restError))}
	}
	return nil
}

// restError is how far the drums' level against the rest lies off, dB: the mean over the
// mixes of fixtures/alone is 1.
const restError = 1.3

// Share is how loud all drums are against the rest; nil where that is not known.
func Share(list []Drum) *transcribe.Share {
	sum := 0.0
	for i := range list {
		if list[i].Facts.Rest == nil {
			return nil
		}
		sum += math.Pow(10, list[i].Facts.Rest.Value/10)
	}
	if sum == 0 {
		return nil
	}
	return &transcribe.Share{DB: math.Min(math.Max(10*math.Log10(sum), -transcribe.ShareLimit), transcribe.ShareLimit), Error: restError}
}

// Strike adds a drum at all its strokes to a stretch, which begins at from seconds. shot
// begins 3 ms before the stroke and has the stretch's rate.
func Strike(b *audio.Buffer, from float64, d *Drum, shot *audio.Buffer) {
	for _, s := range d.Strokes {
		at := int(math.Round((s.Time - from - 0.003) * float64(b.Rate)))
		g := float32(math.Pow(10, s.Level/20))
		for c := range b.Channels {
			for i, v := range shot.Channels[min(c, len(shot.Channels)-1)] {
				if j := at + i; j >= 0 && j < b.Frames() {
					b.Channels[c][j] += g * v
				}
			}
		}
	}
}

// takeOff takes a drum off a stroke in each band by how much of it is there, at most by its
// gain, and notes in noise what is not.
func (t *transform) takeOff(x []float32, place float64, drum [][]complex128, gain float64, length int, noise *field) {
	if place < -float64(length) || place > float64(len(x)) {
		return
	}
	X, off := grid(len(drum), t.bins), grid(len(drum), t.bins)
	t.run(x, place-lead, X)
	first := frameOf(t, place)
	for _, band := range bandsOf(t) {
		var dot, norm float64
		for k := range drum {
			for b := band[0]; b < band[1]; b++ {
				d, c := drum[k][b], X[k][b]
				dot += real(c)*real(d) + imag(c)*imag(d)
				norm += power(d)
			}
		}
		there := 0.0
		if norm > 0 {
			there = math.Min(math.Max(dot/norm, 0), 1.25*gain)
		}
		if there < 0.3*gain { // by chance
			there = 0
		}
		left := math.Max(gain*gain-there*there, 0)
		for k := range drum {
			for b := band[0]; b < band[1]; b++ {
				off[k][b] = complex(there, 0) * drum[k][b]
			}
			if at := first + k; left > 0 && at >= 0 {
				f := noise.grown(at, t.bins)
				for b := band[0]; b < band[1]; b++ {
					f[b] += float32(left * power(drum[k][b]))
				}
			}
		}
	}
	y := t.inverse(off, length)
	whole := int(math.Floor(place - lead))
	part := float32(place - lead - float64(whole))
	before := float32(0)
	for i, v := range y {
		if j := whole + i; j >= 0 && j < len(x) {
			x[j] -= v*(1-part) + before*part
		}
		before = v
	}
}

// least is the least gain of quieten: less sounds of water.
const leastGain = 0.15

// quieten takes the power in noise off x.
func (t *transform) quieten(x []float32, noise *field) {
	X := grid(t.frames(len(x)), t.bins)
	t.run(x, 0, X)
	changed := false
	// A frame of the field begins a drum's window before its frame.
	for k := range X {
		f := noise.at(k)
		if f == nil {
			continue
		}
		changed = true
		for b, c := range X[k] {
			g := math.Sqrt(math.Max(1-float64(f[b])/(power(c)+1e-20), leastGain*leastGain))
			X[k][b] = c * complex(g, 0)
		}
	}
	if changed {
		high := t.above(x)
		copy(x, t.inverse(X, len(x)))
		for i, v := range high {
			x[i] += v
		}
	}
}

// above is what of x lies beyond the bins.
func (t *transform) above(x []float32) []float32 {
	X := grid(t.frames(len(x)), t.bins)
	t.run(x, 0, X)
	y := t.inverse(X, len(x))
	for i := range y {
		y[i] = x[i] - y[i]
	}
	return y
}
