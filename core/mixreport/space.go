package mixreport

import (
	"context"
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/measure"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// BarRoom is how much room a bar of the arrangement leaves for a voice.
type BarRoom struct {
	// FreeOfHits is the share of its sixteenths in which nothing is struck but lows, 0..1.
	FreeOfHits float64 `json:"free_of_hits"`
	// Level is that of the drums between 200 Hz and 4 kHz, dBFS, RMS; -100 where silent.
	Level float64 `json:"level_dbfs"`
	// Room is both together, 0 none to 1 all.
	Room float64 `json:"room"`
	// Crowded is whether a voice would have to fight there.
	Crowded bool `json:"crowded"`
}

// The room of a bar is one half what is free of hits, one half how far the drums' level
// in the voice's octaves lies below that of a voice in a mix: from none at voiceLevel to
// all at 24 dB below it (common practice: a lead voice stands some -18 dBFS in a mix that
// peaks at full scale).
const (
	voiceLevel  = -18.0
	roomRange   = 24.0
	crowdedRoom = 0.4
	voiceLow    = 200.0
	voiceHigh   = 4000.0
)

// lows do not stand where a voice does (common practice).
var lows = map[sound.Family]bool{sound.Kick: true, sound.Bass808: true}

// Against is how loud something behind the drums is beside them.
type Against struct {
	Backing string `json:"backing"`
	// LU is by how much the drums are louder, integrated over the piece.
	LU float64 `json:"drums_above_lu"`
}

// Beside measures how loud the drums of a document's arrangement are against each backing
// that is ready (ITU-R BS.1770-4), at the levels that both have.
func Beside(ctx context.Context, d *project.Document, samples sound.Samples, ready map[string]engine.Ready) ([]Against, error) {
	out := []Against{}
	if len(ready) == 0 {
		return out, nil
	}
	loudness := func(song engine.Song, backings bool) (float64, bool, error) {
		r := measure.NewRunning(engine.Rate)
		err := engine.NewStream(song, engine.Bounce{Rate: engine.Rate, Backings: backings}).Each(ctx, func(left, right []float64) error {
			r.Add(left, right)
			return nil
		})
		lufs, ok := r.Integrated()
		return lufs, ok, err
	}
	drums, some, err := loudness(d.PieceSong(samples), false)
	if err != nil || !some {
		return out, err
	}
	silent := *d
	silent.Kit.Voices = slices.Clone(d.Kit.Voices)
	for i := range silent.Kit.Voices {
		silent.Kit.Voices[i].Mute = true
	}
	for i := range d.Arrangement.Backings {
		b := &d.Arrangement.Backings[i]
		one, ok := ready[b.ID]
		if !ok || b.Mute {
			continue
		}
		song := silent.PieceSong(samples)
		song.Piece.Ready = map[string]engine.Ready{b.ID: one}
		other, some, err := loudness(song, true)
		if err != nil {
			return nil, err
		}
		if some {
			out = append(out, Against{b.ID, math.Round((drums-other)*10) / 10})
		}
	}
	return out, nil
}

// Space measures the room of each bar of a document's arrangement.
func Space(ctx context.Context, d *project.Document, samples sound.Samples) ([]BarRoom, error) {
	line := d.PieceLine()
	var bars []BarRoom
	var ends []int // frames
	for _, s := range line.Spans() {
		for at := s.From; at < s.To; at += s.Meter.BarTicks() {
			bars = append(bars, BarRoom{FreeOfHits: 1, Level: -100})
			ends = append(ends, int(line.Seconds(float64(at+s.Meter.BarTicks()))*engine.Rate))
			taken := map[int]bool{}
			for _, e := range line.Events(at, at+s.Meter.BarTicks(), nil) {
				g := line.Grooves()[e.Part]
				id := g.Lanes[e.Lane].Voice
				if h := g.Lanes[e.Lane].Hits[e.Hit].Sound; h != "" {
					id = h
				}
				if v := d.Kit.Voice(id); v != nil && !v.Mute && !lows[v.Family] {
					taken[(e.Tick-at)/240] = true
				}
			}
			steps := (s.Meter.BarTicks() + 239) / 240
			bars[len(bars)-1].FreeOfHits = 1 - float64(len(taken))/float64(steps)
		}
	}
	low := [2]effect.Filter{effect.NewLowCut(voiceLow, engine.Rate), effect.NewLowCut(voiceLow, engine.Rate)}
	high := [2]effect.Filter{effect.NewHighCut(voiceHigh, engine.Rate), effect.NewHighCut(voiceHigh, engine.Rate)}
	sums, counts := make([]float64, len(bars)), make([]float64, len(bars))
	bar, frame := 0, 0
	err := engine.NewStream(d.PieceSong(samples), engine.Bounce{Rate: engine.Rate}).Each(ctx, func(left, right []float64) error {
		b := effect.Block{Left: left, Right: right}
		for i := range 2 {
			low[i].Process(b, nil)
			high[i].Process(b, nil)
		}
		for i := range left {
			for bar < len(ends) && frame >= ends[bar] {
				bar++
			}
			if bar == len(bars) {
				break
			}
			sums[bar] += left[i]*left[i] + right[i]*right[i]
			counts[bar] += 2
			frame++
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	for i := range bars {
		if counts[i] > 0 && sums[i] > 0 {
			bars[i].Level = math.Max(audio.DB(math.Sqrt(sums[i]/counts[i])), -100)
		}
		quiet := math.Min(math.Max((voiceLevel-bars[i].Level)/roomRange, 0), 1)
		bars[i].Room = (bars[i].FreeOfHits + quiet) / 2
		bars[i].Crowded = bars[i].Room < crowdedRoom
	}
	return bars, nil
}
