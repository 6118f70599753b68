package project

import (
	"fmt"
	"slices"

	"jubrak/core/effect"
	"jubrak/core/sound"
)

// Edits of an effect, in the chain of a row or in a recipe.
var effectEdits = map[string]Edit{
	"effect.add": AddEffect{}, "effect.remove": RemoveEffect{}, "effect.move": MoveEffect{}, "effect.switch": SwitchEffect{},
	"effect.sidechain": SetSidechain{}, "effect.shape": SetEffectShape{}, "effect.recording": SetEffectRecording{},
}

// Chain is where an effect stands: in the chain of a row, or in the recipe of a layer.
type Chain struct {
	// Row is a voice, "bus:" with a bus, or "out"; empty names a recipe.
	Row string `json:"row,omitempty"`
	// Voice is that of the recipe.
	Voice string `json:"voice,omitempty"`
	// Layer is that of the recipe.
	Layer string `json:"layer,omitempty"`
}

// InRow is the chain of a row.
func InRow(row string) Chain { return Chain{Row: row} }

// InRecipe is the chain of a layer's recipe.
func InRecipe(voice, layer string) Chain { return Chain{Voice: voice, Layer: layer} }

// effects are those of a draft's chain, which becomes the draft's own.
func (c Chain) effects(d *Document) (*[]effect.Effect, error) {
	if c.Row != "" {
		return d.ownChain(c.Row)
	}
	r, err := d.recipeOf(c.Voice, c.Layer)
	if err != nil {
		return nil, err
	}
	return &r.Effects, nil
}

// find finds an effect in a draft's chain or in a path within it.
func (c Chain) find(d *Document, id string) (list *[]effect.Effect, at int, err error) {
	chain, err := c.effects(d)
	if err != nil {
		return nil, 0, err
	}
	if list, at = chainWith(chain, id); list == nil {
		return nil, 0, fmt.Errorf("the effect is no longer there")
	}
	return list, at, nil
}

// free is an id of a kind that nothing in the chain has.
func (c Chain) free(d *Document, kind string) (string, error) {
	if c.Row == "" {
		r, err := d.recipeOf(c.Voice, c.Layer)
		if err != nil {
			return "", err
		}
		return free(r, kind), nil
	}
	chain, err := d.ownChain(c.Row)
	if err != nil {
		return "", err
	}
	return effect.FreeID(*chain, kind), nil
}

// tidy takes away the modulations of effects that are gone.
func (c Chain) tidy(d *Document) {
	if c.Row != "" {
		return
	}
	if r, err := d.recipeOf(c.Voice, c.Layer); err == nil {
		r.Modulations = slices.DeleteFunc(r.Modulations, func(m sound.Modulation) bool { _, ok := r.Number(m.At); return !ok })
	}
}

// label names where the effects stand for people.
func (c Chain) label(d *Document) string {
	if c.Row != "" {
		return d.RowName(c.Row)
	}
	return d.layerName(c.Voice, c.Layer)
}

// labelOf names an effect for people.
func (c Chain) labelOf(d *Document, id string) string {
	var chain []effect.Effect
	if c.Row != "" {
		if at := d.Chain(c.Row); at != nil {
			chain = *at
		}
	} else if v := d.Kit.Voice(c.Voice); v != nil && v.Layer(c.Layer) != nil && v.Layer(c.Layer).Recipe != nil {
		chain = v.Layer(c.Layer).Recipe.Effects
	}
	if fx := effect.Find(chain, id); fx != nil {
		return c.label(d) + ", " + lower(effect.KindOf(fx.Kind).Label)
	}
	return c.label(d) + ", an effect"
}

// AddEffect adds an effect to a chain.
type AddEffect struct {
	Chain
	// Kind is one of the kinds of effect.
	Kind string `json:"kind"`
	// To is the place it comes to, counted from 0; beyond the end it is the last.
	To int `json:"to"`
	// Values are parameters that are not the kind's defaults.
	Values map[string]float64 `json:"values,omitempty"`
	// In is the effect within which it stands; empty is the chain itself.
	In string `json:"in,omitempty"`
	// Path is on which of that effect's paths, counted from 0.
	Path int `json:"path,omitempty"`
	// Key is the sidechain, a voice or "bus:" with a bus; empty is its own sound.
	Key string `json:"key,omitempty"`
}

func (e AddEffect) apply(d *Document, _ Env) ([]string, error) {
	id, err := e.free(d, e.Kind)
	if err != nil {
		return nil, err
	}
	k := effect.KindOf(e.Kind)
	if k == nil {
		return nil, fmt.Errorf("there is no effect of kind %q", e.Kind)
	}
	for id := range e.Values {
		if p, _ := k.Param(id); p == nil {
			return nil, fmt.Errorf("a %s has no parameter %q", k.Label, id)
		}
	}
	if e.Key != "" && (!k.Keyed || !d.isKey(e.Key)) {
		return nil, fmt.Errorf("%q cannot be the sidechain of a %s", e.Key, lower(k.Label))
	}
	chain, err := e.effects(d)
	if err != nil {
		return nil, err
	}
	list, err := inPath(chain, e.In, e.Path)
	if err != nil {
		return nil, err
	}
	fx := effect.New(id, k, e.Values)
	fx.Key = e.Key
	*list = slices.Insert(*list, min(max(e.To, 0), len(*list)), fx)
	return nil, nil
}

func (e AddEffect) name(before, _ *Document) string {
	return fmt.Sprintf("%s: %s added", e.label(before), lower(effect.KindOf(e.Kind).Label))
}

// RemoveEffect takes an effect out of a chain, with what modulates it.
type RemoveEffect struct {
	Chain
	// Effect is its id.
	Effect string `json:"effect"`
}

