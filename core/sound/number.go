package sound

import (
	"slices"
	"strings"

	"jubrak/core/param"
)

// LayerNumber is a number of a layer: of itself or of what sounds in it.
type LayerNumber struct {
	param.Param
	Value float64
	set   func(float64) error
}

// Set writes a value, held inside its range. The layer must be the caller's own.
func (n *LayerNumber) Set(v float64) error { return n.set(v) }

// Number finds a number of the layer by its id: "level_db", "body.decay_ms",
// "effects/drive1/amount_percent", "attack.length_ms", "rumble.decay_ms",
// "recording.skip_ms"; nil where there is none.
func (l *Layer) Number(id string) *LayerNumber {
	if n := numberOf(LayerParams, id, l); n != nil {
		return n
	}
	if r := l.Recipe; r != nil {
		if n, ok := r.Number(id); ok {
			return &LayerNumber{*n.Param, n.Get(r), func(v float64) error { return n.Set(r, v) }}
		}
	}
	if n := numberOf(AttackParams, id, l.Attack); n != nil {
		return n
	}
	if n := numberOf(RumbleParams, id, l.Rumble); n != nil {
		return n
	}
	return numberOf(RecordingParams, id, l.Recording)
}

func numberOf[T any](table param.Table[T], id string, of *T) *LayerNumber {
	row := table.Find(id)
	if row == nil || of == nil {
		return nil
	}
	return &LayerNumber{row.Param, row.Get(of), func(v float64) error { return row.Set(of, v) }}
}

// Number finds a number of a layer by its address within the voice, such as
// "layers/drum/body.decay_ms"; nil where there is none.
func (v *Voice) Number(path string) *LayerNumber {
	part := strings.SplitN(path, "/", 3)
	if len(part) < 3 || part[0] != "layers" {
		return nil
	}
	l := v.Layer(part[1])
	if l == nil {
		return nil
	}
	return l.Number(part[2])
}

// Own makes what sounds in the layer its own, so that it may be changed.
func (l *Layer) Own() {
	if l.Recipe != nil {
		l.Recipe = new(*l.Recipe)
		l.Recipe.Own()
	}
	if l.Attack != nil {
		l.Attack = new(*l.Attack)
	}
	if l.Rumble != nil {
		l.Rumble = new(*l.Rumble)
	}
	if l.Recording != nil {
		l.Recording = new(*l.Recording)
	}
}

// With is the voice with other values of some numbers, by address within the voice; those
// that it does not have are left out. v is not changed.
func (v *Voice) With(values map[string]float64) *Voice {
	out := *v
	out.Layers = slices.Clone(v.Layers)
	owned := map[string]bool{}
	for path, value := range values {
		part := strings.SplitN(path, "/", 3)
		if len(part) < 3 || part[0] != "layers" || out.Layer(part[1]) == nil {
			continue
		}
		l := out.Layer(part[1])
		if !owned[l.ID] {
			l.Own()
			owned[l.ID] = true
		}
		if n := l.Number(part[2]); n != nil {
			_ = n.Set(value) // held inside its range; what is no number stays
		}
	}
	return &out
}
