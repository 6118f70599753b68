package service

import (
	"context"

	"jubrak/app/live"
	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/audition"
	"jubrak/core/engine"
	"jubrak/core/export"
	"jubrak/core/isolate"
	"jubrak/core/project"
	"jubrak/core/stretch"
	"jubrak/core/transcribe"
)

// Study is how a project's monitor prepares a stretch of a reference for close
// listening.
func (s *Service) Study(id string) live.Prepare {
	return func(ctx context.Context, settings audition.Settings) (*audio.Buffer, error) {
		if settings.Voice != "" {
			return s.slowed(id, settings)
		}
		if settings.Both != nil {
			return s.hearBoth(ctx, id, settings.Both)
		}
		if settings.Blind != nil {
			return s.blindSound(settings.Blind)
		}
		if settings.Place != nil {
			return s.together(ctx, id, settings)
		}
		if settings.Reference == "" {
			return audition.Metronome(engine.Rate, settings)
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
			return audition.RenderClicks(ctx, engine.Rate, a, settings)
		}
		if settings.Drum != nil || settings.Part == audition.PartDrums || settings.Part == audition.PartWithout {
			return s.studyDrums(ctx, ref, a, b, settings)
		}
		return audition.Render(ctx, b, a, settings)
	}
}

// afterDrum is the pause after a drum that is heard by itself, seconds.
const afterDrum = 0.25

// studyDrums is a drum by itself, once or in its place, or a stretch's drums, or the stretch
// without them.
func (s *Service) studyDrums(ctx context.Context, ref *project.Reference, a *transcribe.Analysis, b *audio.Buffer, settings audition.Settings) (*audio.Buffer, error) {
	if one := settings.Drum; one != nil && !one.InPlace {
		_, shot, err := s.drum(ctx, ref, project.DrumOf{Family: one.Family, Group: one.Group, Dry: one.Dry})
		if err != nil {
			return nil, err
		}
		for c := range shot.Channels {
			shot.Channels[c] = append(shot.Channels[c], make([]float32, int(afterDrum*engine.Rate))...)
		}
		return shot, nil
	}
	if err := settings.Validate(); err != nil {
		return nil, err
	}
	list, err := s.drumsOf(ctx, ref)
	if err != nil {
		return nil, err
	}
	part := b.Slice(int(settings.From*engine.Rate), int(settings.To*engine.Rate))
	struck, rest, err := isolate.Split(ctx, part, settings.From, list)
	if err != nil {
		return nil, err
	}
	switch one := settings.Drum; {
	case one != nil:
		d, shot, err := s.drum(ctx, ref, project.DrumOf{Family: one.Family, Group: one.Group, Dry: one.Dry})
		if err != nil {
			return nil, err
		}
		isolate.Strike(rest, settings.From, d, shot)
		part = rest
	case settings.Part == audition.PartDrums:
		part = struck
	default:
		part = rest
	}
	return audition.RenderPart(ctx, part, a, settings)
}

// slowestVoice is the least speed of a voice that is slowed down, mostSlowed the
// longest that is heard of it, seconds.
const (
	slowestVoice = 1.0 / 16
	mostSlowed   = 12
)

// slowed is one hit of a voice, slower, with a pause after it.
func (s *Service) slowed(id string, settings audition.Settings) (*audio.Buffer, error) {
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
	b := export.Shot(v, s.samples(&st.Document), st.Document.Stroke())
	b = b.Slice(0, min(b.Frames(), int(mostSlowed*settings.Speed*engine.Rate)))
	slow := stretch.Varispeed(b, settings.Speed)
	for c := range slow.Channels {
		slow.Channels[c] = append(slow.Channels[c], make([]float32, engine.Rate/2)...)
	}
	return slow, nil
}

// Spectrogram pictures a stretch of a reference; nil for MIDI.
func (s *Service) Spectrogram(id, refID string, from, to float64, columns int) (*audition.Spectrogram, error) {
	ref, err := s.reference(id, refID)
	if err != nil {
		return nil, err
	}
	b, err := s.sound(ref)
	if err != nil {
		return nil, err
	}
	if b == nil {
		return &audition.Spectrogram{From: from, To: to, Hz: []float64{}, Levels: []byte{}}, nil
	}
	return audition.Picture(b, from, to, columns), nil
}
