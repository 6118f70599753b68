package engine

import (
	"math"
	"strings"

	"jubrak/core/effect"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/param"
	"jubrak/core/sound"
)

// automation is a move of the mix with what it moves.
type automation struct {
	of     mixer.Automation
	param  *param.Param
	row    string
	effect string // empty: of the row itself, or of a send
	number int    // of the effect
	id     string // of the row
	send   string
	base   float64 // what it is where nothing is drawn
	over   []over  // what sections draw
}

// automationOfLoop finds what the moves of a song move; those of what is not there are left out.
func automationOfLoop(s *Song) (out []automation) {
	for _, m := range s.Mix.Automation {
		if len(m.Points) == 0 {
			continue
		}
		if found, ok := automationOf(s, m); ok {
			out = append(out, found)
		}
	}
	return out
}

// automationOf finds what a move moves.
func automationOf(s *Song, m mixer.Automation) (automation, bool) {
	at := strings.Split(m.At, "/")
	row := rowOf(s, at[0])
	switch {
	case row == nil:
	case len(at) == 2 && (at[1] == "level_db" || at[1] == "pan"):
		found := automation{of: m, param: &sound.VoiceParams.Find(at[1]).Param, row: at[0], id: at[1], base: row.level}
		if at[1] == "pan" {
			found.base = row.pan
		}
		return found, true
	case len(at) == 4 && at[1] == "sends" && at[3] == "level_db":
		for i := range row.sends {
			if row.sends[i].To == at[2] {
				return automation{of: m, param: &mixer.SendParams.Find(at[3]).Param, row: at[0], send: at[2], base: row.sends[i].Level}, true
			}
		}
	case len(at) == 4 && at[1] == "chain":
		if st := effect.Find(row.chain, at[2]); st != nil {
			if p, i := effect.KindOf(st.Kind).Param(at[3]); p != nil {
				return automation{of: m, param: p, row: at[0], effect: at[2], number: i, base: st.Values[at[3]]}, true
			}
		}
	}
	return automation{}, false
}

// rowNumbers are what a row of the song has that can be moved.
type rowNumbers struct {
	chain      []effect.Effect
	sends      []mixer.Send
	level, pan float64
}

func rowOf(s *Song, row string) *rowNumbers {
	for i := range s.Kit.Voices {
		if v := &s.Kit.Voices[i]; v.ID == row {
			return &rowNumbers{v.Chain, v.Sends, v.Level, v.Pan}
		}
	}
	for i := range s.Mix.Buses {
		if b := &s.Mix.Buses[i]; "bus:"+b.ID == row {
			return &rowNumbers{b.Chain, b.Sends, b.Level, b.Pan}
		}
	}
	if row == "out" {
		return &rowNumbers{chain: s.Mix.Out.Chain, level: s.Mix.Out.Level}
	}
	return nil
}

// applyAutomation gives the numbers that are moved their values at the end of a block.
func (e *Engine) applyAutomation(frames int, c effect.Clock) {
	if len(e.mixes.automation) == 0 || !e.playing {
		return
	}
	then := (c.Beat + c.PerFrame*float64(frames)) * music.PPQ
	now := e.barInGroove(then)
	first := e.begins // nothing has sounded from here yet: nothing need glide
	e.begins = false
	glide := frames
	if first {
		glide = 0
	}
	later := false // a chain has become late in another measure
	for i := range e.mixes.automation {
		m := &e.mixes.automation[i]
		r := e.mixes.find(m.row)
		if r == nil {
			continue
		}
		v := 0.0
		if e.piece != nil {
			v = m.at(then, e.piece.line)
		} else {
			v = m.of.ValueAt(max(now, 0), m.param)
		}
		switch {
		case m.effect != "":
			r.rack.Set(m.effect, m.number, v, glide)
			later = later || r.rack.Latency() != r.aligned
		case m.send != "":
			for k := range r.sends {
				if s := &r.sends[k]; s.of.To == m.send {
					s.fader.Follow(effect.NewFader(v, 0, float64(e.rate)))
				}
			}
		default:
			if m.id == "pan" {
				r.pan = v
			} else {
				r.level = v
			}
			if !r.mute {
				r.fader.Follow(effect.NewFader(r.level, r.pan, float64(e.rate)))
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

// barInGroove is how many bars of the groove have gone by at a tick of its line.
func (e *Engine) barInGroove(tick float64) float64 {
	now, total := tick/float64(e.song.Groove.Meter.BarTicks()), float64(e.song.Groove.Bars)
	if total > 0 {
		if now = math.Mod(now, total); now < 0 { // before the beginning of a loop
			now += total
		}
	}
	return now
}
