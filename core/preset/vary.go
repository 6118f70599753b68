package preset

import (
	"math"
	"strings"

	"jubrak/core/dsp"
	"jubrak/core/param"
	"jubrak/core/sound"
)

// Groups of numbers that Vary may change.
const (
	Pitches = "pitch"
	Times   = "time"
	Colours = "colour"
	Levels  = "level"
)

// Groups lists them in order of the screen.
var Groups = []string{Pitches, Times, Colours, Levels}

// Group is which of Groups a number belongs to.
func Group(p *param.Param) string {
	switch {
	case p.Unit == "st" || p.Part == "body" && p.Unit == "Hz" || p.ID == "ring.pitch_hz" || p.ID == "metal.pitch_hz" || p.Unit == "ct":
		return Pitches
	case p.Unit == "ms":
		return Times
	case strings.HasSuffix(p.ID, "level_db") || p.ID == "mix_percent" || p.ID == "gain_db":
		return Levels
	}
	return Colours
}

// Vary makes so many recipes like one: every number of the groups that its sound
// depends on is moved by chance, on its own scale, by about so many percent of a
// usual range (an octave and a half, 9 dB, a fifth of the range). The same seed gives
// the same recipes; the k-th does not depend on how many there are.
func Vary(r sound.Recipe, count int, percent float64, groups []string, seed uint64) []sound.Recipe {
	in := map[string]bool{}
	for _, g := range groups {
		in[g] = true
	}
	out := make([]sound.Recipe, count)
	for k := range out {
		v := r
		v.Own()
		move := func(at string, p *param.Param, get float64, set func(float64)) {
			if !p.Continuous() || !in[Group(p)] {
				return
			}
			by := dsp.Gauss(dsp.Key(seed, uint64(k), dsp.KeyString(at))) * percent / 100
			switch p.Scale {
			case param.Log:
				by *= 18
			case param.DB:
				by *= 9
			default:
				by *= (p.Max - p.Min) / 5
			}
			set(p.Moved(get, by))
		}
		for i := range sound.Params {
			row := &sound.Params[i]
			if !partOn(&v, row.Part) || row.Get(&v) <= sound.Silent && strings.HasSuffix(row.ID, "_db") || r.DrivenBy(row.ID) != nil {
				continue
			}
			if row.Scale == param.Linear && row.Get(&v) == row.Default {
				continue // what is not used stays so
			}
			move(row.ID, &row.Param, row.Get(&v), func(x float64) { _ = row.Set(&v, x) })
		}
		for i := range v.Effects {
			s := &v.Effects[i]
			for id := range s.Values {
				at := "effects/" + s.ID + "/" + id
				n, ok := v.Number(at)
				if !ok || r.DrivenBy(at) != nil || n.Get(&v) == n.Default && n.Scale != param.Log {
					continue
				}
				move(at, n.Param, n.Get(&v), func(x float64) { _ = n.Set(&v, x) })
			}
		}
		for i := range v.Modulations {
			m := &v.Modulations[i]
			if !m.Curve() {
				continue
			}
			n, _ := v.Number(m.At)
			move(m.At+" from", n.Param, m.From, func(x float64) { m.From = x })
			move(m.At+" to", n.Param, m.To, func(x float64) { m.To = x })
		}
		if in[Times] {
			for i := range v.Curves {
				c := &v.Curves[i]
				scale := math.Exp2(dsp.Gauss(dsp.Key(seed, uint64(k), dsp.KeyString(c.ID))) * percent / 100)
				if c.Unit == sound.Beats {
					continue // locked to the beat
				}
				for j := range c.Points {
					c.Points[j].At = math.Min(c.Points[j].At*scale, sound.MaxCurveMS)
				}
				c.Lasts = math.Min(c.Lasts*scale, sound.MaxCurveMS)
			}
		}
		if v.Validate() != nil {
			v = r // a curve was drawn too long: rather none of it
		}
		out[k] = v
	}
	return out
}

func partOn(r *sound.Recipe, part string) bool {
	at := part + ".level_db"
	n, ok := r.Number(at)
	return ok && (n.Get(r) > sound.Silent || r.DrivenBy(at) != nil)
}
