package demo

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/service"
	"jubrak/app/store"
)

func TestSeed(t *testing.T) {
	st, err := store.Open(t.TempDir())
	require.NoError(t, err)
	defer func() { _ = st.Close() }()
	s := service.New(st)
	defer s.Close()
	require.NoError(t, Seed(context.Background(), s))
	require.NoError(t, Seed(context.Background(), s), "a second time it does nothing")
	list, err := s.Projects()
	require.NoError(t, err)
	require.Len(t, list, 4)
	for _, p := range list {
		c, err := s.Compare(context.Background(), p.ID, nil)
		require.NoError(t, err)
		assert.Positive(t, c.Outside, "%s leaves something to do", p.Name)
		assert.Greater(t, c.Measurable, 15)
		state, err := s.Open(p.ID)
		require.NoError(t, err)
		assert.NotEmpty(t, state.Document.Key)
		assert.False(t, state.CanUndo, "the first undo must not take the reference away")
	}
}
