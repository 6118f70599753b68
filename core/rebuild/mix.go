package rebuild

import (
	"context"
	"fmt"
	"strings"

	"jubrak/core/match"
)

// mix brings what still lies outside to the reference: levels first, then all that numbers
// and effects close.
func (r *rebuilding) mix(ctx context.Context, s *Step) error {
	k := &match.Closer{Samples: r.h.Samples(r.d), Env: r.h.Env}
	mine, err := match.MeasureMine(ctx, r.d, k.Samples, nil)
	if err != nil {
		return err
	}
	c := match.Compare(r.d, mine, r.a)
	got, err := k.Apply(ctx, r.d, r.a, r.worthClosing(c), func(float64, string) {})
	if err != nil {
		return err
	}
	s.Result = fmt.Sprintf("%d values outside before, %d after", got.Before, got.After)
	return r.put(got.Edits)
}

// worthClosing are the rows that are closed after the sounds are there. What hits do not
// yet say is closed; the tone of sounds that were made of the reference is left alone: an
// effect would bend what a fit has found.
func (r *rebuilding) worthClosing(c *match.Comparison) (ids []string) {
	for i := range c.Rows {
		row := &c.Rows[i]
		tone := strings.HasPrefix(row.Column, "region_") || match.ColumnOf(row).Group == match.ToneGroup
		if !tone || r.o.Sounds == Kept || row.Column == "fundamental" || strings.HasPrefix(row.Column, "region_") {
			ids = append(ids, row.ID)
		}
	}
	return ids
}

// compare judges the whole on the render.
func (r *rebuilding) compare(ctx context.Context, s *Step, out *Report) error {
	mine, err := match.MeasureMine(ctx, r.d, r.h.Samples(r.d), nil)
	if err != nil {
		return err
	}
	c := match.Compare(r.d, mine, r.a)
	out.Comparison = c
	s.Result = fmt.Sprintf("%d of %d values inside", c.Told-c.Outside, c.Told)
	for _, row := range c.Order() {
		if len(s.Weak) == mostWeak {
			break
		}
		s.Weak = append(s.Weak, row.Sentence())
	}
	return nil
}

// mostWeak is how many differences that are left are said.
const mostWeak = 6
