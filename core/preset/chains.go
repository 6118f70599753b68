package preset

import (
	"fmt"
	"strings"

	"jubrak/core/effect"
)

// Chain is a chain of the library, named by what it is for.
type Chain struct {
	ID      string          `json:"id"`
	Name    string          `json:"name"`
	Tags    []string        `json:"tags"`
	Effects []effect.Effect `json:"effects"`
}

// nums are numbers of an effect by their ids.
type nums = map[string]float64

// st is an effect of a kind with some numbers that are not its defaults.
func st(kind string, values nums) effect.Effect { return effect.New("", effect.KindOf(kind), values) }

// Shapes of an equalizer's band.
const (
	off, bell, lowShelf, highShelf, lowCut, highCut, notch = 0, 1, 2, 3, 4, 5, 6
)

// band is one band: shape, Hz, dB, Q.
type band [4]float64

// eq is an equalizer of some bands; a cut's third number is its slope in dB an octave.
func eq(bands ...band) effect.Effect {
	v := nums{}
	for i := range 8 {
		at := func(id string) string { return fmt.Sprintf("band%d.%s", i+1, id) }
		if i >= len(bands) {
			v[at("shape")] = off
			continue
		}
		b := bands[i]
		v[at("shape")], v[at("hz")] = b[0], b[1]
		if b[0] == lowCut || b[0] == highCut {
			v[at("slope")] = b[2]/6 - 1
		} else {
			v[at("gain_db")] = b[2]
		}
		if b[3] > 0 {
			v[at("q")] = b[3]
		}
	}
	return st("equalizer", v)
}

func comp(threshold, ratio, attack, release, gain float64) effect.Effect {
	return st("compressor", nums{"threshold_db": threshold, "ratio": ratio, "attack_ms": attack, "release_ms": release, "gain_db": gain})
}

func room(decay, mixed, low, high float64) effect.Effect {
	return st("reverb", nums{"decay_ms": decay, "mix_percent": mixed, "low_cut_hz": low, "high_cut_hz": high})
}

func gate(threshold, hold, release float64) effect.Effect {
	return st("gate", nums{"threshold_db": threshold, "hold_ms": hold, "release_ms": release})
}

func drive(curve, amount, level float64) effect.Effect {
	return st("drive", nums{"curve": curve, "amount_percent": amount, "level_db": level})
}

func ceiling(gain, top float64) effect.Effect {
	return st("ceiling", nums{"gain_db": gain, "ceiling_db": top})
}

// beside is a parallel path of some effects.
func beside(percent float64, effects ...effect.Effect) effect.Effect {
	s := st("parallel", nums{"amount_percent": percent})
	s.Paths[0] = effects
	return s
}

// apart is a split in two with a chain for the lows and one for the highs.
func apart(hz float64, lows, highs []effect.Effect) effect.Effect {
	s := st("split", nums{"low_hz": hz})
	s.Paths = [][]effect.Effect{lows, highs}
	return s
}

func chain(name string, tags []string, effects ...effect.Effect) Chain {
	c := Chain{ID: idOf(name), Name: name, Tags: tags, Effects: effects}
	var number func(effects []effect.Effect)
	number = func(effects []effect.Effect) {
		for i := range effects {
			effects[i].ID = effect.FreeID(c.Effects, effects[i].Kind)
			for _, p := range effects[i].Paths {
				number(p)
			}
		}
	}
	number(c.Effects)
	return c
}

// idOf makes an id of a name.
func idOf(name string) string {
	return strings.Trim(strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return '-'
	}, strings.ToLower(name)), "-")
}

func tags(t ...string) []string { return t }

