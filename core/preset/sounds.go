package preset

import "jubrak/core/sound"

// driveAt sets the default's falling drive: its ends and how long it falls.
func driveAt(from, to, ms float64) change {
	return func(r sound.Recipe) sound.Recipe { return bare(r).FallingDrive(from, to, ms) }
}

// low adds a low cut.
func low(hz float64) change { return func(r sound.Recipe) sound.Recipe { return r.LowCut(hz) } }

// lowAt moves the default's low cut.
func lowAt(hz float64) change {
	return func(r sound.Recipe) sound.Recipe {
		r.Own()
		for i := range r.Effects {
			if r.Effects[i].Kind == "filter" && r.Effects[i].Values["shape"] == 1 {
				r.Effects[i].Values["corner_hz"] = hz
			}
		}
		return r
	}
}

func k(name, tags string, c ...change) draft { return draft{name, sound.Kick, tags, c} }

var kicks = []draft{
	k("Rink floor", "round deep dry", set("body.end_hz=46.2 body.start_hz=280 body.fall_ms=110 body.decay_ms=520 snap.level_db=-18")),
	k("Low gate", "deep long dark", set("body.end_hz=41.2 body.start_hz=180 body.fall_ms=140 body.decay_ms=780 snap.level_db=-26 body.attack_ms=1.5"), driveAt(22, 8, 80), low(22)),
	k("Toe stop", "short hard dry", set("body.end_hz=58 body.start_hz=620 body.fall_ms=38 body.decay_ms=210 snap.level_db=-6 snap.colour_hz=3200"), driveAt(52, 14, 30), low(30), withEffect("clip", "gain_db=5")),
	k("House lights", "round warm", set("body.end_hz=49 body.start_hz=340 body.fall_ms=105 body.decay_ms=430 sub.level_db=-9 sub.attack_ms=25 sub.decay_ms=430"), driveAt(40, 4, 60), low(24)),
	k("Plate nine", "hard bright short", set("body.end_hz=54 body.start_hz=900 body.fall_ms=26 body.decay_ms=260 snap.level_db=-4 snap.kind=2 snap.colour_hz=900 snap.decay_ms=14"), driveAt(60, 20, 25), withEffect("eq", "band3.hz=3200 band3.gain_db=4 band1.shape=1 band1.hz=70 band1.gain_db=2")),
	k("Felt", "soft round dark", set("body.end_hz=52 body.start_hz=150 body.fall_ms=70 body.attack_ms=3 body.decay_ms=360 snap.level_db=-24 snap.colour_hz=900 snap.decay_ms=10"), driveAt(8, 4, 40), withEffect("filter", "corner_hz=1800")),
	k("Drum room", "acoustic roomy", set("body.level_db=-60 ring.level_db=2 ring.pitch_hz=58 ring.strike_percent=8 ring.modes=6 ring.decay_ms=420 ring.damping_percent=85 ring.drop_st=5 ring.drop_ms=55 snap.level_db=-5 snap.kind=1 snap.colour_hz=2200 snap.decay_ms=9"), withEffect("reverb", "decay_ms=380 size_percent=45 mix_percent=12 low_cut_hz=90")),
	k("Cardboard", "dusty dry short", set("body.end_hz=68 body.start_hz=210 body.fall_ms=45 body.decay_ms=190 noise.level_db=-20 noise.kind=1 noise.colour_hz=700 noise.decay_ms=60 snap.level_db=-14"), withEffect("crush", "bits=10 rate_hz=14000"), withEffect("filter", "corner_hz=5200")),
	k("Double spike", "hard strange", bare, set("body.end_hz=47 body.decay_ms=400 snap.level_db=-16"), curve("0,0.95 5,0.2~-0.3 11,0.75 22,0.18~0.4 110,0", "body.end_hz=520:47"), withEffect("drive", "amount_percent=28"), low(22)),
	k("Dirty front", "hard distorted", set("body.end_hz=44 body.start_hz=400 body.fall_ms=80 body.decay_ms=460"), bare, withEffect("drive", "curve=1 amount_percent=10"), curve("0,1~0.5 55,0", "effects/drive1/amount_percent=70:8"), withEffect("eq", "band4.shape=2 band4.hz=6000"), curve("0,1~0.3 40,0", "effects/eq1/band4.gain_db=9:0"), low(26)),
	k("Wide two", "round wide", set("body.end_hz=49 body.start_hz=330 body.fall_ms=100 body.decay_ms=440 body.copies=2 body.detune_ct=2 body.spread_percent=100"), withEffect("width", "mono_below_hz=300")),
	k("Techno slab", "hard long deep", set("body.end_hz=48 body.start_hz=720 body.fall_ms=60 body.decay_ms=340 snap.level_db=-10"), driveAt(58, 24, 70), low(28), withEffect("clip", "gain_db=7"), withEffect("limit", "gain_db=2")),
	k("Half-time", "deep long round", set("body.end_hz=38.9 body.start_hz=240 body.fall_ms=150 body.decay_ms=900 snap.level_db=-20"), driveAt(26, 12, 120), low(20)),
	k("Wood stage", "acoustic dry", set("body.level_db=-60 ring.level_db=2 ring.pitch_hz=66 ring.strike_percent=4 ring.modes=4 ring.decay_ms=300 ring.damping_percent=70 ring.drop_st=7 ring.drop_ms=35 snap.level_db=-8 snap.colour_hz=2600"), withEffect("transient", "attack_db=4 sustain_db=-4")),
	k("Tape thump", "dusty warm round", set("body.end_hz=55 body.start_hz=230 body.fall_ms=85 body.decay_ms=330 body.wave=1"), bare, withEffect("drive", "curve=2 amount_percent=36"), withEffect("filter", "corner_hz=3600"), low(32)),
	k("Bell kick", "metallic strange", set("body.end_hz=60 body.start_hz=420 body.fall_ms=50 body.decay_ms=420 body.second_percent=22 body.second_ratio=3.53 body.second_decay_ms=120 snap.level_db=-20")),
	k("Tight step", "short dry", set("body.end_hz=62 body.start_hz=380 body.fall_ms=30 body.decay_ms=140 snap.level_db=-9 snap.colour_hz=6000"), driveAt(30, 10, 20), withEffect("transient", "attack_db=3 sustain_db=-8")),
	k("Sub pulse", "deep soft", set("body.end_hz=43.7 body.start_hz=90 body.fall_ms=60 body.attack_ms=4 body.decay_ms=620 snap.level_db=-34"), driveAt(4, 4, 10)),
	k("Folded", "distorted strange", set("body.end_hz=50 body.start_hz=300 body.fall_ms=90 body.decay_ms=380"), bare, withEffect("drive", "curve=3 amount_percent=30"), withEffect("filter", "slope=1 corner_hz=4200"), low(25)),
	k("Short rubber", "round short warm", set("body.end_hz=57 body.start_hz=190 body.fall_ms=60 body.decay_ms=240 sub.level_db=-12 sub.octaves=1 sub.decay_ms=200 snap.level_db=-22")),
}

