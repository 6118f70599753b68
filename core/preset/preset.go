// Package preset holds the sounds that ship with the program: recipes alone, tagged
// and brought to the loudness of their families.
package preset

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"jubrak/core/sound"
)

// Sound is a sound of the library: the layers of a voice, with what is known of it.
type Sound struct {
	ID     string        `json:"id"`
	Name   string        `json:"name"`
	Family sound.Family  `json:"family"`
	Tags   []string      `json:"tags"`
	Layers []sound.Layer `json:"layers"`
}

// Voice is a voice that strikes the sound.
func (s *Sound) Voice() sound.Voice {
	v := sound.NewVoice(string(s.Family), s.Name, s.Family)
	v.Layers = s.Layers
	return v
}

// Sounds are those that ship with the program, by family.
func Sounds() []Sound { return shipped }

// Find is the shipped sound of an id, or nil.
func Find(id string) *Sound {
	for i := range shipped {
		if shipped[i].ID == id {
			return &shipped[i]
		}
	}
	return nil
}

var shipped = func() []Sound {
	var out []Sound
	for _, group := range [][]draft{kicks, snares, claps, rims, closedHats, openHats, shakers, tambourines, rides, crashes, toms, congas, cowbells, percs, basses} {
		for _, d := range group {
			out = append(out, d.sound())
		}
	}
	return out
}()

// draft is a sound as it is written down here: a family's default, changed.
type draft struct {
	name   string
	family sound.Family
	tags   string
	change []change
}

// change makes another recipe of one.
type change func(sound.Recipe) sound.Recipe

var notID = regexp.MustCompile(`[^a-z0-9]+`)

func (d draft) sound() Sound {
	r := sound.DefaultRecipe(d.family)
	for _, c := range d.change {
		r = c(r)
	}
	if err := r.Validate(); err != nil {
		panic(d.name + ": " + err.Error())
	}
	id := string(d.family) + "-" + strings.Trim(notID.ReplaceAllString(strings.ToLower(d.name), "-"), "-")
	l := sound.Synthesized("drum", d.name, r)
	if f, ok := Known(id); ok {
		l.Level = f.Level
	}
	return Sound{ID: id, Name: d.name, Family: d.family, Tags: strings.Fields(d.tags), Layers: []sound.Layer{l}}
}

// set changes numbers: "body.end_hz=46 steps/drive1/amount_percent=20".
func set(text string) change {
	return func(r sound.Recipe) sound.Recipe { return r.With(values(text)) }
}

// withEffect adds a step of colour with numbers.
func withEffect(kind, text string) change {
	return func(r sound.Recipe) sound.Recipe { return r.Then(kind, values(text)) }
}

// bare takes the default's steps and what moves them away.
func bare(r sound.Recipe) sound.Recipe {
	r.Own()
	r.Effects, r.Curves = nil, nil
	var kept []sound.Modulation
	for _, m := range r.Modulations {
		if !m.Curve() && !strings.HasPrefix(m.At, "effects/") {
			kept = append(kept, m)
		}
	}
	r.Modulations = kept
	r.Tidy()
	return r
}

// curve lets numbers follow a line of points "0,1 12,0.4~0.5 40,0": ms, value, and
// after ~ the bend; moves are "number=from:to".
func curve(points, moves string) change { return lined(sound.MS, -1, 0, points, moves) }

func lined(unit sound.Unit, round int, lasts float64, points, moves string) change {
	return func(r sound.Recipe) sound.Recipe {
		c := sound.Curve{Unit: unit, Round: round, Lasts: lasts}
		for _, p := range strings.Fields(points) {
			at, bend, _ := strings.Cut(p, "~")
			ms, value, _ := strings.Cut(at, ",")
			c.Points = append(c.Points, sound.CurvePoint{At: number(ms), Value: number(value), Bend: number(bend)})
		}
		ends := map[string][2]float64{}
		for _, m := range strings.Fields(moves) {
			id, range_, _ := strings.Cut(m, "=")
			from, to, _ := strings.Cut(range_, ":")
			ends[id] = [2]float64{number(from), number(to)}
		}
		return r.Curved(c, ends)
	}
}

func values(text string) map[string]float64 {
	out := map[string]float64{}
	for _, f := range strings.Fields(text) {
		id, v, _ := strings.Cut(f, "=")
		out[id] = number(v)
	}
	return out
}

func number(text string) float64 {
	if text == "" {
		return 0
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		panic(fmt.Sprintf("%q is no number", text))
	}
	return v
}
