package effect

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
)

// Effect is a processor with its parameters, as it stands in a recipe or a chain. It holds
// every parameter of its kind by its id.
type Effect struct {
	ID     string             `json:"id"`
	Kind   string             `json:"kind"`
	Off    bool               `json:"off"`
	Values map[string]float64 `json:"values"`
	// Key names the voice whose dry sound is its sidechain, or "bus:" with a bus; empty is
	// the sound itself.
	Key string `json:"key,omitempty"`
	// Shape names a shape of the project that it follows.
	Shape string `json:"shape,omitempty"`
	// Recording is the one that it uses.
	Recording *Recording `json:"recording,omitempty"`
	// Paths are the chains of an effect that divides the sound.
	Paths [][]Effect `json:"paths,omitempty"`
}

// Recording is a sound of the user's that an effect uses, such as an impulse response.
type Recording struct {
	Blob string `json:"blob"`
	Name string `json:"name"`
}

// UnmarshalJSON reads an effect; parameters that its kind has got since it was written have
// their defaults.
func (s *Effect) UnmarshalJSON(data []byte) error {
	type plain Effect
	if err := json.Unmarshal(data, (*plain)(s)); err != nil {
		return err
	}
	if k := KindOf(s.Kind); k != nil && s.Values != nil {
		if k.Upgrade != nil {
			k.Upgrade(s.Values)
		}
		for _, p := range k.Params {
			if _, ok := s.Values[p.ID]; !ok {
				s.Values[p.ID] = p.Default
			}
		}
	}
	return nil
}

// Clone is an effect that shares nothing with this one.
func (s *Effect) Clone() Effect {
	out := *s
	out.Values = maps.Clone(s.Values)
	if s.Recording != nil {
		out.Recording = new(*s.Recording)
	}
	out.Paths = slices.Clone(s.Paths)
	for i := range out.Paths {
		out.Paths[i] = CloneChain(out.Paths[i])
	}
	return out
}

// CloneChain are effects that share nothing with those given.
func CloneChain(effects []Effect) []Effect {
	out := make([]Effect, len(effects))
	for i := range effects {
		out[i] = effects[i].Clone()
	}
	return out
}

// New is an effect of a kind with its defaults, changed by values given by id.
func New(id string, k *Kind, values map[string]float64) Effect {
	s := Effect{ID: id, Kind: k.ID, Values: map[string]float64{}}
	for _, p := range k.Params {
		s.Values[p.ID] = p.Default
	}
	for name, v := range values {
		if _, i := k.Param(name); i < 0 {
			panic(fmt.Sprintf("an effect of kind %s has no parameter %q", k.ID, name))
		}
		s.Values[name] = v
	}
	for range k.Paths {
		s.Paths = append(s.Paths, []Effect{})
	}
	return s
}

// Validate checks that the effect's kind is known and that it has each of its parameters, in
// its range, and no other.
func (s *Effect) Validate() error {
	k := KindOf(s.Kind)
	if k == nil {
		return fmt.Errorf("there is no effect of kind %q", s.Kind)
	}
	if s.ID == "" || len(s.Values) != len(k.Params) {
		return fmt.Errorf("a %s must have each of its parameters and no other", k.Label)
	}
	for i := range k.Params {
		p := &k.Params[i]
		v, ok := s.Values[p.ID]
		if !ok {
			return fmt.Errorf("a %s lacks its %s", k.Label, p.ID)
		}
		if err := p.Check(v); err != nil {
			return err
		}
	}
	if len(s.Paths) != len(k.Paths) {
		return fmt.Errorf("a %s has %d paths", k.Label, len(k.Paths))
	}
	return nil
}

// Value is a parameter by its id; 0 where there is none.
func (s *Effect) Value(id string) float64 { return s.Values[id] }

// Lift is about by how much the effect makes soft sounds louder, dB.
func (s *Effect) Lift() float64 {
	if k := KindOf(s.Kind); k != nil && k.Lift != nil {
		return k.Lift(s.Value)
	}
	return 0
}

// blob is that of its recording, or nothing.
func (s *Effect) blob() string {
	if s.Recording == nil {
		return ""
	}
	return s.Recording.Blob
}

// list is an effect's parameters in order of its kind.
func (s *Effect) list(k *Kind) []float64 {
	out := make([]float64, len(k.Params))
	for i := range k.Params {
		out[i] = s.Values[k.Params[i].ID]
	}
	return out
}