func s(name, tags string, c ...change) draft { return draft{name, sound.Snare, tags, c} }

var snares = []draft{
	s("Rink snap", "tight dry bright", set("body.end_hz=205 body.start_hz=340 body.decay_ms=130 noise.decay_ms=150 noise.colour_hz=4200 snap.level_db=-6")),
	s("Deep shell", "long warm acoustic", set("body.level_db=-60 ring.level_db=1 ring.pitch_hz=172 ring.strike_percent=35 ring.modes=9 ring.decay_ms=260 ring.damping_percent=60 ring.drop_st=1.5 ring.drop_ms=40 ring.wires_db=-3 noise.level_db=-12 noise.decay_ms=200")),
	s("Wires", "bright acoustic roomy", set("body.level_db=-60 ring.level_db=-3 ring.pitch_hz=215 ring.modes=7 ring.strike_percent=45 ring.decay_ms=180 ring.damping_percent=70 ring.wires_db=3 noise.level_db=-60"), withEffect("reverb", "decay_ms=300 size_percent=35 mix_percent=14")),
	s("Vowel", "dry hard", set("body.end_hz=196 body.start_hz=300 noise.colour_hz=2600 noise.decay_ms=170"), withEffect("eq", "band2.hz=500 band2.gain_db=-5 band3.hz=1000 band3.q=1.6"), curve("0,0 35,1", "effects/eq1/band3.gain_db=7:1")),
	s("Dust board", "dusty dry", set("body.end_hz=188 body.start_hz=260 body.decay_ms=120 noise.kind=1 noise.colour_hz=2400 noise.decay_ms=140"), withEffect("crush", "bits=12 rate_hz=22000"), withEffect("filter", "corner_hz=7600")),
	s("Clipped", "hard tight distorted", set("body.end_hz=230 body.start_hz=420 body.decay_ms=150 noise.decay_ms=130"), driveAt(55, 20, 30), low(130), withEffect("clip", "gain_db=10 ceiling_db=-1"), withEffect("limit", "gain_db=3")),
	s("Gated hall", "long roomy hard", set("body.end_hz=185 body.start_hz=290 body.decay_ms=160 noise.decay_ms=180"), withEffect("reverb", "decay_ms=1100 size_percent=80 mix_percent=42 low_cut_hz=220"), withEffect("compressor", "threshold_db=-26 ratio=8 attack_ms=12 release_ms=40 gain_db=5")),
	s("Paper", "soft short dusty", set("body.level_db=-10 body.end_hz=240 body.decay_ms=70 noise.kind=3 noise.colour_hz=3800 noise.width_oct=2 noise.decay_ms=90 snap.level_db=-16"), bare, low(160)),
	s("Crack", "hard bright short", set("body.end_hz=260 body.start_hz=700 body.fall_ms=12 body.decay_ms=110 noise.colour_hz=5600 noise.decay_ms=100 snap.level_db=-2 snap.colour_hz=2600"), withEffect("transient", "attack_db=6")),
	s("Low box", "deep warm", set("body.end_hz=158 body.start_hz=220 body.fall_ms=40 body.decay_ms=240 noise.colour_hz=1900 noise.width_oct=2.4 noise.decay_ms=190")),
	s("Brush", "soft acoustic", set("body.level_db=-18 noise.attack_ms=9 noise.kind=1 noise.colour_hz=4600 noise.width_oct=2.6 noise.decay_ms=200 snap.level_db=-60"), bare, low(300)),
	s("Machine eight", "bright tonal", set("body.end_hz=180 body.start_hz=330 body.fall_ms=18 body.decay_ms=190 noise.filter=2 noise.colour_hz=1800 noise.decay_ms=240 noise.level_db=-6")),
	s("Machine nine", "tight bright", set("body.end_hz=212 body.start_hz=300 body.fall_ms=14 body.decay_ms=95 body.second_percent=10 body.second_ratio=1.6 body.second_decay_ms=60 noise.filter=2 noise.colour_hz=2600 noise.decay_ms=170 noise.level_db=-3")),
	s("Trap line", "bright tight hard", set("body.end_hz=242 body.start_hz=380 body.fall_ms=20 body.decay_ms=120 noise.colour_hz=6200 noise.decay_ms=160 snap.level_db=-5"), withEffect("eq", "band4.shape=2 band4.hz=8000 band4.gain_db=5"), withEffect("clip", "gain_db=5")),
	s("Ring rim", "tonal acoustic", set("ring.level_db=-6 ring.pitch_hz=330 ring.modes=3 ring.strike_percent=80 ring.decay_ms=380 body.end_hz=200 noise.decay_ms=150")),
	s("Three bands", "hard long", set("body.end_hz=196 body.decay_ms=200 noise.decay_ms=240"), withEffect("bands", "threshold_db=-26 ratio=5 up_ratio=2.2 attack_ms=8 release_ms=90"), withEffect("clip", "gain_db=3"), withEffect("limit", "gain_db=1")),
	s("Flam board", "strange acoustic", set("noise.bursts=2 noise.spacing_ms=24 noise.burst_decay_ms=22 noise.burst_step_db=5 body.attack_ms=14 body.end_hz=190")),
	s("Comb sheet", "metallic strange", set("body.level_db=-9 noise.decay_ms=160 noise.colour_hz=4000"), withEffect("comb", "tone_hz=620 feedback_percent=55 mix_percent=45")),
}

