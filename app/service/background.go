package service

import (
	"context"
	"runtime"
	"sync"
	"time"
)

// background is the work that is done beside the sound. While something plays, all of it
// together leaves one and a half cores to the sound and the browser; of two cores it takes
// half of one.
type background struct {
	playing func() bool
	now     func() time.Time
	// rests waits for so long, or until a context ends.
	rests func(context.Context, time.Duration)
	// share is how many cores it takes while something plays.
	share float64
	mu    sync.Mutex
	// What has been worked, and as much rest as that asks for, is over then.
	until time.Time
}

func newBackground(playing func() bool) *background {
	return &background{playing: playing, now: time.Now, rests: restFor, share: max(0.5, float64(runtime.NumCPU())-1.5)}
}

func restFor(ctx context.Context, d time.Duration) {
	t := time.NewTimer(d)
	defer t.Stop()
	select {
	case <-t.C:
	case <-ctx.Done():
	}
}

const (
	// turn is how long background work goes on before it looks whether to rest.
	turn = 2 * time.Millisecond
	// longest counts of what was worked in one turn: it may have waited for something else.
	longest = 250 * time.Millisecond
)

// givingWay is the context of one piece of background work. Long work asks its context again
// and again whether to go on: there it also rests.
type givingWay struct {
	context.Context
	of    *background
	mu    sync.Mutex
	since time.Time
}

// context is the one that background work is to be done under.
func (b *background) context(ctx context.Context) context.Context {
	return &givingWay{Context: ctx, of: b, since: b.now()}
}

// Err is that of the context it was made of. It may rest first.
func (g *givingWay) Err() error {
	if err := g.Context.Err(); err != nil {
		return err
	}
	g.mu.Lock()
	defer g.mu.Unlock()
	now := g.of.now()
	worked := min(now.Sub(g.since), longest)
	if worked < turn {
		return nil
	}
	if g.of.playing() {
		g.of.rests(g.Context, g.of.rest(now, worked))
	}
	g.since = g.of.now()
	return g.Context.Err()
}

// rest is how long to rest now after so much work.
func (b *background) rest(now time.Time, worked time.Duration) time.Duration {
	b.mu.Lock()
	defer b.mu.Unlock()
	if began := now.Add(-worked); b.until.Before(began) {
		b.until = began
	}
	b.until = b.until.Add(time.Duration(float64(worked) / b.share))
	return b.until.Sub(now)
}
