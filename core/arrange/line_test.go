package arrange

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
)

var fourFour = music.Meter{Beats: 4, Unit: 4}

// pattern is a groove of rows of sixteenths, "x" a hit.
func pattern(bars int, rows map[string]string) *groove.Groove {
	g := &groove.Groove{Bars: bars, Meter: fourFour, Grid: 4, Feel: groove.Straight(), Seed: 1}
	for _, voice := range []string{"kick", "snare", "hat"} {
		l := g.EnsureLane(voice)
		for i, c := range rows[voice] {
			if c == 'x' {
				l.Hits = append(l.Hits, groove.Hit{ID: l.NewHitID(), Tick: i * 240, Velocity: 100})
			}
		}
	}
	return g
}

func grooves(m map[string]*groove.Groove) Grooves {
	return func(id string) *groove.Groove { return m[id] }
}

// described are the events of a line as "voice bar.sixteenth", in 4/4.
func described(l *Line, from, to int) (out []string) {
	for _, e := range l.Events(from, to, nil) {
		out = append(out, fmt.Sprintf("%s %d.%d", l.Grooves()[e.Part].Lanes[e.Lane].Voice, e.Tick/3840+1, e.Tick%3840/240+1))
	}
	return out
}

var two = map[string]*groove.Groove{
	"a": pattern(2, map[string]string{"kick": "x...............x.......x", "snare": "....x"}),
	"b": pattern(1, map[string]string{"kick": "........x", "hat": "x"}),
}

func TestSectionsFollowEachOther(t *testing.T) {
	a := &Arrangement{Sections: []Section{{ID: "1", Name: "Doors", Variation: "a", Bars: 3}, {ID: "2", Name: "Lap", Variation: "b", Bars: 2}, {ID: "3", Name: "Late", Variation: "a", Bars: 1, From: 1}}}
	require.NoError(t, a.Validate(grooves(two), music.Steady(120)))
	l := NewLine(a, grooves(two), music.Steady(120))
	assert.Equal(t, []string{"kick 1.1", "snare 1.5", "kick 2.1", "kick 2.9", "kick 3.1", "snare 3.5", "hat 4.1", "kick 4.9", "hat 5.1", "kick 5.9", "kick 6.1", "kick 6.9"}, described(l, 0, l.End()))
	assert.Equal(t, 6*3840, l.End())
	assert.InDelta(t, 12.0, l.Seconds(float64(l.End())), 1e-12)
	assert.Equal(t, []Span{{0, 3 * 3840, 0, fourFour}, {3 * 3840, 5 * 3840, 3, fourFour}, {5 * 3840, 6 * 3840, 5, fourFour}}, l.Spans())
	assert.Equal(t, 4, l.Place(4.5*3840).Bar)
}

func TestWhatIsLeftOutAndWhatIsPlaced(t *testing.T) {
	m := map[string]*groove.Groove{"a": two["a"], "fill": pattern(1, map[string]string{"snare": "xxxx"})}
	s := Section{ID: "1", Name: "Lap", Variation: "a", Bars: 4,
		Rests:    []Rest{{"snare", 0, 3840}},
		Dropouts: []Dropout{{ID: "d", At: 2 * 3840, Length: 960, Keeps: []string{"snare"}, Hit: "hat"}},
		Placed:   []Placed{{ID: "f", Kind: Fill, Name: "Fill", At: 3*3840 + 1920, Length: 1920, Variation: "fill", Keeps: []string{}}},
	}
	a := &Arrangement{Sections: []Section{s}}
	require.NoError(t, a.Validate(grooves(m), music.Steady(100)))
	l := NewLine(a, grooves(m), music.Steady(100))
	assert.Equal(t, []string{"kick 1.1", "kick 2.1", "kick 2.9", "hat 3.1", "snare 3.5", "kick 4.1", "snare 4.9", "snare 4.10", "snare 4.11", "snare 4.12"}, described(l, 0, l.End()),
		"the fill takes the place of the kick at 4.9")
	a.Sections[0].Placed[0].Over = true
	assert.Contains(t, described(NewLine(a, grooves(m), music.Steady(100)), 0, l.End()), "kick 4.9")
	a.Sections[0].Placed[0].Over, a.Sections[0].Placed[0].Keeps = false, []string{"kick"}
	assert.Contains(t, described(NewLine(a, grooves(m), music.Steady(100)), 0, l.End()), "kick 4.9")
}

