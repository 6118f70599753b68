package profile

import (
	"encoding/json"
	"testing"
)

// A profile of any text is refused, or can be used as a reference and compared.
func FuzzProfile(f *testing.F) {
	for _, p := range Genres()[:3] {
		text, err := json.Marshal(p)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(text)
	}
	f.Add([]byte(`{"name":"x","swing_percent":{"low":90,"high":1}}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		var p Profile
		if json.Unmarshal(data, &p) != nil {
			return
		}
		p.Tidy()
		if p.Validate() != nil {
			return
		}
		if _, err := json.Marshal(p.Analysis()); err != nil {
			t.Fatal(err)
		}
	})
}
