package service

import (
	"runtime/debug"
	"sync"
)

// A long recording is hundreds of megabytes that pass through several stages. Samples
// hold no pointers, so that looking for what is free costs little beside listening: while
// anything is listened to, that is done often, and memory is hardly more than what is in
// use.
const frugalPercent = 10

var frugal struct {
	sync.Mutex
	busy  int
	usual int
}

// frugally sets that going, and returns what ends it.
func frugally() (end func()) {
	frugal.Lock()
	defer frugal.Unlock()
	if frugal.busy++; frugal.busy == 1 {
		frugal.usual = debug.SetGCPercent(frugalPercent)
	}
	return func() {
		frugal.Lock()
		defer frugal.Unlock()
		if frugal.busy--; frugal.busy == 0 {
			debug.SetGCPercent(frugal.usual)
		}
	}
}
