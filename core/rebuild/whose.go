package rebuild

import (
	"strings"

	"jubrak/core/compare"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Origins says of one voice what is still the reference's and what is one's own.
type Origins struct {
	Voice  string       `json:"voice"`
	Name   string       `json:"name"`
	Family sound.Family `json:"family"`
	// Hits are those of mine, Same of them are the reference's; -1 where it has no pattern.
	// Missing are those of the reference that are left out.
	Hits    int `json:"hits"`
	Same    int `json:"same"`
	Missing int `json:"missing"`
	// Sound is "samples" of the reference, "fitted" to it, "both", or "own".
	Sound Origin `json:"sound"`
	// Feel and Velocity are whether nobody would hear a difference; nil cannot be measured.
	Feel     *bool `json:"feel"`
	Velocity *bool `json:"velocity"`
}

// Origin is where a sound is from.
type Origin string

// The origins.
const (
	OfSamples Origin = "samples"
	OfFit     Origin = "fitted"
	OfBoth    Origin = "both"
	OfOwn     Origin = "own"
)

// OriginsOf says of each voice that plays what is still the reference's, by a comparison.
func OriginsOf(d *project.Document, a *compare.Against, c *compare.Comparison) []Origins {
	out := []Origins{}
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		l := d.Groove.Lane(v.ID)
		if l == nil || len(l.Hits) == 0 {
			continue
		}
		w := Origins{Voice: v.ID, Name: v.Name, Family: v.Family, Hits: len(l.Hits), Sound: originOf(v)}
		w.Same, w.Missing = compare.SameHits(d, a, v.ID)
		w.Feel = all(c, v, "lean", "steps", "scatter")
		w.Velocity = all(c, v, "velocity", "accents")
		out = append(out, w)
	}
	return out
}

// all is whether all rows of a voice that can be measured are inside; nil where none can.
func all(c *compare.Comparison, v *sound.Voice, columns ...string) (out *bool) {
	for _, id := range columns {
		if r := c.Row(id + "." + string(v.Family)); r != nil && r.Voice == v.ID && r.Inside != nil {
			out = new((out == nil || *out) && *r.Inside)
		}
	}
	return out
}

func originOf(v *sound.Voice) Origin {
	sampled, fitted := false, false
	for _, l := range v.Sounding() {
		switch {
		case l.Recording != nil && (strings.HasPrefix(l.ID, "sample") || strings.HasPrefix(l.ID, "reference")):
			sampled = true
		case strings.HasPrefix(l.ID, "fit"):
			fitted = true
		}
	}
	switch {
	case sampled && fitted:
		return OfBoth
	case sampled:
		return OfSamples
	case fitted:
		return OfFit
	}
	return OfOwn
}
