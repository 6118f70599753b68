package project

import (
	"encoding/json"
	"slices"
	"testing"

	jsonpatch "github.com/evanphx/json-patch/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// patched is what another implementation of RFC 6902 makes of a patch.
func patched(t require.TestingT, before any, patch []Patch) string {
	text, err := json.Marshal(before)
	require.NoError(t, err)
	ops, err := json.Marshal(patch)
	require.NoError(t, err)
	p, err := jsonpatch.DecodePatch(ops)
	require.NoError(t, err)
	out, err := p.Apply(text)
	require.NoError(t, err, string(ops))
	return string(out)
}

func jsonOf(t require.TestingT, v any) string {
	text, err := json.Marshal(v)
	require.NoError(t, err)
	return string(text)
}

// Every kind of edit, done and undone, is distinguished by its patch.
func TestPatchesOfEveryEdit(t *testing.T) {
	for op, e := range every() {
		before := full(t)
		after, _, err := before.Apply(Edits{e}, fakeEnv{heard()})
		require.NoError(t, err, op)
		patch := Diff("", before, after)
		assert.NotEmpty(t, patch, op)
		assert.JSONEq(t, jsonOf(t, after), patched(t, before, patch), op)
		assert.JSONEq(t, jsonOf(t, before), patched(t, after, Diff("", after, before)), op)
	}
	d := full(t)
	assert.Empty(t, Diff("", d, d))
}

func TestPatchesOfLists(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list := rapid.SliceOfN(rapid.IntRange(0, 5), 0, 40)
		a := list.Draw(t, "a")
		b := slices.Clone(a)
		for range rapid.IntRange(0, 4).Draw(t, "changes") {
			at := rapid.IntRange(0, len(b)).Draw(t, "at")
			switch x := rapid.IntRange(0, 5).Draw(t, "x"); {
			case at == len(b) || x < 2:
				b = slices.Insert(b, at, x)
			case x < 4:
				b[at] = x
			default:
				b = slices.Delete(b, at, at+1)
			}
		}
		patch := DiffList("/l", a, b, func(a, b *int) bool { return *a == *b })
		at := func(l []int) any {
			if l == nil {
				l = []int{}
			}
			return map[string]any{"l": l}
		}
		require.JSONEq(t, jsonOf(t, at(b)), patched(t, at(a), patch))
	})
}

func TestAPatchIsSmall(t *testing.T) {
	d := full(t)
	next, _, err := d.Apply(Edits{SetHits{Hits: []HitRef{{"kick", "h1"}}, Number: "velocity", Value: 5}}, nil)
	require.NoError(t, err)
	patch := Diff("/document", d, next)
	require.Len(t, patch, 1)
	assert.Equal(t, "/document/groove/lanes/0/hits/0", patch[0].Path)
	assert.Equal(t, "replace", patch[0].Op)
}
