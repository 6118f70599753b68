package api

import (
	"context"
	"encoding/binary"
	"fmt"
	"runtime"
	"sync"
	"testing"
	"time"

	"github.com/coder/websocket"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/live"
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
		conn, _, err := websocket.Dial(ctx, "ws"+c.url[4:]+"/api/projects/"+id+"/live", nil)
		require.NoError(t, err)
		wg.Wait()
		within, stop := context.WithTimeout(ctx, 2*time.Second)
		for played := live.Block; ; played += live.Block {
			_, data, err := conn.Read(within)
			require.NoError(t, err, "round %d: version %d never came", round, version)
			if len(data) >= 8 && int(binary.LittleEndian.Uint32(data[4:])) == version {
				break
			}
			require.NoError(t, conn.Write(ctx, websocket.MessageText, fmt.Appendf(nil, `{"type":"played","frames":%d}`, played)))
		}
		stop()
		_ = conn.CloseNow()
	}
}
