package mixreport

import (
	"context"
	"fmt"
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/measure"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// BypassGain returns by how much what is bypassed makes its row louder, or the output where all of
// it is bypassed: its loudest three seconds, K-weighted, LU. Turned up by that, off is as
// loud as on.
func BypassGain(ctx context.Context, d *project.Document, samples sound.Samples, row, effectID string) (float64, error) {
	song := d.Song(samples)
	with, err := outOf(ctx, d, song, row)
	if err != nil {
		return 0, err
	}
	without, err := outOf(ctx, d, song.Without(engine.Bypass{Row: row, Effect: effectID}), row)
	if err != nil {
		return 0, err
	}
	by := short(with) - short(without)
	if math.IsNaN(by) || math.Abs(by) > 60 {
		return 0, nil // one of them is silent: nothing makes them alike
	}
	return by, nil
}

func short(b *audio.Buffer) float64 {
	return measure.Loudest(b, math.Min(3, float64(b.Frames())/float64(b.Rate)))
}

// Sound is what a row gives over so many bars of a project: from silence on until the
// last of it has died away, or wrapped, as a loop that fits itself, what rings over its
// end in its start.
func Sound(ctx context.Context, d *project.Document, samples sound.Samples, row string, bars int, wrapped bool) (*audio.Buffer, error) {
	place := slices.Index(d.Rows(), row)
	if place < 0 {
		return nil, fmt.Errorf("there is no row %q in the mix", row)
	}
	r, err := engine.Render(ctx, d.Song(samples), engine.Bounce{Rate: engine.Rate, Bars: bars, Seamless: wrapped, Stems: true})
	if err != nil {
		return nil, err
	}
	return slices.Concat(r.Stems, r.Buses, []*audio.Buffer{r.Mix})[place], nil
}

// outOf is what a row gives over the first bars of a song.
func outOf(ctx context.Context, d *project.Document, song engine.Song, row string) (*audio.Buffer, error) {
	if row == "" {
		row = project.OutRow
	}
	t, err := take(ctx, d, song, barsOf(&song))
	if err != nil {
		return nil, err
	}
	for i, name := range d.Rows() {
		if name == row {
			return t.rows[i], nil
		}
	}
	return audio.New(engine.Rate, 2, 0), nil
}
