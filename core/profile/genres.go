package profile

import "jubrak/core/sound"

// practice is the source of every genre profile.
const practice = "common practice"

func r(low, high float64) *Range { return &Range{low, high} }

// v is a voice of a genre: lean and scatter in ms, velocity, hits per beat.
func v(lean, scatter, velocity, density *Range) Voice {
	return Voice{Lean: lean, Scatter: scatter, Velocity: velocity, Density: density, Contour: []float64{}, Accent: []float64{}}
}

func genre(id, name, notes string, tempo, swing *Range, pair int, kickHz *Range, voices map[sound.Family]Voice, tags ...string) Profile {
	return Profile{ID: "genre-" + id, Name: name, Notes: notes, Tags: append([]string{"genre"}, tags...), Source: practice,
		Tempo: tempo, Meter: "4/4", Pair: pair, Swing: swing, KickHz: kickHz, Voices: voices, Tones: map[sound.Family]Tone{}, Balance: map[string]Range{}}
}

// Genres are the profiles that ship: named by genre alone, ranges rather than
// single values, all of it common practice.
func Genres() []Profile {
	const k, s, c, rim, h, o, sh = sound.Kick, sound.Snare, sound.Clap, sound.Rim, sound.HatClosed, sound.HatOpen, sound.Shaker
	m := func(pairs ...any) map[sound.Family]Voice {
		out := map[sound.Family]Voice{}
		for i := 0; i < len(pairs); i += 2 {
			out[pairs[i].(sound.Family)] = pairs[i+1].(Voice)
		}
		return out
	}
	zero, tight, human := r(-2, 2), r(0, 2), r(2, 6)
	return []Profile{
		genre("hiphop-lazy", "Slow hip-hop, lazy", "Hats and snare drag behind a steady kick; ghost notes carry the swing. Leave holes for a voice.",
			r(84, 96), r(54, 62), 16, r(45, 62), m(k, v(r(-2, 6), human, r(85, 115), r(0.8, 1.6)), s, v(r(5, 16), human, r(70, 115), r(0.5, 1)), h, v(r(6, 16), human, r(50, 90), r(1.8, 3))), "slow", "swung"),
		genre("hiphop-straight", "Slow hip-hop, straight", "Sits on the grid; weight comes from the kick's length and the snare's crack.",
			r(88, 100), r(50, 53), 16, r(42, 58), m(k, v(zero, tight, r(95, 120), r(0.8, 1.6)), s, v(zero, tight, r(95, 120), r(0.4, 0.7)), h, v(r(-2, 5), tight, r(55, 95), r(1.8, 4))), "slow"),
		genre("half-time-rolls", "Half-time with rolls", "Snare or clap on the third beat alone; hats in sixteenths with rolls of triplets and thirty-seconds; a long tuned 808.",
			r(126, 160), r(50, 55), 16, r(38, 52), m(k, v(zero, tight, r(95, 122), r(0.4, 1.2)), s, v(r(-4, 4), tight, r(95, 122), r(0.2, 0.35)), c, v(r(-6, 2), tight, r(90, 120), r(0.2, 0.35)), h, v(zero, tight, r(55, 100), r(2, 5))), "half-time"),
		genre("house-classic", "House, classic", "Kick on every beat, clap on two and four, open hats between; sixteenths pushed late by the shaker.",
			r(118, 125), r(53, 60), 16, r(46, 60), m(k, v(zero, tight, r(105, 122), r(0.95, 1.1)), c, v(r(-8, 2), tight, r(90, 118), r(0.45, 0.55)), o, v(r(-2, 8), r(0, 3), r(75, 105), r(0.8, 1.1)), h, v(r(0, 10), r(0, 4), r(45, 85), r(1, 3))), "four-on-the-floor", "swung"),
		genre("house-modern", "House, modern", "Tighter and harder than the classic: short kick, little swing, everything ducked by the kick.",
			r(122, 128), r(50, 55), 16, r(44, 56), m(k, v(zero, r(0, 1), r(110, 125), r(0.95, 1.1)), c, v(r(-6, 1), r(0, 2), r(95, 120), r(0.45, 0.55)), o, v(r(-1, 5), r(0, 2), r(80, 110), r(0.8, 1.1)), h, v(r(0, 6), r(0, 2), r(50, 90), r(1, 4))), "four-on-the-floor"),
		genre("nu-disco", "Nu-disco", "Four on the floor with a played feel: live hats in sixteenths, tambourine on two and four.",
			r(108, 122), r(50, 56), 16, r(48, 64), m(k, v(zero, r(0, 3), r(100, 120), r(0.95, 1.1)), s, v(r(-3, 6), r(1, 4), r(95, 118), r(0.45, 0.6)), h, v(r(-2, 6), human, r(50, 95), r(2, 4)), o, v(r(-2, 6), r(1, 4), r(75, 105), r(0.7, 1.1))), "four-on-the-floor"),
		genre("techno-driving", "Techno, driving", "Kick on every beat, off-beat hats, a few hard accents; straight and relentless.",
			r(130, 140), r(50, 52), 16, r(43, 56), m(k, v(zero, r(0, 1), r(112, 127), r(0.95, 1.05)), o, v(zero, r(0, 1), r(85, 115), r(0.8, 1.1)), h, v(zero, r(0, 2), r(50, 95), r(1, 4)), c, v(zero, r(0, 1), r(80, 115), r(0.3, 0.55))), "four-on-the-floor"),
		genre("techno-rumble", "Techno, rumbling", "A long reverb of the kick, low-passed near 300 Hz and ducked in quarters, fills the space between kicks.",
			r(132, 145), r(50, 51), 16, r(42, 52), m(k, v(zero, r(0, 1), r(115, 127), r(0.95, 1.05)), h, v(zero, r(0, 1), r(50, 95), r(1, 4)), o, v(zero, r(0, 1), r(80, 115), r(0.8, 1.1))), "four-on-the-floor"),
		genre("drum-and-bass", "Drum and bass", "Two-step at speed: kick on one and the sixth eighth, snare on two and four, ghosts between.",
			r(170, 176), r(50, 54), 16, r(46, 60), m(k, v(zero, r(0, 3), r(100, 122), r(0.4, 0.8)), s, v(zero, r(0, 3), r(80, 122), r(0.45, 0.9)), h, v(r(-2, 4), r(0, 4), r(55, 95), r(1.6, 4))), "fast"),
		genre("rnb-filtered", "Filtered slow R&B", "Muffled kick, soft snaps and a lot of room; late backbeat.",
			r(66, 84), r(52, 60), 16, r(42, 58), m(k, v(r(-2, 4), human, r(75, 105), r(0.5, 1.2)), s, v(r(4, 14), human, r(75, 105), r(0.4, 0.6)), rim, v(r(2, 12), human, r(60, 95), r(0.3, 0.6)), h, v(r(4, 14), human, r(40, 80), r(1.5, 3))), "slow"),
		genre("broken-beat", "Broken beat, swung", "The kick avoids the obvious beats; hats and ghosts swing hard; the snare holds it together.",
			r(116, 132), r(54, 62), 16, r(46, 62), m(k, v(r(-3, 5), r(1, 4), r(90, 115), r(0.6, 1.2)), s, v(r(0, 8), r(1, 5), r(70, 115), r(0.5, 1)), h, v(r(2, 12), human, r(45, 90), r(1.8, 4))), "swung"),
		genre("funk", "Funk", "Sixteenths on the hat, ghost notes on the snare, everything leans into the one.",
			r(94, 114), r(50, 57), 16, r(50, 68), m(k, v(r(-3, 3), r(2, 5), r(85, 118), r(0.8, 1.6)), s, v(r(0, 8), r(2, 5), r(50, 115), r(0.8, 1.6)), h, v(r(-3, 5), r(2, 5), r(50, 95), r(2.5, 4))), "played"),
		genre("dembow", "Reggaeton-like dembow", "Kick on every beat and a snare that answers on three-three-two.",
			r(88, 102), r(50, 52), 16, r(44, 58), m(k, v(zero, r(0, 2), r(100, 122), r(0.95, 1.1)), s, v(zero, r(0, 2), r(90, 118), r(0.9, 1.1)), h, v(zero, r(0, 3), r(50, 90), r(1.5, 4)))),
		genre("shuffle-blues", "Shuffle", "Eighths close to triplets; backbeat a hair late.",
			r(92, 132), r(60, 67), 8, r(52, 70), m(k, v(zero, r(2, 5), r(90, 115), r(0.5, 1)), s, v(r(0, 9), r(2, 5), r(90, 118), r(0.45, 0.8)), h, v(r(-2, 5), r(2, 5), r(60, 100), r(1.4, 2))), "played", "swung"),
		genre("afro-house", "House with hand drums", "Four on the floor under shakers and congas that carry the swing.",
			r(118, 124), r(52, 58), 16, r(45, 58), m(k, v(zero, r(0, 2), r(105, 122), r(0.95, 1.1)), sh, v(r(0, 10), r(1, 4), r(45, 85), r(3, 4)), sound.Conga, v(r(-2, 8), human, r(55, 105), r(0.8, 2.5)), rim, v(r(-2, 6), r(0, 3), r(70, 105), r(0.5, 1.2))), "four-on-the-floor", "swung"),
		genre("slow-rock", "Rock, straight eighths", "Kick on one and three, snare on two and four, hats or ride in eighths; the snare decides the size of the room.",
			r(84, 132), r(50, 51), 16, r(55, 75), m(k, v(zero, r(2, 5), r(95, 120), r(0.5, 1)), s, v(r(-2, 8), r(2, 5), r(100, 122), r(0.45, 0.6)), h, v(r(-3, 5), r(2, 6), r(65, 105), r(1.6, 2.1))), "played"),
	}
}
