package service

import (
	"bytes"
	"context"
	"math"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/measure"
	"jubrak/core/music"
	"jubrak/core/project"
	"jubrak/core/transcribe"
)

// Roots are the bass notes that stand in a reference, beat by beat, and after how many
// ticks they repeat.
type Roots struct {
	Roots []project.Root `json:"roots"`
	Lasts int            `json:"lasts_ticks"`
	// Measurable is in how many of the beats a note could be known.
	Measurable int `json:"measurable"`
	Beats      int `json:"beats"`
}

// Bounds of a bass, Hz, and the most beats that are listened to.
const (
	lowestBass, highestBass = 30, 220
	mostRootBeats           = 256
)

// RootsOf hears the bass of a reference: of a MIDI file the lowest note that sounds on
// each beat, of a recording the pitch of its lows. A drummer's channel has no roots.
func (s *Service) RootsOf(ctx context.Context, id, refID string) (*Roots, error) {
	ref, err := s.reference(id, refID)
	if err != nil {
		return nil, err
	}
	if ref.Kind == "profile" {
		return nil, &Refusal{Code: "no_sound", Message: "A profile has no bass to follow."}
	}
	a, err := env{s}.Analysis(ref)
	if err != nil {
		return nil, err
	}
	if a.Grid == nil {
		return nil, &Refusal{Code: "no_sound", Message: "No beat was found in this reference, so its bass has no places."}
	}
	beats := min(len(a.Grid.Beats), mostRootBeats)
	if a.Bars > 0 { // of the whole file: a bass goes round less often than drums do
		beats = min(beats, a.Bars*a.Grid.PerBar)
	}
	if whole := beats - beats%a.Grid.PerBar; whole > 0 { // whole bars, so that they go round
		beats = whole
	}
	var notes []int // 0: not reported
	if ref.Kind == "midi" {
		data, err := s.Store.Blob(ref.Blob)
		if err != nil {
			return nil, err
		}
		p, err := format.ReadMIDI(bytes.NewReader(data))
		if err != nil {
			return nil, err
		}
		notes = lowestNotes(p, a.Grid, beats)
	} else {
		b, err := s.sound(ref)
		if err != nil {
			return nil, err
		}
		notes = bassOf(b, a, beats)
	}
	out := &Roots{Roots: []project.Root{}, Beats: beats}
	ticks := music.PPQ * 4 / a.Unit
	for i, n := range notes {
		if n == 0 {
			continue
		}
		out.Measurable++
		last := len(out.Roots) - 1
		if last >= 0 && out.Roots[last].Note == n && out.Roots[last].At+out.Roots[last].Length == i*ticks {
			out.Roots[last].Length += ticks
			continue
		}
		out.Roots = append(out.Roots, project.Root{At: i * ticks, Length: ticks, Note: n})
	}
	out.Lasts = beats * ticks
	if len(out.Roots) == 0 {
		return nil, &Refusal{Code: "no_sound", Message: "No bass with a clear pitch is heard in this reference. Type the chords instead."}
	}
	return out, nil
}

func lowestNotes(p *format.Performance, grid *groove.BeatGrid, beats int) []int {
	out := make([]int, beats)
	for i := range out {
		at := grid.Seconds(float64(i) + 0.25)
		for _, n := range p.Notes {
			if n.Channel != 9 && p.Seconds(n.Tick) <= at && p.Seconds(n.Tick+n.Length) > at && (out[i] == 0 || n.Key < out[i]) {
				out[i] = n.Key
			}
		}
	}
	return out
}

// bassOf reports the pitch of the lows over each beat, from a little after its start,
// where the kick is over.
func bassOf(b *audio.Buffer, a *transcribe.Analysis, beats int) []int {
	out := make([]int, beats)
	if b == nil {
		return out
	}
	rate := float64(b.Rate)
	x := b.Mono()
	one, two := dsp.LowPass(highestBass*1.2, 0.5412, rate), dsp.LowPass(highestBass*1.2, 1.3066, rate)
	for i, v := range x {
		x[i] = two.Next(one.Next(v))
	}
	for i := range out {
		from := int(a.Grid.Seconds(float64(i)+0.2) * rate)
		to := int(a.Grid.Seconds(float64(i)+0.95) * rate)
		if from < 0 || to > len(x) || to-from < int(0.1*rate) {
			continue
		}
		if hz, ok := measure.Fundamental(x[from:to], b.Rate, lowestBass, highestBass); ok {
			out[i] = int(math.Round(music.NoteOf(hz)))
		}
	}
	return out
}