func c(name, tags string, ch ...change) draft { return draft{name, sound.Clap, tags, ch} }

var claps = []draft{
	c("Four hands", "dry", set("noise.colour_hz=1350")),
	c("Crowd", "roomy long", set("noise.bursts=6 noise.spacing_ms=9 noise.uneven_percent=80 noise.width_oct=1.6 noise.decay_ms=240"), withEffect("reverb", "decay_ms=700 size_percent=60 mix_percent=25 low_cut_hz=400"), withEffect("width", "delay_ms=9")),
	c("Folded hands", "hard wide distorted", bare, set("noise.bursts=4 noise.spacing_ms=11 noise.uneven_percent=60 noise.colour_hz=1250 noise.width_oct=1 noise.decay_ms=170"), withEffect("drive", "curve=3 amount_percent=34"), withEffect("filter", "shape=2 corner_hz=1500"), withEffect("width", "detune_ct=14 side_percent=140"), low(450)),
	c("Dry pair", "short dry tight", set("noise.bursts=2 noise.spacing_ms=13 noise.decay_ms=90 noise.colour_hz=1700")),
	c("Low palms", "dark soft", set("noise.colour_hz=850 noise.kind=1 noise.decay_ms=150 noise.burst_decay_ms=30")),
	c("Bright snap", "bright short", set("noise.colour_hz=2400 noise.width_oct=1.6 noise.bursts=3 noise.spacing_ms=7 noise.decay_ms=110")),
	c("Tape claps", "dusty warm", set("noise.colour_hz=1150 noise.decay_ms=190"), withEffect("crush", "bits=11 rate_hz=18000"), withEffect("filter", "corner_hz=5000")),
	c("Long hall", "long roomy", set("noise.colour_hz=1300 noise.decay_ms=230"), withEffect("reverb", "decay_ms=1500 size_percent=90 mix_percent=35 low_cut_hz=500")),
	c("Late ones", "strange wide", set("noise.bursts=5 noise.spacing_ms=17 noise.uneven_percent=90 noise.burst_step_db=-1.5 noise.decay_ms=130"), withEffect("width", "delay_ms=12")),
	c("Snap and clap", "hard bright", set("body.level_db=-10 body.start_hz=2400 body.end_hz=1900 body.fall_ms=8 body.decay_ms=25 noise.decay_ms=140"), withEffect("transient", "attack_db=5")),
}

