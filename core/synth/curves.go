package synth

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/sound"
)

// Curve is a line on a chart: points of [ms, value].
type Curve struct {
	Part   string       `json:"part"`
	Points [][2]float64 `json:"points"`
}

// Curves are what a recipe does over time, as the synth does it: the pitch of
// the body in Hz, the level of each part that sounds in dB, and the amount of
// drive in percent, each from 0 to ms with n points.
type Curves struct {
	Pitch []Curve `json:"pitch"`
	Level []Curve `json:"level"`
	Drive []Curve `json:"drive"`
}

// CurvesOf draws a recipe.
func CurvesOf(r *sound.Recipe, ms float64, n int) Curves {
	c := Curves{Pitch: []Curve{}, Level: []Curve{}, Drive: []Curve{}}
	line := func(part string, f func(t float64) float64) Curve {
		l := Curve{Part: part, Points: make([][2]float64, n)}
		for i := range l.Points {
			t := ms * float64(i) / float64(n-1)
			l.Points[i] = [2]float64{t, f(t)}
		}
		return l
	}
	if partGain(r.Body.Level) > 0 {
		c.Pitch = append(c.Pitch, line("body", func(t float64) float64 {
			return r.Body.End * math.Exp(math.Log(r.Body.Start/r.Body.End)*math.Exp(-3*t/r.Body.Fall))
		}))
	}
	for _, p := range []struct {
		name                 string
		level, attack, decay float64
	}{
		{"body", r.Body.Level, r.Body.Attack, r.Body.Decay}, {"noise", r.Noise.Level, 0, r.Noise.Decay},
		{"metal", r.Metal.Level, 0, r.Metal.Decay}, {"snap", r.Snap.Level, 0, r.Snap.Decay},
	} {
		if partGain(p.level) == 0 {
			continue
		}
		c.Level = append(c.Level, line(p.name, func(t float64) float64 {
			if t < p.attack {
				return p.level + math.Max(audio.DB(math.Max(t, 1e-6)/p.attack), -120)
			}
			return p.level - 60*(t-p.attack)/p.decay
		}))
	}
	if r.Drive.Attack > 0 || r.Drive.Body > 0 {
		c.Drive = append(c.Drive, line("drive", func(t float64) float64 {
			from, to := dsp.DriveGain(r.Drive.Attack), dsp.DriveGain(r.Drive.Body)
			return 100 * math.Sqrt((to+(from-to)*math.Exp(-3*t/r.Drive.Fall))/dsp.DriveGain(100))
		}))
	}
	return c
}