func (e RemoveEffect) apply(d *Document, _ Env) ([]string, error) {
	list, i, err := e.find(d, e.Effect)
	if err != nil {
		return nil, err
	}
	*list = slices.Delete(*list, i, i+1)
	e.tidy(d)
	return nil, nil
}

func (e RemoveEffect) name(before, _ *Document) string {
	return e.labelOf(before, e.Effect) + " removed"
}

// MoveEffect moves an effect to another place, perhaps on another path of its chain.
type MoveEffect struct {
	Chain
	// Effect is its id.
	Effect string `json:"effect"`
	// To is the place it comes to, counted from 0.
	To int `json:"to"`
	// In is the effect that it comes into; empty is the chain itself.
	In string `json:"in,omitempty"`
	// Path is which of that effect's paths, counted from 0.
	Path int `json:"path,omitempty"`
}

func (e MoveEffect) apply(d *Document, _ Env) ([]string, error) {
	from, i, err := e.find(d, e.Effect)
	if err != nil {
		return nil, err
	}
	moved := (*from)[i]
	if e.In != "" && effect.Find([]effect.Effect{moved}, e.In) != nil {
		return nil, fmt.Errorf("an effect cannot stand within itself")
	}
	*from = slices.Delete(*from, i, i+1)
	chain, err := e.effects(d)
	if err != nil {
		return nil, err
	}
	list, err := inPath(chain, e.In, e.Path)
	if err != nil {
		return nil, err
	}
	*list = slices.Insert(*list, min(max(e.To, 0), len(*list)), moved)
	return nil, nil
}

func (e MoveEffect) name(before, _ *Document) string {
	return e.labelOf(before, e.Effect) + " moved"
}

// SwitchEffect bypasses an effect or makes it active.
type SwitchEffect struct {
	Chain
	// Effect is its id.
	Effect string `json:"effect"`
	// Off bypasses it.
	Off bool `json:"off"`
}

func (e SwitchEffect) apply(d *Document, _ Env) ([]string, error) {
	list, i, err := e.find(d, e.Effect)
	if err != nil {
		return nil, err
	}
	(*list)[i].Off = e.Off
	return nil, nil
}

func (e SwitchEffect) name(before, _ *Document) string {
	return e.labelOf(before, e.Effect) + map[bool]string{true: " off", false: " on"}[e.Off]
}

// SetSidechain says which voice an effect detects.
type SetSidechain struct {
	Chain
	// Effect is its id.
	Effect string `json:"effect"`
	// Key is a voice of the kit, also a muted one, or "bus:" with a bus; empty is its own sound.
	Key string `json:"key"`
}

func (e SetSidechain) apply(d *Document, _ Env) ([]string, error) {
	list, i, err := e.find(d, e.Effect)
	if err != nil {
		return nil, err
	}
	fx := &(*list)[i]
	if k := effect.KindOf(fx.Kind); !k.Keyed {
		return nil, fmt.Errorf("a %s has no sidechain", lower(k.Label))
	}
	if e.Key != "" && !d.isKey(e.Key) {
		return nil, fmt.Errorf("there is no voice or bus %q", e.Key)
	}
	fx.Key = e.Key
	return nil, nil
}

func (e SetSidechain) name(before, _ *Document) string {
	if e.Key == "" {
		return e.labelOf(before, e.Effect) + " without a sidechain"
	}
	return e.labelOf(before, e.Effect) + " sidechained to " + before.RowName(e.Key)
}

// SetEffectShape says which shape an effect follows.
type SetEffectShape struct {
	Chain
	// Effect is its id.
	Effect string `json:"effect"`
	// Shape is one of the project's; empty ducks on every beat.
	Shape string `json:"shape"`
}

func (e SetEffectShape) apply(d *Document, _ Env) ([]string, error) {
	list, i, err := e.find(d, e.Effect)
	if err != nil {
		return nil, err
	}
	if e.Shape != "" && d.Mix.Shape(e.Shape) == nil {
		return nil, fmt.Errorf("there is no shape %q", e.Shape)
	}
	(*list)[i].Shape = e.Shape
	return nil, nil
}

func (e SetEffectShape) name(before, _ *Document) string {
	return e.labelOf(before, e.Effect) + " follows another shape"
}

// SetEffectRecording says which recording an effect uses, such as an impulse response.
type SetEffectRecording struct {
	Chain
	// Effect is its id.
	Effect string `json:"effect"`
	// Recording is a sound that was uploaded; null is none.
	Recording *effect.Recording `json:"recording"`
}

func (e SetEffectRecording) apply(d *Document, _ Env) ([]string, error) {
	list, i, err := e.find(d, e.Effect)
	if err != nil {
		return nil, err
	}
	fx := &(*list)[i]
	if k := effect.KindOf(fx.Kind); !k.Recorded {
		return nil, fmt.Errorf("a %s uses no recording", lower(k.Label))
	}
	if e.Recording != nil && (e.Recording.Blob == "" || e.Recording.Name == "") {
		return nil, fmt.Errorf("a recording has a sound and a name")
	}
	fx.Recording = nil
	if e.Recording != nil {
		fx.Recording = new(*e.Recording)
	}
	return nil, nil
}

func (e SetEffectRecording) name(before, _ *Document) string {
	if e.Recording == nil {
		return e.labelOf(before, e.Effect) + ": no recording"
	}
	return e.labelOf(before, e.Effect) + ": " + e.Recording.Name
}

// isKey reports whether an effect may have a row as its sidechain: a voice or a bus.
func (d *Document) isKey(row string) bool { return d.Row(row) != nil }
