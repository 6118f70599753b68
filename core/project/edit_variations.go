package project

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"jubrak/core/groove"
	"jubrak/core/sound"
)

// Edits of the project's variations: grooves of its own kit that are kept side by side.
var variationEdits = map[string]Edit{
	"variation.add": AddVariation{}, "variation.use": UseVariation{}, "variation.rename": RenameVariation{}, "variation.remove": RemoveVariation{},
}

// AddVariation keeps the groove as it is and goes on with a copy of it.
type AddVariation struct {
	// Name is what the copy is called beside its letter; it may be empty.
	Name string `json:"name,omitempty"`
}

func (e AddVariation) apply(d *Document, _ Env) ([]string, error) {
	if d.named() >= MaxVariations {
		return nil, fmt.Errorf("a project holds %d variations; remove one first", MaxVariations)
	}
	id := d.freeVariation(false)
	i := slices.IndexFunc(d.Variations, func(v Variation) bool { return v.ID == d.Variation })
	d.Variations[i].Groove = kept(&d.Groove)
	d.Variations = append(d.Variations, Variation{ID: id, Name: strings.TrimSpace(e.Name)})
	d.Variation = id
	return nil, nil
}

func (e AddVariation) name(_, after *Document) string {
	return "Variation " + after.variationName(after.Variation)
}

// UseVariation plays and changes another one of the variations; this one is kept.
type UseVariation struct {
	// Variation is its id.
	Variation string `json:"variation"`
}

func (e UseVariation) apply(d *Document, _ Env) ([]string, error) {
	to := d.variation(e.Variation)
	if to == nil {
		return nil, fmt.Errorf("there is no variation %q", e.Variation)
	}
	if to.Groove == nil {
		return nil, nil
	}
	next := *to.Groove
	to.Groove = nil
	d.variation(d.Variation).Groove = kept(&d.Groove)
	d.Groove, d.Variation = next, e.Variation
	d.Groove.Lanes = slices.Clone(d.Groove.Lanes)
	d.Groove.Feel.Voices = maps.Clone(d.Groove.Feel.Voices)
	return d.orphanedLanes(), nil
}

func (e UseVariation) name(_, after *Document) string {
	return "To variation " + after.variationName(e.Variation)
}

// orphanedLanes brings the groove in line with the kit: lanes of voices that are no more go,
// and each voice has one.
func (d *Document) orphanedLanes() (notes []string) {
	d.Groove.Lanes = slices.DeleteFunc(d.Groove.Lanes, func(l groove.Lane) bool {
		gone := d.Kit.Voice(l.Voice) == nil
		if gone && len(l.Hits) > 0 {
			notes = append(notes, fmt.Sprintf("%s of %q have no matching voice in this kit and were left out. Ctrl Z brings them back.", count(len(l.Hits), "hit"), l.Voice))
		}
		return gone
	})
	for i := range d.Kit.Voices {
		d.Groove.EnsureLane(d.Kit.Voices[i].ID)
	}
	for i := range d.Groove.Lanes {
		l := &d.Groove.Lanes[i]
		lost := func(h groove.Hit) bool { return h.Sound != "" && d.Kit.Voice(h.Sound) == nil }
		if slices.ContainsFunc(l.Hits, lost) {
			own(l)
			for j := range l.Hits {
				if lost(l.Hits[j]) {
					l.Hits[j].Sound = ""
				}
			}
		}
	}
	gone := func(id string) bool { return d.Kit.Voice(id) == nil }
	f := &d.Groove.Feel
	maps.DeleteFunc(f.Voices, func(id string, _ groove.VoiceFeel) bool { return gone(id) })
	f.Drift.Voices = slices.DeleteFunc(slices.Clone(f.Drift.Voices), gone)
	if len(f.Ramp.Voices) > 0 {
		f.Ramp.Voices = slices.DeleteFunc(slices.Clone(f.Ramp.Voices), gone)
	}
	d.orderLanes()
	return notes
}

// RenameVariation calls a variation something else; its letter stays.
type RenameVariation struct {
	// Variation is its id.
	Variation string `json:"variation"`
	// Name has up to 40 letters.
	Name string `json:"name"`
}

func (e RenameVariation) apply(d *Document, _ Env) ([]string, error) {
	v := d.variation(e.Variation)
	if v == nil {
		return nil, fmt.Errorf("there is no variation %q", e.Variation)
	}
	v.Name = strings.TrimSpace(e.Name)
	return nil, nil
}

func (e RenameVariation) name(_, after *Document) string {
	return "Variation named " + after.variationName(e.Variation)
}

// RemoveVariation takes a variation away; not the one that is played.
type RemoveVariation struct {
	// Variation is its id.
	Variation string `json:"variation"`
}

func (e RemoveVariation) apply(d *Document, _ Env) ([]string, error) {
	if e.Variation == d.Variation {
		return nil, fmt.Errorf("this variation is the one that plays; go to another one first")
	}
	if d.variation(e.Variation) == nil {
		return nil, fmt.Errorf("there is no variation %q", e.Variation)
	}
	notes := d.playInstead(e.Variation, d.Variation)
	d.Variations = slices.DeleteFunc(d.Variations, func(v Variation) bool { return v.ID == e.Variation })
	return notes, nil
}

func (e RemoveVariation) name(before, _ *Document) string {
	return "Variation " + before.variationName(e.Variation) + " removed"
}

// variation finds a variation of a draft, or nil.
func (d *Document) variation(id string) *Variation {
	for i := range d.Variations {
		if d.Variations[i].ID == id {
			return &d.Variations[i]
		}
	}
	return nil
}

func (d *Document) variationName(id string) string {
	letter := strings.ToUpper(id)
	if v := d.variation(id); v != nil && v.Here {
		return v.Name
	}
	if v := d.variation(id); v != nil && v.Name != "" {
		return letter + ", " + v.Name
	}
	return letter
}

// GrooveOf is the groove of a variation, or nil.
func (d *Document) GrooveOf(variation string) *groove.Groove {
	if variation == d.Variation {
		return &d.Groove
	}
	if v := d.variation(variation); v != nil {
		return v.Groove
	}
	return nil
}

// kept is a groove as a variation keeps it: its lists its own.
func kept(g *groove.Groove) *groove.Groove {
	out := *g
	out.Lanes = slices.Clone(g.Lanes)
	out.Feel.Voices = maps.Clone(g.Feel.Voices)
	return &out
}

func (d *Document) validVariations() error {
	if d.named() > MaxVariations || len(d.Variations) > mostGrooves {
		return fmt.Errorf("a project holds at most %d variations", MaxVariations)
	}
	seen := map[string]bool{}
	for i := range d.Variations {
		v := &d.Variations[i]
		if v.ID == "" || seen[v.ID] || utf8.RuneCountInString(v.Name) > sound.MaxName {
			return fmt.Errorf("each variation needs a letter of its own and a name of at most %d letters", sound.MaxName)
		}
		seen[v.ID] = true
		if (v.Groove == nil) != (v.ID == d.Variation) {
			return fmt.Errorf("variation %q has lost its groove", v.ID)
		}
		if v.Groove != nil {
			if err := v.Groove.Validate(); err != nil {
				return fmt.Errorf("variation %q: %w", v.ID, err)
			}
		}
	}
	if !seen[d.Variation] {
		return fmt.Errorf("the variation %q is not in the project", d.Variation)
	}
	return nil
}