func r(name, tags string, ch ...change) draft { return draft{name, sound.Rim, tags, ch} }

var rims = []draft{
	r("Side stick", "dry short", set("ring.decay_ms=60")),
	r("Hoop", "tonal bright", set("ring.pitch_hz=820 ring.decay_ms=110 body.end_hz=2100 body.start_hz=2300")),
	r("Clave-like", "tonal dry", set("body.end_hz=2480 body.start_hz=2520 body.decay_ms=70 ring.level_db=-60 snap.level_db=-20")),
	r("Box rim", "warm dry", set("body.end_hz=900 body.start_hz=1000 ring.pitch_hz=310 ring.decay_ms=90 snap.colour_hz=1800")),
	r("Click", "short bright", set("body.end_hz=1750 body.decay_ms=16 ring.level_db=-60 snap.level_db=-2 snap.decay_ms=2")),
	r("Dust stick", "dusty short", set("ring.decay_ms=50"), withEffect("crush", "bits=9 rate_hz=16000")),
}

func h(name, tags string, ch ...change) draft { return draft{name, sound.HatClosed, tags, ch} }

var closedHats = []draft{
	h("Tight one", "short dry", set("noise.decay_ms=35 metal.decay_ms=40")),
	h("Two noises", "bright dry", set("metal.level_db=-60 noise.level_db=-4 noise.hold_ms=9 noise.decay_ms=55 noise.colour_hz=10500"), withEffect("comb", "tone_hz=3100 feedback_percent=38 mix_percent=40")),
	h("Metal six", "metallic", set("noise.level_db=-22 metal.level_db=-3 metal.pitch_hz=410 metal.decay_ms=60")),
	h("Sizzle", "long bright", set("noise.decay_ms=120 noise.colour_hz=11500 metal.decay_ms=110 metal.set=1 metal.partials=10")),
	h("Dusty tick", "dusty short", set("noise.kind=1 noise.decay_ms=40 noise.colour_hz=7000"), withEffect("crush", "bits=8 rate_hz=20000"), withEffect("filter", "corner_hz=11000")),
	h("Paper hat", "soft dry", set("metal.level_db=-60 noise.kind=3 noise.colour_hz=8500 noise.decay_ms=50 noise.attack_ms=1.5")),
	h("Glass", "metallic bright tonal", set("noise.level_db=-26 metal.set=2 metal.wave=1 metal.pitch_hz=1900 metal.partials=9 metal.ringing_percent=60 metal.decay_ms=70")),
	h("Ring mod", "metallic strange", set("metal.ringing_percent=100 metal.pitch_hz=700 metal.partials=8 metal.decay_ms=75")),
	h("Old box", "dry short", set("noise.level_db=-6 noise.filter=2 noise.colour_hz=8000 noise.decay_ms=45 metal.level_db=-60")),
	h("Hissing", "bright soft", set("noise.kind=4 noise.level_db=-6 noise.decay_ms=70 metal.level_db=-24")),
	h("Hard plate", "hard metallic", set("metal.level_db=-2 metal.pitch_hz=620 metal.decay_ms=45"), withEffect("drive", "amount_percent=45"), withEffect("transient", "attack_db=4")),
	h("Pedal", "soft dark short", set("noise.colour_hz=6500 noise.decay_ms=60 metal.level_db=-18 metal.decay_ms=60 noise.attack_ms=2"), lowAt(2600)),
	h("Airy", "soft roomy", set("noise.level_db=-8 noise.colour_hz=12500 noise.decay_ms=70 metal.level_db=-20"), withEffect("reverb", "decay_ms=260 size_percent=25 mix_percent=18 low_cut_hz=2000")),
	h("Wide tick", "wide bright short", set("noise.decay_ms=42 metal.decay_ms=45"), withEffect("width", "delay_ms=6 side_percent=150")),
}

