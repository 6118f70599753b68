package api

import (
	"context"
	"database/sql"
	"encoding/binary"
	"fmt"
	"math"
	"path/filepath"
	"runtime"
	"sync"
	"testing"
	"time"

	"github.com/coder/websocket"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/jobs"
	"jubrak/app/live"
	"jubrak/app/service"
	"jubrak/core/project"
)

// An edit that is made while a monitor opens reaches it, whichever comes first.
func TestAnEditWhileAMonitorOpens(t *testing.T) {
	c := start(t)
	st := c.create()
	id, version := st.ID, st.Version
	ctx, cancel := context.WithTimeout(context.Background(), 60*time.Second)
	defer cancel()
	for round := range 40 {
		var wg sync.WaitGroup
		wg.Go(func() {
			for range round * 20 { // a little later each round
				runtime.Gosched()
			}
			now, err := c.work.Edit(id, version, project.Edits{project.RenameProject{Name: fmt.Sprint("round ", round)}}, "")
			if assert.NoError(t, err) {
				version = now.Version
			}
		})
		m := monitorOf(ctx, t, c, id)
		wg.Wait()
		within, stop := context.WithTimeout(ctx, 2*time.Second)
		for played := live.Block; ; played += live.Block { // no more, lest it falls asleep
			_, data, err := m.conn.Read(within)
			require.NoError(t, err, "round %d: version %d never came", round, version)
			if len(data) >= 8 && versionOf(data) == version {
				break
			}
			m.say(fmt.Sprintf(`{"type":"played","frames":%d}`, played))
		}
		stop()
		_ = m.conn.CloseNow()
	}
}

// An edit is heard before it is saved; where it cannot be saved, what was before is heard
// again, and the next edit is heard as ever.
func TestAnEditIsHeardBeforeItIsSaved(t *testing.T) {
	c := start(t)
	st := c.create()
	ctx, cancel := context.WithTimeout(context.Background(), 60*time.Second)
	defer cancel()
	loud := func(db float64) EditRequest {
		return EditRequest{Base: st.Version, Edits: project.Edits{project.SetNumber{At: "kick/level_db", Value: db}}}
	}
	require.Equal(t, 200, c.edit("/api/projects/"+st.ID, EditRequest{Base: st.Version, Edits: project.Edits{project.AddHit{Voice: "kick", Velocity: 127}}}, &st))
	m := monitorOf(ctx, t, c, st.ID)
	m.say(`{"type":"play","tick":0}`)
	isLoud := func(block []byte) bool { return peakOf(block) > 0.1 }
	m.hears(isLoud)

	other := writerOf(t, c)
	writing, err := other.Begin() // nothing is saved until it ends
	require.NoError(t, err)
	saved := make(chan int, 1)
	go func() {
		var now service.State
		saved <- c.edit("/api/projects/"+st.ID, loud(-60), &now)
	}()
	m.hears(func(block []byte) bool { return versionOf(block) == st.Version+1 })
	assert.Empty(t, saved)
	_, err = writing.Exec("CREATE TRIGGER full BEFORE UPDATE ON projects BEGIN SELECT RAISE(ABORT, 'the disk is full'); END")
	require.NoError(t, err)
	require.NoError(t, writing.Commit())
	assert.Equal(t, 500, <-saved)
	m.hears(isLoud) // as before
	_, err = other.Exec("DROP TRIGGER full")
	require.NoError(t, err)
	require.Equal(t, 200, c.edit("/api/projects/"+st.ID, loud(-60), &st))
	quiet := 0
	m.hears(func(block []byte) bool {
		if quiet++; isLoud(block) {
			quiet = 0
		}
		return quiet > 3*48000/live.Block // longer than the groove
	})
}

// The reference that an edit chooses is what plays, however long the disk takes to save the edit:
// it is prepared from what is saved.
func TestAReferenceIsPreparedOnceItIsSaved(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	c := start(t)
	st := c.create()
	_, job, _ := c.upload(st.ID, "Rink take.flac", fixture(t))
	job = c.wait(job.ID)
	require.Equal(t, jobs.Done, job.Status, job.Error)
	require.Equal(t, 200, c.call("GET", "/api/projects/"+st.ID, nil, &st))
	choose := func(reference string) int {
		return c.edit("/api/projects/"+st.ID, EditRequest{Base: st.Version, Edits: project.Edits{project.ActivateReference{Reference: reference}}}, &st)
	}
	require.Equal(t, 200, choose(""))
	ctx, cancel := context.WithTimeout(context.Background(), 60*time.Second)
	defer cancel()
	m := monitorOf(ctx, t, c, st.ID)
	m.say(`{"type":"source","source":"reference"}`)
	m.say(`{"type":"play","tick":0}`)
	other := writerOf(t, c)
	writing, err := other.Begin() // nothing is saved until it ends
	require.NoError(t, err)
	time.AfterFunc(time.Second, func() { assert.NoError(t, writing.Commit()) }) // longer than preparing waits
	require.Equal(t, 200, choose(job.Result))
	m.hears(func(block []byte) bool { return peakOf(block) > 0.01 })
}

// writerOf is another program that writes to the data folder's database.
func writerOf(t *testing.T, c *client) *sql.DB {
	other, err := sql.Open("sqlite3", "file:"+filepath.Join(c.dir, "jubrak.db")+"?_txlock=immediate")
	require.NoError(t, err)
	t.Cleanup(func() { _ = other.Close() })
	return other
}

// heard is a monitor that a test plays at.
type heard struct {
	t      *testing.T
	ctx    context.Context
	conn   *websocket.Conn
	played int
}

func monitorOf(ctx context.Context, t *testing.T, c *client, project string) *heard {
	return monitorAs(ctx, t, c, project, "")
}

func monitorAs(ctx context.Context, t *testing.T, c *client, project, key string) *heard {
	conn, _, err := websocket.Dial(ctx, "ws"+c.url[4:]+"/api/projects/"+project+"/live?key="+key, nil)
	require.NoError(t, err)
	return &heard{t: t, ctx: ctx, conn: conn}
}

func (h *heard) say(text string) {
	require.NoError(h.t, h.conn.Write(h.ctx, websocket.MessageText, []byte(text)))
}

// hears plays on until a block is as it is to be.
func (h *heard) hears(is func(block []byte) bool) {
	h.t.Helper()
	const size = live.BlockBytes
	for {
		_, data, err := h.conn.Read(h.ctx)
		require.NoError(h.t, err, "it was never heard")
		h.took(data)
		for ; len(data) >= size; data = data[size:] {
			if is(data[:size]) {
				return
			}
		}
		h.say(fmt.Sprintf(`{"type":"played","frames":%d}`, h.played))
	}
}

// took counts blocks as played.
func (h *heard) took(data []byte) {
	for ; len(data) >= live.BlockBytes; data = data[live.BlockBytes:] {
		h.played = max(h.played, int(binary.LittleEndian.Uint64(data[32:]))+live.Block)
	}
}

func versionOf(block []byte) int { return int(binary.LittleEndian.Uint32(block[4:])) }

func peakOf(block []byte) float32 {
	return math.Float32frombits(binary.LittleEndian.Uint32(block[16:]))
}
