package transcribe

import (
	"context"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/measure"
	"jubrak/core/transcribe/drumnet"
)

// Progress is reported which stage of the work is under way and how far the
// whole has come, 0..1.
type Progress func(stage string, done float64)

// Analyze hears a recording. It reports progress and stops early with the
// context's error. A file without drums gives an empty list of hits and no
// grid, not an error.
func Analyze(ctx context.Context, b *audio.Buffer, report Progress) (*Raw, error) {
	return Follow(ctx, b.Clone(), report, func(Raw) {})
}

// Follow is Listen that shows what has been heard so far as each stage ends:
// first the length, then the average spectrum, hits about where they fall,
// hits at their exact times, and the grid. What is shown is not changed later.
// The recording is used up after the first.
func Follow(ctx context.Context, b *audio.Buffer, report Progress, show func(Raw)) (*Raw, error) {
	raw := &Raw{Version: RawVersion, Kind: "audio", Duration: b.Seconds(), SampleRate: b.Rate, Unit: 4, Hits: []Hit{}, Bands: []Band{}}
	show(*raw)
	report("loudness", 0)
	raw.Level = level(b)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	report("preparing", 0.1)
	x := drumnet.PrepareOver(b)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	report("spectrum", 0.15)
	s, err := drumnet.NewSpectrum(ctx, x, func(p float64) { report("spectrum", 0.15+0.4*p) })
	if err != nil {
		return nil, err
	}
	raw.spectrum(x)
	show(*raw)
	report("hits", 0.55)
	scene := drumnet.NewScene(s)
	env := newEnvelopes(x, scene.Lows)
	heard, first, firstGrid := hear(scene, env)
	named := oneSource(scene, heard, decide(heard))
	named = append(named, unnamed(scene, heard, first, named)...)
	raw.Hits = roughly(named)
	raw.Share = share(scene, named)
	show(*raw)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	report("timing", 0.75)
	raw.Hits = timeHits(env, scene, named, firstGrid)
	show(*raw)
	raw.Hits = slices.Clone(raw.Hits) // what was shown is not changed
	report("beats", 0.88)
	if g, ok := findGrid(raw.Hits, raw.Duration); ok {
		grid := g.BeatGrid
		raw.Grid, raw.Confidence, raw.BarOne = &grid, g.confidence, g.barOne
	}
	calibrate(raw.Hits)
	raw.doubt(len(heard))
	show(*raw)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	report("tone", 0.95)
	raw.Hits = slices.Clone(raw.Hits)
	for i := range raw.Hits {
		raw.Hits[i].odds = 0 // the same as when it is read from where it was kept
	}
	report("done", 1)
	return raw, nil
}

func level(b *audio.Buffer) Level {
	var l Level
	if v, ok := measure.Integrated(b); ok {
		l.Integrated = &v
	}
	if peak := b.Peak(); peak > 0 {
		tp := measure.TruePeak(b)
		crest := audio.DB(peak / measure.RMS(b))
		l.TruePeak, l.Crest = &tp, &crest
	}
	return l
}

// spectrum fills in the average spectrum; nothing for silence.
func (raw *Raw) spectrum(x []float32) {
	m := measure.NewMeanSpectrum(x, rate)
	raw.Bands = []Band{}
	if b := m.Balance(); len(b) > 0 {
		raw.Balance = &Balance{Sub: b["sub"], Low: b["low"], LowMid: b["low_mid"], Presence: b["presence"], Air: b["air"]}
	}
	hz, db := m.ThirdOctaves()
	for i := range hz {
		raw.Bands = append(raw.Bands, Band{hz[i], db[i]})
	}
}
