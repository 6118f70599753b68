package workshop

import (
	"context"
	"encoding/json"

	"jubrak/app/store"
	"jubrak/core/listen"
	"jubrak/core/profile"
	"jubrak/core/project"
)

// Profiles lists what the library holds: saved profiles, then genres.
func (s *Workshop) Profiles() ([]profile.Profile, error) {
	rows, err := s.Store.Profiles()
	if err != nil {
		return nil, err
	}
	out := []profile.Profile{}
	for _, r := range rows {
		var p profile.Profile
		if json.Unmarshal(r.Data, &p) == nil && p.Validate() == nil {
			out = append(out, p)
		}
	}
	return append(out, profile.Genres()...), nil
}

// SaveProfile keeps what was found in a reference of a project.
func (s *Workshop) SaveProfile(ctx context.Context, id, refID, name, notes string, tags []string) (*profile.Profile, error) {
	a, err := s.Analysis(ctx, id, refID)
	if err != nil {
		return nil, err
	}
	p, err := profile.Of(a, name, notes, tags)
	if err != nil {
		return nil, &Refusal{Code: "invalid", Message: sentence(err)}
	}
	p.ID = NewID()
	data, err := json.Marshal(p)
	if err != nil {
		return nil, err
	}
	return p, s.Store.PutProfile(p.ID, data)
}

// UseProfile adds a profile of the library to a project as its active
// reference.
func (s *Workshop) UseProfile(id, profileID string, base int) (*State, error) {
	list, err := s.Profiles()
	if err != nil {
		return nil, err
	}
	for i := range list {
		if list[i].ID == profileID {
			ref := &project.Reference{ID: NewID(), Name: list[i].Name, Kind: "profile", Profile: &list[i], Corrections: []listen.Correction{}}
			return s.Edit(id, base, []project.Edit{{Op: "reference.add", New: ref}}, "")
		}
	}
	return nil, store.ErrNotFound
}