func o(name, tags string, ch ...change) draft { return draft{name, sound.HatOpen, tags, ch} }

var openHats = []draft{
	o("Open rink", "long bright", set("metal.decay_ms=480")),
	o("Half open", "short", set("metal.decay_ms=240 noise.decay_ms=210")),
	o("Held", "hard long", set("noise.hold_ms=90 noise.decay_ms=260 metal.hold_ms=80 metal.decay_ms=300")),
	o("Wash", "long soft", set("noise.level_db=-4 noise.width_oct=2.2 noise.decay_ms=700 metal.level_db=-16 metal.decay_ms=800")),
	o("Cluster", "metallic long", set("metal.set=1 metal.partials=12 metal.pitch_hz=470 metal.level_db=-4 noise.level_db=-18")),
	o("Dust open", "dusty", set("metal.decay_ms=300 noise.decay_ms=320"), withEffect("crush", "bits=9 rate_hz=21000"), withEffect("filter", "corner_hz=10500")),
	o("Driven", "hard distorted", set("metal.decay_ms=380"), withEffect("drive", "amount_percent=50"), withEffect("eq", "band4.shape=4 band4.hz=13000")),
	o("Reverse breath", "strange soft", set("noise.attack_ms=120 noise.decay_ms=160 metal.level_db=-60 noise.level_db=-3")),
}

func sh(name, tags string, ch ...change) draft { return draft{name, sound.Shaker, tags, ch} }