// A bar of 3/4 plays the first three beats of a bar of 4/4, and of 5/4 has its last beat
// free; a lane of seven sixteenths runs through.
func TestBarsOfAnotherMeter(t *testing.T) {
	g := pattern(2, map[string]string{"kick": "x...x...x...x...x.x", "hat": "x"})
	g.Lane("hat").Steps = 7
	m := map[string]*groove.Groove{"a": g}
	at := func(meter music.Meter, voice string) (ticks []int) {
		a := &Arrangement{Sections: []Section{{ID: "1", Name: "Turn", Variation: "a", Bars: 2, Meter: &meter}}}
		require.NoError(t, a.Validate(grooves(m), music.Steady(100)))
		l := NewLine(a, grooves(m), music.Steady(100))
		for _, e := range l.Events(0, l.End(), nil) {
			if l.Grooves()[e.Part].Lanes[e.Lane].Voice == voice {
				ticks = append(ticks, e.Tick/240)
			}
		}
		return ticks
	}
	assert.Equal(t, []int{0, 4, 8, 12, 14}, at(music.Meter{Beats: 3, Unit: 4}, "kick"))
	assert.Equal(t, []int{0, 7, 14, 21}, at(music.Meter{Beats: 3, Unit: 4}, "hat"))
	assert.Equal(t, []int{0, 4, 8, 12, 20, 22}, at(music.Meter{Beats: 5, Unit: 4}, "kick"))
	assert.Equal(t, []int{0, 4, 8, 12, 14, 16}, at(music.Meter{Beats: 7, Unit: 8}, "kick"))
}

func TestLanesOfOtherLengthsGoOnOrBeginAnew(t *testing.T) {
	g := pattern(1, map[string]string{"hat": "x"})
	g.Lane("hat").Steps = 7
	m := map[string]*groove.Groove{"a": g}
	at := func(goesOn bool) (ticks []int) {
		a := &Arrangement{Sections: []Section{{ID: "1", Name: "A", Variation: "a", Bars: 1}, {ID: "2", Name: "B", Variation: "a", Bars: 1, GoesOn: goesOn}}}
		l := NewLine(a, grooves(m), music.Steady(100))
		for _, e := range l.Events(0, l.End(), nil) {
			ticks = append(ticks, e.Tick/240)
		}
		return ticks
	}
	assert.Equal(t, []int{0, 7, 14, 16, 23, 30}, at(false))
	assert.Equal(t, []int{0, 7, 14, 21, 28}, at(true))
}

func TestTempoOfSections(t *testing.T) {
	a := &Arrangement{Sections: []Section{
		{ID: "1", Name: "A", Variation: "b", Bars: 2},
		{ID: "2", Name: "B", Variation: "b", Bars: 2, TempoTo: 120},
		{ID: "3", Name: "C", Variation: "b", Bars: 1},
		{ID: "4", Name: "D", Variation: "b", Bars: 1, Tempo: 90},
	}}
	l := NewLine(a, grooves(two), music.Steady(60))
	// 8 beats at 60, a ramp of 8 beats from 60 to 120 (8·ln 2, worked in core/music), 4 beats
	// at 120, 4 at 90.
	for bar, want := range map[int]float64{2: 8, 4: 8 + 8*math.Ln2, 5: 10 + 8*math.Ln2, 6: 10 + 8*math.Ln2 + 4*60.0/90} {
		assert.InDelta(t, want, l.Seconds(float64(bar*3840)), 1e-12, bar)
	}
	a.Speed.Percent = 50
	assert.InDelta(t, 16, NewLine(a, grooves(two), music.Steady(60)).Seconds(2*3840), 1e-12)
}

func TestSwingAndStrengthAreDrawn(t *testing.T) {
	g := pattern(1, map[string]string{"hat": ".x.x.x.x.x.x.x.x"})
	g.Feel.Swing = 60
	m := map[string]*groove.Groove{"a": g}
	a := &Arrangement{Sections: []Section{{ID: "1", Name: "A", Variation: "a", Bars: 2, Automation: []mixer.Automation{
		{At: "groove/feel/swing_percent", Points: []mixer.AutomationPoint{{Bar: 0, Value: 50}, {Bar: 1, Value: 66}}},
		{At: "groove/feel/strength_percent", Points: []mixer.AutomationPoint{{Bar: 1, Value: 100}, {Bar: 2, Value: 0}}}}}}}
	l := NewLine(a, grooves(m), music.Steady(120))
	// A pair of sixteenths at 120 BPM lasts 250 ms; 1 % of swing is 2.5 ms.
	for _, e := range l.Events(0, l.End(), nil) {
		bar := float64(e.Tick) / 3840
		want := 2.5 * 16 * min(bar, 1) * min(2-bar, 1)
		assert.InDelta(t, want, e.Offset, 1e-9, bar)
	}
	early, late := l.Reach()
	assert.LessOrEqual(t, early, 63.0)
	assert.GreaterOrEqual(t, late, 40.0)
}

