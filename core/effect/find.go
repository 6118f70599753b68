package effect

import "fmt"

// MaxChain is the most effects of a chain.
const MaxChain = 16

// ValidChain checks the effects of a chain, those within effects too: every effect has an id
// that no other of the chain has.
func ValidChain(effects []Effect) error {
	seen := map[string]bool{}
	var check func(effects []Effect, deep int) error
	check = func(effects []Effect, deep int) error {
		if len(effects) > MaxChain || deep > 3 {
			return fmt.Errorf("a chain has at most %d effects, and chains within chains go three deep", MaxChain)
		}
		for i := range effects {
			s := &effects[i]
			if err := s.Validate(); err != nil {
				return err
			}
			if seen[s.ID] {
				return fmt.Errorf("two effects of a chain are called %q", s.ID)
			}
			seen[s.ID] = true
			for _, p := range s.Paths {
				if err := check(p, deep+1); err != nil {
					return err
				}
			}
		}
		return nil
	}
	return check(effects, 1)
}

// Find finds an effect of a chain by its id, within effects too, or nil.
func Find(effects []Effect, id string) *Effect {
	for i := range effects {
		if effects[i].ID == id {
			return &effects[i]
		}
		for _, p := range effects[i].Paths {
			if found := Find(p, id); found != nil {
				return found
			}
		}
	}
	return nil
}

// Each visits the effects of a chain and of their paths, in order.
func Each(effects []Effect, f func(*Effect)) {
	for i := range effects {
		f(&effects[i])
		for _, p := range effects[i].Paths {
			Each(p, f)
		}
	}
}

// Count is how many effects a chain has, those of paths included.
func Count(effects []Effect) (n int) {
	Each(effects, func(*Effect) { n++ })
	return n
}

// FreeID is an id of a kind that no effect of a chain has.
func FreeID(effects []Effect, kind string) string {
	for n := 1; ; n++ {
		if id := fmt.Sprintf("%s%d", kind, n); Find(effects, id) == nil {
			return id
		}
	}
}
