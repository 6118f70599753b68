package effect

import (
	"fmt"
	"math"
	"strings"

	"jubrak/core/param"
)

// Said is what the words of an effect are made of.
type Said struct {
	// Effect is the effect itself.
	*Effect
	// Sidechain is what its sidechain is called; empty is none.
	Sidechain string
	// ShapeName is what the shape that it follows is called; empty is none.
	ShapeName string
	// Taken is by how much it turns its row's sound down at most, dB, 0 or more; Changed by
	// how much louder the sound becomes, LU.
	Taken, Changed float64
}

// Name is what the value of a choice is called.
func (s Said) Name(id string) string {
	if p, _ := KindOf(s.Kind).Param(id); p != nil {
		if n := int(s.Value(id)); n >= 0 && n < len(p.Names) {
			return p.Names[n]
		}
	}
	return ""
}

// Text is a parameter with no more digits than one can hear, Signed with its sign, Hertz with
// its unit.
func (s Said) Text(id string) string { return param.Text(s.Value(id)) }

// Signed is Text with a plus before what is above 0.
func (s Said) Signed(id string) string { return param.Signed(s.Value(id)) }

// Hertz is a frequency with its unit.
func (s Said) Hertz(id string) string { return param.HertzText(s.Value(id)) }

// Lines say in two short lines what the effect does, so that a chain can be read aloud.
func (s Said) Lines() [2]string {
	k := KindOf(s.Kind)
	out := [2]string{strings.ToLower(k.Label), ""}
	if k.Words != nil {
		out = k.Words(s)
	}
	if mixed := s.Value(mixedID); mixed < 100 && !strings.Contains(out[0], "%") && len(k.Paths) != 1 {
		out[1] = strings.TrimPrefix(out[1]+fmt.Sprintf(", %s %%", param.Text(mixed)), ", ")
	}
	return out
}

// reduction is how much is taken, and with which attack.
func (s Said) reduction() string {
	if s.Value("attack_ms") >= 8 {
		return fmt.Sprintf("attack %s ms", s.Text("attack_ms"))
	}
	return fmt.Sprintf("−%s dB, attack %s ms", param.Text(math.Round(s.Taken)), s.Text("attack_ms"))
}

// louder is how much louder it makes the sound.
func (s Said) louder() string {
	if math.Abs(s.Changed) < 0.5 {
		return "same loudness"
	}
	return param.Signed(s.Changed) + " LU"
}
