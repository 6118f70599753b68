package mixreport

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/measure"
	"jubrak/core/project"
)

// laps is a project with hits of every voice and a few effects.
func laps(t *testing.T, more ...project.Edit) *project.Document {
	t.Helper()
	var hits []project.NewHit
	for i := range 8 {
		hits = append(hits, project.NewHit{Voice: "hat", Hit: groove.Hit{Tick: i * 480, Velocity: 80}})
		if i%2 == 0 {
			hits = append(hits, project.NewHit{Voice: "kick", Hit: groove.Hit{Tick: i * 480, Velocity: 110}})
		}
		if i%4 == 2 {
			hits = append(hits, project.NewHit{Voice: "snare", Hit: groove.Hit{Tick: i * 480, Velocity: 105}})
		}
	}
	hits = append(hits, project.NewHit{Voice: "808", Hit: groove.Hit{Tick: 0, Velocity: 110}})
	d, _, err := project.New("Laps").Apply(append(project.Edits{project.PutHits{Hits: hits}}, more...), nil)
	require.NoError(t, err)
	return d
}

func look(t *testing.T, d *project.Document) *Look {
	t.Helper()
	l, err := At(context.Background(), d, nil)
	require.NoError(t, err)
	return l
}

func TestRowsEffectsAndLevels(t *testing.T) {
	d := laps(t,
		project.AddBus{Name: "Drums", Rows: []string{"kick", "snare"}},
		project.AddEffect{Chain: project.InRow("kick"), Kind: "equalizer", Values: map[string]float64{"band1.shape": 4, "band1.hz": 40, "band3.hz": 70, "band3.gain_db": 6}},
		project.AddEffect{Chain: project.InRow("kick"), Kind: "compressor", To: 1, Values: map[string]float64{"threshold_db": -30, "ratio": 8, "attack_ms": 0.5, "ahead_ms": 5}},
		project.AddEffect{Chain: project.InRow("bus:drums"), Kind: "clip", Values: map[string]float64{"gain_db": 12}},
	)
	l := look(t, d)
	require.Len(t, l.Rows, 7)
	kick := l.Rows[0]
	require.Len(t, kick.Effects, 2)
	eq, comp := kick.Effects[0], kick.Effects[1]
	assert.Equal(t, effect.Spectrum, eq.Shows)
	assert.Equal(t, [2]string{"low cut at 40 Hz", "+6 dB at 70 Hz"}, eq.Words)
	at := func(hz float64) float64 {
		for i, h := range eq.Hz {
			if math.Abs(math.Log2(h/hz)) < 0.17 {
				return eq.SpectrumAfter[i] - eq.SpectrumBefore[i]
			}
		}
		return math.NaN()
	}
	assert.InDelta(t, 4.5, at(70), 2, "what an equalizer of 6 dB at 70 Hz leaves in its third octave")
	assert.Less(t, comp.Most, -6.0)
	assert.Contains(t, comp.Words[0], "compressor 8:1")
	bus := l.Rows[5]
	assert.Equal(t, "bus:drums", bus.Row)
	require.Len(t, bus.Effects, 1)
	require.Len(t, bus.Effects[0].Transfer, 49)
	top := bus.Effects[0].Transfer[48]
	assert.InDelta(t, 1, top[0], 1e-3)
	assert.Less(t, top[1], 1.05, "what goes beyond the ceiling is cut")
	assert.Nil(t, l.Rows[3].Levels.Peak, "an open hat that is never struck is silent")
	assert.NotNil(t, l.Rows[6].Levels.Integrated)
	assert.InDelta(t, 7.25, l.Latency, 0.1)
	loop, err := engine.Render(context.Background(), d.Song(nil), engine.Bounce{Rate: engine.Rate, Seamless: true})
	require.NoError(t, err)
	assert.InDelta(t, -measure.TruePeak(loop.Mix), l.Headroom, 1e-9, "what export counts")
}

// Asked: off and on are matched within 0.5 LU.
func TestOffIsAsLoudAsOn(t *testing.T) {
	d := laps(t,
		project.AddEffect{Chain: project.InRow("snare"), Kind: "compressor", Values: map[string]float64{"threshold_db": -40, "ratio": 6, "gain_db": 9}},
		project.AddEffect{Chain: project.InRow("snare"), Kind: "equalizer", To: 1, Values: map[string]float64{"band3.gain_db": 9, "band3.hz": 1000}},
		project.AddEffect{Chain: project.InRow("out"), Kind: "clip", Values: map[string]float64{"gain_db": 9}},
	)
	for _, j := range []engine.Bypass{{Row: "snare", Effect: "compressor1"}, {Row: "snare", Effect: "equalizer1"}, {Row: "snare"}, {Row: "out", Effect: "clip1"}, {}} {
		var err error
		j.Gain, err = BypassGain(context.Background(), d, nil, j.Row, j.Effect)
		require.NoError(t, err)
		with, err := outOf(context.Background(), d, d.Song(nil), j.Row)
		require.NoError(t, err)
		off, err := outOf(context.Background(), d, d.Song(nil).Without(j), j.Row)
		require.NoError(t, err)
		assert.InDelta(t, short(with), short(off), 0.5, "%+v", j)
		assert.Greater(t, math.Abs(j.Gain), 0.5, "%+v", j)
	}
}

