package effect

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"jubrak/core/param"

	"jubrak/internal/brief"
)

// highs is how loud an effect's output is from 14 to 23 kHz, beside the tone of 400 Hz that
// goes in, while one of its numbers is set every few ms. numbers gives the next value.
func highs(k *Kind, p *param.Param, numbers func() float64) float64 {
	values := map[string]float64{}
	switch k.ID { // what sounds by itself is silent
	case "worn":
		values = map[string]float64{"crackle_db": -80, "hiss_rms_db": -80, "wow_weighted_percent": 0, "flutter_weighted_percent": 0}
	case "bed":
		values["rms_db"] = -80
	}
	values[p.ID] = numbers()
	s := New("one", k, values)
	r := NewRack([]Effect{s}, rate, Context{})
	left := sine(400, 0.25, 2*rate).Left
	b := Block{left, append([]float64(nil), left...)}
	for i := 0; i < b.Frames(); i += 256 {
		s = s.Clone()
		s.Values[p.ID] = numbers()
		if list := []Effect{s}; r.Like(list) {
			r.Tune(list, nil)
		} else {
			next := NewRack(list, rate, Context{})
			next.Continue(r)
			r = next
		}
		r.Run(b.Part(i, min(i+256, b.Frames())), nil, Clock{PerFrame: 2.0 / rate, Beat: float64(i) * 2 / rate}, false)
	}
	sum := 0.0
	for _, side := range [][]float64{b.Left, b.Right} {
		for _, v := range power(side[rate:])[14000:23000] {
			sum += math.Pow(10, v/10) / 2 // a bin of the window is two wide
		}
	}
	return 10*math.Log10(sum/2+1e-30) - 20*math.Log10(0.25)
}

// another reports whether a parameter is that of a band like one that is tested.
func another(id string) bool {
	n := strings.IndexAny(id, "123456789")
	return strings.Contains(id, ".") && n > 0 && id[n] > '2'
}

// Every number of every kind, thrown about by up to an eighth of the middle 70 % of its range every 5 ms while a
// tone goes through: all that is heard in the highs then is under -70 dB, or no more than
// with the number at rest (of effects that distort or make noise).
func TestEveryNumberGlides(t *testing.T) {
	for _, k := range Kinds() {
		for i := range k.Params {
			p := &k.Params[i]
			if len(p.Names) > 0 || testing.Short() && another(p.ID) {
				continue
			}
			low, high := p.Between(p.Min, p.Max, 0.15), p.Between(p.Min, p.Max, 0.85)
			hand := rand.New(rand.NewPCG(1, 2))
			at := 0.5
			moved := highs(k, p, func() float64 {
				at = math.Min(math.Max(at+(hand.Float64()-0.5)/4, 0), 1)
				return p.Between(low, high, at)
			})
			if moved < -70 {
				continue
			}
			still := math.Inf(-1)
			for _, v := range brief.First(2, low, high, p.Between(low, high, 0.5)) {
				still = math.Max(still, highs(k, p, func() float64 { return v }))
			}
			assert.Less(t, moved, still+3, "%s %s", k.ID, p.ID)
		}
	}
}

// Another wave, slope or side is faded to.
func TestEveryChoiceIsFadedTo(t *testing.T) {
	for _, k := range Kinds() {
		for i := range k.Params {
			p := &k.Params[i]
			if testing.Short() && another(p.ID) {
				continue
			}
			for to := 1.0; to <= p.Max && len(p.Names) > 0; to++ {
				n := 0
				turned := highs(k, p, func() float64 {
					n++
					return to * float64(n/8&1)
				})
				if turned < -70 {
					continue
				}
				still := math.Max(highs(k, p, func() float64 { return 0 }), highs(k, p, func() float64 { return to }))
				assert.Less(t, turned, still+3, "%s %s %s", k.ID, p.ID, p.Names[int(to)])
			}
		}
	}
}

// An edit elsewhere hands every row its chain again: what has not changed has no way to go.
func TestWhatStaysDoesNotStride(t *testing.T) {
	effects := []Effect{New("one", KindOf("equalizer"), nil), New("two", KindOf("reverb"), nil)}
	r := NewRack(effects, rate, Context{})
	b := noise(256, 0.1)
	r.Run(b, nil, Clock{}, false)
	r.Tune(effects, nil)
	assert.Zero(t, r.slots[0].glide.left)
	assert.Zero(t, r.slots[1].glide.left)
	effects[1] = effects[1].Clone()
	effects[1].Values["decay_ms"] = 900
	r.Tune(effects, nil)
	assert.Zero(t, r.slots[0].glide.left)
	assert.Positive(t, r.slots[1].glide.left)
	for range 4 {
		r.Run(noise(256, 0.1), nil, Clock{}, false)
	}
	assert.Zero(t, r.slots[1].glide.left, "it has arrived")
	assert.Equal(t, 900.0, r.slots[1].glide.now[0])
}
