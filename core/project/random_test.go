package project

import (
	"encoding/json"
	"math"
	"reflect"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/groove"
)

// words are texts that an edit of full may name, by the name of its field; a field that
// is not here takes any of them.
var words = map[string][]string{
	"voice": {"kick", "snare", "hat", "808", "nobody", ""}, "follows": {"kick", "snare", "hat"}, "sound": {"snare", "hat", "", "nobody"}, "key": {"Am", "F#", "banana", "", "kick", "snare"},
	"row": {"kick", "snare", "bus:drums", "bus:room", "out", "bus:none"}, "to": {"drums", "room", "", "none"}, "bus": {"drums", "room", "none"}, "like": {"kick", "snare", "", "bus:drums"},
	"step": {"equalizer1", "gate1", "parallel1", "drive1", "duck1", "none"}, "in": {"", "parallel1", "none"}, "kind": {"reverse", "impact", "riser", "fall", "drive", "equalizer", "parallel", "split", "compressor", "none", "white", "pink"},
	"layer": {"drum", "l1", "none"}, "at": {"kick/level_db", "body.end_hz", "body.decay_ms", "kick/chain/equalizer1/band1.gain_db", "tempo/bpm", "groove/feel/kick/lean_ms", "groove/feel/swing_percent", "none"},
	"hit": {"h1", "h2", "h3", "h99"}, "number": {"velocity", "nudge_ms", "roll.strokes", "length_ticks", "none"}, "as": {"ghost", "accent", "plain", "drop", "x"},
	"family": {"kick", "clap", "x"}, "variation": {"a", "b", "z"}, "reference": {"r", "habit", "none", ""}, "part": {"snap", "noise", "both", "pattern"}, "table": {"contour", "accent", "x"},
	"towards": {"grid", "feel", "x"}, "from": {"reference", "b", "genre"}, "chords": {"Fm | Db Ab", "", "x", strings.Repeat("C ", 900)}, "name": {"One", "", strings.Repeat("x", 200)},
	"by": {"velocity", "curve1", "chance", "note"}, "shape": {"s", "", "none"}, "blob": {"a", "s"}, "section": {"s1", "s2", "s9"}, "over": {"o1", "o2", "o9"}, "order": {"order1", "x"}, "marker": {"m1", "x"}, "fill": {"fill-house-classic-1", "", "x"}, "meter": {"7/8", "", "0/4", "x"}, "voices": {"kick", "hat", "nobody"}, "keeps": {"kick", "nobody"}, "curve": {"curve1", "none"},
}

// arbitrary draws a value of a type: sensible ones often, absurd ones now and then.
func arbitrary(t *rapid.T, typ reflect.Type, field string, depth int) reflect.Value {
	out := reflect.New(typ).Elem()
	switch typ.Kind() {
	case reflect.String:
		list := words[field]
		if len(list) == 0 {
			list = []string{"kick", "drum", "a", "x", ""}
		}
		out.SetString(rapid.SampledFrom(list).Draw(t, field))
	case reflect.Bool:
		out.SetBool(rapid.Bool().Draw(t, field))
	case reflect.Int, reflect.Int64:
		out.SetInt(int64(rapid.SampledFrom([]int{0, 1, 2, 3, 4, 8, 12, 16, 64, 100, 127, 240, 480, 960, 1024, -1, -3, 2000, 1 << 20, math.MaxInt, math.MinInt, math.MaxInt / 960}).Draw(t, field)))
	case reflect.Float64:
		out.SetFloat(rapid.SampledFrom([]float64{0, 0.5, 1, 2, -1, 4, 25, 50, 100, 440, 961.5, -60, 1e9, 1e300, -1e300, math.Inf(1), math.NaN()}).Draw(t, field))
	case reflect.Slice:
		if typ.Elem().Kind() == reflect.Uint8 || depth > 6 {
			return out
		}
		for range rapid.IntRange(0, 4).Draw(t, field) {
			out = reflect.Append(out, arbitrary(t, typ.Elem(), field, depth+1))
		}
	case reflect.Map:
		out = reflect.MakeMap(typ)
		for range rapid.IntRange(0, 2).Draw(t, field) {
			out.SetMapIndex(arbitrary(t, typ.Key(), "voice", depth+1), arbitrary(t, typ.Elem(), field, depth+1))
		}
	case reflect.Struct:
		for i := range typ.NumField() {
			if f := typ.Field(i); f.IsExported() && (depth < 3 || rapid.Bool().Draw(t, "set")) {
				name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
				out.Field(i).Set(arbitrary(t, f.Type, name, depth+1))
			}
		}
	case reflect.Pointer:
		if depth < 4 && rapid.Bool().Draw(t, "there") {
			p := reflect.New(typ.Elem())
			p.Elem().Set(arbitrary(t, typ.Elem(), field, depth+1))
			return p
		}
	}
	return out
}

