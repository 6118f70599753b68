package service

import (
	"encoding/json"
	"sort"

	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Mapping files the keys of MIDI files under families, over General MIDI.
type Mapping struct {
	Keys map[int]sound.Family `json:"keys"`
}

const mappingSetting = "midi mapping"

// Mapping is the user's own for MIDI files to come; empty where none is saved.
func (s *Service) Mapping() (*Mapping, error) {
	m := &Mapping{Keys: map[int]sound.Family{}}
	data, err := s.Store.Setting(mappingSetting)
	if err != nil || len(data) == 0 {
		return m, err
	}
	return m, json.Unmarshal(data, m)
}

// SaveMapping keeps a mapping for MIDI files to come.
func (s *Service) SaveMapping(m *Mapping) error {
	for _, c := range m.corrections() {
		if err := c.Validate(); err != nil {
			return &Refusal{Code: "invalid", Message: Sentence(err)}
		}
	}
	data, err := json.Marshal(m)
	if err != nil {
		return err
	}
	return s.Store.PutSetting(mappingSetting, data)
}

// corrections is the mapping as what sets a reference right.
func (m *Mapping) corrections() []transcribe.Correction {
	out := []transcribe.Correction{}
	for key, family := range m.Keys {
		out = append(out, transcribe.Correction{Kind: "map", Key: key, Family: family})
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Key < out[j].Key })
	return out
}

// families is the mapping the other way round: the key of each family that has one, the
// lowest of several.
func (m *Mapping) families() map[sound.Family]int {
	out := map[sound.Family]int{}
	for key, f := range m.Keys {
		if was, ok := out[f]; !ok || key < was {
			out[f] = key
		}
	}
	return out
}