func TestARangeGoesRound(t *testing.T) {
	a := &Arrangement{Sections: []Section{{ID: "1", Name: "A", Variation: "a", Bars: 2}, {ID: "2", Name: "B", Variation: "b", Bars: 2}}}
	l := NewLine(a, grooves(two), music.Steady(120)).Round(3840, 3*3840)
	assert.Equal(t, []string{"kick 2.1", "kick 2.9", "hat 3.1", "kick 3.9", "kick 4.1", "kick 4.9", "hat 5.1", "kick 5.9"}, described(l, 3840, 5*3840))
	assert.InDelta(t, l.Seconds(3840)+4, l.Seconds(3*3840), 1e-9)
	assert.InDelta(t, 3840.0+100, l.Within(3*3840+100), 1e-9)
	events := l.Events(3*3840, 3*3840+1, nil)
	require.Len(t, events, 1)
	assert.InDelta(t, 6.0, events[0].Time, 1e-9, "a bar of 2 s, a round of 4")
}

// Whatever windows a piece is asked in, the events are the same.
func TestWindowsAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := map[string]*groove.Groove{"a": two["a"], "b": two["b"]}
		a := &Arrangement{}
		for i := range rapid.IntRange(1, 5).Draw(t, "sections") {
			s := Section{ID: fmt.Sprint(i), Name: "S", Variation: rapid.SampledFrom([]string{"a", "b"}).Draw(t, "variation"), Bars: rapid.IntRange(1, 5).Draw(t, "bars"), Take: i,
				From: rapid.IntRange(0, 3).Draw(t, "from"), GoesOn: rapid.Bool().Draw(t, "on")}
			if rapid.Bool().Draw(t, "meter") {
				s.Meter = &music.Meter{Beats: rapid.IntRange(1, 7).Draw(t, "beats"), Unit: 8}
			}
			if rapid.Bool().Draw(t, "tempo") {
				s.Tempo = rapid.Float64Range(40, 200).Draw(t, "bpm")
			}
			a.Sections = append(a.Sections, s)
		}
		if err := a.Validate(grooves(m), music.Steady(100)); err != nil {
			t.Fatal(err)
		}
		l := NewLine(a, grooves(m), music.Steady(100))
		whole := l.Events(0, l.End(), nil)
		var parts []groove.Event
		for at := 0; at < l.End(); {
			to := min(at+rapid.IntRange(1, 5000).Draw(t, "window"), l.End())
			parts = l.Events(at, to, parts)
			at = to
		}
		if fmt.Sprint(whole) != fmt.Sprint(parts) {
			t.Fatalf("%v\n%v", whole, parts)
		}
		for _, e := range whole {
			if math.Abs(l.Seconds(float64(e.Tick))-e.Time) > 1e-9 {
				t.Fatal("a straight hit lies off its place")
			}
		}
	})
}

func TestArrangementsThatAreRefused(t *testing.T) {
	base := func() *Arrangement {
		return &Arrangement{Sections: []Section{{ID: "1", Name: "A", Variation: "a", Bars: 2}}}
	}
	for says, spoil := range map[string]func(a *Arrangement){
		"1 to 1000 bars":       func(a *Arrangement) { a.Sections[0].Bars = 0 },
		"at most 1000":         func(a *Arrangement) { a.Sections = make([]Section, 1001) },
		"at least one section": func(a *Arrangement) { a.Sections = nil },
		"choose another one":   func(a *Arrangement) { a.Sections[0].Variation = "q" },
		"tempo 19":             func(a *Arrangement) { a.Sections[0].Tempo = 19 },
		"tempo 401":            func(a *Arrangement) { a.Sections[0].TempoTo = 401 },
		"too short": func(a *Arrangement) {
			a.Sections[0].Automation = []mixer.Automation{{At: TempoAddress, Points: []mixer.AutomationPoint{{Bar: 0, Value: 90}, {Bar: 1.0 / 3840, Value: 100}}}}
		},
		"an hour":   func(a *Arrangement) { a.Sections[0].Bars, a.Sections[0].Tempo = 1000, 20 },
		"inside":    func(a *Arrangement) { a.Sections[0].Rests = []Rest{{"kick", 0, 3 * 3840}} },
		"move it":   func(a *Arrangement) { a.Sections[0].Dropouts = []Dropout{{ID: "d", At: 7000, Length: 1000}} },
		"letters":   func(a *Arrangement) { a.Sections[0].Name = " " },
		"meter 0/4": func(a *Arrangement) { a.Sections[0].Meter = &music.Meter{Beats: 0, Unit: 4} },
		"drawn twice": func(a *Arrangement) {
			p := []mixer.AutomationPoint{{Bar: 0, Value: 1}}
			a.Sections[0].Automation = []mixer.Automation{{At: "x", Points: p}, {At: "x", Points: p}}
		},
	} {
		a := base()
		spoil(a)
		assert.ErrorContains(t, a.Validate(grooves(two), music.Steady(100)), says)
	}
}