var shakers = []draft{
	sh("Seeds", "soft dry", set("noise.kind=3")),
	sh("Egg", "short bright", set("noise.attack_ms=8 noise.decay_ms=55 noise.colour_hz=9000")),
	sh("Sand", "soft long", set("noise.attack_ms=30 noise.decay_ms=170 noise.kind=1 noise.colour_hz=6500")),
	sh("Tin", "metallic hard", set("metal.level_db=-14 metal.set=2 metal.wave=1 metal.pitch_hz=2600 metal.partials=8 metal.decay_ms=50 noise.decay_ms=70")),
	sh("Loop one", "long strange", set("noise.level_db=0 noise.colour_hz=8200"), func(r sound.Recipe) sound.Recipe {
		return lined(sound.Beats, 0, 4, "0,0.35~0.5 0.06,1~0.4 0.25,0.35", "noise.level_db=0:-30")(r)
	}),
	sh("Double shake", "short", set("noise.bursts=2 noise.spacing_ms=60 noise.burst_decay_ms=30 noise.burst_step_db=4 noise.attack_ms=12 noise.decay_ms=80")),
	sh("Wide sand", "wide soft", set("noise.attack_ms=22"), withEffect("width", "delay_ms=8 side_percent=130")),
}

func tb(name, tags string, ch ...change) draft { return draft{name, sound.Tambourine, tags, ch} }

var tambourines = []draft{
	tb("Jingles", "bright metallic", set("metal.decay_ms=200")),
	tb("Short jingle", "short bright", set("metal.decay_ms=90 noise.decay_ms=50")),
	tb("Shaken", "long soft", set("noise.attack_ms=12 noise.bursts=3 noise.spacing_ms=22 noise.uneven_percent=60 noise.decay_ms=120 metal.decay_ms=260")),
	tb("Skin and jingles", "warm acoustic", set("ring.level_db=-8 ring.pitch_hz=260 ring.strike_percent=60 ring.decay_ms=120 metal.decay_ms=170"), lowAt(220)),
	tb("Dust jingle", "dusty", set("metal.decay_ms=150"), withEffect("crush", "bits=9 rate_hz=19000")),
}

func rd(name, tags string, ch ...change) draft { return draft{name, sound.Ride, tags, ch} }

var rides = []draft{
	rd("Stick ride", "long acoustic", set("metal.decay_ms=1300")),
	rd("Bell of it", "tonal metallic", set("metal.set=2 metal.wave=1 metal.pitch_hz=820 metal.partials=8 metal.ringing_percent=15 metal.decay_ms=900 snap.level_db=-10")),
	rd("Short ride", "short dry", set("metal.decay_ms=420 noise.decay_ms=240")),
	rd("Machine ride", "metallic bright", set("metal.set=0 metal.partials=8 metal.ringing_percent=0 metal.pitch_hz=520 metal.decay_ms=700 noise.level_db=-12")),
	rd("Dark ride", "dark soft long", set("metal.pitch_hz=300 noise.colour_hz=4500 snap.level_db=-20"), withEffect("filter", "corner_hz=6500")),
}

func cr(name, tags string, ch ...change) draft { return draft{name, sound.Crash, tags, ch} }

var crashes = []draft{
	cr("Crash one", "long bright", set("metal.decay_ms=1900")),
	cr("Short splash", "short bright", set("noise.decay_ms=520 metal.decay_ms=480 noise.colour_hz=8200")),
	cr("Trash", "metallic hard", set("metal.level_db=-4 metal.pitch_hz=240 metal.ringing_percent=90 metal.decay_ms=900 noise.decay_ms=700"), withEffect("drive", "amount_percent=40")),
	cr("Noise wave", "soft long", set("metal.level_db=-60 noise.kind=0 noise.attack_ms=12 noise.decay_ms=2200 noise.level_db=0"), curve("0,1~0.3 1400,0", "noise.colour_hz=9000:2200")),
	cr("Gong-like", "dark long metallic", set("metal.pitch_hz=150 metal.set=1 metal.partials=12 metal.ringing_percent=50 metal.level_db=-4 metal.decay_ms=2600 noise.level_db=-18"), lowAt(120)),
	cr("Hall crash", "roomy long", set("noise.decay_ms=1100"), withEffect("reverb", "decay_ms=1800 size_percent=90 mix_percent=30")),
}

