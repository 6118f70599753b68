package project

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// Whatever is read as a document, of this schema or one before, is valid and the same when
// it is written and read again, or it is refused.
func FuzzDocument(f *testing.F) {
	kept, err := filepath.Glob("testdata/schema*.json")
	require.NoError(f, err)
	for _, k := range kept {
		data, err := os.ReadFile(k)
		require.NoError(f, err)
		f.Add(data)
	}
	small := New("x")
	small.Kit.Voices = small.Kit.Voices[:1]
	small.Groove.Lanes = small.Groove.Lanes[:1]
	data, err := json.Marshal(small)
	require.NoError(f, err)
	f.Add(data)
	f.Add([]byte(`{"schema":1,"name":"x","tempo":[{"tick":0,"bpm":100}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := Read(data)
		if err != nil {
			return
		}
		text := jsonOf(t, d)
		back, err := Read([]byte(text))
		require.NoError(t, err)
		require.Equal(t, text, jsonOf(t, back))
	})
}

// Whatever is read as edits leaves a valid document or is refused, and what it was made of
// as it was.
func FuzzEdits(f *testing.F) {
	for _, e := range every() {
		text, err := json.Marshal(Edits{e})
		require.NoError(f, err)
		f.Add(text)
	}
	f.Add([]byte(`[{"op":"groove.grid","grid":0},{"op":"lane.fill","voice":"hat","every":1,"from":0}]`))
	d := full(&testing.T{})
	before := jsonOf(f, d)
	env := fakeEnv{heardOnce}
	n := 0
	f.Fuzz(func(t *testing.T, data []byte) {
		var edits Edits
		if json.Unmarshal(data, &edits) != nil || len(edits) > 64 {
			return
		}
		next, _, err := d.Apply(edits, env)
		if n++; n%16 == 0 || err == nil {
			require.Equal(t, before, jsonOf(t, d))
		}
		if err == nil {
			require.NoError(t, next.Validate())
			edits.Name(d, next)
			Diff("", d, next)
		}
	})
}
