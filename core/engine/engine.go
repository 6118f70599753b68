// Package engine schedules a project's hits through the synth and its mix,
// block by block. The same engine runs live and offline: a bounce is the live
// path without the clock.
package engine

import (
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// Rate is the sample rate of the live path, frames per second.
const Rate = 48000

// MaxBlock is the largest block that Process takes, in frames.
const MaxBlock = 512

const (
	polyphony = 96
	lookahead = 0.4 // seconds; more than the earliest hit can be early
	smoothMS  = 5   // time for gain and pan to follow an edit
)

// Song is what the engine plays: a kit, a groove that repeats, and its tempo.
type Song struct {
	Kit    sound.Kit
	Groove groove.Groove
	Tempo  music.TempoMap
	// Samples are the sounds of the kit's layers.
	Samples sound.Samples
}

// Engine plays a Song. It is not safe for concurrent use; the live path
// guards it. Process allocates nothing once a Song is loaded.
type Engine struct {
	rate    int
	song    Song
	voices  []voice
	voiceOf []int // by lane
	notes   [polyphony]slot
	born    uint64 // counts notes, to find the oldest

	playing    bool
	frame      int64   // frames since the start of cycle 0
	cycle      float64 // length of a cycle in frames
	queue      []scheduled
	head       int
	generated  int // next cycle to be put into the queue
	events     []groove.Event
	fired      [128]uint64 // keys of the strokes last played
	firedCount int
}

type voice struct {
	id         string
	sound      *sound.Voice // of the song loaded; not changed
	mono       bool
	cuts       []int // voices that a hit of this one stops
	sounds     bool  // in the present block
	dry        [MaxBlock]float32
	out        [2][MaxBlock]float32
	gain, goal [2]float64
}

type slot struct {
	note  synth.Note
	voice int
	born  uint64
}

type scheduled struct {
	at        int64
	key       uint64
	voice     int
	velocity  int
	semitones float64
}

// New is an engine at a sample rate, stopped and empty.
func New(rate int) *Engine { return &Engine{rate: rate, cycle: float64(rate)} }

// Load takes a new version of the song and goes on from the same musical
// position; strokes already played are not played twice. The song must be
// valid.
func (e *Engine) Load(s Song) {
	tick, cycle := e.place()
	old := e.voices
	e.voices = make([]voice, len(s.Kit.Voices))
	for i := range s.Kit.Voices {
		e.voices[i].load(&s.Kit, i)
		if j := slices.IndexFunc(old, func(v voice) bool { return v.id == e.voices[i].id }); j >= 0 {
			e.voices[i].gain = old[j].gain
		} else {
			e.voices[i].gain = e.voices[i].goal
		}
	}
	for i := range e.notes {
		n := &e.notes[i]
		if n.note.On() {
			id := old[n.voice].id
			if n.voice = slices.IndexFunc(e.voices, func(v voice) bool { return v.id == id }); n.voice < 0 {
				*n = slot{}
			}
		}
	}
	e.song = s
	e.voiceOf = e.voiceOf[:0]
	for _, l := range s.Groove.Lanes {
		e.voiceOf = append(e.voiceOf, slices.IndexFunc(e.voices, func(v voice) bool { return v.id == l.Voice }))
	}
	length := s.Groove.CycleTicks()
	e.cycle = s.Tempo.Seconds(float64(length)) * float64(e.rate)
	for tick >= float64(length) {
		tick -= float64(length)
	}
	e.frame = int64(math.Round(float64(cycle)*e.cycle + s.Tempo.Seconds(tick)*float64(e.rate)))
	e.requeue()
}

func (v *voice) load(kit *sound.Kit, i int) {
	s := &kit.Voices[i]
	v.id, v.sound, v.mono = s.ID, s, s.Mono
	for j := range kit.Voices {
		if slices.Contains(kit.Voices[j].CutBy, s.ID) {
			v.cuts = append(v.cuts, j)
		}
	}
	g := audio.Gain(s.Gain)
	if s.Mute {
		g = 0
	}
	// Equal-power pan, unity in the centre.
	angle := (s.Pan + 1) * math.Pi / 4
	v.goal = [2]float64{g * math.Cos(angle) * math.Sqrt2, g * math.Sin(angle) * math.Sqrt2}
}

// Play starts at a tick of the first cycle, fractions allowed.
func (e *Engine) Play(tick float64) {
	e.silence()
	e.frame = int64(math.Round(e.song.Tempo.Seconds(tick) * float64(e.rate)))
	e.playing = true
	e.firedCount = 0
	e.requeue()
}

// playBefore starts one cycle early, so that what rings over the loop's end
// is already there at frame 0.
func (e *Engine) playBefore() {
	e.Play(0)
	e.frame = -int64(math.Ceil(e.cycle))
	e.requeue()
}

// Stop halts the clock and fades what sounds.
func (e *Engine) Stop() {
	e.playing = false
	e.silence()
}

func (e *Engine) silence() {
	for i := range e.notes {
		e.notes[i].note.Cut()
	}
}

// Playing tells whether the clock runs.
func (e *Engine) Playing() bool { return e.playing }

// Position is the tick within the cycle, fractions included.
func (e *Engine) Position() float64 {
	tick, _ := e.place()
	return tick
}

func (e *Engine) place() (tick float64, cycle int) {
	if len(e.song.Tempo) == 0 {
		return 0, 0
	}
	cycle = int(math.Floor(float64(e.frame) / e.cycle))
	seconds := (float64(e.frame) - float64(cycle)*e.cycle) / float64(e.rate)
	return e.song.Tempo.Ticks(seconds), cycle
}

// Strike plays a voice at once, apart from the groove. Unknown ids are
// ignored.
func (e *Engine) Strike(id string, velocity int, semitones float64) {
	for i := range e.voices {
		if e.voices[i].id == id {
			e.trigger(scheduled{voice: i, velocity: velocity, semitones: semitones, key: dsp.Key(e.born, 99)})
		}
	}
}

// requeue forgets what was scheduled and starts again from the present.
func (e *Engine) requeue() {
	e.queue, e.head = e.queue[:0], 0
	e.generated = int(math.Floor(float64(e.frame) / e.cycle))
	e.generate()
}

// generate puts every cycle that begins within the lookahead in the queue.
func (e *Engine) generate() {
	for float64(e.generated)*e.cycle < float64(e.frame)+lookahead*float64(e.rate) {
		e.queue = append(e.queue[:0], e.queue[e.head:]...)
		e.head = 0
		e.events = e.song.Groove.Events(e.song.Tempo, e.generated, e.events[:0])
		start := float64(e.generated) * e.cycle
		for i := range e.events {
			ev := &e.events[i]
			v := e.voiceOf[ev.Lane]
			at := int64(math.Round(start + (e.song.Tempo.Seconds(float64(ev.Tick))+ev.Offset/1000)*float64(e.rate)))
			if early := ev.Offset < 0 && e.generated == 0 && e.frame == 0; early && at < 0 {
				at = 0 // the very first stroke cannot come before the start
			}
			if v < 0 || at < e.frame || e.wasFired(ev.Key) {
				continue
			}
			e.queue = append(e.queue, scheduled{at: at, key: ev.Key, voice: v, velocity: ev.Velocity, semitones: ev.Semitones})
		}
		slices.SortStableFunc(e.queue, func(a, b scheduled) int {
			if a.at != b.at {
				return int(a.at - b.at)
			}
			return a.voice - b.voice
		})
		e.generated++
	}
}

func (e *Engine) wasFired(key uint64) bool {
	for i := range min(e.firedCount, len(e.fired)) {
		if e.fired[i] == key {
			return true
		}
	}
	return false
}

// Process renders the next len(left) frames, at most MaxBlock, into left and
// right, overwriting them. The part of voice i is then in Voice(i).
func (e *Engine) Process(left, right []float32) {
	n := len(left)
	for i := range e.voices {
		clear(e.voices[i].dry[:n])
		e.voices[i].sounds = false
	}
	if e.playing {
		e.generate()
	}
	for done := 0; done < n; {
		until := n
		for e.playing && e.head < len(e.queue) {
			next := &e.queue[e.head]
			if ahead := next.at - e.frame; ahead > int64(0) {
				until = min(until, done+int(min(ahead, int64(n))))
				break
			}
			e.trigger(*next)
			e.fired[e.firedCount%len(e.fired)] = next.key
			e.firedCount++
			e.head++
		}
		e.sound(done, until)
		if e.playing {
			e.frame += int64(until - done)
		}
		done = until
	}
	e.mix(left, right)
}

// trigger starts a note, stopping those it cuts.
func (e *Engine) trigger(s scheduled) {
	v := &e.voices[s.voice]
	oldest := 0
	for i := range e.notes {
		n := &e.notes[i]
		if n.note.On() && ((v.mono && n.voice == s.voice) || slices.Contains(v.cuts, n.voice)) {
			n.note.Cut()
		}
		if !n.note.On() {
			if e.notes[oldest].note.On() {
				oldest = i
			}
		} else if e.notes[oldest].note.On() && n.born < e.notes[oldest].born {
			oldest = i
		}
	}
	e.born++
	slot := &e.notes[oldest]
	slot.voice, slot.born = s.voice, e.born
	slot.note.Strike(v.sound, e.song.Samples, e.rate, s.velocity, s.semitones, s.key)
}

func (e *Engine) sound(from, to int) {
	for i := range e.notes {
		if n := &e.notes[i]; n.note.On() {
			n.note.Add(e.voices[n.voice].dry[from:to])
			e.voices[n.voice].sounds = true
		}
	}
}

// mix pans each voice and sums them.
func (e *Engine) mix(left, right []float32) {
	n := len(left)
	clear(left)
	clear(right)
	step := math.Min(float64(n)/(smoothMS/1000.0*float64(e.rate)), 1)
	for i := range e.voices {
		v := &e.voices[i]
		if !v.sounds {
			v.gain = v.goal
			clear(v.out[0][:n])
			clear(v.out[1][:n])
			continue
		}
		for side, sum := range [2][]float32{left, right} {
			from := v.gain[side]
			to := from + (v.goal[side]-from)*step
			slope := (to - from) / float64(n)
			out := v.out[side][:n]
			for k := range out {
				x := v.dry[k] * float32(from+slope*float64(k))
				out[k] = x
				sum[k] += x
			}
			v.gain[side] = to
		}
	}
}

// Voices is the number of voices loaded.
func (e *Engine) Voices() int { return len(e.voices) }

// Voice is the part that voice i had in the block last processed: left and
// right, valid until the next Process.
func (e *Engine) Voice(i, frames int) (left, right []float32) {
	return e.voices[i].out[0][:frames], e.voices[i].out[1][:frames]
}
