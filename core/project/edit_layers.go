package project

import (
	"fmt"
	"slices"
	"strings"

	"jubrak/core/sound"
)

// Edits of the layers of a voice.
var layerEdits = map[string]Edit{
	"layer.add": AddLayer{}, "layer.remove": RemoveLayer{}, "layer.rename": RenameLayer{}, "layer.move": MoveLayer{}, "layer.reset": ResetLayer{},
}

// AddLayer adds a layer to a voice.
type AddLayer struct {
	Voice string `json:"voice"`
	// Layer is what is added. Without a recipe, a recording or a rumble it is the default
	// recipe of the voice's family, at unity; without an id it is given one.
	Layer sound.Layer `json:"layer"`
}

func (e AddLayer) apply(d *Document, _ Env) ([]string, error) {
	v := d.Kit.Voice(e.Voice)
	if v == nil {
		return nil, noVoice(e.Voice)
	}
	l := e.Layer
	if l.Recipe == nil && l.Recording == nil && l.Rumble == nil {
		l = sound.Synthesized(l.ID, l.Name, sound.DefaultRecipe(v.Family))
	}
	for n := len(v.Layers) + 1; l.ID == "" && n < 1000; n++ {
		if id := fmt.Sprintf("l%d", n); v.Layer(id) == nil {
			l.ID = id
		}
	}
	if l.Name == "" {
		l.Name = fmt.Sprintf("Synth %d", len(v.Layers)+1)
		switch {
		case l.Recording != nil:
			l.Name = fmt.Sprintf("Recording %d", len(v.Layers)+1)
		case l.Rumble != nil:
			l.Name = "Rumble"
		}
	}
	v.Layers = append(slices.Clone(v.Layers), l)
	return nil, nil
}

func (e AddLayer) name(before, after *Document) string {
	v := after.Kit.Voice(e.Voice)
	if v == nil || len(v.Layers) == 0 {
		return before.nameOf(e.Voice) + ": a layer added"
	}
	return fmt.Sprintf("%s: layer %s added", before.nameOf(e.Voice), v.Layers[len(v.Layers)-1].Name)
}

// layerOf finds a layer to be changed, in a voice of its own.
func (d *Document) layerOf(voice, id string) (*sound.Voice, *sound.Layer, error) {
	v := d.Kit.Voice(voice)
	if v == nil || v.Layer(id) == nil {
		return nil, nil, fmt.Errorf("the layer is no longer there")
	}
	ownLayer(v, id)
	return v, v.Layer(id), nil
}

func (d *Document) layerName(voice, id string) string {
	if v := d.Kit.Voice(voice); v != nil && v.Layer(id) != nil {
		return v.Name + ": layer " + v.Layer(id).Name
	}
	return "A layer"
}

// RemoveLayer takes a layer away.
type RemoveLayer struct {
	Voice string `json:"voice"`
	Layer string `json:"layer"`
}

func (e RemoveLayer) apply(d *Document, _ Env) ([]string, error) {
	v, _, err := d.layerOf(e.Voice, e.Layer)
	if err == nil {
		v.Layers = slices.DeleteFunc(v.Layers, func(l sound.Layer) bool { return l.ID == e.Layer })
	}
	return nil, err
}

func (e RemoveLayer) name(before, _ *Document) string {
	return before.layerName(e.Voice, e.Layer) + " removed"
}

// RenameLayer gives a layer another name; its id stays.
type RenameLayer struct {
	Voice string `json:"voice"`
	Layer string `json:"layer"`
	Name  string `json:"name"`
}

func (e RenameLayer) apply(d *Document, _ Env) ([]string, error) {
	_, l, err := d.layerOf(e.Voice, e.Layer)
	if err == nil {
		l.Name = strings.TrimSpace(e.Name)
	}
	return nil, err
}

func (e RenameLayer) name(before, _ *Document) string {
	return fmt.Sprintf("%s renamed to %s", before.layerName(e.Voice, e.Layer), e.Name)
}

// MoveLayer changes the order of a voice's layers.
type MoveLayer struct {
	Voice string `json:"voice"`
	Layer string `json:"layer"`
	// To is the place it comes to, counted from 0; beyond the ends it stops there.
	To int `json:"to"`
}

func (e MoveLayer) apply(d *Document, _ Env) ([]string, error) {
	v, l, err := d.layerOf(e.Voice, e.Layer)
	if err != nil {
		return nil, err
	}
	moved := *l
	rest := slices.DeleteFunc(v.Layers, func(o sound.Layer) bool { return o.ID == e.Layer })
	v.Layers = slices.Insert(rest, min(max(e.To, 0), len(rest)), moved)
	return nil, nil
}

func (e MoveLayer) name(before, _ *Document) string {
	return before.layerName(e.Voice, e.Layer) + " moved"
}

// ResetLayer brings a synthesized layer back to the default recipe of its voice's
// family.
type ResetLayer struct {
	Voice string `json:"voice"`
	Layer string `json:"layer"`
}

func (e ResetLayer) apply(d *Document, _ Env) ([]string, error) {
	v, l, err := d.layerOf(e.Voice, e.Layer)
	if err != nil {
		return nil, err
	}
	if l.Recipe == nil {
		return nil, fmt.Errorf("%s is a recording, which has no default", l.Name)
	}
	l.Recipe = new(sound.DefaultRecipe(v.Family))
	return nil, nil
}

func (e ResetLayer) name(before, _ *Document) string {
	return before.layerName(e.Voice, e.Layer) + " back to its default"
}
