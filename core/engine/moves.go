package engine

import (
	"math"
	"strings"

	"jubrak/core/mix"
	"jubrak/core/music"
	"jubrak/core/param"
	"jubrak/core/sound"
)

// move is a move of the mix with what it moves.
type move struct {
	of     mix.Move
	param  *param.Param
	row    string
	step   string // empty: of the row itself, or of a send
	number int    // of the step
	id     string // of the row
	send   string
}

// movesOf finds what the moves of a song move; those of what is not there are left out.
func movesOf(s *Song) (out []move) {
	for _, m := range s.Mix.Moves {
		at := strings.Split(m.At, "/")
		if len(m.Points) == 0 {
			continue
		}
		switch {
		case len(at) == 2 && (at[1] == "level_db" || at[1] == "pan"):
			row := sound.VoiceParams.Find(at[1])
			out = append(out, move{of: m, param: &row.Param, row: at[0], id: at[1]})
		case len(at) == 4 && at[1] == "sends" && at[3] == "level_db":
			row := mix.SendParams.Find(at[3])
			out = append(out, move{of: m, param: &row.Param, row: at[0], send: at[2]})
		case len(at) == 4 && at[1] == "chain":
			if st := mix.FindStep(chainOf(s, at[0]), at[2]); st != nil {
				if p, i := mix.KindOf(st.Kind).Param(at[3]); p != nil {
					out = append(out, move{of: m, param: p, row: at[0], step: at[2], number: i})
				}
			}
		}
	}
	return out
}

func chainOf(s *Song, row string) []mix.Step {
	for i := range s.Kit.Voices {
		if s.Kit.Voices[i].ID == row {
			return s.Kit.Voices[i].Chain
		}
	}
	for i := range s.Mix.Buses {
		if "bus:"+s.Mix.Buses[i].ID == row {
			return s.Mix.Buses[i].Chain
		}
	}
	if row == "out" {
		return s.Mix.Out.Chain
	}
	return nil
}

// applyMoves gives the numbers that are moved their values at the end of a block.
func (e *Engine) applyMoves(frames int, c mix.Clock) {
	if len(e.mixes.moves) == 0 || !e.playing {
		return
	}
	bar := float64(e.song.Groove.Meter.BarTicks()) / music.PPQ
	total := float64(e.song.Groove.Bars)
	now := (c.Beat + c.PerFrame*float64(frames)) / bar
	if total > 0 {
		if now = math.Mod(now, total); now < 0 { // before the beginning of a loop
			now += total
		}
	}
	first := e.begins // nothing has sounded from here yet: nothing need glide
	e.begins = false
	glide := frames
	if first {
		glide = 0
	}
	later := false // a chain has become late in another measure
	for i := range e.mixes.moves {
		m := &e.mixes.moves[i]
		r := e.mixes.find(m.row)
		if r == nil {
			continue
		}
		v := m.of.ValueAt(max(now, 0), m.param)
		switch {
		case m.step != "":
			r.rack.Set(m.step, m.number, v, glide)
			later = later || r.rack.Latency() != r.aligned
		case m.send != "":
			for k := range r.sends {
				if s := &r.sends[k]; s.of.To == m.send {
					s.fader.Follow(mix.NewFader(v, 0, float64(e.rate)))
				}
			}
		default:
			if m.id == "pan" {
				r.pan = v
			} else {
				r.level = v
			}
			if !r.mute {
				r.fader.Follow(mix.NewFader(r.level, r.pan, float64(e.rate)))
				if first {
					r.fader.Reset()
				}
			}
		}
	}
	if later {
		e.mixes.align(float64(e.rate))
	}
}
