package house

import (
	"encoding/json"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	clientPath = regexp.MustCompile("(?:\"(GET|POST|PUT|DELETE)\",\\s*)?(\"/api/[^\"]*\"|`(?:\\$\\{at\\(id\\)\\}|/api/)[^`]*`)")
	filledIn   = regexp.MustCompile(`/\$\{[^}]*\}`)
	parameter  = regexp.MustCompile(`\{[^}]*\}`)
)

// The browser checks types of what it sends, not where to: a renamed route would be
// found missing only by whoever clicks.
func TestTheClientAsksForRoutesThatExist(t *testing.T) {
	var description struct {
		Paths map[string]map[string]json.RawMessage `json:"paths"`
	}
	read, err := os.ReadFile("../../web/openapi.json")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(read, &description))
	routes := map[string]bool{}
	for path, verbs := range description.Paths {
		blank := parameter.ReplaceAllString(path, "{}")
		routes[blank] = true
		for verb := range verbs {
			routes[strings.ToUpper(verb)+" "+blank] = true
		}
	}

	client, err := os.ReadFile("../../web/src/api/client.ts")
	require.NoError(t, err)
	checked := 0
	for _, found := range clientPath.FindAllStringSubmatch(string(client), -1) {
		path := strings.Trim(found[2], "\"`")
		path = strings.Replace(path, "${at(id)}", "/api/projects/{}", 1)
		path = filledIn.ReplaceAllString(path, "/{}")
		path, _, _ = strings.Cut(path, "?")
		path, _, _ = strings.Cut(path, "${")
		asked := strings.TrimSpace(found[1] + " " + path)
		if path == "/api/projects/{}" && found[1] == "" {
			continue // at itself
		}
		assert.True(t, routes[asked], "%s is no route", asked)
		checked++
	}
	assert.Greater(t, checked, 80, "paths found in the client")
}
