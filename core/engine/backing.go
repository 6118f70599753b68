package engine

import (
	"math"

	"jubrak/core/arrange"
	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/music"
)

// Recording is a sound that lies elsewhere, such as on the disk, and is read as it is
// played: two channels of frames at the engine's rate.
type Recording interface {
	Frames() int64
	// Read fills left and right with the frames from a place on; what lies outside is
	// silence. It may be called by several engines at once.
	Read(at int64, left, right []float32)
}

// Ready is a backing made ready to be played.
type Ready struct {
	Recording Recording
	// Tempo is the one at which its frames are as many as the engine's, BPM; 0 follows no
	// tempo.
	Tempo float64
	// Lead is by how much its beginning comes before the place where it is put, s.
	Lead float64
}

// backing is a backing of a piece that is played.
type backing struct {
	of    arrange.Backing `state:"shared"`
	ready Ready           `state:"shared"`
	by    int             // the voice that turns it down, or -1
	env   float64
	wide  *[2][MaxBlock*4 + dsp.MostWeights]float32 `state:"-"` // what is read at another speed
}

// The follower that ducks.
const (
	duckFull    = 0.25 // the level from which on the whole of it is turned down
	duckAttack  = 0.002
	duckRelease = 0.14 // seconds
)

// backingsOf are the backings of a song that are there and heard.
func backingsOf(s *Song, voices []voice) (out []backing) {
	list := s.Piece.Arrangement.Backings
	for i := range list {
		ready, ok := s.Piece.Ready[list[i].ID]
		if !ok || list[i].Mute || ready.Recording == nil {
			continue
		}
		out = append(out, backing{of: list[i], ready: ready, by: placeOf(voices, list[i].DuckBy), wide: new([2][MaxBlock*4 + dsp.MostWeights]float32)})
	}
	return out
}

// back adds the backings to a block that has gone by.
func (e *Engine) back(left, right []float64) {
	if e.piece == nil || !e.playing || e.withoutBackings || e.CountingIn() {
		return
	}
	// They are turned down by the drums, not by each other.
	copy(e.sent[0][:], left)
	copy(e.sent[1][:], right)
	for i := range e.piece.backings {
		e.backOne(&e.piece.backings[i], left, right)
	}
}

func (e *Engine) backOne(b *backing, left, right []float64) {
	n := len(left)
	length := b.ready.Recording.Frames()
	total := length * int64(max(b.of.Rounds, 1))
	if length == 0 {
		return
	}
	first := e.frame - int64(n)
	place, speed := e.inBacking(b, first, n)
	if place >= float64(total) || place+speed*float64(n) < 0 {
		return
	}
	var l, r [MaxBlock]float32
	b.read(place, speed, length, total, l[:n], r[:n])
	gain := audio.Gain(b.of.Level)
	fadeIn, fadeOut := b.of.FadeIn*float64(e.rate), b.of.FadeOut*float64(e.rate)
	attack, release := 1-math.Exp(-1/(duckAttack*float64(e.rate))), 1-math.Exp(-1/(duckRelease*float64(e.rate)))
	for k := range n {
		g := gain
		at := place + speed*float64(k)
		if at < fadeIn {
			g *= max(at/fadeIn, 0)
		}
		if rest := float64(total) - at; rest < fadeOut {
			g *= max(rest/fadeOut, 0)
		}
		if b.of.Duck > 0 {
			x := max(math.Abs(e.sent[0][k]), math.Abs(e.sent[1][k]))
			if b.by >= 0 {
				v := &e.voices[b.by]
				x = max(math.Abs(v.block[0][k]), math.Abs(v.block[1][k]))
			} else if b.of.DuckBy != "" {
				x = 0
			}
			if x > b.env {
				b.env += (x - b.env) * attack
			} else {
				b.env += (x - b.env) * release
			}
			g *= audio.Gain(-b.of.Duck * min(b.env/duckFull, 1))
		}
		left[k] += g * float64(l[k])
		right[k] += g * float64(r[k])
	}
}

// inBacking is the frame of a backing that belongs to a frame of the line, and how many of
// it pass in one of the engine's.
func (e *Engine) inBacking(b *backing, frame int64, n int) (place, speed float64) {
	lead := b.ready.Lead * float64(e.rate)
	within := e.inPiece(frame)
	line := e.piece.line
	if b.ready.Tempo == 0 {
		start := math.Round(line.Straight(float64(b.of.At)) * float64(e.rate))
		return float64(within) - start + lead, 1
	}
	at := func(f int64) float64 {
		tick := line.TicksOf(float64(f) / float64(e.rate))
		return (tick-float64(b.of.At))/music.PPQ*60/b.ready.Tempo*float64(e.rate) + lead
	}
	place, end := at(within), at(within+int64(n))
	speed = (end - place) / float64(n)
	if math.Abs(speed-1) < 1e-7 { // the tempo stands: frame by frame, and no rounding from block to block
		return math.Round(place), 1
	}
	return place, speed
}

// read fills a block from a place on, at a speed; rounds follow each other.
func (b *backing) read(place, speed float64, length, total int64, left, right []float32) {
	n := len(left)
	if speed == 1 {
		b.straight(int64(place), length, total, left, right)
		return
	}
	var w [dsp.MostWeights]float64
	from, _ := dsp.Weights(place, speed, w[:])
	end, more := dsp.Weights(place+speed*float64(n-1), speed, w[:])
	all := end + more - from
	if all > len(b.wide[0]) {
		all = len(b.wide[0])
	}
	l, r := b.wide[0][:all], b.wide[1][:all]
	b.straight(int64(from), length, total, l, r)
	for k := range n {
		first, m := dsp.Weights(place+speed*float64(k), speed, w[:])
		sl, sr := 0.0, 0.0
		for i := range m {
			if at := first - from + i; at >= 0 && at < all {
				sl += w[i] * float64(l[at])
				sr += w[i] * float64(r[at])
			}
		}
		left[k], right[k] = float32(sl), float32(sr)
	}
}

// straight reads frames as they are.
func (b *backing) straight(at, length, total int64, left, right []float32) {
	for done := 0; done < len(left); {
		here := at + int64(done)
		if here < 0 || here >= total {
			n := len(left) - done
			if here < 0 {
				n = min(n, int(-here))
			}
			clear(left[done : done+n])
			clear(right[done : done+n])
			done += n
			continue
		}
		within := here % length
		n := min(len(left)-done, int(min(length-within, 1<<20)))
		b.ready.Recording.Read(within, left[done:done+n], right[done:done+n])
		done += n
	}
}

// keepDucked lets the backings of a new program go on as far down as they are.
func (e *Engine) keepDucked(p *Program) {
	if e.piece == nil || p.piece == nil {
		return
	}
	for i := range p.piece.backings {
		for j := range e.piece.backings {
			if b := &p.piece.backings[i]; b.of.ID == e.piece.backings[j].of.ID {
				b.env = e.piece.backings[j].env
			}
		}
	}
}
