package service

import (
	"context"
	"fmt"
	"strings"

	"jubrak/core/mixreport"
)

// Space is the room that the arrangement leaves for a voice, bar by bar, and where it is
// crowded, in words.
type Space struct {
	Bars []mixreport.BarRoom `json:"bars"`
	// Says names the crowded bars.
	Says string `json:"says"`
	// Against is how loud the drums are beside each backing, and the reference's beside the
	// rest of it where that is known.
	Against   []mixreport.Against `json:"against"`
	Reference *float64            `json:"reference_drums_above_lu"`
}

// Space measures the room by bar of a project's arrangement.
func (s *Service) Space(ctx context.Context, id string) (*Space, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	ctx = s.background.context(ctx)
	bars, err := mixreport.Space(ctx, &st.Document, s.samples(&st.Document))
	if err != nil {
		return nil, err
	}
	out := &Space{Bars: bars, Says: crowdedIn(bars)}
	if out.Against, err = mixreport.Beside(ctx, &st.Document, s.samples(&st.Document), s.backings(id, &st.Document)); err != nil {
		return nil, err
	}
	if ref := st.Document.Reference(st.Document.Active); ref != nil && len(out.Against) > 0 {
		if a, err := (env{s}).Analysis(ref); err == nil && a.Share != nil && !a.Share.Alone {
			out.Reference = &a.Share.DB
		}
	}
	return out, nil
}

// crowdedIn names stretches of crowded bars.
func crowdedIn(bars []mixreport.BarRoom) string {
	var parts []string
	for i := 0; i < len(bars); i++ {
		if !bars[i].Crowded {
			continue
		}
		from := i
		for i+1 < len(bars) && bars[i+1].Crowded {
			i++
		}
		if from == i {
			parts = append(parts, fmt.Sprintf("bar %d is", from+1))
		} else {
			parts = append(parts, fmt.Sprintf("bars %d to %d are", from+1, i+1))
		}
	}
	if len(parts) == 0 {
		return "Every bar leaves room for a voice."
	}
	if len(parts) > 6 {
		parts = append(parts[:6], fmt.Sprintf("%d more are", len(parts)-6))
	}
	return Sentence(fmt.Errorf("%s crowded where a voice stands", strings.Join(parts, ", ")))
}
