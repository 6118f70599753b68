package workshop

import (
	"context"

	"jubrak/app/live"
	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/deliver"
	"jubrak/core/engine"
	"jubrak/core/stretch"
	"jubrak/core/study"
)

// Study is how a project's monitor prepares a stretch of a reference for close
// listening.
func (s *Workshop) Study(id string) live.Prepare {
	return func(ctx context.Context, settings study.Settings) (*audio.Buffer, error) {
		if settings.Voice != "" {
			return s.slowed(id, settings)
		}
		if settings.Place != nil {
			return s.together(ctx, id, settings)
		}
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

// slowestVoice is the least speed of a voice that is slowed down, mostSlowed the
// longest that is heard of it, seconds.
const (
	slowestVoice = 1.0 / 16
	mostSlowed   = 12
)

// slowed is one hit of a voice, slower, with a pause after it.
func (s *Workshop) slowed(id string, settings study.Settings) (*audio.Buffer, error) {
	if !(settings.Speed >= slowestVoice && settings.Speed <= 1) {
		return nil, &Refusal{Code: "invalid", Message: "A sound is heard at a sixteenth of its speed up to its own."}
	}
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	v := st.Document.Kit.Voice(settings.Voice)
	if v == nil {
		return nil, store.ErrNotFound
	}
	b := deliver.Shot(v, s.samples(&st.Document), st.Document.Stroke())
	b = b.Slice(0, min(b.Frames(), int(mostSlowed*settings.Speed*engine.Rate)))
	slow := stretch.Varispeed(b, settings.Speed)
	for c := range slow.Channels {
		slow.Channels[c] = append(slow.Channels[c], make([]float32, engine.Rate/2)...)
	}
	return slow, nil
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
