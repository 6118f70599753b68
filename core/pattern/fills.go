package pattern

import (
	"fmt"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
)

// Fill is a fill that ships: what some families play over a stretch. It takes the place of
// all rows but those that it keeps.
type Fill struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Genre string `json:"genre"` // as of a pattern
	// Ticks is its length, Beats the same in beats.
	Ticks int     `json:"ticks"`
	Beats float64 `json:"beats"`
	Rows  []Role  `json:"rows"`
	// Keeps are the families that go on playing beneath it.
	Keeps []sound.Family `json:"keeps"`
	Of    groove.Groove  `json:"groove"`
}

// Fills are the fills that ship, by genre, all of them ours.
func Fills() []Fill { return fills }

// FindFill is the fill with an id, or nil.
func FindFill(id string) *Fill {
	for i := range fills {
		if fills[i].ID == id {
			return &fills[i]
		}
	}
	return nil
}

// fillScore is a fill as it is written: lines as of a score, as long as the longest.
type fillScore struct {
	genre, name string
	keeps       []sound.Family
	lines       []line
}

var noneKept, timeKept = []sound.Family(nil), []sound.Family{kick, hat, ride}

var fillScores = []fillScore{
	{"hiphop-lazy", "Last turn", []sound.Family{hat}, []line{on(kick, "8..."), on(snare, "..56")}},
	{"hiphop-lazy", "Dropped rag", noneKept, []line{on(kick, "8......."), on(snare, "..4..457"), on(rim, "...4....")}},
	{"hiphop-straight", "Rental rush", []sound.Family{hat}, []line{on(kick, "9..9...."), on(snare, "....8.88")}},
	{"hiphop-straight", "Toe drag", noneKept, []line{on(kick, "9..9..9........."), on(snare, "....9.......8.89", flam(15))}},
	{"half-time-rolls", "Quarter climb", []sound.Family{kick, sub}, []line{on(hat, "7...", rolls(0, 12, 4, 110))}},
	{"half-time-rolls", "Two door knock", []sound.Family{sub}, []line{on(snare, "8...8...", rolls(0, 6, 4, 80), rolls(4, 8, 4, 120)), on(kick, "......9.")}},
	{"half-time-rolls", "Strobe stair", noneKept, []line{on(snare, "7.......8...9...", rolls(0, 4, 8, 90), rolls(8, 6, 4, 105), rolls(12, 8, 4, 124)), on(kick, "9...............")}},
	{"house-classic", "Off the four", timeKept, []line{on(clap, "....8.88")}},
	{"house-classic", "Bells up", []sound.Family{kick}, []line{on(clap, "....8..88..8.888"), on(open, "..7.............")}},
	{"house-modern", "Floor gone", noneKept, []line{on(clap, "8.......8...8.88"), on(perc, "..5..5..........")}},
	{"house-modern", "Rise by four", []sound.Family{kick}, []line{on(snare, "5...6...7...8..."+" 5.5.6.6.7.7.8888")}},
	{"nu-disco", "Satin tumble", []sound.Family{kick}, []line{on(snare, "8.8.88.."), on(tom, "......99")}},
	{"nu-disco", "Round the toms", noneKept, []line{on(snare, "8888............"), on(tom, "....888899998888"), on(kick, "9...9...9...9...")}},
	{"techno-driving", "Missing kick", []sound.Family{hat, open, ride}, []line{on(perc, "....6.66")}},
	{"techno-driving", "Long snare", []sound.Family{kick, hat}, []line{on(snare, "3...............................", rolls(0, 4, 32, 120))}},
	{"techno-rumble", "Pulled plug", noneKept, []line{on(rim, "....7..7")}},
	{"drum-and-bass", "Quick hands", noneKept, []line{on(kick, "9......."), on(snare, "..8.4888")}},
	{"drum-and-bass", "Two step out", noneKept, []line{on(kick, "9.........9....."), on(snare, "....9..4.488.8.8", flam(12))}},
	{"rnb-filtered", "Soft shoe", []sound.Family{hat}, []line{on(rim, "..5..5.."), on(snare, "......45")}},
	{"broken-beat", "Folded corner", []sound.Family{hat, ride}, []line{on(kick, "..8..8.."), on(snare, "8..5.77.")}},
	{"broken-beat", "Backwards lap", noneKept, []line{on(snare, "..8..8..8.8..88."), on(kick, "8..8..8....8...."), on(tom, "..............89")}},
	{"funk", "Sixteen in hand", []sound.Family{kick}, []line{on(snare, "45454857")}},
	{"funk", "Pocket drag", noneKept, []line{on(kick, "9..8..9..8......"), on(snare, "....4.4.8.4488.8", flam(15)), on(open, "............6...")}},
	{"dembow", "Hand roll", []sound.Family{kick}, []line{on(snare, "...8..88")}},
	{"dembow", "Down the rail", noneKept, []line{on(tom, "9..9..9.8..8..8."), on(snare, "...............9", flam(15))}},
	{"shuffle-blues", "Barrel", []sound.Family{kick}, []line{on(snare, "8..88..8", rolls(0, 3, 4, 100))}},
	{"afro-house", "Hand talk", []sound.Family{kick, shaker}, []line{on(conga, "5.77.5.75.77.888"), on(bell, "..6...6...6...6.")}},
	{"slow-rock", "Around once", noneKept, []line{on(snare, "9.9.9.9........."), on(tom, "........9.9.9.99"), on(kick, "9...9...9...9...")}},
	{"slow-rock", "Two bars down", noneKept, []line{on(snare, "9.9.9.9.9.9.9999 ................"), on(tom, "................ 9.9.9.9.9.999999"), on(kick, "9...9...9...9... 9...9...9...9...")}},
}

var fills = func() []Fill {
	var out []Fill
	count := map[string]int{}
	for _, f := range fillScores {
		count[f.genre]++
		fill := Fill{ID: fmt.Sprintf("fill-%s-%d", f.genre, count[f.genre]), Name: f.name, Genre: "genre-" + f.genre, Keeps: append([]sound.Family{}, f.keeps...)}
		steps := 0
		for _, l := range f.lines {
			steps = max(steps, len(strings.ReplaceAll(l.text, " ", "")))
		}
		fill.Ticks, fill.Beats = steps*music.PPQ/4, float64(steps)/4
		g := groove.Groove{Name: f.name, Bars: (steps + 15) / 16, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1}
		for _, l := range f.lines {
			if l.write(&g) > 0 {
				fill.Rows = append(fill.Rows, Role{string(l.family), l.family.Label(), l.family})
			}
		}
		fill.Of = g
		out = append(out, fill)
	}
	return out
}()
