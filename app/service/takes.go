package service

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"strings"

	"jubrak/core/format"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Take is what was played on pads or keys to a click.
type Take struct {
	Name  string    `json:"name"`
	Tempo float64   `json:"tempo_bpm"`
	Beats int       `json:"beats"`
	Hits  []TakeHit `json:"hits"`
}

// TakeHit is one stroke; Time counts from the end of the count-in and is a
// little below zero where the first comes early.
type TakeHit struct {
	Time     float64      `json:"time_s"`
	Family   sound.Family `json:"family"`
	Velocity int          `json:"velocity"`
}

const (
	takePPQ  = 3840
	mostHits = 5000
)

// performance is the take as a MIDI performance on the click's grid. Where a
// hit comes before bar one, an empty bar stands in front.
func (t *Take) performance() (*format.Performance, error) {
	if !(t.Tempo >= music.MinBPM && t.Tempo <= music.MaxBPM) || t.Beats < 1 || t.Beats > 16 {
		return nil, fmt.Errorf("a take needs its tempo and meter")
	}
	if len(t.Hits) == 0 {
		return nil, fmt.Errorf("nothing was played; tap the pads after the count-in")
	}
	if len(t.Hits) > mostHits {
		return nil, fmt.Errorf("a take holds at most %d hits", mostHits)
	}
	micros := int(math.Round(60e6 / t.Tempo))
	p := &format.Performance{PPQ: takePPQ, Meter: music.Meter{Beats: t.Beats, Unit: 4}, Tempo: []format.MIDITempo{{Micros: micros}}}
	lead := 0
	for _, h := range t.Hits {
		if h.Time < 0 {
			lead = t.Beats * takePPQ
		}
	}
	for _, h := range t.Hits {
		if !(h.Time > -1 && h.Time < 3600) || !h.Family.Known() || h.Velocity < 1 || h.Velocity > 127 {
			return nil, fmt.Errorf("a hit of the take has no time, family or strength")
		}
		tick := max(lead+int(math.Round(h.Time*1e6/float64(micros)*takePPQ)), 0)
		p.Notes = append(p.Notes, format.MIDINote{Tick: tick, Length: takePPQ / 8, Channel: 9, Key: h.Family.Key(), Velocity: h.Velocity})
	}
	return p, nil
}

// AddTake adds a take to a project as its active reference: it is measured
// exactly like any other performance.
func (s *Service) AddTake(ctx context.Context, id string, t *Take) (*State, error) {
	p, err := t.performance()
	if err != nil {
		return nil, &Refusal{Code: "invalid", Message: Sentence(err)}
	}
	var midi bytes.Buffer
	name := strings.TrimSpace(t.Name)
	if name == "" {
		name = "Take"
	}
	if err := format.WriteMIDI(&midi, p, name); err != nil {
		return nil, err
	}
	var quiet transcribe.Progress = func(string, float64) {}
	defer s.naming()()
	ref, err := s.Prepare(ctx, name, midi.Bytes(), quiet)
	if err != nil {
		return nil, err
	}
	if err := s.attach(id, ref); err != nil {
		return nil, err
	}
	return s.Open(id)
}
