package sound

import (
	"fmt"
	"math"
	"slices"
)

// pitched are the numbers of a recipe that are pitches in Hz: a sound is tuned by moving
// all of them alike.
var pitched = []string{"body.start_hz", "body.end_hz", "metal.pitch_hz", "ring.pitch_hz"}

// Settled is the value at which a number of the recipe comes to rest: what a curve that
// drives it ends on, else what it is set to. 0 where there is no such number.
func (r *Recipe) Settled(at string) float64 {
	n, ok := r.Number(at)
	if !ok {
		return 0
	}
	if m := r.DrivenBy(at); m != nil {
		c := r.Curve(m.By)
		return n.Between(m.To, m.From, c.At(c.End()))
	}
	return n.Get(r)
}

// RootHz is where the pitch of the recipe settles, Hz: the body's, or where that is
// silent the ring's; 0 where neither sounds.
func (r *Recipe) RootHz() float64 {
	for _, p := range []struct{ level, pitch string }{{"body.level_db", "body.end_hz"}, {"sub.level_db", "body.end_hz"}, {"ring.level_db", "ring.pitch_hz"}} {
		if r.DrivenBy(p.level) != nil || Params.Find(p.level).Get(r) > Silent {
			return r.Settled(p.pitch)
		}
	}
	return 0
}

// RootHz is where the pitch of the layer settles, Hz, its own transposition included; 0
// where it has none that is known.
func (l *Layer) RootHz() float64 {
	hz := 0.0
	switch {
	case l.Recipe != nil:
		hz = l.Recipe.RootHz()
	case l.Recording != nil:
		hz = l.Recording.Root
	}
	return hz * math.Exp2(l.Pitch/12)
}

// RootHz is that of the voice's first layer that sounds and has one, Hz; 0 where none has.
func (v *Voice) RootHz() float64 {
	for _, l := range v.Sounding() {
		if hz := l.RootHz(); hz > 0 {
			return hz
		}
	}
	return 0
}

// Tuned returns the recipe with its pitches moved by semitones: both ends of the pitch
// fall and the ends of curves that drive a pitch move along. It refuses what would leave
// the range of a pitch.
func (r Recipe) Tuned(semitones float64) (Recipe, error) {
	ratio := math.Exp2(semitones / 12)
	for _, id := range pitched {
		row := Params.Find(id)
		hz := row.Get(&r) * ratio
		if !r.uses(id) {
			hz = math.Min(math.Max(hz, row.Min), row.Max) // nobody hears it
		}
		if hz < row.Min || hz > row.Max {
			return r, fmt.Errorf("%s would be %.1f Hz; it goes from %g to %g Hz", row.Label, hz, row.Min, row.Max)
		}
		if err := row.Set(&r, hz); err != nil {
			return r, err
		}
	}
	r.Modulations = slices.Clone(r.Modulations)
	for i := range r.Modulations {
		m := &r.Modulations[i]
		if !m.Curve() || !slices.Contains(pitched, m.At) {
			continue
		}
		row := Params.Find(m.At)
		m.From, m.To = m.From*ratio, m.To*ratio
		// The settled end counts; the top of a fall may be held.
		m.From, m.To = math.Min(math.Max(m.From, row.Min), row.Max), math.Min(math.Max(m.To, row.Min), row.Max)
	}
	return r, nil
}

// uses reports whether a pitch is heard: its part sounds and no curve takes its place.
func (r *Recipe) uses(id string) bool {
	part := id[:4] // body, meta, ring
	level := map[string]string{"body": "body.level_db", "meta": "metal.level_db", "ring": "ring.level_db"}[part]
	sounds := r.DrivenBy(level) != nil || Params.Find(level).Get(r) > Silent || part == "body" && r.Sub.Level > Silent
	return sounds && r.DrivenBy(id) == nil && !(id == "body.start_hz" && r.DrivenBy("body.end_hz") != nil)
}
