package workshop

import (
	"context"

	"jubrak/app/live"
	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/study"
)

// Study is how a project's monitor prepares a stretch of a reference for close
// listening.
func (s *Workshop) Study(id string) live.Prepare {
	return func(ctx context.Context, settings study.Settings) (*audio.Buffer, error) {
		if settings.Reference == "" {
			return study.Metronome(engine.Rate, settings)
		}
		ref, err := s.reference(id, settings.Reference)
		if err != nil {
			return nil, err
		}
		a, err := env{s}.Analysis(ref)
		if err != nil {
			return nil, err
		}
		b, err := s.sound(ref)
		if err != nil {
			return nil, err
		}
		if b == nil { // a MIDI performance has clicks alone
			return study.RenderClicks(ctx, engine.Rate, a, settings)
		}
		return study.Render(ctx, b, a, settings)
	}
}

// Spectrogram pictures a stretch of a reference; nil for MIDI.
func (s *Workshop) Spectrogram(id, refID string, from, to float64, columns int) (*study.Spectrogram, error) {
	ref, err := s.reference(id, refID)
	if err != nil {
		return nil, err
	}
	b, err := s.sound(ref)
	if err != nil {
		return nil, err
	}
	if b == nil {
		return &study.Spectrogram{From: from, To: to, Hz: []float64{}, Levels: []byte{}}, nil
	}
	return study.Picture(b, from, to, columns), nil
}
