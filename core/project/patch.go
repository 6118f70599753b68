package project

import (
	"fmt"
	"reflect"

	"jubrak/core/arrange"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/sound"
)

// Patch is one operation of a JSON Patch (RFC 6902): add, remove or replace
// what stands at a JSON Pointer (RFC 6901). Only whole elements of lists are
// added and removed.
type Patch struct {
	Op    string `json:"op"`
	Path  string `json:"path"`
	Value any    `json:"value,omitempty"`
}

// Diff lists what makes after of before, in the order in which it is to be
// done, with paths that begin with at. Hits and layers are reported one by one.
func Diff(at string, before, after *Document) []Patch {
	out := []Patch{}
	whole := func(path string, a, b any) {
		if !reflect.DeepEqual(a, b) {
			out = append(out, Patch{"replace", at + path, b})
		}
	}
	whole("/schema", before.Schema, after.Schema)
	whole("/name", before.Name, after.Name)
	whole("/key", before.Key, after.Key)
	whole("/tempo", before.Tempo, after.Tempo)
	out = append(out, diffVoices(at+"/kit/voices", before.Kit.Voices, after.Kit.Voices)...)
	out = append(out, DiffList(at+"/mix/buses", before.Mix.Buses, after.Mix.Buses, func(a, b *mixer.Bus) bool { return reflect.DeepEqual(*a, *b) })...)
	whole("/mix/out", before.Mix.Out, after.Mix.Out)
	whole("/mix/shapes", before.Mix.Shapes, after.Mix.Shapes)
	whole("/mix/automation", before.Mix.Automation, after.Mix.Automation)
	a, b := &before.Groove, &after.Groove
	whole("/groove/name", a.Name, b.Name)
	whole("/groove/bars", a.Bars, b.Bars)
	whole("/groove/meter", a.Meter, b.Meter)
	whole("/groove/grid", a.Grid, b.Grid)
	whole("/groove/feel", a.Feel, b.Feel)
	whole("/groove/seed", a.Seed, b.Seed)
	out = append(out, diffLanes(at+"/groove/lanes", a.Lanes, b.Lanes)...)
	out = append(out, DiffList(at+"/variations", before.Variations, after.Variations, sameVariation)...)
	whole("/variation", before.Variation, after.Variation)
	out = append(out, DiffList(at+"/arrangement/sections", before.Arrangement.Sections, after.Arrangement.Sections, func(a, b *arrange.Section) bool { return reflect.DeepEqual(*a, *b) })...)
	whole("/arrangement/orders", before.Arrangement.Orders, after.Arrangement.Orders)
	whole("/arrangement/markers", before.Arrangement.Markers, after.Arrangement.Markers)
	whole("/arrangement/backings", before.Arrangement.Backings, after.Arrangement.Backings)
	whole("/arrangement/speed", before.Arrangement.Speed, after.Arrangement.Speed)
	whole("/references", before.References, after.References)
	whole("/active_reference", before.Active, after.Active)
	whole("/targets", before.Targets, after.Targets)
	return out
}

// sameVariation reports whether two variations are the same; quick where they share their
// grooves.
func sameVariation(a, b *Variation) bool {
	if a.ID != b.ID || a.Name != b.Name || a.Here != b.Here {
		return false
	}
	return a.Groove == b.Groove || reflect.DeepEqual(a.Groove, b.Groove)
}

// SameKit reports whether two kits are the same; quick where they share layers.
func SameKit(a, b *sound.Kit) bool {
	return len(diffVoices("", a.Voices, b.Voices)) == 0
}

// diffVoices returns of a voice that is still in its place only the layers that
// changed, where that is all.
func diffVoices(path string, a, b []sound.Voice) []Patch {
	same := func(a, b *sound.Voice) bool {
		x, y := *a, *b
		x.Layers, y.Layers = nil, nil
		return reflect.DeepEqual(x, y)
	}
	out := DiffList(path, a, b, same)
	if len(out) > 0 {
		return DiffList(path, a, b, func(a, b *sound.Voice) bool { return same(a, b) && a.SameLayers(b) })
	}
	for i := range b {
		if !a[i].SameLayers(&b[i]) {
			out = append(out, DiffList(fmt.Sprintf("%s/%d/layers", path, i), a[i].Layers, b[i].Layers, func(a, b *sound.Layer) bool { return reflect.DeepEqual(a, b) })...)
		}
	}
	return out
}

func diffLanes(path string, a, b []groove.Lane) []Patch {
	var out []Patch
	for i := range b {
		if i >= len(a) || a[i].Voice != b[i].Voice {
			return []Patch{{"replace", path, b}}
		}
		lane := fmt.Sprintf("%s/%d", path, i)
		if a[i].Steps != b[i].Steps {
			out = append(out, Patch{"replace", lane + "/steps", b[i].Steps})
		}
		if a[i].Grid != b[i].Grid {
			op := "replace"
			if a[i].Grid == 0 {
				op = "add" // one that is not set is not reported
			} else if b[i].Grid == 0 {
				op = "remove"
			}
			out = append(out, gridPatch(op, lane, b[i].Grid))
		}
		if !a[i].SameHits(&b[i]) {
			out = append(out, DiffList(lane+"/hits", a[i].Hits, b[i].Hits, func(a, b *groove.Hit) bool { return *a == *b })...)
		}
	}
	if len(a) > len(b) {
		return []Patch{{"replace", path, b}}
	}
	return out
}

func gridPatch(op, lane string, grid int) Patch {
	if op == "remove" {
		return Patch{op, lane + "/grid", nil}
	}
	return Patch{op, lane + "/grid", grid}
}

// DiffList lists what makes b of a, at a path; where that would be most of it,
// the whole list.
func DiffList[T any](path string, a, b []T, same func(a, b *T) bool) []Patch {
	short := min(len(a), len(b))
	head, tail := 0, 0
	for head < short && same(&a[head], &b[head]) {
		head++
	}
	for tail < short-head && same(&a[len(a)-1-tail], &b[len(b)-1-tail]) {
		tail++
	}
	if max(len(a), len(b))-head-tail > 8+len(b)/2 {
		return []Patch{{"replace", path, b}}
	}
	var out []Patch
	i := head
	for ; i < short-tail; i++ {
		if !same(&a[i], &b[i]) {
			out = append(out, Patch{"replace", fmt.Sprintf("%s/%d", path, i), b[i]})
		}
	}
	for j := len(a) - tail - 1; j >= i; j-- {
		out = append(out, Patch{"remove", fmt.Sprintf("%s/%d", path, j), nil})
	}
	for ; i < len(b)-tail; i++ {
		out = append(out, Patch{"add", fmt.Sprintf("%s/%d", path, i), b[i]})
	}
	return out
}
