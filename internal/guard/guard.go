// Package guard keeps a panic in one piece of background work from ending the
// whole program.
package guard

import (
	"fmt"
	"log/slog"
	"runtime/debug"
)

// Run does work; a panic is logged under what and returned as an error that
// can be known.
func Run(what string, work func() error) (err error) {
	defer func() {
		if p := recover(); p != nil {
			slog.Error("work panicked", "work", what, "panic", p, "stack", string(debug.Stack()))
			err = fmt.Errorf("%s failed unexpectedly (%v). Nothing was changed. Try again, or report this", what, p)
		}
	}()
	return work()
}

// Go does work in the background; a panic is logged and ends that work alone.
func Go(what string, work func()) {
	go func() {
		_ = Run(what, func() error { work(); return nil })
	}()
}
