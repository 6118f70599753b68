package compare

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/engine"
	"jubrak/core/isolate"
	"jubrak/core/project"
	"jubrak/core/transcribe"
)

// A project against its own bounce, heard as any recording is: hardly a value is outside.
func TestAgainstItsOwnBounce(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to recordings")
	}
	for take := range drumsOnce {
		d := begun(t, against(t, take))
		out, err := engine.Render(context.Background(), d.Song(nil), engine.Bounce{Rate: 48000, Bars: 8})
		require.NoError(t, err)
		raw, err := transcribe.Analyze(context.Background(), out.Mix, func(string, float64) {})
		require.NoError(t, err)
		a := &Against{Analysis: transcribe.Finish(raw, nil), Reference: "r"}
		a.Drums, err = isolate.Find(context.Background(), out.Mix, a.Analysis.Hits, isolate.Choices{}, func(float64) {})
		require.NoError(t, err)
		a.Analysis = isolate.With(a.Analysis, a.Drums)
		of := *d
		of.References, of.Targets = []project.Reference{{ID: "r", Name: "r", Kind: "audio"}}, []project.Target{}
		c := compareWith(t, &of, a)
		for _, r := range c.Rows {
			if r.Inside != nil && !*r.Inside {
				t.Logf("%s %.3f against %.3f, off %.2f, %.2f within %.2f", r.ID, *r.Mine, *r.Reference, *r.Difference, r.Tolerance, r.Within)
			}
			if r.Inside == nil {
				t.Logf("%s: %s", r.ID, r.Why)
			}
		}
		t.Logf("take %d: %d outside of %d, %d rows", take, c.Outside, c.Measurable, len(c.Rows))
		assert.LessOrEqual(t, c.Outside, c.Measurable/10)
	}
}
