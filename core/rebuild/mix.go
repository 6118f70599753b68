package rebuild

import (
	"context"
	"fmt"

	"jubrak/core/compare"
)

// mix brings what still lies outside to the reference: levels first, then all that numbers
// and effects close.
func (r *rebuilding) mix(ctx context.Context, s *Stage) error {
	k := &compare.Closer{Samples: r.h.Samples(r.d), Env: r.h.Env}
	got, err := k.Apply(ctx, r.d, r.a, nil, func(float64, string) {})
	if err != nil {
		return err
	}
	s.Result = fmt.Sprintf("%d values outside before, %d after", got.Before, got.After)
	return r.put(got.Edits)
}

// compare judges the whole on the render.
func (r *rebuilding) compare(ctx context.Context, s *Stage, out *Report) error {
	mine, err := compare.MeasureMine(ctx, r.d, r.h.Samples(r.d))
	if err != nil {
		return err
	}
	c := compare.Compare(r.d, mine, r.a)
	out.Comparison = c
	s.Result = fmt.Sprintf("%d of %d values inside", c.Measurable-c.Outside, c.Measurable)
	for _, row := range c.Order() {
		if len(s.Weak) == mostWeak {
			break
		}
		s.Weak = append(s.Weak, row.Sentence)
	}
	return nil
}

// mostWeak is how many differences that are left are said.
const mostWeak = 6
