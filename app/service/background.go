package service

import (
	"sync"
	"time"
)

// background is the work that is done beside the sound. While something plays, all of it
// together takes half of the time of one core, so that the stream is served first and the
// browser has the rest.
type background struct {
	playing func() bool
	now     func() time.Time
	sleep   func(time.Duration)
	mu      sync.Mutex
	// What has been worked, and as much rest, is over then.
	until time.Time
}

// turn is how long background work goes on before it looks whether to rest.
const turn = 2 * time.Millisecond

// pause is to be called often by one piece of background work, from one goroutine.
func (b *background) pause() func() {
	since := b.now()
	return func() {
		now := b.now()
		worked := now.Sub(since)
		if worked < turn {
			return
		}
		if b.playing() {
			b.sleep(b.rest(now, worked))
		}
		since = b.now()
	}
}

// rest is how long to rest now after so much work.
func (b *background) rest(now time.Time, worked time.Duration) time.Duration {
	b.mu.Lock()
	defer b.mu.Unlock()
	if began := now.Add(-worked); b.until.Before(began) {
		b.until = began
	}
	b.until = b.until.Add(2 * worked)
	return b.until.Sub(now)
}
