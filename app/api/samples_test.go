package api

import (
	"bytes"
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/service"
	"jubrak/core/compare"
)

// What the front end's tests take for answers of the server has the fields that it sends,
// and no others.
func TestTheFrontEndsSamplesAreOfTheWire(t *testing.T) {
	for file, into := range map[string]any{"state.json": &service.State{}, "comparison.json": &compare.Comparison{}} {
		data, err := os.ReadFile("../../web/src/test/" + file)
		require.NoError(t, err)
		d := json.NewDecoder(bytes.NewReader(data))
		d.DisallowUnknownFields()
		require.NoError(t, d.Decode(into), file)
		again, err := json.Marshal(into)
		require.NoError(t, err)
		var was, is map[string]any
		require.NoError(t, json.Unmarshal(data, &was))
		require.NoError(t, json.Unmarshal(again, &is))
		for key := range is {
			assert.Contains(t, was, key, "%s lacks a field of today", file)
		}
	}
}
