package api

import (
	"bytes"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"jubrak/app/service"
	"jubrak/app/store"
	"jubrak/core/groove"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// large is a project of 64 bars, 16 voices and 8,000 hits.
func large(tb testing.TB) *project.Document {
	tb.Helper()
	d := project.New("All night")
	d.Groove.Bars, d.Groove.Lanes = 64, nil
	families := []sound.Family{sound.Kick, sound.Snare, sound.HatClosed, sound.Perc}
	d.Kit.Voices = nil
	for i := range 16 {
		v := sound.NewVoice(fmt.Sprint("v", i), fmt.Sprint("Voice ", i), families[i%4])
		d.Kit.Voices = append(d.Kit.Voices, v)
		l := d.Groove.EnsureLane(v.ID)
		for j := range 500 {
			l.Hits = append(l.Hits, groove.Hit{ID: fmt.Sprint("h", j+1), Tick: j * 2 * 240, Velocity: 40 + (i+j)%80})
		}
	}
	require.NoError(tb, d.Validate())
	return d
}

// BenchmarkEdit8000 is the server's answer to a change of one hit among 8,000:
// in memory, without the flush of a disk, and with it.
func BenchmarkEdit8000(b *testing.B) {
	for _, where := range []string{"memory", "disk"} {
		b.Run(where, func(b *testing.B) {
			dir := b.TempDir()
			if where == "memory" {
				var err error
				if dir, err = os.MkdirTemp("/dev/shm", "jubrak"); err != nil {
					b.Skip("no folder in memory here")
				}
				defer func() { _ = os.RemoveAll(dir) }()
			}
			st, err := store.Open(dir)
			require.NoError(b, err)
			defer func() { _ = st.Close() }()
			work := service.New(st)
			defer work.Close()
			server := New(work, fstest.MapFS{}, slog.New(slog.DiscardHandler))
			at, err := work.Create(large(b))
			require.NoError(b, err)
			version, size := at.Version, 0
			for b.Loop() {
				body, err := json.Marshal(EditRequest{Base: version, Coalesce: "drag", Edits: project.Edits{
					project.SetHits{Hits: []project.HitRef{{Voice: "v7", Hit: "h250"}}, Number: "velocity", Value: float64(1 + version%127)},
				}})
				require.NoError(b, err)
				req := httptest.NewRequest(http.MethodPost, "/api/projects/"+at.ID+"/edits", bytes.NewReader(body))
				req.Host = "127.0.0.1:7900"
				w := httptest.NewRecorder()
				server.ServeHTTP(w, req)
				if w.Code != http.StatusOK {
					b.Fatal(w.Body.String())
				}
				version++
				size = w.Body.Len()
			}
			b.ReportMetric(float64(size), "B/answer")
		})
	}
}
