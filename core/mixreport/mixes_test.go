package mixreport

import (
	"context"
	"encoding/json"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/measure"
	"jubrak/core/preset"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Mixes are nine that a practitioner makes, each made of edits that the screen sends,
// kept as documents in testdata. JUBRAK_GOLDEN=write makes those anew.
type mixed struct {
	name  string
	edits project.Edits
	check func(t *testing.T, d *project.Document)
}

// played is what rows give over two bars of a document.
func played(t *testing.T, d *project.Document, row string) *audio.Buffer {
	t.Helper()
	b, err := Sound(context.Background(), d, preset.Material(), row, min(d.Groove.Bars, 2), false)
	require.NoError(t, err)
	return b
}

// part is a stretch of a sound in seconds, one channel or both together (2).
func part(b *audio.Buffer, channel int, from, to float64) []float64 {
	x := b.Mono()
	if channel < 2 {
		x = make([]float64, b.Frames())
		for i, v := range b.Channels[channel] {
			x[i] = float64(v)
		}
	}
	return x[int(from*engine.Rate):min(int(to*engine.Rate), len(x))]
}

// side is half of the difference of both channels.
func side(b *audio.Buffer) []float64 {
	out := make([]float64, b.Frames())
	for i := range out {
		out[i] = float64(b.Channels[0][i]-b.Channels[1][i]) / 2
	}
	return out
}

func dB(x []float64) float64 {
	s := 0.0
	for _, v := range x {
		s += v * v
	}
	return 10 * math.Log10(s/float64(max(len(x), 1))+1e-20)
}

// inBand is the energy of a sound in a band, dB.
func inBand(x []float64, from, to float64) float64 {
	hz, db := thirds(x)
	sum := 1e-20
	for i, h := range hz {
		if h >= from && h <= to {
			sum += math.Pow(10, db[i]/10)
		}
	}
	return 10 * math.Log10(sum)
}

// without is a document with an effect off.
func without(t *testing.T, d *project.Document, row, effectID string) *project.Document {
	t.Helper()
	out, _, err := d.Apply(project.Edits{project.SwitchEffect{Chain: project.InRow(row), Effect: effectID, Off: true}}, nil)
	require.NoError(t, err)
	return out
}

func kitOf(id string) project.SetKit {
	for _, k := range preset.Kits() {
		if k.ID == id {
			return project.SetKit{Voices: k.Voices, Title: k.Name}
		}
	}
	panic("there is no kit " + id)
}

// line is a row of hits on sixteenths.
func line(voice, marks string) project.PutHits {
	var out project.PutHits
	for i, m := range marks {
		if m != '.' {
			out.Hits = append(out.Hits, project.NewHit{Voice: voice, Hit: groove.Hit{Tick: i * 240, Velocity: int(m-'0')*13 + 3}})
		}
	}
	return out
}

func at(address string, value float64) project.SetNumber {
	return project.SetNumber{At: address, Value: value}
}

func put(row, kind string, values map[string]float64) project.AddEffect {
	return project.AddEffect{Chain: project.InRow(row), Kind: kind, To: effect.MaxChain, Values: values}
}

func flat(v map[string]float64) map[string]float64 {
	out := map[string]float64{"band1.shape": 0, "band2.shape": 0, "band3.shape": 0, "band4.shape": 0, "band7.shape": 0}
	for k, x := range v {
		out[k] = x
	}
	return out
}

func mixes() []mixed {
	return []mixed{
		{"kick-lows-mono", project.Edits{
			project.SetBars{Bars: 1}, line("kick", "9......."), at("kick/layers/drum/body.copies", 2), at("kick/layers/drum/body.detune_ct", 8), at("kick/layers/drum/body.spread_percent", 100),
			put("kick", "equalizer", flat(map[string]float64{"band1.shape": 4, "band1.hz": 40, "band1.slope": 3, "band2.shape": 1, "band2.hz": 70, "band2.gain_db": 3, "band2.q": 1.2})),
			put("kick", "width", map[string]float64{"mono_below_hz": 300}),
			put("kick", "reverb", map[string]float64{"decay_ms": 350, "mix_percent": 4, "low_cut_hz": 200, "high_cut_hz": 5000}),
		}, func(t *testing.T, d *project.Document) {
			eq := effect.Find(d.Kit.Voice("kick").Chain, "equalizer1")
			gain := gainOf([]effect.Effect{*eq})
			assert.InDelta(t, 3, gain(70), 0.45, "+3 dB at 70 Hz, above a cut")
			assert.Less(t, gain(20), -20.0)
			b := played(t, d, "kick")
			assert.Less(t, inBand(side(b), 30, 150)-inBand(b.Mono(), 30, 150), -38.0, "lows are in the middle")
			wide := played(t, without(t, d, "kick", "width1"), "kick")
			assert.Greater(t, inBand(side(wide), 30, 150)-inBand(wide.Mono(), 30, 150), -30.0, "and were not")
			dry := played(t, without(t, d, "kick", "reverb1"), "kick")
			room, wet, plain := make([]float64, 30000), b.Mono(), dry.Mono()
			for i := range room {
				room[i] = wet[i] - 0.96*plain[i]
			}
			assert.Less(t, inBand(room, 25, 80), inBand(room, 250, 4000), "the room has no lows")
		}},
		{"snare-gated-room", project.Edits{
			project.SetBars{Bars: 1}, line("snare", "....9..........."),
			put("snare", "reverb", map[string]float64{"decay_ms": 1500, "size_percent": 70, "mix_percent": 40, "low_cut_hz": 200}),
			put("snare", "gate", map[string]float64{"threshold_db": -13, "hysteresis_db": 2, "hold_ms": 230, "release_ms": 40}),
		}, func(t *testing.T, d *project.Document) {
			b, open := played(t, d, "snare"), played(t, without(t, d, "snare", "gate1"), "snare")
			hit := 0.6 // at 100 BPM
			level := func(b *audio.Buffer, from, to float64) float64 {
				return dB(part(b, 2, hit+from, hit+to)) - dB(part(b, 2, hit, hit+0.03))
			}
			assert.Greater(t, level(b, 0.15, 0.2), -32.0, "the room is there")
			assert.Less(t, level(b, 0.55, 0.7), -55.0, "and over")
			assert.Greater(t, level(open, 0.55, 0.7), -45.0, "before it would be")
		}},
		{"congas-left-and-right", project.Edits{
			kitOf("hands"), project.SetBars{Bars: 2}, at("tempo/bpm", 110), line("kick", "9...9...9...9...9...9...9...9..."), line("conga", "7777777777777777"), line("conga4", "7777777777777777"),
			put("conga", "tremolo", map[string]float64{"acts": 1, "beats": 2, "depth_percent": 80}),
			project.AddEffect{Chain: project.InRow("conga"), Kind: "compressor", To: 9, Key: "kick", Values: map[string]float64{"threshold_db": -40, "ratio": 10, "attack_ms": 0.5, "release_ms": 80}},
			project.AddEffect{Chain: project.InRow("conga4"), Kind: "compressor", To: 9, Key: "kick", Values: map[string]float64{"threshold_db": -24, "ratio": 2, "attack_ms": 0.5, "release_ms": 80}},
		}, func(t *testing.T, d *project.Document) {
			b := played(t, d, "conga")
			beat := 60.0 / 110
			lean := func(from float64) float64 {
				return dB(part(b, 0, from, from+beat*0.9)) - dB(part(b, 1, from, from+beat*0.9))
			}
			first, then := lean(0), lean(beat)
			assert.Greater(t, math.Abs(first-then), 6.0, "it goes from side to side")
			taken := func(voice, effectID string) float64 {
				with, off := played(t, d, voice), played(t, without(t, d, voice, effectID), voice)
				return dB(part(off, 2, beat, beat+0.06)) - dB(part(with, 2, beat, beat+0.06))
			}
			congas, bongos := taken("conga", "compressor1"), taken("conga4", "compressor1")
			assert.Greater(t, congas, bongos+4, "each by its own amount")
			assert.Greater(t, bongos, 1.0)
		}},
		{"kit-under-a-kit", project.Edits{
			kitOf("acoustic"), project.SetBars{Bars: 1}, line("kick", "9...8...9...8..."), line("snare", "....9.......9..."), line("hat", "7.5.7.5.7.5.7.5."),
			project.AddVoice{Family: sound.Perc, Name: "Sampled", Layers: []sound.Layer{sound.Recorded("loop", "Loop", "loop")}}, line("perc", "8..............."),
			project.AddBus{Name: "Kit", Rows: []string{"kick", "snare", "hat"}}, project.AddBus{Name: "All", Rows: []string{"bus:kit", "perc"}},
			put("bus:kit", "parallel", map[string]float64{"amount_percent": 50}),
			project.AddEffect{Chain: project.InRow("bus:kit"), Kind: "compressor", In: "parallel1", Values: map[string]float64{"threshold_db": -36, "ratio": 6, "attack_ms": 0.1, "ahead_ms": 2, "release_ms": 80, "gain_db": 8}},
			put("bus:all", "drive", map[string]float64{"amount_percent": 24}), put("bus:all", "octave", map[string]float64{"amount_percent": 60, "decay_ms": 200}),
			put("bus:all", "compressor", map[string]float64{"threshold_db": -22, "ratio": 2, "attack_ms": 30, "release_ms": 300}),
			put("bus:all", "worn", map[string]float64{"low_hz": 40, "high_hz": 7000, "crackle_db": -80, "hiss_rms_db": -80}),
		}, func(t *testing.T, d *project.Document) {
			kit := played(t, d, "bus:kit")
			dry := played(t, without(t, d, "bus:kit", "parallel1"), "bus:kit")
			after := func(b *audio.Buffer) float64 { return dB(part(b, 2, 0.25, 0.55)) - dB(part(b, 2, 0, 0.05)) }
			assert.Greater(t, after(kit), after(dry)+2, "mixed in, what follows a hit comes forward")
			all, noOctave := played(t, d, "bus:all"), played(t, without(t, d, "bus:all", "octave1"), "bus:all")
			assert.Greater(t, inBand(all.Mono(), 20, 40), inBand(noOctave.Mono(), 20, 40)+3, "an octave below")
			bright := played(t, without(t, d, "bus:all", "worn1"), "bus:all")
			assert.Less(t, inBand(all.Mono(), 10000, 20000), inBand(bright.Mono(), 10000, 20000)-6, "a worn top")
		}},
		{"break-crushed-and-gated", project.Edits{
			project.SetBars{Bars: 1}, at("tempo/bpm", 168), project.AddVoice{Family: sound.Perc, Name: "Break", Layers: []sound.Layer{sound.Recorded("loop", "Loop", "loop")}}, line("perc", "9..............."),
			put("perc", "crush", map[string]float64{"bits": 8, "rate_hz": 16000}), put("perc", "gate", map[string]float64{"threshold_db": -26, "hold_ms": 25, "release_ms": 20}),
			put("perc", "compressor", map[string]float64{"threshold_db": -30, "ratio": 8, "attack_ms": 1, "release_ms": 40, "gain_db": 10}), put("perc", "shift", map[string]float64{"shift_hz": 20}),
		}, func(t *testing.T, d *project.Document) {
			var kinds []string
			for _, s := range d.Kit.Voice("perc").Chain {
				kinds = append(kinds, s.Kind)
			}
			assert.Equal(t, []string{"crush", "gate", "compressor", "shift"}, kinds, "gated before it is compressed")
			b, open := played(t, d, "perc"), played(t, without(t, d, "perc", "gate1"), "perc")
			assert.Less(t, quietest(b), quietest(open)-15, "tails vanish before they are brought up")
		}},
		{"rock-with-rooms", project.Edits{
			kitOf("acoustic"), project.SetBars{Bars: 1}, at("tempo/bpm", 140), line("kick", "9.....8.9......."), line("snare", "....9.......9..."), line("hat", "7.6.7.6.7.6.7.6."),
			project.AddRooms{}, project.AddBus{Name: "Drums", Rows: []string{"kick", "snare", "hat", "bus:overhead", "bus:room"}},
			put("kick", "equalizer", flat(map[string]float64{"band1.shape": 1, "band1.hz": 3000, "band1.gain_db": 4, "band2.shape": 1, "band2.hz": 450, "band2.gain_db": -4})),
			put("bus:drums", "parallel", map[string]float64{"amount_percent": 15}),
			project.AddEffect{Chain: project.InRow("bus:drums"), Kind: "compressor", In: "parallel1", Values: map[string]float64{"threshold_db": -40, "ratio": 12, "attack_ms": 0.5, "release_ms": 60, "gain_db": 14}},
		}, func(t *testing.T, d *project.Document) {
			room := d.Kit.Voice("kick").Send("room")
			require.NotNil(t, room)
			assert.InDelta(t, 14.3, room.Later, 0.1, "4.9 m at 343 m/s")
			rooms, drums := played(t, d, "bus:room"), played(t, d, "bus:drums")
			assert.Greater(t, dB(part(rooms, 2, 0.05, 0.2)), -60.0)
			assert.Greater(t, dB(drums.Mono()), dB(rooms.Mono()))
		}},
		{"rumble-at-132", project.Edits{
			kitOf("techno"), project.SetBars{Bars: 2}, at("tempo/bpm", 132), line("kick", "9...9...9...9...9...9...9...9..."), project.AddRumble{Voice: "kick"},
		}, func(t *testing.T, d *project.Document) {
			b := played(t, d, "bus:rumble")
			beat := 60.0 / 132
			on, off := dB(part(b, 2, 4*beat, 4*beat+0.05)), dB(part(b, 2, 4.6*beat, 4.9*beat))
			assert.Greater(t, off-on, 8.0, "ducked on quarters")
			assert.Less(t, inBand(b.Mono(), 600, 20000), inBand(b.Mono(), 40, 300)-25, "dark")
			assert.Less(t, inBand(b.Mono(), 20, 27), inBand(b.Mono(), 40, 80)-8, "and nothing below where big systems stop")
		}},
		{"kick-flat-music-far-below", project.Edits{
			project.SetBars{Bars: 2}, line("kick", "9...9...9...9...9...9...9...9..."), put("kick", "clip", map[string]float64{"curve": 1, "gain_db": 18, "ceiling_db": -1}), at("kick/level_db", 0),
			project.AddVoice{Family: sound.Perc, Name: "Music", Layers: []sound.Layer{sound.Recorded("loop", "Loop", "loop")}}, line("perc", "9..............................."), at("perc/level_db", 0),
		}, func(t *testing.T, d *project.Document) {
			kick := played(t, d, "kick")
			flatTop := 0
			for _, v := range kick.Channels[0] {
				if math.Abs(float64(v)) > audio.Gain(-1.6) {
					flatTop++
				}
			}
			assert.Greater(t, float64(flatTop)/float64(kick.Frames()), 0.05, "against the ceiling")
			drums, ok1 := measure.Integrated(kick)
			music, ok2 := measure.Integrated(played(t, d, "perc"))
			require.True(t, ok1 && ok2)
			assert.InDelta(t, 17, drums-music, 4, "LU between the drums and the music")
		}},
		{"a-silent-key", project.Edits{
			kitOf("house"), project.SetBars{Bars: 1}, line("kick", "9..............."), line("clap", "....8.......8..."), line("shaker", "7777777777777777"), line("hat", "..7...7...7...7."), line("open", "......7........."),
			project.AddVoice{Family: sound.Kick, Name: "Key"}, line("kick2", "9...9...9...9..."), at("kick2/mute", 1),
			project.AddBus{Name: "Rest", Rows: []string{"shaker", "hat", "open"}},
			project.AddEffect{Chain: project.InRow("bus:rest"), Kind: "compressor", Key: "kick2", Values: map[string]float64{"threshold_db": -30, "ratio": 20, "attack_ms": 1, "release_ms": 100}},
		}, func(t *testing.T, d *project.Document) {
			on, off := played(t, d, "bus:rest"), played(t, without(t, d, "bus:rest", "compressor1"), "bus:rest")
			for _, beat := range []float64{0.6, 1.2, 1.8} { // at 100 BPM, where no kick is heard
				assert.Greater(t, dB(part(off, 2, beat+0.01, beat+0.06))-dB(part(on, 2, beat+0.01, beat+0.06)), 8.0, "ducked at %g s", beat)
			}
			assert.Less(t, dB(played(t, d, "kick2").Mono()), -100.0, "the key is silent")
			clap := d.Kit.Voice("clap")
			assert.Empty(t, clap.Chain, "all but the kick and the clap")
		}},
	}
}

// quietest is the level of the quietest tenth of the parts of a sound that lie between its
// first and last loud one, dB.
func quietest(b *audio.Buffer) float64 {
	x := b.Mono()
	low := 0.0
	for at := 4800; at+480 < min(len(x), 40000); at += 480 {
		low = math.Min(low, dB(x[at:at+480]))
	}
	return low
}

func TestMixes(t *testing.T) {
	for _, m := range mixes() {
		t.Run(m.name, func(t *testing.T) {
			t.Parallel()
			path := filepath.Join("testdata", "mixes", m.name+".json")
			made, _, err := project.New(m.name).Apply(m.edits, nil)
			require.NoError(t, err)
			if os.Getenv("JUBRAK_GOLDEN") == "write" {
				data, err := json.Marshal(made)
				require.NoError(t, err)
				require.NoError(t, os.WriteFile(path, append(data, '\n'), 0o644))
			}
			data, err := os.ReadFile(path)
			require.NoError(t, err)
			d, err := project.Read(data)
			require.NoError(t, err)
			m.check(t, d)
			assert.Equal(t, made.Mix, d.Mix, "as the edits make it now")
		})
	}
}

// Asked: off and on are matched within 0.5 LU on every effect of these mixes.
func TestEveryEffectIsJudgedAsLoud(t *testing.T) {
	for _, m := range mixes() {
		t.Run(m.name, func(t *testing.T) {
			t.Parallel()
			d, _, err := project.New(m.name).Apply(append(m.edits, project.SetBars{Bars: 1}), nil)
			require.NoError(t, err)
			song := d.Song(preset.Material())
			for _, row := range d.Rows() {
				if len(*d.Chain(row)) == 0 {
					continue
				}
				with, err := outOf(context.Background(), d, song, row)
				require.NoError(t, err)
				for _, s := range *d.Chain(row) {
					by, err := BypassGain(context.Background(), d, preset.Material(), row, s.ID)
					require.NoError(t, err)
					off, err := outOf(context.Background(), d, song.Without(engine.Bypass{Row: row, Effect: s.ID, Gain: by}), row)
					require.NoError(t, err)
					assert.InDelta(t, short(with), short(off), 0.5, "%s, %s", row, s.ID)
				}
			}
		})
	}
}
