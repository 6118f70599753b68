package project

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/effect"
	"jubrak/core/mixer"
	"jubrak/core/sound"
)

// Edits that build a whole part of the mix in one effect, all of it then open to be changed.
var deskEdits = map[string]Edit{"mix.rooms": AddRooms{}, "mix.rumble": AddRumble{}, "mix.complement": Complement{}, "mix.take": TakeMix{}}

// AddRooms gives a programmed kit the pictures that microphones farther off would have of
// it: a bus over the kit and one in the room, to which every voice sends by its distance.
type AddRooms struct{}

// A distance to the pair over the kit and how loud a family is there (common practice).
type distance struct{ metres, level float64 }

var overhead = map[sound.Family]distance{
	sound.Kick: {1.7, -18}, sound.Snare: {1.1, -10}, sound.Rim: {1.1, -10}, sound.Clap: {1.4, -12}, sound.HatClosed: {0.9, -10}, sound.HatOpen: {0.9, -8},
	sound.Ride: {0.8, -5}, sound.Crash: {0.7, -4}, sound.Tom: {1.0, -9}, sound.Bass808: {2, -30},
}

// roomFarther is how much farther off the room's pair stands, metres.
const roomFarther = 3.2

func (e AddRooms) apply(d *Document, _ Env) ([]string, error) {
	over := effect.New("", effect.KindOf("equalizer"), map[string]float64{"band1.shape": 4, "band1.hz": 120, "band2.shape": 0, "band3.shape": 0, "band4.shape": 0, "band7.hz": 9000, "band7.gain_db": 1.5})
	air := effect.New("", effect.KindOf("reverb"), map[string]float64{"decay_ms": 380, "size_percent": 30, "mix_percent": 25, "low_cut_hz": 200})
	far := effect.New("", effect.KindOf("reverb"), map[string]float64{"decay_ms": 700, "size_percent": 60, "mix_percent": 100, "low_cut_hz": 60, "high_cut_hz": 9000})
	squash := effect.New("", effect.KindOf("compressor"), map[string]float64{"threshold_db": -30, "ratio": 6, "attack_ms": 1, "release_ms": 120, "gain_db": 6})
	for _, b := range []struct {
		name  string
		chain []effect.Effect
		more  float64 // metres
		less  float64 // dB
	}{{"Overhead", []effect.Effect{over, air}, 0, 0}, {"Room", []effect.Effect{far, squash}, roomFarther, -4}} {
		if _, err := (AddBus{Name: b.name}).apply(d, nil); err != nil {
			return nil, err
		}
		bus := &d.Mix.Buses[len(d.Mix.Buses)-1]
		if _, err := (SetChain{Row: BusRow(bus.ID), Effects: b.chain}).apply(d, nil); err != nil {
			return nil, err
		}
		for i := range d.Kit.Voices {
			v := &d.Kit.Voices[i]
			at, ok := overhead[v.Family]
			if !ok {
				at = distance{1.3, -11}
			}
			s := mixer.Send{To: bus.ID}
			mixer.SendParams.Reset(&s)
			s.Level, s.Later = at.level+b.less, math.Round((at.metres+b.more)/effect.SoundSpeed*10000)/10
			v.Sends = append(slices.Clone(v.Sends), s)
		}
	}
	return nil, nil
}

func (e AddRooms) name(_, _ *Document) string { return "Rooms added" }

// AddRumble makes a rumble of a voice in one effect: a copy of it goes to a bus of its own,
// where a long dark room, cuts, a compressor and the beat make a floor of it.
type AddRumble struct {
	// Voice is the kick, as a rule.
	Voice string `json:"voice"`
}

func (e AddRumble) apply(d *Document, _ Env) ([]string, error) {
	v := d.Kit.Voice(e.Voice)
	if v == nil {
		return nil, noVoice(e.Voice)
	}
	if _, err := (AddBus{Name: "Rumble"}).apply(d, nil); err != nil {
		return nil, err
	}
	bus := d.Mix.Buses[len(d.Mix.Buses)-1].ID
	// Common practice: under 300 Hz, over 37 Hz where big systems stop, ducked on quarters.
	k := func(kind string, values map[string]float64) effect.Effect {
		return effect.New("", effect.KindOf(kind), values)
	}
	effects := []effect.Effect{
		k("reverb", map[string]float64{"decay_ms": 2600, "size_percent": 90, "mix_percent": 100, "low_cut_hz": 30, "damping_hz": 1500, "high_cut_hz": 2000}),
		k("equalizer", map[string]float64{"band1.shape": 4, "band1.hz": 37, "band1.slope": 3, "band2.shape": 5, "band2.hz": 300, "band2.slope": 3, "band3.shape": 0, "band4.shape": 0, "band7.shape": 0}),
		k("compressor", map[string]float64{"threshold_db": -26, "ratio": 4, "attack_ms": 10, "release_ms": 150, "gain_db": 6}),
		k("duck", map[string]float64{"amount_percent": 90}),
	}
	if _, err := (SetChain{Row: BusRow(bus), Effects: effects}).apply(d, nil); err != nil {
		return nil, err
	}
	s := mixer.Send{To: bus}
	mixer.SendParams.Reset(&s)
	s.Level = -6
	v.Sends = append(slices.Clone(v.Sends), s)
	return nil, nil
}

