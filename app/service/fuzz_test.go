package service

import (
	"encoding/json"
	"testing"

	"jubrak/core/project"
)

// A mapping of MIDI keys of any text is refused, or files keys both ways.
func FuzzMapping(f *testing.F) {
	for _, s := range []string{`{"keys":{"38":"rim","20":"clap"}}`, `{"keys":{"-1":"kick"}}`, `{"keys":{"999":"gong"}}`, `{"keys":null}`} {
		f.Add([]byte(s))
	}
	d := project.New("x")
	f.Fuzz(func(t *testing.T, data []byte) {
		var m Mapping
		if json.Unmarshal(data, &m) != nil {
			return
		}
		for _, c := range m.corrections() {
			if c.Validate() != nil {
				return
			}
		}
		for _, v := range voiceFacts(d, &m) {
			if v.Key < 0 || v.Key > 127 {
				t.Fatalf("%s is written on key %d", v.Voice, v.Key)
			}
		}
	})
}
