package service

import (
	"context"
	"encoding/json"

	"jubrak/app/store"
	"jubrak/core/measure"
	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Profiles lists what the library holds: saved profiles, then genres.
func (s *Service) Profiles() ([]profile.Profile, error) {
	rows, err := s.Store.Profiles()
	if err != nil {
		return nil, err
	}
	out := []profile.Profile{}
	for _, r := range rows {
		var p profile.Profile
		if json.Unmarshal(r.Data, &p) == nil && p.Validate() == nil {
			p.Tidy()
			out = append(out, p)
		}
	}
	return append(out, profile.Genres()...), nil
}

// SaveProfile keeps what was found in a reference of a project.
func (s *Service) SaveProfile(ctx context.Context, id, refID, name, notes string, tags []string) (*profile.Profile, error) {
	a, err := s.Analysis(ctx, id, refID)
	if err != nil {
		return nil, err
	}
	tones, err := s.tones(ctx, id, refID)
	if err != nil {
		return nil, err
	}
	p, err := profile.Of(a, tones, name, notes, tags)
	if err != nil {
		return nil, &Refusal{Code: "invalid", Message: Sentence(err)}
	}
	p.ID = NewID()
	data, err := json.Marshal(p)
	if err != nil {
		return nil, err
	}
	return p, s.Store.PutProfile(p.ID, data)
}

// ShrinkAsk asks for a saved feel that leans on a genre.
type ShrinkAsk struct {
	Genre string `json:"genre"`
	Name  string `json:"name"`
}

// Shrink saves a feel of few hits leaning on a genre, as a profile of its own.
func (s *Service) Shrink(id string, ask ShrinkAsk) (*profile.Profile, error) {
	list, err := s.Profiles()
	if err != nil {
		return nil, err
	}
	find := func(id string) *profile.Profile {
		for i := range list {
			if list[i].ID == id {
				return &list[i]
			}
		}
		return nil
	}
	p, genre := find(id), find(ask.Genre)
	if p == nil || genre == nil {
		return nil, store.ErrNotFound
	}
	out, err := profile.Shrink(p, genre, ask.Name)
	if err != nil {
		return nil, &Refusal{Code: "invalid", Message: Sentence(err)}
	}
	out.ID = NewID()
	data, err := json.Marshal(out)
	if err != nil {
		return nil, err
	}
	return out, s.Store.PutProfile(out.ID, data)
}

// tones are what is known of a reference's drums by themselves; nothing for a reference
// without sound.
func (s *Service) tones(ctx context.Context, id, refID string) (map[sound.Family]profile.Tone, error) {
	ref, err := s.reference(id, refID)
	if err != nil {
		return nil, err
	}
	list, err := s.drumsOf(ctx, ref)
	if err != nil {
		return nil, err
	}
	out := map[sound.Family]profile.Tone{}
	for i := range list {
		d := &list[i]
		if _, there := out[d.Family]; there {
			continue // the first of two is struck more often
		}
		var t TargetSound
		t.known(d)
		out[d.Family] = profile.ToneOf([]*measure.Measures{&t.Measures})
	}
	return out, nil
}

// Recording is a reference of some project that others can use.
type Recording struct {
	Project     string `json:"project"`
	ProjectName string `json:"project_name"`
	Reference   string `json:"reference"`
	Name        string `json:"name"`
	Kind        string `json:"kind"`
}

// Recordings lists the recordings and performances of all projects but one,
// each once, those of the newest project first.
func (s *Service) Recordings(except string) ([]Recording, error) {
	rows, err := s.Store.Projects()
	if err != nil {
		return nil, err
	}
	seen := map[string]bool{}
	if st, err := s.Open(except); err == nil {
		for _, r := range st.Document.References {
			seen[r.Blob] = true
		}
	}
	out := []Recording{}
	for _, row := range rows {
		if row.ID == except {
			continue
		}
		st, err := s.Open(row.ID)
		if err != nil {
			return nil, err
		}
		for _, r := range st.Document.References {
			if r.Profile == nil && !seen[r.Blob] {
				seen[r.Blob] = true
				out = append(out, Recording{row.ID, st.Document.Name, r.ID, r.Name, r.Kind})
			}
		}
	}
	return out, nil
}

// UseRecording adds a reference of another project to this one, with its
// corrections, as the active reference.
func (s *Service) UseRecording(id string, base int, from, reference string) (*State, error) {
	ref, err := s.reference(from, reference)
	if err != nil {
		return nil, err
	}
	copied := *ref
	copied.ID = NewID()
	return s.Edit(id, base, project.Edits{project.AddReference{Reference: copied}}, "")
}

// UseProfile adds a profile of the library to a project as its active
// reference.
func (s *Service) UseProfile(id, profileID string, base int) (*State, error) {
	list, err := s.Profiles()
	if err != nil {
		return nil, err
	}
	for i := range list {
		if list[i].ID == profileID {
			ref := &project.Reference{ID: NewID(), Name: list[i].Name, Kind: "profile", Profile: &list[i], Corrections: []transcribe.Correction{}}
			return s.Edit(id, base, project.Edits{project.AddReference{Reference: *ref}}, "")
		}
	}
	return nil, store.ErrNotFound
}
