package match

import (
	"jubrak/core/listen"
	"jubrak/core/music"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// References sets one reference against another, in the rows of Compare. There
// is nothing to change in a recording, so no row offers a change.
func References(a, b *listen.Analysis) *Comparison {
	d := project.New("reference")
	if a.Tempo != nil {
		d.Tempo = music.Steady(*a.Tempo)
	}
	mine := &Mine{Density: a.Groove.Density, Loudness: a.Level.Integrated, KickHz: a.KickHz, Balance: map[string]float64{}}
	if mine.Density == nil {
		mine.Density = map[sound.Family]float64{}
	}
	if a.Feel != nil {
		mine.Feel = *a.Feel
		d.Groove.Feel.Pair = a.Feel.Pair
	}
	if x := a.Balance; x != nil {
		mine.Balance = map[string]float64{"sub": x.Sub, "low": x.Low, "low_mid": x.LowMid, "presence": x.Presence, "air": x.Air}
	}
	c := Compare(d, mine, b, nil)
	for i := range c.Rows {
		c.Rows[i].Change, c.Rows[i].Edits = "", []project.Edit{}
		if a.Tempo == nil && c.Rows[i].ID == "tempo" {
			c.Rows[i].Mine, c.Rows[i].Difference, c.Rows[i].Inside, c.Rows[i].Why = nil, nil, nil, "no beat was found"
		}
	}
	return c
}
