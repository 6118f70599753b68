package live

import (
	"encoding/json"
	"testing"

	"jubrak/core/project"
)

// Whatever a page sends, the next blocks are rendered.
func FuzzMessage(f *testing.F) {
	for _, s := range []string{
		`{"type":"play","tick":3.5,"count_in":1}`, `{"type":"stop"}`, `{"type":"strike","voice":"kick","velocity":900}`, `{"type":"source","source":"both"}`,
		`{"type":"loop","from":-1,"to":4611686018427387904}`, `{"type":"click","on":true,"per":-3}`, `{"type":"solo","voices":["kick","nobody"]}`, `{"type":"hear","parts":["swing","x"]}`,
		`{"type":"bypass","bypass":{"row":"kick","effect":"none"}}`, `{"type":"system","system":"moon"}`, `{"type":"band","row":"kick","effect":"x","band":99}`, `{"type":"played","frames":-9,"dry":1e9,"least":5}`,
	} {
		f.Add([]byte(s), []byte(`{"type":"play","tick":0}`))
	}
	song := project.New("x").Song(nil)
	f.Fuzz(func(_ *testing.T, first, second []byte) {
		s := NewSession(song, 1, nil)
		for _, data := range [][]byte{first, second, first} {
			var m Message
			if json.Unmarshal(data, &m) != nil {
				continue
			}
			switch m.Type {
			case "loop":
				s.again(func() { s.loop = [2]int{max(m.From, 0), m.To} })()
			case "hear":
				s.again(func() { s.hear = m.Parts })()
			case "bypass":
				s.again(func() { s.bypass = m.Bypass })()
			default:
				s.take(&m)
			}
			for range 3 {
				s.next()
			}
		}
	})
}
