package transcribe

import (
	"context"

	"jubrak/core/audio"
)

// ConfidenceCase is a hit and what its confidence is reported from.
type ConfidenceCase struct {
	Hit    Hit
	Inputs [ConfidenceInputs]float64
}

// ConfidenceCases hears a recording, to learn from.
func ConfidenceCases(ctx context.Context, b *audio.Buffer) ([]ConfidenceCase, error) {
	var raw Raw // as last shown, with the odds
	if _, err := Follow(ctx, b, func(string, float64) {}, func(r Raw) { raw = r }); err != nil {
		return nil, err
	}
	var out []ConfidenceCase
	for i, x := range confidenceInputs(raw.Hits) {
		if !raw.Hits[i].Unnamed {
			out = append(out, ConfidenceCase{raw.Hits[i], x})
		}
	}
	return out, nil
}
