//go:build race

package listen_test

// underRace leaves the long listening to the run without the race detector.
const underRace = true
