package live

import (
	"encoding/binary"
	"math"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/engine"
	"jubrak/core/project"
)

// newSession is a session for which no time passes: nothing takes long.
func newSession(song engine.Song, version int, prepare Prepare) *Session {
	s := NewSession(song, version, prepare)
	began := time.Now()
	s.clock = func() time.Time { return began }
	return s
}

// inFull skips a test that takes a minute under the race detector, which finds nothing in it.
func inFull(t *testing.T) {
	if testing.Short() {
		t.Skip("tested without the race detector")
	}
}

// browser holds what it was sent, by frame, as a page does.
type browser struct {
	left    []float32
	version []uint32
	first   int64 // the lowest place that was sent since it was last looked at
}

// take takes all that a session has to send.
func (b *browser) take(s *Session) {
	b.first = math.MaxInt64
	for m := s.next(); m != nil; m = s.next() {
		at := int64(binary.LittleEndian.Uint64(m[32:]))
		b.first = min(b.first, at)
		for int64(len(b.left)) < at+Block {
			b.left, b.version = append(b.left, 0), append(b.version, 0)
		}
		for i := range Block {
			b.left[at+int64(i)] = math.Float32frombits(binary.LittleEndian.Uint32(m[HeaderBytes+4*i:]))
			b.version[at+int64(i)] = binary.LittleEndian.Uint32(m[4:])
		}
	}
}

// play lets it play on up to a frame.
func (b *browser) play(s *Session, to int64) {
	for at := s.played; at <= to; at += Block {
		s.take(&Message{Type: "played", Frames: at})
		b.take(s)
	}
}

// rich is a project with effects, a reverb and random draws.
func rich(t *testing.T, edits ...project.Edit) *project.Document {
	d, _, err := project.New("x").Apply(append(project.Edits{
		project.AddHit{Voice: "kick", Tick: 0}, project.AddHit{Voice: "kick", Tick: 1920}, project.AddHit{Voice: "hat", Tick: 480}, project.AddHit{Voice: "hat", Tick: 960}, project.AddHit{Voice: "808", Tick: 240},
		project.AddEffect{Chain: project.InRow("hat"), Kind: "reverb", Values: map[string]float64{"decay_ms": 1500, "mix_percent": 50}},
		project.AddEffect{Chain: project.InRow("kick"), Kind: "chorus"},
		project.SetNumber{At: "groove/feel/hat/scatter_ms", Value: 6}, project.SetNumber{At: "tempo/bpm", Value: 150},
	}, edits...), nil)
	require.NoError(t, err)
	return d
}

// What is heard after an edit is, to the sample, what a session gives that made nothing
// ahead and takes the edit at that frame.
func TestAnEditIsHeardAtOnceAndExactly(t *testing.T) {
	inFull(t)
	edits := map[string]project.Edit{
		"a number": project.SetNumber{At: "hat/level_db", Value: -20},
		"a sound":  project.SetNumber{At: "kick/layers/drum/body.decay_ms", Value: 60},
		"a hit":    project.AddHit{Voice: "snare", Tick: 1200},
		"a chain":  project.AddEffect{Chain: project.InRow("hat"), Kind: "echo"},
		"tempo":    project.SetNumber{At: "tempo/bpm", Value: 120},
		"a voice":  project.RemoveVoice{Voice: "808"},
	}
	before := rich(t)
	for name, e := range edits {
		after := rich(t, e)
		s, b := newSession(before.Song(nil), 1, nil), &browser{}
		s.take(&Message{Type: "play"})
		b.play(s, 40000)
		require.Greater(t, s.sent-s.played, int64(firstLead-2*Block), "a long lead is there")
		then := slices.Clone(b.left)
		reach := s.reach()
		s.Load(after.Song(nil), 2, false)
		b.take(s)
		at := b.first + Block // the block before goes out once more
		assert.EqualValues(t, 1, b.version[b.first], "%s: nothing of it is heard in that block", name)
		assert.LessOrEqual(t, at, s.played+reach+Block, "%s: it begins just ahead of what is played", name)
		assert.GreaterOrEqual(t, at, s.played+leastReach, name)
		b.play(s, 60000)
		assert.Equal(t, then[:at], b.left[:at], "%s: nothing before is another", name)

		m := engine.NewMonitor(engine.Rate)
		program := engine.Prepare(before.Song(nil), engine.Rate, nil)
		m.Engine.Swap(program)
		m.Play(0, 0)
		var l, r [Block]float32
		for frame := int64(0); frame < 60000; frame += Block {
			if frame == at {
				m.Engine.Swap(engine.Prepare(after.Song(nil), engine.Rate, program))
			}
			m.Process(l[:], r[:])
			require.Equal(t, l[:], b.left[frame:frame+Block], "%s, frame %d of %d", name, frame, at)
		}
	}
}

