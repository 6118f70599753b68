package compare

import (
	"math"
	"strings"

	"jubrak/core/engine"
	"jubrak/core/measure"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// Job is what a layer gives its voice, from what is measured with it and without.
type Job struct {
	Layer string `json:"layer"`
	// Gives are "attack", "lows", "body", "presence", "highs", "length", or nothing
	// where the others cover it.
	Gives []string `json:"gives"`
	// Text says it in words.
	Text string `json:"text"`
	// Loudness is how much louder the voice is with it, LU.
	Loudness float64 `json:"loudness_lu"`
}

// jobDB is by how much the voice must lose for a layer to have a job (common
// practice: 3 dB is heard), jobLength the part of its length.
const (
	jobDB     = 3.0
	jobLength = 0.15
)

// Jobs returns of each layer of a voice that sounds what it is for. A voice of one
// layer has none to tell apart.
func Jobs(v *sound.Voice, samples sound.Samples, s synth.Stroke) []Job {
	out := []Job{}
	layers := v.Sounding()
	if len(layers) < 2 {
		return out
	}
	whole := *v
	whole.Layers = nil
	for _, l := range layers {
		one := *l
		one.Solo, one.Turn = false, sound.Always
		whole.Layers = append(whole.Layers, one)
	}
	all := traitsOf(&whole, samples, s)
	for i := range whole.Layers {
		rest := whole
		rest.Layers = append(append([]sound.Layer{}, whole.Layers[:i]...), whole.Layers[i+1:]...)
		j := Job{Layer: whole.Layers[i].ID, Gives: []string{}}
		without := traitsOf(&rest, samples, s)
		for k, name := range traitNames {
			if all.levels[k]-without.levels[k] >= jobDB && all.levels[k] > all.loudest()-30 {
				j.Gives = append(j.Gives, name)
			}
		}
		if without.length < all.length*(1-jobLength) {
			j.Gives = append(j.Gives, "length")
		}
		j.Loudness = math.Round(10*(all.loud-without.loud)) / 10
		j.Text = "gives " + strings.Join(j.Gives, ", ")
		if len(j.Gives) == 0 {
			j.Text = "hardly heard under the others"
		}
		out = append(out, j)
	}
	return out
}

// traitNames are what levels are of: the first 10 ms above 1 kHz, then regions.
var traitNames = [5]string{"attack", "lows", "body", "presence", "highs"}

type traits struct {
	levels [5]float64 // dB
	length float64    // until it is 30 dB down, ms
	loud   float64    // LUFS of the loudest 100 ms
}

func (t *traits) loudest() float64 {
	most := math.Inf(-1)
	for _, v := range t.levels[1:] {
		most = math.Max(most, v)
	}
	return most
}

func traitsOf(v *sound.Voice, samples sound.Samples, s synth.Stroke) (t traits) {
	b := synth.Shot(v, samples, engine.Rate, s, 1200)
	for k := range t.levels {
		t.levels[k] = -200
	}
	if b.Frames() == 0 {
		return t
	}
	t.loud = measure.Loudest(b, 0.1)
	x := b.Mono()
	var energy float64
	for _, v := range x {
		energy += v * v
	}
	m := measure.Measure(b)
	total := 10 * math.Log10(energy+1e-20)
	share := map[string]float64{}
	for name, db := range m.Balance {
		share[name] = math.Pow(10, db/10)
	}
	at := func(names ...string) float64 {
		var sum float64
		for _, n := range names {
			sum += share[n]
		}
		return total + 10*math.Log10(sum+1e-20)
	}
	if m.Snap != nil {
		t.levels[0] = total + *m.Snap
	}
	t.levels[1], t.levels[2], t.levels[3], t.levels[4] = at("sub", "low"), at("low_mid"), at("presence"), at("air")
	var left float64
	for i := len(x) - 1; i >= 0; i-- {
		if left += x[i] * x[i]; left > energy*1e-3 {
			t.length = float64(i) / float64(b.Rate) * 1000
			break
		}
	}
	return t
}
