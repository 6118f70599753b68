package listen

import (
	"context"
	"fmt"
	"math"
	"sort"
	"sync"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/sound"
	"jubrak/core/tone"
)

// Progress is told which stage of the work is under way and how far the
// whole has come, 0..1.
type Progress func(stage string, done float64)

// Listen hears a recording. It reports progress and stops early with the
// context's error. A file without drums gives an empty list of hits and no
// grid, not an error.
func Listen(ctx context.Context, b *audio.Buffer, report Progress) (*Raw, error) {
	raw := &Raw{Version: RawVersion, Kind: "audio", Duration: b.Seconds(), SampleRate: b.Rate, Unit: 4, Hits: []Hit{}}
	// Loudness is measured beside the rest.
	var beside sync.WaitGroup
	defer beside.Wait()
	beside.Go(func() { raw.Level = level(b) })
	report("preparing", 0)
	x := prepare(b)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	report("spectrum", 0.15)
	s, err := newSpectrum(ctx, x, func(p float64) { report("spectrum", 0.15+0.45*p) })
	if err != nil {
		return nil, err
	}
	raw.Balance = balance(x)
	report("hits", 0.6)
	all, low, mid, high := s.flux()
	onsets := pickOnsets(all, low, mid, high)
	rises := make([][bands]float64, len(onsets))
	for i := range onsets {
		rises[i] = s.rise(onsets[i].frame)
	}
	named := nameHits(s, onsets, rises)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	report("timing", 0.7)
	raw.Hits = timeHits(x, onsets, named)
	report("beats", 0.88)
	if g, ok := findGrid(all, raw.Hits, raw.Duration); ok {
		grid := g.BeatGrid
		raw.Grid, raw.Confidence = &grid, g.confidence
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	report("tone", 0.95)
	raw.KickHz = kickFundamental(x, raw.Hits)
	report("loudness", 0.98)
	beside.Wait()
	report("done", 1)
	return raw, nil
}

// prepare gives mono at the analysis rate without DC, at a standard level.
// Where left and right cancel, the louder side is taken instead of the sum.
func prepare(b *audio.Buffer) []float64 {
	mono := &audio.Buffer{Rate: b.Rate, Channels: [][]float32{make([]float32, b.Frames())}}
	var sum, side float64
	for i, v := range b.Mono() {
		mono.Channels[0][i] = float32(v)
		sum += v * v
	}
	loudest := 0
	for c, ch := range b.Channels {
		var e float64
		for _, v := range ch {
			e += float64(v) * float64(v)
		}
		if e > side {
			side, loudest = e, c
		}
	}
	if sum < side/20 {
		mono.Channels[0] = b.Channels[loudest]
	}
	x := mono.Resample(rate).Mono()
	cut := dsp.HighPass(20, math.Sqrt2/2, rate)
	cut.Run(x)
	return x
}

func level(b *audio.Buffer) Level {
	var l Level
	if v, ok := tone.Integrated(b); ok {
		l.Integrated = &v
	}
	if peak := b.Peak(); peak > 0 {
		tp := tone.TruePeak(b)
		crest := audio.DB(peak / tone.RMS(b))
		l.TruePeak, l.Crest = &tp, &crest
	}
	return l
}

// balance is nil for silence.
func balance(x []float64) *Balance {
	b := tone.Balance(x, rate)
	if len(b) == 0 {
		return nil
	}
	return &Balance{Sub: b["sub"], Low: b["low"], LowMid: b["low_mid"], Presence: b["presence"], Air: b["air"]}
}

// timeHits gives each drum its own acoustic onset, from the envelope of the
// part of the spectrum where the family lives, and a velocity from its level
// against the family's loudest.
func timeHits(x []float64, onsets []onset, named []found) []Hit {
	var low, mid, high, full envelope
	var all sync.WaitGroup
	all.Go(func() { low = newEnvelope(x, dsp.LowPass(250, 0.7, rate)) })
	all.Go(func() {
		mid = newEnvelope(x, dsp.HighPass(140, 0.7, rate), dsp.LowPass(1500, 0.7, rate), dsp.LowPass(1500, 0.7, rate))
	})
	all.Go(func() { high = newEnvelope(x, dsp.HighPass(7000, 0.7, rate), dsp.HighPass(7000, 0.7, rate)) })
	all.Go(func() { full = newEnvelope(x) })
	all.Wait()
	loud := map[sound.Family]float64{}
	for f, levels := range levelsByFamily(named) {
		sort.Float64s(levels)
		loud[f] = levels[(len(levels)-1)*95/100]
	}
	hits := make([]Hit, 0, len(named))
	for i, n := range named {
		at := onsets[n.onset].frame * hop
		env, delay := &high, 0.0
		switch hatless(n.family) {
		case sound.Kick:
			env, delay = &low, 0.0008
		case sound.Snare:
			env, delay = &mid, 0.0003
		}
		alone := (i == 0 || named[i-1].onset != n.onset) && (i+1 == len(named) || named[i+1].onset != n.onset)
		if alone {
			env, delay = &full, 0
		}
		sample, rise := env.start(at)
		if rise < 1.5 {
			sample = at
		}
		velocity := 112 * math.Sqrt(n.level/math.Max(loud[n.family], 1e-15))
		hits = append(hits, Hit{
			Time: math.Max(float64(sample)/rate-delay, 0), Family: n.family,
			Velocity:   int(math.Min(math.Max(math.Round(velocity), 1), 127)),
			Confidence: math.Round(n.confidence*100) / 100,
		})
	}
	sort.SliceStable(hits, func(a, b int) bool { return hits[a].Time < hits[b].Time })
	hits = dropDoubles(hits)
	for i := range hits {
		hits[i].ID = fmt.Sprintf("r%d", i+1)
	}
	return hits
}

// hatless folds the families into the three parts of the spectrum.
func hatless(f sound.Family) sound.Family {
	switch f {
	case sound.Kick, sound.Snare:
		return f
	}
	return sound.HatClosed
}

func levelsByFamily(named []found) map[sound.Family][]float64 {
	out := map[sound.Family][]float64{}
	for _, n := range named {
		out[n.family] = append(out[n.family], n.level)
	}
	return out
}

// dropDoubles removes a second hit of one family within 25 ms.
func dropDoubles(hits []Hit) []Hit {
	last := map[sound.Family]int{}
	out := hits[:0]
	for _, h := range hits {
		if j, ok := last[h.Family]; ok && h.Time-out[j].Time < 0.025 {
			out[j].Velocity = max(out[j].Velocity, h.Velocity)
			continue
		}
		last[h.Family] = len(out)
		out = append(out, h)
	}
	return out
}

// kickFundamental measures the kick on its cleanest hits: those with most
// room before the next hit. nil where there is none to be told.
func kickFundamental(x []float64, hits []Hit) *float64 {
	type clean struct{ at, room float64 }
	var found []clean
	for i, h := range hits {
		if h.Family != sound.Kick {
			continue
		}
		room := float64(len(x))/rate - h.Time
		for j := i + 1; j < len(hits); j++ {
			if d := hits[j].Time - h.Time; d > 0.03 {
				// A hat in the tail does not hide the lows.
				if hatless(hits[j].Family) != sound.HatClosed {
					room = d
					break
				}
			}
		}
		if room > 0.1 {
			found = append(found, clean{h.Time, math.Min(room, 0.5)})
		}
	}
	sort.SliceStable(found, func(a, b int) bool { return found[a].room > found[b].room })
	var all []float64
	for _, c := range found[:min(len(found), 8)] {
		from := int(c.at * rate)
		to := min(from+int((c.room-0.01)*rate), len(x))
		part := append([]float64(nil), x[from:to]...)
		cut := dsp.LowPass(400, 0.7, rate)
		cut.Run(part)
		if hz, ok := tone.Fundamental(part, rate, 25, 200); ok {
			all = append(all, hz)
		}
	}
	if len(all) == 0 {
		return nil
	}
	sort.Float64s(all)
	hz := all[len(all)/2]
	return &hz
}
