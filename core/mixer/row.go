package mixer

import (
	"fmt"

	"jubrak/core/effect"
	"jubrak/core/param"
)

// Row is what a voice and a bus have in common: what the sound goes through, and where
// it goes from there.
type Row struct {
	// Chain are its effects, in the order in which sound goes through them.
	Chain []effect.Effect `json:"chain"`
	// To is the bus that it goes to; empty is the output.
	To string `json:"to"`
	// Sends are copies that go to other buses as well.
	Sends []Send `json:"sends"`
	// Like names the row whose chain this one's follows; empty is a chain of its own. Own
	// are the numbers that differ from it, by effect and number ("equalizer1/band1.hz").
	Like string             `json:"like,omitempty"`
	Own  map[string]float64 `json:"own,omitempty"`
}

// Send is a copy of a row's sound, taken after its level and pan or before them.
type Send struct {
	// To is the bus that gets it.
	To string `json:"to"`
	// Pre takes it before the row's fader. A row that is muted sends nothing either way.
	Pre   bool    `json:"pre_fader,omitempty"`
	Level float64 `json:"level_db"`
	// Later holds the copy back, as the way to a microphone farther off does.
	Later float64 `json:"later_ms"`
	// Low and High cut the copy.
	Low  float64 `json:"low_cut_hz"`
	High float64 `json:"high_cut_hz"`
}

// SendParams is the table of a send's numbers.
var SendParams = param.Table[Send]{
	param.Number(param.Decibels("level_db", "Level", -60, 12, -12), func(s *Send) *float64 { return &s.Level }),
	param.Flag("pre_fader", "Before the fader", func(s *Send) *bool { return &s.Pre }),
	param.Number(param.Milliseconds("later_ms", "Send delay", 0, 60, 0), func(s *Send) *float64 { return &s.Later }),
	param.Number(param.Hertz("low_cut_hz", "Low cut", 20, 2000, 20), func(s *Send) *float64 { return &s.Low }),
	param.Number(param.Hertz("high_cut_hz", "High cut", 200, 20000, 20000), func(s *Send) *float64 { return &s.High }),
}

// goes are the buses that a row goes to.
func (r *Row) goes() []string {
	out := []string{r.To}
	for _, s := range r.Sends {
		out = append(out, s.To)
	}
	return out
}

// Validate checks a row's chain and sends.
func (r *Row) Validate() error {
	if len(r.Sends) > MaxSends {
		return fmt.Errorf("a row has at most %d sends", MaxSends)
	}
	for i := range r.Sends {
		if err := SendParams.Validate(&r.Sends[i]); err != nil {
			return err
		}
		if r.Sends[i].To == "" || r.Send(r.Sends[i].To) != &r.Sends[i] {
			return fmt.Errorf("a row sends once to a bus")
		}
	}
	return effect.ValidChain(r.Chain)
}

// Send finds the send to a bus, or nil.
func (r *Row) Send(bus string) *Send {
	for i := range r.Sends {
		if r.Sends[i].To == bus {
			return &r.Sends[i]
		}
	}
	return nil
}
