package preset

import (
	"strings"
	"sync"

	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// Example is a worked example: drums that were asked for in words, made with the
// program alone.
type Example struct {
	ID    string
	Title string
	// Asked says what it is to be.
	Asked  string
	BPM    float64
	Bars   int
	Voices []sound.Voice
	// Hits are the lanes: for each voice a row of sixteenths, "x" a hit, "X" a hard
	// one, "." none.
	Hits map[string]string
	// Pitches are semitones of the hits of a voice, in order.
	Pitches map[string][]float64
}

// Material are the recorded sounds that examples are made of, by what stands in for
// the names of their files. They are rendered from shipped sounds.
var Material = sync.OnceValue(material)

func material() sound.Samples {
	shot := func(id string, ms float64) *sound.Sample {
		v := Find(id).Voice()
		b := synth.Shot(&v, nil, engine.Rate, synth.Hard(120, 5), ms)
		return &sound.Sample{Rate: b.Rate, X: b.Channels[:1]}
	}
	return sound.Samples{
		"tom": shot("tom-floor-muffled", 900), "snare": shot("snare-deep-shell", 700), "stick": shot("rim-side-stick", 120),
		"loop": loop(),
	}
}

// loop is a bar of drums in a room at 100 BPM, as a background.
func loop() *sound.Sample {
	const beat = 0.6 * engine.Rate
	x := make([]float32, int(4*beat))
	put := func(id string, at float64, velocity int) {
		v := Find(id).Voice()
		b := synth.Shot(&v, nil, engine.Rate, synth.Hard(velocity, uint64(at*8)+1), 1500)
		for i, s := range b.Mono() {
			if k := int(at*beat) + i; k < len(x) {
				x[k] += float32(s)
			}
		}
	}
	for at, velocity := range map[float64]int{0: 118, 1.5: 96, 2.5: 104} {
		put("kick-drum-room", at, velocity)
	}
	put("snare-wires", 1, 115)
	put("snare-wires", 3, 119)
	for i := range 8 {
		put("hat_closed-airy", float64(i)/2, 84+10*(i%2))
	}
	room, _ := effect.NewChain([]effect.Effect{effect.New("room", effect.KindOf("reverb"), map[string]float64{"decay_ms": 1100, "size_percent": 80, "mix_percent": 35, "low_cut_hz": 60})}, engine.Rate)
	for at := 0; at < len(x); at += effect.MaxBlock {
		part := x[at:min(at+effect.MaxBlock, len(x))]
		b := effect.Block{Left: make([]float64, len(part))}
		for i, v := range part {
			b.Left[i] = float64(v)
		}
		room.Process(b, nil)
		for i, v := range b.Left {
			part[i] = float32(v)
		}
	}
	return &sound.Sample{Rate: engine.Rate, X: [][]float32{x}}
}

// Groove is the pattern of an example.
func (e *Example) Groove() groove.Groove {
	g := groove.Groove{Name: e.Title, Bars: e.Bars, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Lanes: []groove.Lane{}}
	for i := range e.Voices {
		id := e.Voices[i].ID
		l := groove.Lane{Voice: id, Hits: []groove.Hit{}}
		n := 0
		for at, mark := range strings.ReplaceAll(e.Hits[id], " ", "") {
			if mark == '.' {
				continue
			}
			h := groove.Hit{ID: "h" + string(rune('a'+n/26)) + string(rune('a'+n%26)), Tick: at * music.PPQ / 4, Velocity: 100}
			if mark == 'X' {
				h.Velocity = 124
			}
			if p := e.Pitches[id]; n < len(p) {
				h.Semitones = p[n]
			}
			n++
			l.Hits = append(l.Hits, h)
		}
		g.Lanes = append(g.Lanes, l)
	}
	return g
}

// Song is what the engine plays of an example.
func (e *Example) Song() engine.Song {
	return engine.Song{Kit: sound.Kit{Voices: e.Voices}, Groove: e.Groove(), Tempo: music.Steady(e.BPM), Samples: Material()}
}

func voice(id, name string, f sound.Family, level float64, layers ...sound.Layer) sound.Voice {
	v := sound.NewVoice(id, name, f)
	v.Level, v.Layers = level, layers
	return v
}

func layer(id, name string, f sound.Family, changes ...change) sound.Layer {
	r := sound.DefaultRecipe(f)
	for _, c := range changes {
		r = c(r)
	}
	return sound.Synthesized(id, name, r)
}

func from(l sound.Layer, c func(*sound.Layer)) sound.Layer {
	c(&l)
	return l
}

func shippedLayer(id string) sound.Layer { return Find(id).Layers[0] }

// Examples are the worked examples.
func Examples() []Example {
	house := []change{
		bare, set("body.end_hz=48.999 body.attack_ms=0.2 body.decay_ms=460 snap.level_db=-18"),
		curve("0,1~0.5 6,0.42~-0.3 12,0.78~0.5 105,0.04~0.3 190,0", "body.end_hz=330:48.999"),
		set("sub.level_db=-7 sub.attack_ms=30 sub.decay_ms=460"),
		withEffect("drive", "amount_percent=4"), withEffect("eq", "band4.shape=2 band4.hz=6000"),
		curve("0,1~0.5 60,0", "effects/drive1/amount_percent=62:4 effects/eq1/band4.gain_db=9:0"), low(26),
	}
	dark := func(corner string) []change {
		return []change{withEffect("filter", "slope=1 corner_hz="+corner), withEffect("compressor", "detector=0 threshold_db=-30 ratio=15 knee_db=3 attack_ms=2 release_ms=80 gain_db=16"), withEffect("drive", "curve=2 amount_percent=34"), withEffect("filter", "slope=1 corner_hz="+corner)}
	}
	ofSample := func(blob string) change {
		return func(r sound.Recipe) sound.Recipe {
			b := sound.Blank().With(values("noise.level_db=0 noise.kind=5 noise.filter=1 noise.colour_hz=18000 noise.width_oct=2.8 noise.decay_ms=8000"))
			b.Noise.Sample = blob
			return b
		}
	}
	wet := sound.Rumbling("wet", "Rumble")
	wet.Level, wet.Rumble.Decay, wet.Rumble.Duck, wet.Rumble.DuckTime = -4, 2600, 24, 160
	bass := voice("808", "808", sound.Bass808, -7,
		from(layer("low", "Held", sound.Bass808, set("body.start_hz=43.654 body.end_hz=43.654 body.decay_ms=2200")), func(l *sound.Layer) { l.VelocityTo = 110 }),
		from(layer("fall", "Octave fall", sound.Bass808, bare, set("body.decay_ms=2200"), curve("0,1 260,1~0.4 700,0", "body.end_hz=87.308:43.654"), withEffect("drive", "amount_percent=18")), func(l *sound.Layer) { l.VelocityFrom = 111 }))
	bass.Glide, bass.Release = 0, 20
	tone := voice("tone", "Gated tone", sound.Bass808, -4, layer("tone", "Tone", sound.Bass808, bare, set("body.start_hz=73.416 body.end_hz=73.416 body.attack_ms=4 body.hold_ms=1000 body.decay_ms=8000"), curve("0,1 6000,1", "body.level_db=0:-60"), withEffect("drive", "amount_percent=12")))
	gate := sound.Gate{By: "kick"}
	sound.GateParams.Reset(&gate)
	tone.Gate = &gate
	air := from(sound.Recorded("air", "Room loop", "loop"), func(l *sound.Layer) {
		l.Level, l.LowCut = -9, 300
		l.Recording.Gate, l.Recording.GateThreshold, l.Recording.GateHysteresis, l.Recording.GateHold, l.Recording.GateRelease = true, -30, 5, 15, 30
	})
	shaker := func(id, name string, level float64, c ...change) sound.Layer {
		return from(layer(id, name, sound.Shaker, append(c, lined(sound.Beats, 0, 4, "0,0.3~0.6 0.05,1~0.45 0.25,0.3", "noise.level_db=0:-26"))...), func(l *sound.Layer) { l.Level = level })
	}
	return []Example{
		{ID: "house-kick", Title: "A round house kick in G", Asked: "105 ms to settle, dirty attack, clean body, double spike, sub with a slow attack", BPM: 124, Bars: 1,
			Voices: []sound.Voice{voice("kick", "House kick", sound.Kick, -6, layer("drum", "Round", sound.Kick, house...))}, Hits: map[string]string{"kick": "X...X...X...X..."}},
		{ID: "two-copies", Title: "The same kick in two copies", Asked: "two copies, 2 cents above and below, left and right", BPM: 124, Bars: 1,
			Voices: []sound.Voice{voice("kick", "Wide kick", sound.Kick, -6, layer("drum", "Two copies", sound.Kick, append(house, set("body.copies=2 body.detune_ct=2 body.spread_percent=100"))...))}, Hits: map[string]string{"kick": "X...X...X...X..."}},
		{ID: "clap", Title: "A clap from one noise", Asked: "an uneven curve of spikes, band-passed, folded, widened", BPM: 124, Bars: 1,
			Voices: []sound.Voice{voice("clap", "Clap", sound.Clap, -8, layer("drum", "Noise", sound.Clap, bare, set("noise.bursts=1 noise.level_db=0 noise.width_oct=4"),
				curve("0,1~0.7 8,0.35~-0.4 10,1~0.7 21,0.35~-0.4 23,1~0.7 31,0.4~-0.4 33,1~0.35 220,0", "noise.level_db=2:-60"),
				withEffect("filter", "shape=2 corner_hz=1400 resonance_percent=12"), withEffect("drive", "curve=3 amount_percent=52"), withEffect("width", "delay_ms=7 detune_ct=10 side_percent=130"), low(400)))}, Hits: map[string]string{"clap": "....X.......X..."}},
		{ID: "two-noise-hat", Title: "A closed hat of two noises", Asked: "a little hold before the decay, a metallic comb", BPM: 126, Bars: 1,
			Voices: []sound.Voice{voice("hat", "Hat", sound.HatClosed, -12,
				layer("front", "Front", sound.HatClosed, set("metal.level_db=-60 noise.level_db=0 noise.hold_ms=12 noise.decay_ms=60 noise.colour_hz=9000"), withEffect("comb", "tone_hz=2700 feedback_percent=55 mix_percent=50")),
				from(layer("air", "Air", sound.HatClosed, set("metal.level_db=-60 noise.level_db=0 noise.kind=3 noise.hold_ms=4 noise.decay_ms=140 noise.colour_hz=12500")), func(l *sound.Layer) { l.Level = -10 }))}, Hits: map[string]string{"hat": "..X...X...X...X."}},
		{ID: "shaker-loop", Title: "A shaker loop locked to the beat", Asked: "two layers under a curve that goes round in sixteenths and does not fall to silence", BPM: 120, Bars: 1,
			Voices: []sound.Voice{voice("shaker", "Shaker", sound.Shaker, -10, shaker("seeds", "Seeds", 0, set("noise.colour_hz=8500"), lowAt(3000)), shaker("sand", "Sand", -7, set("noise.kind=1 noise.colour_hz=5200"), lowAt(2500)))}, Hits: map[string]string{"shaker": "X..............."}},
		{ID: "snare", Title: "A snare of many steps", Asked: "body at 196 Hz, two peaks that sweep to 1 kHz, three bands pressed down and up, clipped into a limiter, its first millisecond another drum's", BPM: 96, Bars: 1,
			Voices: []sound.Voice{voice("snare", "Snare", sound.Snare, -7, from(layer("drum", "Body and wires", sound.Snare, bare,
				set("body.start_hz=300 body.end_hz=196 body.fall_ms=25 body.decay_ms=220 noise.decay_ms=230"),
				withEffect("eq", "band2.hz=500 band2.q=3 band2.gain_db=6 band3.hz=2400 band3.q=3 band3.gain_db=6"), curve("0,0~0.4 60,1", "effects/eq1/band2.hz=1000:500 effects/eq1/band3.hz=1000:2400"),
				withEffect("bands", "threshold_db=-24 ratio=4 up_ratio=2 up_threshold_db=-42"), withEffect("clip", "gain_db=4 ceiling_db=-1"), withEffect("limit", "gain_db=2 ceiling_db=-0.5"), low(110)),
				func(l *sound.Layer) { l.Attack = &sound.Attack{Blob: "stick", Length: 1, Fade: 1.5} }))}, Hits: map[string]string{"snare": "....X.......X..."}},
		{ID: "from-a-tom", Title: "A muffled kick from a tom, and its snare", Asked: "above about 100 Hz nothing, 15:1, driven dark; the same steps with another cut on a snare", BPM: 88, Bars: 1,
			Voices: []sound.Voice{
				voice("kick", "Muffled kick", sound.Kick, -6, layer("drum", "Tom", sound.Kick, append([]change{ofSample("tom")}, dark("100")...)...)),
				voice("snare", "Its snare", sound.Snare, -9, layer("drum", "Shell", sound.Snare, append([]change{ofSample("snare")}, dark("2400")...)...)),
			}, Hits: map[string]string{"kick": "X.....X...X.....", "snare": "....X.......X..."}},
		{ID: "dirty-loop", Title: "A dirty loop, sped up", Asked: "12 bits, driven, three semitones faster", BPM: 118.92, Bars: 1,
			Voices: []sound.Voice{voice("loop", "Loop", sound.Perc, -6, layer("loop", "Loop", sound.Perc, ofSample("loop"), set("noise.pitch_st=3"), withEffect("crush", "bits=12 rate_hz=26040"), withEffect("drive", "amount_percent=40")))}, Hits: map[string]string{"loop": "X..............."}},
		{ID: "rumble", Title: "A rumble kick at 132 BPM", Asked: "a long wet reverb of the kick, dark, cut below 37 Hz, ducked by the kick", BPM: 132, Bars: 1,
			Voices: []sound.Voice{voice("kick", "Rumble kick", sound.Kick, -8, shippedLayer("kick-techno-slab"), wet)}, Hits: map[string]string{"kick": "X...X...X...X..."}},
		{ID: "808", Title: "An 808 in two ways", Asked: "an octave fall on chosen notes; and a tone of 73.4 Hz that the kick opens", BPM: 140, Bars: 2,
			Voices: []sound.Voice{voice("kick", "Kick", sound.Kick, -9, shippedLayer("kick-tight-step")), bass, tone},
			Hits:   map[string]string{"kick": "X.......X....... X.......X.......", "808": "x.....X......... x.........X.....", "tone": "X............... X..............."}, Pitches: map[string][]float64{"808": {0, 0, 3, -2}}},
		{ID: "air", Title: "A foreground kit with air", Asked: "a gated background loop without its lows under a dry kit", BPM: 100, Bars: 1,
			Voices: []sound.Voice{voice("kick", "Kick", sound.Kick, -8, shippedLayer("kick-wood-stage")), voice("snare", "Snare", sound.Snare, -9, shippedLayer("snare-rink-snap")),
				voice("air", "Air", sound.Perc, -6, air)}, Hits: map[string]string{"kick": "X.....x...x.....", "snare": "....X.......X...", "air": "X..............."}},
	}
}
