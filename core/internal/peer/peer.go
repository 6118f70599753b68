// Package peer runs other people's programs beside ours in tests.
package peer

import (
	"os"
	"os/exec"
	"testing"
)

// Need returns the path of a program. Without it the test is skipped, or
// fails where JUBRAK_PEERS is set, as `make test` does.
func Need(t *testing.T, program string) string {
	t.Helper()
	path, err := exec.LookPath(program)
	if err != nil {
		if os.Getenv("JUBRAK_PEERS") != "" {
			t.Fatalf("%s is not installed; make test-tools installs it", program)
		}
		t.Skipf("%s is not installed", program)
	}
	return path
}

// Run runs the program and returns what it printed, both streams.
func Run(t *testing.T, program string, args ...string) string {
	t.Helper()
	out, err := exec.Command(Need(t, program), args...).CombinedOutput()
	if err != nil {
		t.Fatalf("%s: %v\n%s", program, err, out)
	}
	return string(out)
}
