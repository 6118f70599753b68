package service

import (
	"context"

	"jubrak/app/store"
	"jubrak/core/fit"
	"jubrak/core/profile"
	"jubrak/core/sound"
)

// IntoAsk asks for a voice's recipe to be brought into the tones of a profile.
type IntoAsk struct {
	// Reference is one of the project that is a profile.
	Reference string `json:"reference"`
	// Aim is "ranges", "middle", or "nearest" of its recordings.
	Aim   ToneAim  `json:"aim"`
	Layer string   `json:"layer"`
	Held  []string `json:"held"`
}

// ToneAim is where in a profile's tones a sound is brought.
type ToneAim string

// The aims.
const (
	AimRanges  ToneAim = "ranges"
	AimMiddle  ToneAim = "middle"
	AimNearest ToneAim = "nearest"
)

// IntoTones is a recipe that was brought into tones.
type IntoTones struct {
	fit.Brought
	// Target names what it was brought to.
	Target string        `json:"target"`
	Layers []sound.Layer `json:"layers"`
}

// Into brings the recipe of a voice's layer into the tones of a profile by as few changes as
// can be. Nothing of the project is changed.
func (s *Service) Into(ctx context.Context, id, voice string, ask IntoAsk) (*IntoTones, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	v, ref := st.Document.Kit.Voice(voice), st.Document.Reference(ask.Reference)
	if v == nil || ref == nil || ref.Profile == nil {
		return nil, store.ErrNotFound
	}
	l := v.Layer(ask.Layer)
	if l == nil || l.Recipe == nil {
		return nil, &Refusal{Code: "invalid", Message: "Only a recipe can be brought into tones: choose a layer that is one, or fit one first."}
	}
	tones, ok := ref.Profile.Tones[v.Family]
	if !ok {
		return nil, &Refusal{Code: "invalid", Message: ref.Name + " says nothing of the tone of a " + v.Family.Label() + "."}
	}
	ranges, name := rangesOf(tones), ref.Name
	switch ask.Aim {
	case AimRanges:
	case AimMiddle:
		ranges, name = ranges.Middle(), "the middle of "+name
	case AimNearest:
		if ref.Profile.Habit == nil {
			return nil, &Refusal{Code: "invalid", Message: name + " is one recording: its tones are the nearest."}
		}
		var list []fit.Ranges
		var names []string
		for i := range ref.Profile.Habit.Recordings {
			r := &ref.Profile.Habit.Recordings[i]
			if t, ok := r.Tones[v.Family]; ok {
				list, names = append(list, rangesOf(t)), append(names, r.Name)
			}
		}
		n := fit.NearestOf(*l.Recipe, list)
		if n < 0 {
			return nil, &Refusal{Code: "invalid", Message: "None of its recordings says anything of this family's tone."}
		}
		ranges, name = list[n], names[n]
	default:
		return nil, &Refusal{Code: "invalid", Message: "A sound is brought into the ranges, to the middle or to the nearest recording."}
	}
	b, err := fit.Into(ctx, *l.Recipe, ranges, ask.Held)
	if err != nil {
		return nil, err
	}
	out := &IntoTones{Brought: *b, Target: name}
	for i := range v.Layers {
		with := v.Layers[i]
		if with.ID == l.ID {
			with.Recipe = &b.Recipe
		}
		out.Layers = append(out.Layers, with)
	}
	return out, nil
}

func rangesOf(t profile.Tone) fit.Ranges {
	of := func(r *profile.Range) *fit.Range {
		if r == nil {
			return nil
		}
		return &fit.Range{Low: r.Low, High: r.High}
	}
	return fit.Ranges{Fundamental: of(t.Fundamental), Decay: of(t.Decay), Brightness: of(t.Brightness), Attack: of(t.Attack)}
}
