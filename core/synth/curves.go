package synth

import (
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/sound"
)

// Curve is a line on a chart: points of [ms, value].
type Curve struct {
	Part   string       `json:"part"`
	Points [][2]float64 `json:"points"`
}

// Curves are what a recipe does over time, as the synth does it: pitches in Hz,
// the level of each part that sounds in dB, and each of its curves, 0 to 1, each
// from 0 to ms with n points.
type Curves struct {
	Pitch []Curve `json:"pitch"`
	Level []Curve `json:"level"`
	Own   []Curve `json:"own"`
}

// CurvesOf draws a recipe as it is after a stroke.
func CurvesOf(r *sound.Recipe, s Stroke, ms float64, n int) Curves {
	out := Curves{Pitch: []Curve{}, Level: []Curve{}, Own: []Curve{}}
	times := timesOf(r, s, ms, n)
	line := func(part string, f func(t float64) float64) Curve {
		l := Curve{Part: part, Points: make([][2]float64, len(times))}
		for i, t := range times {
			l.Points[i] = [2]float64{t, f(t)}
		}
		return l
	}
	// at is a number at a time, as curves move it.
	at := func(id string, t float64) float64 {
		number, _ := r.Number(id)
		if m := r.DrivenBy(id); m != nil {
			c := r.Curve(m.By)
			return number.Between(m.To, m.From, c.At(t/c.Scale(s.BeatMS)))
		}
		return number.Get(r)
	}
	body := func(t float64) float64 {
		hz := at("body.end_hz", t)
		if r.DrivenBy("body.end_hz") == nil {
			hz *= math.Exp(math.Log(r.Body.Start/r.Body.End) * math.Exp(-3*t/r.Body.Fall))
		}
		return hz
	}
	sounds := func(part string, level float64) bool {
		return level > sound.Silent || r.DrivenBy(part+".level_db") != nil
	}
	if sounds("body", r.Body.Level) {
		out.Pitch = append(out.Pitch, line("body", body))
	}
	if sounds("sub", r.Sub.Level) {
		out.Pitch = append(out.Pitch, line("sub", func(t float64) float64 { return body(t) / float64(int(1)<<r.Sub.Octaves) }))
	}
	if sounds("ring", r.Ring.Level) {
		out.Pitch = append(out.Pitch, line("ring", func(t float64) float64 {
			return at("ring.pitch_hz", t) * math.Exp2(r.Ring.Drop/12*math.Exp(-3*t/r.Ring.DropTime))
		}))
	}
	for _, p := range []struct {
		name                       string
		level, attack, hold, decay float64
	}{
		{"body", r.Body.Level, r.Body.Attack, r.Body.Hold, r.Body.Decay}, {"sub", r.Sub.Level, r.Sub.Attack, r.Sub.Hold, r.Sub.Decay},
		{"snap", r.Snap.Level, 0, 0, r.Snap.Decay}, {"noise", r.Noise.Level, r.Noise.Attack, r.Noise.Hold, r.Noise.Decay},
		{"metal", r.Metal.Level, 0, r.Metal.Hold, r.Metal.Decay}, {"ring", r.Ring.Level, 0, 0, r.Ring.Decay},
	} {
		if !sounds(p.name, p.level) {
			continue
		}
		if m := r.DrivenBy(p.name + ".level_db"); m != nil {
			c := r.Curve(m.By)
			out.Level = append(out.Level, line(p.name, func(t float64) float64 {
				if t > c.End()*c.Scale(s.BeatMS)+curveRelease {
					return sound.Silent * 2
				}
				return at(p.name+".level_db", t)
			}))
			continue
		}
		fall := func(t float64) float64 {
			switch {
			case t < p.attack:
				return p.level + max(audio.DB(max(t, 1e-6)/p.attack), -120)
			case t < p.attack+p.hold:
				return p.level
			}
			return p.level - 60*(t-p.attack-p.hold)/p.decay
		}
		if p.name == "noise" && r.Noise.Bursts > 1 {
			out.Level = append(out.Level, line(p.name, func(t float64) float64 { return burstsLevel(&r.Noise, t) }))
			continue
		}
		out.Level = append(out.Level, line(p.name, fall))
	}
	for i := range r.Curves {
		c := &r.Curves[i]
		out.Own = append(out.Own, line(c.ID, func(t float64) float64 { return c.At(t / c.Scale(s.BeatMS)) }))
	}
	return out
}

// timesOf are n times from 0 to ms and those at which curves have corners, so that
// no peak is lost between.
func timesOf(r *sound.Recipe, s Stroke, ms float64, n int) []float64 {
	out := make([]float64, n)
	for i := range out {
		out[i] = ms * float64(i) / float64(n-1)
	}
	for i := range r.Curves {
		c := &r.Curves[i]
		for _, p := range c.Points {
			if t := p.At * c.Scale(s.BeatMS); t < ms {
				out = append(out, t)
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// burstsLevel is the level of a noise in bursts at a time, dB.
func burstsLevel(n *sound.Noise, t float64) float64 {
	const perMS = 1000
	steady := *n
	steady.Vary = 0
	of := burstsOf(&steady, 0, 1000*perMS)
	k := 0
	for i := 1; i < n.Bursts; i++ {
		if float64(of.at[i])/perMS <= t {
			k = i
		}
	}
	since := t - float64(of.at[k])/perMS
	decay := n.BurstDecay * 3
	if k == n.Bursts-1 {
		decay = n.Decay
	}
	level := n.Level + of.level[k]
	if since < n.Attack {
		return level + max(audio.DB(max(since, 1e-6)/n.Attack), -120)
	}
	return level - 60*max(since-n.Attack-n.Hold, 0)/decay
}
