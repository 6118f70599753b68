// Package pattern holds the grooves that ship with the program: patterns of ours in the
// genres of the library, each with its feel.
package pattern

import (
	"fmt"
	"strconv"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/profile"
	"jubrak/core/sound"
)

// Pattern is a groove that ships. Its lanes are named by family, so that it can be
// played by any kit.
type Pattern struct {
	ID    string        `json:"id"`
	Name  string        `json:"name"`
	Genre string        `json:"genre"` // id of a genre's profile
	Tags  []string      `json:"tags"`
	BPM   float64       `json:"bpm"`
	Swing float64       `json:"swing_percent"`
	Rows  []Role        `json:"rows"`
	Of    groove.Groove `json:"groove"`
}

// Role is what a lane of a pattern plays.
type Role struct {
	Lane   string       `json:"lane"`
	Name   string       `json:"name"`
	Family sound.Family `json:"family"`
}

// All are the patterns that ship, by genre.
func All() []Pattern { return all }

// Find is the pattern with an id, or nil.
func Find(id string) *Pattern {
	for i := range all {
		if all[i].ID == id {
			return &all[i]
		}
	}
	return nil
}

// score is a pattern as it is written: a tempo and a swing as parts of the genre's
// ranges, 0 to 1, and a line for each family. Of a line each sign is a sixteenth: a
// digit is a velocity of 13 times it and 3 more, a dot none; bars are parted by blanks.
// What follows a semicolon are rolls and flams: "step:roll 6 a beat over 4 steps to 40".
type score struct {
	name  string
	tempo float64
	swing float64
	lay   float64 // how far leans lie in their ranges, 0 to 1
	lines []line
	tags  string
}

type line struct {
	family sound.Family
	text   string
	extras []extra
}

// extra makes the hit on a step a roll or a flam, or gives it a chance.
type extra struct {
	step                     int
	perBeat, steps, velocity int
	flam                     int
	times, of                int
}

func rolls(step, perBeat, steps, velocity int) extra {
	return extra{step: step, perBeat: perBeat, steps: steps, velocity: velocity}
}

func flam(step int) extra { return extra{step: step, flam: 1} }

func chance(step, times, of int) extra { return extra{step: step, times: times, of: of} }

func on(f sound.Family, text string, extras ...extra) line { return line{f, text, extras} }

var all = func() []Pattern {
	genres := map[string]*profile.Profile{}
	list := profile.Genres()
	for i := range list {
		genres[list[i].ID] = &list[i]
	}
	var out []Pattern
	for _, of := range scores {
		p := genres["genre-"+of.genre]
		for i, s := range of.scores {
			out = append(out, s.pattern(p, of.genre, i))
		}
	}
	return out
}()

func between(r *profile.Range, part float64) float64 { return r.Low + (r.High-r.Low)*part }

func (s *score) pattern(p *profile.Profile, genre string, n int) Pattern {
	out := Pattern{ID: genre + "-" + strconv.Itoa(n+1), Name: s.name, Genre: p.ID, Tags: append(strings.Fields(s.tags), p.Tags...)}
	out.BPM = float64(int(between(p.Tempo, s.tempo) + 0.5))
	out.Swing = float64(int(between(p.Swing, s.swing)*2+0.5)) / 2
	g := groove.Groove{Name: s.name, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: int64(n + 1)}
	g.Feel.Pair, g.Feel.Swing = p.Pair, out.Swing
	for _, l := range s.lines {
		id := string(l.family)
		g.Bars = max(g.Bars, len(strings.Fields(l.text)))
		l.write(&g)
		out.Rows = append(out.Rows, Role{id, l.family.Label(), l.family})
		if v, ok := p.Voices[l.family]; ok {
			feel := groove.VoiceFeel{Contour: []float64{}, Accent: []float64{}}
			if v.Lean != nil && l.family != sound.Kick {
				feel.Lean = float64(int(between(v.Lean, s.lay)*2)) / 2
			}
			if v.Scatter != nil {
				feel.Scatter = float64(int(between(v.Scatter, 0.4)*10)) / 10
			}
			feel.VelocityScatter = 3
			g.Feel.Voices[id] = feel
		}
	}
	for i := range g.Lanes { // shorter lines go round
		l := &g.Lanes[i]
		for j, bars := range s.lines {
			if string(bars.family) == l.Voice {
				if k := len(strings.Fields(s.lines[j].text)); k < g.Bars {
					l.Steps = k * 16
				}
			}
		}
	}
	out.Of = g
	return out
}

// write puts the hits of a line on the lane of its family and returns how many there are.
func (l *line) write(g *groove.Groove) int {
	lane := g.EnsureLane(string(l.family))
	for step, mark := range strings.Join(strings.Fields(l.text), "") {
		if mark == '.' {
			continue
		}
		h := groove.Hit{ID: fmt.Sprintf("h%d", len(lane.Hits)+1), Tick: step * music.PPQ / 4, Velocity: int(mark-'0')*13 + 3}
		for _, e := range l.extras {
			if e.step == step {
				e.on(&h)
			}
		}
		lane.Hits = append(lane.Hits, h)
	}
	return len(lane.Hits)
}

func (e *extra) on(h *groove.Hit) {
	if e.perBeat > 0 {
		h.Length = e.steps * music.PPQ / 4
		h.Roll = groove.Even{PerBeat: e.perBeat, VelocityTo: e.velocity}
	}
	if e.flam > 0 {
		h.Flam = groove.Flam{Strokes: e.flam, Spacing: 18, Level: -12}
	}
	if e.of > 0 {
		h.Times, h.Of = e.times, e.of
	}
}
