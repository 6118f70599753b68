package guard

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestAPanicEndsItsWorkAlone(t *testing.T) {
	assert.ErrorContains(t, Run("the study", func() error { panic("oh") }), "the study failed")
	assert.ErrorContains(t, Run("x", func() error { return errors.New("no") }), "no")
	assert.NoError(t, Run("x", func() error { return nil }))
	done := make(chan bool)
	Go("x", func() { defer close(done); panic("oh") })
	<-done
}