// Whatever is done is heard within the reach, and what was made for later is not heard.
func TestEveryActGoesBack(t *testing.T) {
	inFull(t)
	acts := map[string]func(s *Session){
		"strike": func(s *Session) { s.take(&Message{Type: "strike", Voice: "snare", Velocity: 127}) },
		"stop":   func(s *Session) { s.take(&Message{Type: "stop"}) },
		"play":   func(s *Session) { s.take(&Message{Type: "play", Tick: 1920}) },
		"solo":   func(s *Session) { s.take(&Message{Type: "solo", Voices: []string{"808"}}) },
		"system": func(s *Session) { s.take(&Message{Type: "system", System: "phone"}) },
		"click":  func(s *Session) { s.take(&Message{Type: "click", On: true, Per: 4}) },
		"source": func(s *Session) { s.take(&Message{Type: "source", Source: "reference"}) },
		"loop":   func(s *Session) { s.again(func() { s.loop = [2]int{0, 960} })() },
		"bypass": func(s *Session) { s.again(func() { s.bypass = &engine.Bypass{Row: "hat"} })() },
	}
	for name, act := range acts {
		s, b := newSession(rich(t).Song(nil), 1, nil), &browser{}
		s.take(&Message{Type: "play"})
		b.play(s, 40000)
		then := slices.Clone(b.left)
		act(s)
		b.take(s)
		b.play(s, 60000)
		differs := 0
		for differs < len(then) && then[differs] == b.left[differs] {
			differs++
		}
		assert.Less(t, differs, 40000+firstLead, "%s: what was made ahead is made anew", name)
		if name == "strike" || name == "play" {
			assert.GreaterOrEqual(t, differs, 40000+leastStroke-Block, "%s: its attack comes in time", name)
		}
		assert.GreaterOrEqual(t, differs, 40000+leastReach-Block, "%s: what is played stays", name)
	}
}

// Edits that follow each other faster than they are heard: each is made on the ones before.
func TestEditsInARow(t *testing.T) {
	inFull(t)
	s, b := newSession(rich(t).Song(nil), 1, nil), &browser{}
	s.take(&Message{Type: "play"})
	b.play(s, 40000)
	for i := range 40 {
		s.Load(rich(t, project.SetNumber{At: "kick/level_db", Value: -float64(i)}).Song(nil), 2+i, false)
		if i%3 == 0 {
			b.take(s)
		}
		if i%5 == 0 {
			b.play(s, s.played+Block)
		}
	}
	b.play(s, s.played+20000)
	assert.EqualValues(t, 41, b.version[s.played])
	at := slices.IndexFunc(b.version, func(v uint32) bool { return v > 1 })
	assert.InDelta(t, 40000+leastReach, at, 2*Block, "the first of them is heard at once")
	assert.True(t, slices.IsSorted(b.version[:s.played]))
}

// The moments that are kept stay within their bound, and there is always one to go back to.
func TestMomentsCoverTheLead(t *testing.T) {
	inFull(t)
	s, b := newSession(rich(t).Song(nil), 1, nil), &browser{}
	s.take(&Message{Type: "play"})
	for range 300 {
		b.play(s, s.played+Block)
		m := &s.moments
		if s.played < 6144 {
			continue // it begins
		}
		require.Positive(t, m.count)
		require.LessOrEqual(t, m.of(0).at, max(s.reachOf(), 0)+Block)
		require.LessOrEqual(t, m.count, mostMoments)
	}
	size := s.moments.keeper.Size()
	t.Logf("%.2f MB each, %d of them", float64(size)/1e6, s.moments.room)
	assert.LessOrEqual(t, size*s.moments.room, mostKept)
}

// A variation that waits for its bar still begins there, also where the bar was made ahead
// already.
func TestAWaitingSongBeginsAtABarThatWasMadeAlready(t *testing.T) {
	s, b := newSession(rich(t).Song(nil), 1, nil), &browser{}
	s.take(&Message{Type: "play"})
	bar := int64(4 * 60 * engine.Rate / 150)
	b.play(s, bar-6000)
	require.Greater(t, s.sent, bar)
	s.Load(rich(t, project.SetNumber{At: "kick/mute", Value: 1}).Song(nil), 2, true)
	require.NotNil(t, s.waiting)
	b.play(s, bar+2000)
	assert.Nil(t, s.waiting)
	quiet := func(from, to int64) bool {
		loud := float32(0)
		for _, x := range b.left[from:to] {
			loud = max(loud, x)
		}
		return loud < 0.05
	}
	assert.True(t, quiet(bar+500, bar+1500), "no kick on the next bar")
}

// A project that takes long to make is not gone back in, so that the browser does not run
// dry; one that takes some of the time less far and less often.
func TestWhatTakesLongGoesBackLess(t *testing.T) {
	inFull(t)
	reach := map[pace]int64{}
	for _, p := range []pace{0.02, 0.3, 0.7} {
		s, b := newSession(rich(t).Song(nil), 1, nil), &browser{}
		s.take(&Message{Type: "play"})
		b.play(s, 40000)
		s.pace = p
		reach[p] = s.reach()
		s.Load(rich(t, project.SetNumber{At: "hat/level_db", Value: -20}).Song(nil), 2, false)
		s.pace = p
		sent := s.sent
		s.Load(rich(t, project.SetNumber{At: "hat/level_db", Value: -30}).Song(nil), 3, false)
		assert.Equal(t, sent, s.sent, "not twice at once")
		if p > tooSlow {
			assert.Equal(t, int64(shortLead), s.sent-s.played, "all of a short lead is heard")
		}
	}
	assert.Less(t, reach[0.02], int64(700))
	assert.Greater(t, reach[0.3], 2*reach[0.02])
	assert.Equal(t, int64(shortLead), reach[0.7])
}

