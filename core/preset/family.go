package preset

import (
	"fmt"
	"math"
	"strings"

	"jubrak/core/sound"
)

// Within is a range of a measure; zero ends are open.
type Within struct{ Low, High float64 }

func (w Within) holds(v float64) bool {
	return (w.Low == 0 || v >= w.Low) && (w.High == 0 || v <= w.High)
}

// Usual is what sounds of a family measure (common practice): fundamental and
// brightness in Hz, decay to -60 dB and attack in ms.
type Usual struct{ Fundamental, Decay, Brightness, Attack Within }

var usual = map[sound.Family]Usual{
	sound.Kick:       {Within{35, 75}, Within{90, 1000}, Within{40, 700}, Within{0, 12}},
	sound.Snare:      {Within{145, 400}, Within{70, 1300}, Within{1200, 13000}, Within{0, 30}},
	sound.Clap:       {Within{}, Within{60, 1500}, Within{1200, 8000}, Within{0, 60}},
	sound.Rim:        {Within{250, 3000}, Within{8, 200}, Within{600, 9000}, Within{0, 5}},
	sound.HatClosed:  {Within{}, Within{15, 160}, Within{5500, 16000}, Within{0, 12}},
	sound.HatOpen:    {Within{}, Within{140, 1500}, Within{5500, 16000}, Within{0, 110}},
	sound.Shaker:     {Within{}, Within{35, 1500}, Within{5000, 15000}, Within{1, 900}},
	sound.Tambourine: {Within{}, Within{50, 600}, Within{5000, 14000}, Within{0, 30}},
	sound.Ride:       {Within{}, Within{300, 4000}, Within{2500, 13000}, Within{0, 40}},
	sound.Crash:      {Within{}, Within{400, 5000}, Within{4000, 13000}, Within{0, 120}},
	sound.Tom:        {Within{60, 300}, Within{150, 1200}, Within{70, 1200}, Within{0, 12}},
	sound.Conga:      {Within{120, 520}, Within{50, 600}, Within{250, 5000}, Within{0, 12}},
	sound.Cowbell:    {Within{300, 1500}, Within{60, 800}, Within{700, 6000}, Within{0, 12}},
	sound.Perc:       {},
	sound.Bass808:    {Within{30, 110}, Within{250, 9000}, Within{35, 800}, Within{0, 40}},
}

// InFamily reports whether a sound measures as its family does, and what does not:
// "decay 40 ms, usually 90 to 1000".
func InFamily(f sound.Family, facts Facts) (in bool, why string) {
	u := usual[f]
	var out []string
	check := func(name, unit string, v *float64, w Within) {
		if v == nil || w.holds(*v) {
			return
		}
		out = append(out, fmt.Sprintf("%s %.0f %s, usually %s", name, *v, unit, w.text()))
	}
	check("fundamental", "Hz", facts.Fundamental, u.Fundamental)
	check("decay", "ms", facts.Decay, u.Decay)
	check("brightness", "Hz", facts.Brightness, u.Brightness)
	check("attack", "ms", facts.Attack, u.Attack)
	return len(out) == 0, strings.Join(out, "; ")
}

func (w Within) text() string {
	switch {
	case w.Low == 0:
		return fmt.Sprintf("up to %.0f", w.High)
	case w.High == 0:
		return fmt.Sprintf("from %.0f", w.Low)
	}
	return fmt.Sprintf("%.0f to %.0f", math.Round(w.Low), math.Round(w.High))
}
