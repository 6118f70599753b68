package workshop

import (
	"context"

	"jubrak/core/balance"
	"jubrak/core/mix"
	"jubrak/core/stock"
)

// Mix measures a project's mix over its first bars.
func (s *Workshop) Mix(ctx context.Context, id string) (*balance.Look, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	return balance.At(ctx, &st.Document, s.samples(&st.Document))
}

// Judge tells by how much a step, a chain or all chains make their row louder, LU.
func (s *Workshop) Judge(ctx context.Context, id, row, step string) (float64, error) {
	st, err := s.Open(id)
	if err != nil {
		return 0, err
	}
	return balance.Judge(ctx, &st.Document, s.samples(&st.Document), row, step)
}

const shelfChain = "chain"

// ShelfChain is a chain of the library.
type ShelfChain struct {
	ID   string   `json:"id"`
	Name string   `json:"name"`
	Tags []string `json:"tags"`
	// Steps in the order in which sound goes through them.
	Steps []mix.Step `json:"steps"`
	// Own tells that the user saved it.
	Own bool `json:"own"`
}

// Chains are those that the user saved, then those that ship.
func (s *Workshop) Chains() ([]ShelfChain, error) {
	out := []ShelfChain{}
	if err := own(s.Store, shelfChain, &out); err != nil {
		return nil, err
	}
	for _, c := range stock.Chains() {
		out = append(out, ShelfChain{ID: c.ID, Name: c.Name, Tags: c.Tags, Steps: c.Steps})
	}
	return out, nil
}

// SaveChain keeps the chain of a row in the library.
func (s *Workshop) SaveChain(id, row, name string) (*ShelfChain, error) {
	name, err := named(name)
	if err != nil {
		return nil, err
	}
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	chain := st.Document.Chain(row)
	if chain == nil || len(*chain) == 0 {
		return nil, &Refusal{Code: "invalid", Message: "This row has no steps to be kept."}
	}
	out := &ShelfChain{ID: NewID(), Name: name, Tags: []string{}, Steps: mix.CloneSteps(*chain), Own: true}
	return out, s.putItem(out.ID, shelfChain, out)
}
