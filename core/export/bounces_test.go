package export

import (
	"context"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/compare"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/measure"
	"jubrak/core/music"
	"jubrak/core/preset"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Bounces are eight grooves that a practitioner makes. The documents in testdata were
// made with the screen alone (e2e/tests/bounces.spec.ts makes them anew).
type bounce struct {
	name  string
	check func(t *testing.T, d *project.Document)
}

func events(d *project.Document, voice string, bars int) (out []groove.Event) {
	line := groove.NewLine(&d.Groove, d.Tempo, 0)
	for _, e := range line.Events(0, bars*d.Groove.Meter.BarTicks(), nil) {
		h := d.Groove.Lanes[e.Lane].Hits[e.Hit]
		if h.Sound == voice || h.Sound == "" && d.Groove.Lanes[e.Lane].Voice == voice {
			out = append(out, e)
		}
	}
	return out
}

func rendered(t *testing.T, d *project.Document, solo string, bars int) []float64 {
	t.Helper()
	o := *d
	o.Kit.Voices = append([]sound.Voice{}, d.Kit.Voices...)
	for i := range o.Kit.Voices {
		o.Kit.Voices[i].Mute = o.Kit.Voices[i].ID != solo
	}
	out, err := engine.Render(context.Background(), o.Song(sound.Samples{"loop": preset.Material()["loop"]}), engine.Bounce{Rate: engine.Rate, Bars: bars})
	require.NoError(t, err)
	return out.Mix.Mono()
}

// voiceOf is the id that the first voice of a family has once a kit is taken.
func voiceOf(kit int, f sound.Family) string {
	d, _, err := project.New("x").Apply(project.Edits{project.SetKit{Voices: preset.Kits()[kit].Voices}}, nil)
	if err != nil {
		return ""
	}
	for _, v := range d.Kit.Voices {
		if v.Family == f {
			return v.ID
		}
	}
	return ""
}

// kits of the library by number: house, dusty, acoustic, techno, half-time, hands.
const (
	house, dusty, acoustic, _, halfTime, hands = 0, 1, 2, 3, 4, 5
)

func bounces() []bounce {
	k := func(kit int, f sound.Family) string { return voiceOf(kit, f) }
	return []bounce{
		{"half-time-rolls", func(t *testing.T, d *project.Document) {
			hats := events(d, k(halfTime, sound.HatClosed), 2)
			var roll []groove.Event
			for _, e := range hats {
				if e.Strokes > 1 && e.Tick < 3840 {
					roll = append(roll, e)
				}
			}
			require.Len(t, roll, 5, "four and a half sixteenth triplets in three sixteenths, rounded")
			for i := 1; i < len(roll); i++ {
				assert.InDelta(t, 144, roll[i].Tick-roll[i-1].Tick, 1)
				assert.Less(t, roll[i].Velocity, roll[i-1].Velocity, "they fade")
			}
			snares := events(d, k(halfTime, sound.Snare), 2)
			require.Len(t, snares, 3)
			assert.Equal(t, []int{1920, 5760, 7200}, []int{snares[0].Tick, snares[1].Tick, snares[2].Tick}, "on the third beat, and one added")
		}},
		{"gliding-808", func(t *testing.T, d *project.Document) {
			bass := k(halfTime, sound.Bass808)
			scale, err := music.ParseKey(d.Key)
			require.NoError(t, err)
			for _, h := range d.Groove.Lane(bass).Hits {
				assert.True(t, scale.Has(d.RootOf(bass)+int(h.Semitones)), "in key")
			}
			x := rendered(t, d, bass, 2)
			line := groove.NewLine(&d.Groove, d.Tempo, 0)
			pitch := func(fromTick, toTick float64) float64 {
				a, b := int(line.Seconds(fromTick)*engine.Rate), int(line.Seconds(toTick)*engine.Rate)
				hz, ok := measure.Fundamental(x[a:b], engine.Rate, 30, 200)
				require.True(t, ok)
				return hz
			}
			low := pitch(600, 1400)
			assert.InDelta(t, 0, 1200*math.Log2(low/43.65), 30)
			peak := func(fromTick, toTick float64) (m float64) {
				a, b := int(line.Seconds(fromTick)*engine.Rate), int(line.Seconds(toTick)*engine.Rate)
				for _, v := range x[a:b] {
					m = math.Max(m, math.Abs(v))
				}
				return m
			}
			assert.InDelta(t, 87.3, crossings(x[int(line.Seconds(1600)*engine.Rate):int(line.Seconds(1690)*engine.Rate)]), 12, "an octave up for a step")
			assert.Less(t, peak(2500, 3800), 1e-3, "cut by itself")
			assert.Greater(t, peak(3850, 4500), 0.05)
		}},
		{"off-the-grid", func(t *testing.T, d *project.Document) {
			for v, want := range map[string]float64{k(house, sound.Kick): 0, k(house, sound.Clap): -8, k(house, sound.HatClosed): 11, k(house, sound.Shaker): 0, k(house, sound.Cowbell): 0} {
				for _, e := range events(d, v, 2) {
					assert.InDelta(t, want, e.Offset, 1e-9, v)
				}
			}
			m := compare.Feel(d)
			assert.InDelta(t, -8, *m.Voices["clap"].Lean, 0.5, "measured, too")
			pairs := compare.Between(d, nil)
			for _, p := range pairs {
				if p.First == sound.Kick && p.Second == sound.Clap {
					assert.InDelta(t, -8, *p.MineMean, 0.1)
				}
			}
		}},
		{"lazy-93", func(t *testing.T, d *project.Document) {
			kick := events(d, k(dusty, sound.Kick), 4)
			assert.InDelta(t, 14, kick[0].Offset, 1e-9, "bar 1")
			for _, e := range kick {
				if e.Tick == 3*3840 {
					assert.InDelta(t, 0, e.Offset, 1e-9, "back on the beat by bar 4")
				}
			}
			assert.Less(t, kick[2].Velocity, 45, "a ghost before the third one")
			assert.Equal(t, kick[3].Tick-240, kick[2].Tick)
			for _, e := range events(d, k(dusty, sound.HatClosed), 4) {
				assert.InDelta(t, 12, e.Offset, 1e-9)
			}
			x := rendered(t, d, "clap", 4)
			var loud []float64
			for _, e := range events(d, "clap", 4)[:4] {
				at := int(e.Time * engine.Rate)
				loud = append(loud, centroid(x[at:at+4800]))
			}
			for i := range loud {
				for j := range i {
					assert.Greater(t, math.Abs(math.Log2(loud[i]/loud[j])), 0.03, "four different claps in turn: %v", loud)
				}
			}
			last := 0
			for _, l := range d.Groove.Lanes {
				for _, h := range l.Hits {
					if h.Tick >= 3*3840+2880 {
						last++
						assert.Equal(t, k(dusty, sound.Tambourine), l.Voice, "a quarter bar where only the tambourine plays")
					}
				}
			}
			assert.Equal(t, 2, last)
		}},
		{"hand-drum-and-bells", func(t *testing.T, d *project.Document) {
			before := events(withoutSounds(d), k(hands, sound.Snare), 2)
			snare, drum := events(d, k(hands, sound.Snare), 2), events(d, k(hands, sound.Conga), 2)
			assert.Len(t, snare, len(before)/2)
			assert.Len(t, drum, len(before)/2, "in place of every second snare")
			all := append(append([]groove.Event{}, snare...), drum...)
			for _, b := range before {
				found := false
				for _, e := range all {
					found = found || e.Tick == b.Tick && e.Offset == b.Offset
				}
				assert.True(t, found, "the same bounce")
			}
			assert.Len(t, events(d, k(hands, sound.Cowbell), 2), 16, "bells instead of hats")
		}},
		{"all-swung-alike", func(t *testing.T, d *project.Document) {
			want := 0.08 * 60000 / 121 / 2 // of a pair of sixteenths, an eighth long
			n := 0
			for _, v := range d.Kit.Voices {
				for _, e := range events(d, v.ID, 1) {
					if e.Tick%480 == 240 {
						n++
						assert.InDelta(t, want, e.Offset, 1e-9)
					} else {
						assert.InDelta(t, 0, e.Offset, 1e-9)
					}
				}
			}
			assert.Equal(t, 8*len(d.Kit.Voices), n)
		}},
		{"four-chords", func(t *testing.T, d *project.Document) {
			bass := events(d, k(halfTime, sound.Bass808), 4)
			var at []int
			var pitch []float64
			for _, e := range bass {
				at, pitch = append(at, e.Tick), append(pitch, e.Semitones)
			}
			assert.Equal(t, []int{0, 5760, 9600, 11520}, at, "it breathes where the chords do")
			assert.Equal(t, []float64{0, -4, 3, -2}, pitch)
			x := rendered(t, d, k(halfTime, sound.HatOpen), 4)
			beat := groove.NewLine(&d.Groove, d.Tempo, 0).Seconds(3 * 3840)
			end := int(beat * engine.Rate)
			assert.Greater(t, rms(x[end-480:end]), 4*rms(x[end-int(0.3*engine.Rate):end-int(0.25*engine.Rate)]), "it swells")
			assert.Less(t, rms(x[end+100:end+4800]), 1e-5, "and ends on the beat")
		}},
		{"five-against-four", func(t *testing.T, d *project.Document) {
			assert.Equal(t, 20*3840, d.Groove.CycleTicks(), "reported, and never unrolled")
			assert.Equal(t, 5*3840, d.Groove.Longest())
			for _, l := range d.Groove.Lanes {
				assert.LessOrEqual(t, len(l.Hits), 16)
			}
			bell := events(d, k(house, sound.Cowbell), 20)
			assert.Len(t, bell, 16)
			assert.Equal(t, 5*3840, bell[4].Tick)
		}},
	}
}

// withoutSounds is a document whose hits strike the sounds of their own rows.
func withoutSounds(d *project.Document) *project.Document {
	o := *d
	o.Groove.Lanes = append([]groove.Lane{}, d.Groove.Lanes...)
	for i, l := range o.Groove.Lanes {
		o.Groove.Lanes[i].Hits = append([]groove.Hit{}, l.Hits...)
		for k := range l.Hits {
			o.Groove.Lanes[i].Hits[k].Sound = ""
		}
	}
	return &o
}

func rms(x []float64) float64 {
	var s float64
	for _, v := range x {
		s += v * v
	}
	return math.Sqrt(s / float64(len(x)))
}

// crossings is the pitch of a short stretch by its rising zero crossings.
func crossings(x []float64) float64 {
	first, last, n := 0.0, 0.0, 0
	for i := range len(x) - 1 {
		if x[i] < 0 && x[i+1] >= 0 {
			at := float64(i) + x[i]/(x[i]-x[i+1])
			if n == 0 {
				first = at
			}
			last = at
			n++
		}
	}
	return float64(n-1) / (last - first) * engine.Rate
}

// centroid is a rough brightness: the rate of zero crossings.
func centroid(x []float64) float64 {
	n := 1
	for i := range len(x) - 1 {
		if (x[i] < 0) != (x[i+1] < 0) {
			n++
		}
	}
	return float64(n)
}

func TestBounces(t *testing.T) {
	for _, b := range bounces() {
		t.Run(b.name, func(t *testing.T) {
			data, err := os.ReadFile(filepath.Join("testdata", "bounces", b.name+".json"))
			require.NoError(t, err)
			d, err := project.Read(data)
			require.NoError(t, err)
			b.check(t, d)
		})
	}
}
