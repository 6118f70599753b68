// Package brief shortens the tables of long tests.
package brief

import "testing"

// First returns the first n of a table when tests run with -short, and all of it when not.
func First[T any](n int, table ...T) []T {
	if testing.Short() {
		return table[:min(n, len(table))]
	}
	return table
}