// anEdit draws an edit: one that is known to work, or one of whose fields all are drawn.
func anEdit(t *rapid.T, known map[string]Edit) Edit {
	k := rapid.SampledFrom(kinds).Draw(t, "kind")
	e := known[k.Op]
	switch rapid.IntRange(0, 2).Draw(t, "how") {
	case 0:
		return e
	case 1: // one field of one that works
		v := reflect.New(k.Type).Elem()
		v.Set(reflect.ValueOf(e))
		if n := k.Type.NumField(); n > 0 {
			f := k.Type.Field(rapid.IntRange(0, n-1).Draw(t, "field"))
			name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			v.FieldByName(f.Name).Set(arbitrary(t, f.Type, name, 1))
		}
		return v.Interface().(Edit)
	}
	return arbitrary(t, k.Type, "", 0).Interface().(Edit)
}

// Whatever edits come, sensible or absurd, together or alone: what they were made of
// keeps every byte, a refused batch leaves nothing behind, what an accepted one makes is
// valid, comes back from its JSON and is what its patch makes, there and back. None takes
// long.
func TestAnyBatch(t *testing.T) {
	known := every()
	rapid.Check(t, func(t *rapid.T) {
		d := startOf(t)
		for range 3 {
			before := jsonOf(t, d)
			var batch Edits
			for range rapid.IntRange(1, 4).Draw(t, "edits") {
				batch = append(batch, anEdit(t, known))
			}
			began := time.Now()
			next, _, err := d.Apply(batch, fakeEnv{heard()})
			require.Less(t, time.Since(began), 5*time.Second, "%+v", batch)
			require.Equal(t, before, jsonOf(t, d), "%+v: %v", batch, err)
			if err != nil {
				continue
			}
			require.NoError(t, next.Validate())
			text := jsonOf(t, next)
			back, err := Read([]byte(text))
			require.NoError(t, err, "%+v", batch)
			require.JSONEq(t, text, jsonOf(t, back), "%+v", batch)
			require.JSONEq(t, text, patched(t, d, Diff("", d, next)), "%+v", batch)
			require.JSONEq(t, before, patched(t, next, Diff("", next, d)), "%+v", batch)
			line := groove.NewLine(&back.Groove, back.Tempo, 0)
			for i := range back.Groove.Lanes {
				for _, f := range line.Falls(i) {
					require.False(t, math.IsNaN(f.Offset) || math.IsInf(f.Offset, 0), "%+v", batch)
				}
			}
			require.NotContains(t, batch.Name(d, next), "%!", "%+v", batch)
			d = next
		}
	})
}

var started string

// startOf is a fresh copy of full.
var heardOnce = heard()

func startOf(t *rapid.T) *Document {
	if started == "" {
		started = jsonOf(t, full(&testing.T{}))
	}
	var d Document
	require.NoError(t, json.Unmarshal([]byte(started), &d))
	d.tidy()
	return &d
}