// While it is edited again and again the browser keeps a reserve, however slow the machine,
// and each edit is heard.
func TestEditsLeaveAReserve(t *testing.T) {
	inFull(t)
	for _, p := range []pace{0.05, 0.2, 0.5} {
		s, b := newSession(rich(t).Song(nil), 1, nil), &browser{}
		songs := [2]engine.Song{rich(t).Song(nil), rich(t, project.SetNumber{At: "hat/level_db", Value: -20}).Song(nil)}
		s.take(&Message{Type: "play"})
		b.play(s, 40000)
		budget := 0.0 // frames that the time was enough to make
		version := 1
		for s.played < 300000 {
			s.take(&Message{Type: "played", Frames: s.played + Block})
			budget = min(budget+Block/float64(p), 4*Block/float64(p))
			if s.played/4800 > (s.played-Block)/4800 { // ten a second
				version++
				s.Load(songs[version%2], version, false)
			}
			for budget > 0 {
				s.pace = p // the clock stands still, so it would be none
				sent := s.sent
				if s.next() == nil {
					break
				}
				if budget -= Block; s.sent <= sent {
					budget -= float64(s.gap()) // it was gone back
				}
			}
			require.Greater(t, float64(s.furthest-s.played), float64(s.reserve())*float64(1-p)/2, "at pace %v, after %d frames", p, s.played)
		}
		assert.InDelta(t, version, int(s.made), 3, "at pace %v", p)
	}
}

// A change that waits is made once it may be gone back; until then blocks are of the version
// before.
func TestAChangeWaits(t *testing.T) {
	s, b := newSession(rich(t).Song(nil), 1, nil), &browser{}
	s.take(&Message{Type: "play"})
	b.play(s, 40000)
	for v := 2; v <= 3; v++ {
		s.Load(rich(t, project.SetNumber{At: "hat/level_db", Value: -float64(v)}).Song(nil), v, false)
		b.take(s)
	}
	assert.EqualValues(t, 2, s.made, "the second one so soon waits")
	b.play(s, s.played+1000)
	assert.EqualValues(t, 3, s.made)
	at := slices.Index(b.version, 3)
	assert.Less(t, at, int(s.played)+2000)
	b.play(s, s.played+4000)
	s.Load(rich(t).Song(nil), 4, false)
	b.take(s)
	s.Load(rich(t).Song(nil), 5, false)
	require.EqualValues(t, 4, s.made)
	began := s.clock()
	s.clock = func() time.Time { return began.Add(patience) }
	s.doWaiting()
	assert.EqualValues(t, 5, s.made, "it does not wait for long, though nothing is heard of the browser")
}

// Two pads that are struck together are heard together, however far ahead sound was made.
func TestStrokesThatComeTogetherAreHeardTogether(t *testing.T) {
	inFull(t)
	played := func(strokes ...string) []float32 {
		s, b := newSession(rich(t).Song(nil), 1, nil), &browser{}
		s.take(&Message{Type: "play"})
		b.play(s, 40000)
		for _, voice := range strokes {
			s.take(&Message{Type: "strike", Voice: voice, Velocity: 127})
			b.take(s)
		}
		b.play(s, 60000)
		return b.left
	}
	onset := func(a, b []float32) (i int) {
		for i = 0; i < 60000 && a[i] == b[i]; i++ {
		}
		return i
	}
	none, one, both := played(), played("snare"), played("snare", "kick")
	snare, kick := onset(none, one), onset(one, both)
	assert.InDelta(t, 40000+leastStroke, snare, 2*Block)
	assert.InDelta(t, snare, kick, 2*Block)
}

// A change is made as soon as the nearest moment allows: what is made anew until it is played
// is made in time, and it is never later than where moments lie as badly as they can.
func TestAChangeIsMadeFromTheNearestMoment(t *testing.T) {
	s, b := newSession(rich(t).Song(nil), 1, nil), &browser{}
	s.take(&Message{Type: "play"})
	for _, p := range []pace{0.02, 0.25, 0.5} {
		sooner := 0
		for at, end := s.played+4000, s.played+30000; at < end; at += 1111 {
			b.play(s, at)
			s.pace = p // the clock stands still, so it would be none
			to, now := s.soonest(), s.now()
			require.LessOrEqual(t, to, s.reachOf())
			require.GreaterOrEqual(t, to, now+leastReach)
			if to < s.reachOf()-Block {
				sooner++
			}
			in := false // time for one of the moments
			for i := range s.moments.count {
				m := s.moments.of(i).at
				in = in || to >= m+Block && float64(to-now) >= leastReach+float64(p)*float64(to-m+2*Block)-1
			}
			require.True(t, in || to == s.reachOf(), "at pace %v", p)
		}
		if p > light {
			assert.Positive(t, sooner, "at pace %v", p)
		}
	}
}
