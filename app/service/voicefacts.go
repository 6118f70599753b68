package service

import "jubrak/core/project"

// VoiceFactList is what the screen must know of the voices of a project.
type VoiceFactList struct {
	Voices []VoiceFact `json:"voices"`
}

// VoiceFact is what follows from a voice's sound and the kit.
type VoiceFact struct {
	Voice string `json:"voice"`
	// Root is the MIDI note nearest to its own pitch; 36 where that is not known.
	Root int `json:"root_note"`
	// Key is the MIDI key by which it is written and read.
	Key int `json:"midi_key"`
	// Layers are the pitches of its layers in order, Hz; 0 where one has none.
	Layers []float64 `json:"layer_hz"`
}

// VoiceFacts are those of a project's voices, in order.
func (s *Service) VoiceFacts(id string) (*VoiceFactList, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	m, err := s.Mapping()
	if err != nil {
		return nil, err
	}
	return &VoiceFactList{voiceFacts(&st.Document, m)}, nil
}

func voiceFacts(d *project.Document, m *Mapping) []VoiceFact {
	out := []VoiceFact{}
	keys := d.Kit.Keys(m.families())
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		f := VoiceFact{Voice: v.ID, Root: d.RootOf(v.ID), Key: keys[v.ID], Layers: []float64{}}
		for j := range v.Layers {
			f.Layers = append(f.Layers, v.Layers[j].RootHz())
		}
		out = append(out, f)
	}
	return out
}