func t(name, tags string, ch ...change) draft { return draft{name, sound.Tom, tags, ch} }

var toms = []draft{
	t("Low tom", "deep acoustic", set("ring.pitch_hz=78 ring.decay_ms=560")),
	t("Mid tom", "acoustic", set("ring.pitch_hz=110")),
	t("High tom", "acoustic bright", set("ring.pitch_hz=152 ring.decay_ms=380")),
	t("Machine tom", "tonal long", set("ring.level_db=-60 body.level_db=0 body.start_hz=190 body.end_hz=95 body.fall_ms=160 body.decay_ms=520 snap.level_db=-22"), driveAt(10, 4, 40)),
	t("Floor, muffled", "dark dry", set("ring.pitch_hz=84 ring.strike_percent=5 ring.damping_percent=95 ring.decay_ms=320"), withEffect("filter", "corner_hz=900")),
	t("Roto", "tonal bright", set("ring.pitch_hz=220 ring.drop_st=7 ring.drop_ms=160 ring.decay_ms=420")),
	t("Room tom", "roomy acoustic long", set("ring.pitch_hz=96 ring.decay_ms=520"), withEffect("reverb", "decay_ms=900 size_percent=75 mix_percent=22 low_cut_hz=120")),
	t("Hard tom", "hard distorted", set("ring.pitch_hz=105 snap.level_db=-6"), driveAt(60, 18, 60), low(50), withEffect("clip", "gain_db=5")),
	t("Laser tom", "strange tonal", set("ring.level_db=-60 body.level_db=0 body.start_hz=1400 body.end_hz=120 body.fall_ms=120 body.decay_ms=360 snap.level_db=-60")),
}

func cg(name, tags string, ch ...change) draft { return draft{name, sound.Conga, tags, ch} }

var congas = []draft{
	cg("Open low", "warm acoustic", set("ring.pitch_hz=165 ring.decay_ms=320")),
	cg("Open high", "warm acoustic", set("ring.pitch_hz=235")),
	cg("Slap", "hard bright short", set("ring.pitch_hz=290 ring.strike_percent=92 ring.decay_ms=130 noise.level_db=-5 noise.colour_hz=2800 noise.decay_ms=30"), withEffect("transient", "attack_db=4")),
	cg("Muted", "short dry", set("ring.pitch_hz=210 ring.decay_ms=90 ring.damping_percent=90")),
	cg("Bongo high", "bright tonal", set("ring.pitch_hz=420 ring.decay_ms=150")),
	cg("Bongo low", "tonal", set("ring.pitch_hz=320 ring.decay_ms=180")),
	cg("Talking", "strange tonal", set("ring.pitch_hz=180 ring.drop_st=0"), curve("0,0 70,1 220,0.4", "ring.pitch_hz=290:170")),
}

func cb(name, tags string, ch ...change) draft { return draft{name, sound.Cowbell, tags, ch} }

var cowbells = []draft{
	cb("Two tones", "metallic tonal", set("metal.decay_ms=300")),
	cb("Short bell", "short metallic", set("metal.decay_ms=120 metal.pitch_hz=620")),
	cb("Agogo high", "tonal bright", set("metal.set=2 metal.wave=1 metal.partials=5 metal.pitch_hz=1180 metal.decay_ms=380")),
	cb("Agogo low", "tonal", set("metal.set=2 metal.wave=1 metal.partials=5 metal.pitch_hz=790 metal.decay_ms=420")),
	cb("Driven bell", "hard distorted", set("metal.decay_ms=240"), withEffect("drive", "amount_percent=55")),
}

func p(name, tags string, ch ...change) draft { return draft{name, sound.Perc, tags, ch} }

