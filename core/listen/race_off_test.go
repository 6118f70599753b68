//go:build !race

package listen_test

const underRace = false
