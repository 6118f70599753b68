package service

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// While something plays, background work takes half of the time of one core, however much of
// it is done at once.
func TestBackgroundWorkGivesWay(t *testing.T) {
	const ms = time.Millisecond
	for pieces := 1; pieces <= 3; pieces++ {
		start := time.Unix(0, 0)
		clock, playing := start, true // of the piece that works
		b := &background{playing: func() bool { return playing }, now: func() time.Time { return clock }, rests: func(_ context.Context, d time.Duration) { clock = clock.Add(d) }, share: 0.5}
		clocks := make([]time.Time, pieces)
		contexts := make([]context.Context, pieces)
		for i := range pieces {
			clocks[i], contexts[i] = start, b.context(context.Background())
		}
		// work lets whoever is behind work on, each on a core of its own.
		work := func(turns int) (until time.Duration) {
			for range turns * pieces {
				behind := 0
				for i := range clocks {
					if clocks[i].Before(clocks[behind]) {
						behind = i
					}
				}
				clock = clocks[behind]
				for range 20 {
					clock = clock.Add(100 * time.Microsecond)
					_ = contexts[behind].Err()
				}
				clocks[behind] = clock
				until = max(until, clock.Sub(start))
			}
			return until
		}
		took := work(50)
		assert.InDelta(t, float64(pieces)*200, float64(took/ms), 4*float64(pieces), "100 ms of work each, of %d", pieces)
		playing = false
		assert.InDelta(t, 100, float64((work(50)-took)/ms), 4*float64(pieces), "nothing plays")
	}
}

// Who rests is woken by the end of the work, and says so.
func TestWhoRestsIsGivenUp(t *testing.T) {
	b := newBackground(func() bool { return true })
	b.share = 1e-6 // 2 ms of work ask for half an hour of rest
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	under := b.context(ctx)
	time.Sleep(2 * turn)
	ended := make(chan error)
	go func() { ended <- under.Err() }()
	select {
	case <-ended:
		t.Fatal("it does not rest")
	case <-time.After(10 * turn):
	}
	cancel()
	assert.ErrorIs(t, <-ended, context.Canceled)
}

// What waits for something else does not rest for that.
func TestWaitingIsNoWork(t *testing.T) {
	clock, rested := time.Unix(0, 0), time.Duration(0)
	b := &background{playing: func() bool { return true }, now: func() time.Time { return clock }, rests: func(_ context.Context, d time.Duration) { rested = d }, share: 0.5}
	ctx := b.context(context.Background())
	clock = clock.Add(time.Hour)
	assert.NoError(t, ctx.Err())
	assert.Equal(t, longest, rested)
}
