package live

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/project"
)

// peaks plays so many blocks, all of them read at once, and returns each one's peak.
func peaks(t *testing.T, s *Session, blocks int) (out []block) {
	t.Helper()
	for range blocks {
		s.played = max(s.played, s.sent)
		out = append(out, read(t, s.next()))
	}
	return out
}

func fourBars(t *testing.T, edits ...project.Edit) *project.Document {
	t.Helper()
	d, _, err := project.New("x").Apply(append(project.Edits{project.SetBars{Bars: 4}, project.SetNumber{At: "tempo/bpm", Value: 120}}, edits...), nil)
	require.NoError(t, err)
	return d
}

// Another variation waits for the next bar; edits of it meanwhile are in it.
func TestAVariationBeginsOnTheBar(t *testing.T) {
	a := fourBars(t, project.FillLane{Voice: "hat", Every: 4})
	b := fourBars(t)
	s := NewSession(a.Song(nil), 1, nil)
	s.take(&Message{Type: "play"})
	peaks(t, s, 60) // 320 ms
	s.Load(b.Song(nil), 2, true)
	edited, _, err := b.Apply(project.Edits{project.SetNumber{At: "snare/level_db", Value: -30}}, nil)
	require.NoError(t, err)
	s.Load(edited.Song(nil), 3, false)
	var last float64
	for _, x := range peaks(t, s, 600) {
		if x.peak > 0.02 {
			last = x.position
		}
		assert.Equal(t, uint32(3), x.version)
	}
	assert.InDelta(t, 3*960, last, 400, "the last hat is that of the bar's fourth beat")
	assert.Nil(t, s.waiting)
}

// A part goes round, the feel is heard in part or not at all, and one voice alone.
func TestWhatIsHeard(t *testing.T) {
	d := fourBars(t, project.AddHit{Voice: "snare", Tick: 3840, Velocity: 120}, project.SetNumber{At: "groove/feel/snare/lean_ms", Value: 40})
	at := func(s *Session) float64 {
		s.take(&Message{Type: "play", Tick: 3840})
		for i, x := range peaks(t, s, 400) {
			if x.peak > 0.02 {
				return float64(i) * Block / engine.Rate * 1000
			}
		}
		return math.Inf(1)
	}
	s := NewSession(d.Song(nil), 1, nil)
	assert.InDelta(t, 40, at(s), 6)
	s.again(func() { s.hear = []groove.FeelPart{} })()
	assert.InDelta(t, 0, at(s), 6, "without feel")
	s.again(func() { s.hear = []groove.FeelPart{"lean"} })()
	assert.InDelta(t, 40, at(s), 6)
	s.again(func() { s.hear = nil })()
	s.take(&Message{Type: "solo", Voices: []string{"kick"}})
	assert.Equal(t, math.Inf(1), at(s), "the snare is not heard while the kick is alone")
	s.take(&Message{Type: "solo"})
	s.again(func() { s.loop = [2]int{3840, 7680} })()
	s.take(&Message{Type: "play", Tick: 3840})
	n := 0
	quiet := true
	for _, x := range peaks(t, s, 3*376) {
		assert.GreaterOrEqual(t, x.position, 3840.0)
		assert.Less(t, x.position, 7680.0)
		if loud := x.peak > 0.05; loud && quiet {
			n++
		}
		quiet = x.peak < 0.02
	}
	assert.Equal(t, 3, n, "bar 2 three times")
}

// A count-in clicks each beat for a bar and strikes nothing.
func TestCountInClicks(t *testing.T) {
	d := fourBars(t, project.AddHit{Voice: "kick", Tick: 0, Velocity: 120})
	s := NewSession(d.Song(nil), 1, nil)
	s.take(&Message{Type: "play", CountIn: 1})
	var beats []float64
	quiet := true
	for _, x := range peaks(t, s, 360) { // 1.92 s of 2
		assert.Less(t, x.position, 0.0)
		if x.peak > 0.05 && quiet {
			beats = append(beats, x.position)
		}
		quiet = x.peak < 0.02
	}
	require.Len(t, beats, 4)
	for i, b := range beats {
		assert.InDelta(t, float64(i-4)*960, b, 12)
	}
	found := false
	for _, x := range peaks(t, s, 60) {
		found = found || x.peak > 0.1 && x.position >= 0
	}
	assert.True(t, found, "then the kick")
	s.take(&Message{Type: "click", On: true, Per: 2})
	s.take(&Message{Type: "solo", Voices: []string{"nobody"}})
	peaks(t, s, 200)
	n := 0
	quiet = false
	for _, x := range peaks(t, s, 376) {
		if x.peak > 0.05 && quiet {
			n++
		}
		quiet = x.peak < 0.02
	}
	assert.InDelta(t, 8, n, 1, "eighths of a bar")
}