var percs = []draft{
	p("Wood block", "tonal dry", set("ring.decay_ms=110")),
	p("Low block", "tonal warm", set("ring.pitch_hz=430 ring.decay_ms=140")),
	p("Triangle", "metallic long bright", set("ring.level_db=-60 metal.level_db=-2 metal.wave=1 metal.set=2 metal.pitch_hz=2900 metal.partials=5 metal.decay_ms=1500 snap.level_db=-16")),
	p("Bottle", "tonal strange", set("ring.level_db=-60 body.level_db=0 body.start_hz=610 body.end_hz=640 body.fall_ms=30 body.decay_ms=130 body.second_percent=18 body.second_ratio=5.1 body.second_decay_ms=40 snap.level_db=-18")),
	p("Zip", "strange short", set("ring.level_db=-60 snap.kind=2 snap.level_db=0 snap.colour_hz=1500 snap.decay_ms=60")),
	p("Drop", "strange tonal", set("ring.level_db=-60 body.level_db=0 body.start_hz=500 body.end_hz=1500 body.fall_ms=60 body.decay_ms=90 snap.level_db=-60")),
	p("Kalimba-like", "tonal long warm", set("ring.pitch_hz=392 ring.modes=3 ring.strike_percent=0 ring.decay_ms=900 ring.damping_percent=80 snap.level_db=-16 snap.kind=1 snap.colour_hz=1500")),
	p("Key drop", "metallic short", set("ring.level_db=-60 metal.level_db=-3 metal.wave=1 metal.set=1 metal.pitch_hz=1900 metal.partials=9 metal.ringing_percent=60 metal.decay_ms=90")),
	p("Wheel on wood", "dusty soft long", set("ring.level_db=-60 noise.level_db=-2 noise.kind=2 noise.filter=0 noise.colour_hz=420 noise.width_oct=3 noise.attack_ms=60 noise.decay_ms=300 snap.level_db=-60")),
	p("Shifted", "strange metallic", set("ring.pitch_hz=500 ring.decay_ms=240"), withEffect("shift", "shift_hz=137")),
	p("Hand on rail", "metallic roomy", set("ring.kind=1 ring.pitch_hz=260 ring.modes=7 ring.damping_percent=10 ring.decay_ms=700 ring.level_db=-4"), withEffect("reverb", "decay_ms=600 size_percent=50 mix_percent=18")),
}

func e(name, tags string, ch ...change) draft { return draft{name, sound.Bass808, tags, ch} }

var basses = []draft{
	e("Long low", "long round deep", set("body.decay_ms=2000")),
	e("Driven low", "hard long distorted", driveAt(62, 46, 160), low(24)),
	e("Triangle low", "warm long", set("body.wave=1 body.decay_ms=1500"), driveAt(20, 10, 100), low(24)),
	e("Short stab", "short hard", set("body.decay_ms=420 body.start_hz=130 body.fall_ms=40"), driveAt(50, 20, 50), low(26)),
	e("Clicked", "hard long", set("snap.level_db=-8 snap.colour_hz=3000 snap.decay_ms=6 body.attack_ms=1 body.start_hz=240 body.fall_ms=35")),
	e("Even low", "warm long distorted", bare, withEffect("drive", "curve=2 amount_percent=42"), low(24)),
	e("Octave fall", "strange long", bare, set("body.decay_ms=1800"), curve("0,1 420,1~0.3 900,0", "body.end_hz=87.3:43.65"), withEffect("drive", "amount_percent=28"), low(22)),
	e("Held tone", "long soft deep", set("body.start_hz=73.4 body.end_hz=73.4 body.hold_ms=1000 body.decay_ms=8000 body.attack_ms=4"), driveAt(14, 14, 10)),
	e("Growl", "distorted strange", set("body.second_percent=14 body.second_ratio=0.5 body.second_decay_ms=3000 body.decay_ms=1400"), driveAt(46, 34, 200), low(26)),
	e("Saw low", "hard bright long", set("body.wave=2 body.decay_ms=1300"), withEffect("filter", "slope=1 resonance_percent=25"), curve("0,1~0.4 350,0", "effects/filter2/corner_hz=2400:240")),
}
