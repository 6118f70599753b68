package preset

import (
	_ "embed"
	"encoding/json"
	"math"

	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/measure"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// Facts are what is measured of a sound, to find it by.
type Facts struct {
	// Level is that of its layer, dB, which brings it to the loudness of its family.
	Level       float64  `json:"level_db"`
	Fundamental *float64 `json:"fundamental_hz"`
	Decay       *float64 `json:"decay_60db_ms"`
	Brightness  *float64 `json:"spectral_centroid_hz"`
	Attack      *float64 `json:"attack_ms"`
	// Wave are the least and the most of 60 parts of its first 600 ms, in percent of
	// its peak.
	Wave [][2]int `json:"wave"`
	// Print is its spectrum over time, for comparing.
	Print measure.Print `json:"print"`
}

// factsJSON is written by the command gen.
//
//go:embed facts.json
var factsJSON []byte

var known = func() map[string]Facts {
	out := map[string]Facts{}
	if err := json.Unmarshal(factsJSON, &out); err != nil {
		panic(err)
	}
	return out
}()

// Known are the facts of a shipped sound.
func Known(id string) (Facts, bool) {
	f, ok := known[id]
	return f, ok
}

// loudness is what sounds of a family are brought to, LUFS over their loudest 100
// ms: what sits well together at equal faders (common practice).
func loudness(f sound.Family) float64 {
	switch f {
	case sound.Kick, sound.Bass808:
		return -14
	case sound.Snare, sound.Clap, sound.Tom, sound.Crash:
		return -13
	}
	return -16
}

// hardest is the peak that a sound must stay below, dBFS.
const hardest = -0.5

// Measure takes the facts of a sound, whose layers have their own levels; the level
// that it needs is reported beside the level that it has.
func Measure(v *sound.Voice, samples sound.Samples) Facts {
	b := synth.Shot(v, samples, engine.Rate, synth.Hard(127, 1), 4000)
	m := measure.Measure(b)
	out := Facts{Fundamental: rounded(m.Fundamental), Decay: rounded(m.Decay), Brightness: rounded(m.Centroid), Attack: rounded(m.Attack), Print: measure.PrintOf(b), Wave: wave(b)}
	out.Level = math.Round(10*math.Min(loudness(v.Family)-measure.Loudest(b, 0.1), hardest-audio.DB(b.Peak()))) / 10
	out.Level = math.Min(out.Level, 12)
	return out
}

func rounded(v *float64) *float64 {
	if v == nil {
		return nil
	}
	r := math.Round(*v*10) / 10
	return &r
}

func wave(b *audio.Buffer) [][2]int {
	const parts, ms = 60, 600
	x, peak := b.Mono(), math.Max(b.Peak(), 1e-9)
	out := make([][2]int, parts)
	n := ms * b.Rate / 1000 / parts
	for i := range out {
		for k := i * n; k < min((i+1)*n, len(x)); k++ {
			p := int(math.Round(x[k] / peak * 100))
			out[i][0], out[i][1] = min(out[i][0], p), max(out[i][1], p)
		}
	}
	return out
}