func (e AddRumble) name(before, _ *Document) string {
	return before.nameOf(e.Voice) + ": a rumble added"
}

// Complement equalizes two voices as complements: where one is lifted, the other is cut
// by as much. Each keeps its own tone and leaves the other's alone.
type Complement struct {
	// First is the kick, as a rule.
	First string `json:"first"`
	// Second is the 808, as a rule.
	Second string `json:"second"`
}

func (e Complement) apply(d *Document, _ Env) ([]string, error) {
	if d.Kit.Voice(e.First) == nil || d.Kit.Voice(e.Second) == nil || e.First == e.Second {
		return nil, fmt.Errorf("two voices of the kit are complements of each other")
	}
	one, two := d.weight(e.First), d.weight(e.Second)
	if ratio := two / one; ratio > 0.8 && ratio < 1.25 {
		two = one * 2 // both in one place: the second is known by its partial
	}
	const by = 2.5 // dB up where it is at home, and down where the other one is
	q := 1.4
	if ratio := math.Max(one, two) / math.Min(one, two); ratio < 2 {
		q = math.Min(1.4/math.Log2(ratio), 4) // close together, narrower
	}
	up, down := bellPair(one, two, q, by)
	for _, v := range []struct {
		voice      string
		own, leave float64
	}{{e.First, one, two}, {e.Second, two, one}} {
		values := map[string]float64{"band1.shape": 0, "band2.shape": 1, "band2.hz": v.own, "band2.gain_db": up, "band2.q": q, "band3.hz": v.leave, "band3.gain_db": down, "band3.q": q, "band4.shape": 0, "band7.shape": 0}
		if _, err := (AddEffect{Chain: InRow(v.voice), Kind: "equalizer", To: effect.MaxChain, Values: values}).apply(d, nil); err != nil {
			return nil, err
		}
	}
	return nil, nil
}

// bellPair are the gains of two bells, dB, at which both together give by at the first and
// -by at the second, though each reaches to where the other one is.
func bellPair(first, second, q, by float64) (up, down float64) {
	up, down = by, -by
	for range 24 {
		up += by - up - bellAt(first, second, q, down)
		down += -by - down - bellAt(second, first, q, up)
		up, down = math.Min(up, 12), math.Max(down, -12)
	}
	return math.Round(up*100) / 100, math.Round(down*100) / 100
}

// bellAt is the gain at hz of a bell of gain dB around centre, the analogue one (Audio EQ
// Cookbook): |H|² = ((1−w²)² + (wA/Q)²) / ((1−w²)² + (w/(AQ))²) at w = hz/centre.
func bellAt(hz, centre, q, gain float64) float64 {
	w, a := hz/centre, math.Pow(10, gain/40)
	flat := (1 - w*w) * (1 - w*w)
	return 10 * math.Log10((flat+math.Pow(w*a/q, 2))/(flat+math.Pow(w/(a*q), 2)))
}

// weight is where a voice's lowest tone lies, Hz: of a recipe or a recording whose pitch is
// known.
func (d *Document) weight(voice string) float64 {
	v := d.Kit.Voice(voice)
	if hz := v.RootHz(); hz > 0 {
		return math.Min(math.Max(math.Round(hz*10)/10, 25), 400)
	}
	if v.Family == sound.Bass808 {
		return 80
	}
	return 55
}

func (e Complement) name(before, _ *Document) string {
	return fmt.Sprintf("%s and %s as complements", before.nameOf(e.First), before.nameOf(e.Second))
}

func effectsCount(n int) string {
	if n == 0 {
		return "no effects"
	}
	if n == 1 {
		return "1 effect"
	}
	return fmt.Sprintf("%d effects", n)
}