// chains of the library. Their numbers are common practice.
var chains = []Chain{
	chain("Kick: room for the sub", tags("kick"), eq(band{lowCut, 30, 24}, band{bell, 450, -3, 1.2}, band{bell, 3000, 3, 1})),
	chain("Kick: mono lows", tags("kick", "width"), eq(band{lowCut, 40, 24}, band{bell, 70, 3, 1.2}), st("width", nums{"mono_below_hz": 300}), room(400, 4, 200, 5000)),
	chain("Kick: rounder", tags("kick", "soft"), st("transient", nums{"attack_db": -4, "sustain_db": 2}), eq(band{highShelf, 5000, -3}, band{lowShelf, 90, 2})),
	chain("Kick: more click", tags("kick", "hard"), st("transient3", nums{"mid_attack_db": 4, "high_attack_db": 6}), eq(band{bell, 3200, 3, 1.4})),
	chain("Kick: brickwall", tags("kick", "hard", "clip"), drive(1, 22, 0), st("clip", nums{"gain_db": 9})),
	chain("Kick: heard on a phone", tags("kick"), beside(35, eq(band{lowCut, 60, 12}, band{highCut, 900, 12}), drive(3, 40, 0))),
	chain("Kick: shorter", tags("kick"), gate(-26, 40, 70)),
	chain("Kick: an octave below", tags("kick", "deep"), st("octave", nums{"amount_percent": 50, "decay_ms": 180}), eq(band{lowCut, 28, 24})),
	chain("Kick: tape weight", tags("kick", "warm"), st("tape", nums{"amount_percent": 30, "bump_db": 3, "bump_hz": 60, "wow_weighted_percent": 0, "flutter_weighted_percent": 0}), comp(-14, 2.5, 25, 90, 1)),
	chain("Kick: muffled", tags("kick", "dark"), eq(band{highCut, 110, 24}), comp(-24, 15, 1, 60, 8), drive(0, 18, 0)),
	chain("Snare: body and air", tags("snare"), eq(band{lowCut, 110, 18}, band{bell, 200, 2, 1.2}, band{bell, 500, -3, 1.4}, band{highShelf, 8000, 3})),
	chain("Snare: formant", tags("snare"), eq(band{lowCut, 120, 12}, band{bell, 1000, 4, 1.2}, band{bell, 3000, -2, 2})),
	chain("Snare: gated room", tags("snare", "room"), st("reverb", nums{"decay_ms": 900, "size_percent": 60, "mix_percent": 30, "low_cut_hz": 250}), gate(-30, 240, 60)),
	chain("Snare: less attack, more body", tags("snare", "fat"), comp(-24, 6, 1, 85, 4)),
	chain("Snare: tip let through", tags("snare", "hard"), comp(-26, 5, 18, 110, 3)),
	chain("Snare: cracked", tags("snare", "hard"), st("transient", nums{"attack_db": 6, "sustain_db": -3}), st("clip", nums{"gain_db": 6})),
	chain("Snare: longer", tags("snare", "soft"), st("transient", nums{"attack_db": -2, "sustain_db": 7})),
	chain("Snare: de-ring", tags("snare"), eq(band{notch, 420, 0, 12}, band{bell, 840, -4, 6})),
	chain("Snare: plate", tags("snare", "room"), st("reverb", nums{"decay_ms": 1400, "size_percent": 30, "mix_percent": 18, "low_cut_hz": 300, "predelay_ms": 12})),
	chain("Snare: dusty", tags("snare", "dusty"), st("crush", nums{"bits": 12, "rate_hz": 26000}), eq(band{highCut, 9000, 12}), st("tape", nil)),
	chain("Clap: wide", tags("clap", "width"), eq(band{lowCut, 240, 12}), st("width", nums{"delay_ms": 12})),
	chain("Clap: bright hall", tags("clap", "room"), eq(band{lowCut, 300, 12}, band{bell, 1800, 2, 1}), st("reverb", nums{"decay_ms": 1800, "size_percent": 70, "mix_percent": 22, "low_cut_hz": 400})),
	chain("Clap: tails vanish", tags("clap", "dry"), gate(-34, 60, 50), comp(-22, 4, 3, 60, 3)),
	chain("Clap: folded", tags("clap", "dirty"), drive(3, 30, 0), eq(band{bell, 1500, 3, 1}, band{highCut, 12000, 12})),
	chain("Hat: out of the way", tags("hat_closed", "hat_open"), eq(band{lowCut, 480, 18}, band{bell, 7000, -4, 1.6})),
	chain("Hat: air", tags("hat_closed", "hat_open"), eq(band{lowCut, 400, 12}, band{highShelf, 11000, 4})),
	chain("Hat: less harsh when loud", tags("hat_closed", "hat_open", "soft"), func() effect.Effect {
		s := eq(band{lowCut, 400, 12}, band{bell, 7500, -6, 1.8})
		s.Values["band2.above_db"] = -34
		return s
	}()),
	chain("Hat: left and right", tags("hat_closed", "shaker", "moving"), st("tremolo", nums{"acts": 1, "beats": 1, "depth_percent": 45})),
	chain("Hat: ticking tape", tags("hat_closed", "dusty"), st("tape", nums{"top_hz": 9000, "wow_weighted_percent": 0.03}), eq(band{lowCut, 500, 12})),
	chain("Hat: shorter", tags("hat_closed", "dry"), gate(-30, 15, 25)),
	chain("Hat: metal", tags("hat_closed", "hat_open", "bright"), st("comb", nums{"tone_hz": 640, "feedback_percent": 35, "mix_percent": 35}), eq(band{lowCut, 600, 12})),
	chain("Shaker: trembling", tags("shaker", "moving"), eq(band{lowCut, 600, 12}), st("tremolo", nums{"acts": 1, "beats": 0.75, "depth_percent": 60})),
	chain("Tom: tuned air", tags("tom"), eq(band{lowCut, 50, 12}, band{bell, 520, -4, 1.2}, band{bell, 7500, 3, 1})),
	chain("Tom: fat", tags("tom", "fat"), comp(-22, 4, 12, 120, 4), st("tape", nums{"amount_percent": 26})),
	chain("Congas: leave the middle", tags("conga", "moving", "width"), eq(band{lowCut, 120, 12}), st("tremolo", nums{"acts": 1, "beats": 1.5, "depth_percent": 70}), st("duck", nums{"amount_percent": 35})),
	chain("Percussion: ducked a little", tags("perc", "duck"), st("duck", nums{"amount_percent": 30})),
	chain("Percussion: echoes", tags("perc", "space"), st("echo", nums{"beats": 0.75, "feedback_percent": 40, "cross_percent": 100, "mix_percent": 25})),
	chain("Percussion: radio", tags("perc", "dusty"), eq(band{lowCut, 500, 24}, band{highCut, 3500, 24}), drive(0, 30, 0)),
	chain("Cymbals: smooth", tags("ride", "crash"), eq(band{lowCut, 300, 12}, band{bell, 4000, -2, 1}), comp(-26, 2, 20, 300, 1)),
	chain("808: heard on small speakers", tags("808"), beside(40, eq(band{lowCut, 90, 12}), drive(0, 45, 0)), eq(band{lowCut, 25, 24})),
	chain("808: ducked by the beat", tags("808", "duck"), st("duck", nums{"amount_percent": 70})),
	chain("808: room for the kick", tags("808"), eq(band{bell, 55, -4, 1.4}, band{bell, 200, -3, 1})),
	chain("808: tube", tags("808", "warm"), drive(2, 24, 0), eq(band{highCut, 6000, 12})),
	chain("808: apart", tags("808", "hard"), apart(120, []effect.Effect{comp(-16, 3, 20, 150, 1)}, []effect.Effect{drive(0, 40, 0), st("width", nums{"detune_ct": 6})})),
	chain("808: clean lows, dirty top", tags("808", "dirty"), apart(160, []effect.Effect{}, []effect.Effect{drive(3, 35, 0), eq(band{highCut, 5000, 12})})),
	chain("Rumble: hard techno", tags("bus", "space", "rumble"), st("reverb", nums{"decay_ms": 2600, "size_percent": 90, "mix_percent": 100, "low_cut_hz": 30, "damping_hz": 1200}), eq(band{lowCut, 37, 24}, band{highCut, 300, 24}), comp(-24, 4, 10, 150, 6), st("duck", nums{"amount_percent": 90})),
	chain("Rumble: soft", tags("bus", "space", "rumble"), st("reverb", nums{"decay_ms": 1500, "size_percent": 80, "mix_percent": 100, "low_cut_hz": 40}), eq(band{highCut, 220, 18}), st("duck", nums{"amount_percent": 70})),
	chain("Bus: glue", tags("bus"), comp(-16, 2, 30, 180, 1)),
	chain("Bus: kick pushes the others", tags("bus"), comp(-20, 2, 30, 250, 1), eq(band{lowShelf, 90, 1.5}, band{bell, 500, -1.5, 0.7})),
	chain("Bus: squashed at 15 %", tags("bus", "parallel"), beside(15, comp(-36, 10, 0.5, 60, 14), st("clip", nums{"gain_db": 3}))),
	chain("Bus: warm tape", tags("bus", "warm"), st("tape", nums{"amount_percent": 24, "wow_weighted_percent": 0.013, "flutter_weighted_percent": 0.06})),
	chain("Bus: low and air up", tags("bus"), eq(band{lowShelf, 90, 2}, band{bell, 600, -1.5, 0.6}, band{highShelf, 9000, 2})),
	chain("Bus: crushed sampler", tags("bus", "dusty"), st("crush", nums{"bits": 12, "rate_hz": 27000}), drive(0, 18, 0), eq(band{highCut, 10000, 12})),
	chain("Bus: worn record", tags("bus", "dusty"), st("worn", nil)),
	chain("Bus: rock rooms", tags("bus", "room"), eq(band{lowCut, 60, 18}), comp(-30, 8, 1, 120, 8), drive(0, 14, 0)),
	chain("Bus: three bands", tags("bus"), st("bands", nums{"threshold_db": -22, "ratio": 2, "up_ratio": 1})),
	chain("Bus: up from below", tags("bus", "loud"), st("bands", nums{"threshold_db": -12, "ratio": 2, "up_ratio": 2.2})),
	chain("Bus: lower octave", tags("bus", "deep"), drive(0, 12, 0), st("octave", nums{"amount_percent": 35, "decay_ms": 220}), comp(-18, 2, 30, 250, 1), st("worn", nums{"crackle_db": -80, "hiss_rms_db": -80, "high_hz": 9000, "low_hz": 40})),
	chain("Bus: break, crushed and gated", tags("bus", "dirty"), st("crush", nums{"bits": 8, "rate_hz": 18000}), gate(-30, 30, 40), comp(-28, 8, 1, 50, 8), st("shift", nums{"shift_hz": 20})),
	chain("Room: short", tags("bus", "space"), room(350, 100, 200, 8000)),
	chain("Room: gated, 0.3 s", tags("bus", "space"), st("reverb", nums{"decay_ms": 1200, "size_percent": 70, "mix_percent": 100, "low_cut_hz": 200}), gate(-36, 260, 40)),
	chain("Room: plate", tags("bus", "space"), st("reverb", nums{"decay_ms": 1600, "size_percent": 30, "mix_percent": 100, "low_cut_hz": 250, "damping_hz": 9000})),
	chain("Room: hall", tags("bus", "space"), st("reverb", nums{"decay_ms": 2600, "size_percent": 90, "mix_percent": 100, "low_cut_hz": 200, "predelay_ms": 24})),
	chain("Room: delay, ping-pong", tags("bus", "space"), st("echo", nums{"mix_percent": 100, "cross_percent": 100, "feedback_percent": 45})),
	chain("Output: −1 dBTP", tags("out"), ceiling(0, -1)),
	chain("Output: loud", tags("out", "loud"), st("clip", nums{"gain_db": 3, "ceiling_db": -0.5}), ceiling(3, -0.3)),
	chain("Output: gentle", tags("out", "soft"), comp(-14, 1.5, 40, 300, 0), ceiling(0, -1)),
	chain("Output: lows in the middle", tags("out", "width"), st("width", nums{"mono_below_hz": 120}), ceiling(0, -1)),
	chain("Quiet room tone", tags("bus", "noise"), st("bed", nums{"noise": 3, "rms_db": -63})),
	chain("Crackle that follows", tags("bus", "noise", "dusty"), st("bed", nums{"noise": 1, "rms_db": -40, "follow_percent": 80})),
}

// Chains are those of the library, in order.
func Chains() []Chain { return chains }