// asked is a context that ends when it has been asked so often whether it has.
type asked struct {
	context.Context
	times, most int
}

func (a *asked) Err() error {
	if a.times++; a.times >= a.most {
		return context.Canceled
	}
	return nil
}

// What nobody waits for any more is given up at once.
func TestALookIsGivenUp(t *testing.T) {
	ctx := &asked{Context: context.Background(), most: 3}
	_, err := At(ctx, laps(t), nil)
	require.ErrorIs(t, err, context.Canceled)
	assert.Equal(t, 3, ctx.times)
}

// An 808 that lies on the kick covers it; what is said to help does.
func TestWhoCoversWhom(t *testing.T) {
	d := laps(t, project.SetNumber{At: "808/level_db", Value: 6})
	l := look(t, d)
	find := func(l *Look) *Cover {
		for i := range l.Covers {
			if l.Covers[i].Covers == "808" && l.Covers[i].Covered == "kick" {
				return &l.Covers[i]
			}
		}
		return nil
	}
	c := find(l)
	require.NotNil(t, c, "%+v", l.Covers)
	assert.Less(t, c.From, 70.0)
	assert.Greater(t, c.By, 3.0)
	d, _, err := d.Apply(project.Edits{project.AddEffect{Chain: project.InRow("808"), Kind: "equalizer", Values: map[string]float64{"band3.hz": c.Cut.Hz, "band3.gain_db": c.Cut.Gain, "band3.q": c.Cut.Q}}}, nil)
	require.NoError(t, err)
	if again := find(look(t, d)); again != nil {
		assert.Less(t, again.By, c.By-1)
	}
}

// A phone does not give what lies below 400 Hz, and says so; the full range loses nothing.
func TestSystemsSayWhatIsLost(t *testing.T) {
	l := look(t, laps(t, project.SetNumber{At: "hat/pan", Value: 0.8}))
	lost := map[string][]string{}
	for _, h := range l.Systems {
		lost[h.System] = h.Lost
	}
	assert.Empty(t, lost["full"])
	require.NotEmpty(t, lost["phone"])
	assert.Regexp(t, `The Kick’s fundamental \(4\d Hz\) .*not heard here`, lost["phone"][0])
	assert.Empty(t, lost["club"], "46 Hz is above where it stops")
	require.Len(t, lost["side"], 1)
	assert.Regexp(t, `Hat is 13\.\d dB softer`, lost["side"][0]) // a quarter of the left by equal power: by hand: 10 log (2 sin² 9°)
}

// By hand: of 8 tosses, 7 or 8 heads come in 9 of 256.
func TestOdds(t *testing.T) {
	assert.InDelta(t, 9.0/256, Odds(7, 8), 1e-12)
	assert.InDelta(t, 1, Odds(0, 8), 1e-12)
	assert.InDelta(t, 1.0/1024, Odds(10, 10), 1e-12)
}

// Every kind of effect can be known in words.
func TestWordsOfEveryKind(t *testing.T) {
	d := laps(t)
	for _, k := range effect.Kinds() {
		s := effect.New("a", k, nil)
		w := Words(&s, d, &Picture{})
		assert.NotEmpty(t, w[0], k.ID)
		assert.NotContains(t, w[0]+w[1], "%!", k.ID)
		assert.Less(t, len([]rune(w[0])), 28, k.ID)
	}
}

func BenchmarkLook(b *testing.B) {
	d, _, _ := project.New("x").Apply(project.Edits{project.FillLane{Voice: "kick", Every: 4}, project.FillLane{Voice: "hat", Every: 2}, project.FillLane{Voice: "snare", Every: 8, From: 4},
		project.AddEffect{Chain: project.InRow("kick"), Kind: "equalizer"}, project.AddEffect{Chain: project.InRow("kick"), Kind: "compressor"}, project.AddEffect{Chain: project.InRow("snare"), Kind: "reverb"}, project.AddEffect{Chain: project.InRow("out"), Kind: "ceiling"}}, nil)
	for b.Loop() {
		if _, err := At(context.Background(), d, nil); err != nil {
			b.Fatal(err)
		}
	}
}
