package engine

import (
	"jubrak/core/effect"
	"math"
	"slices"
)

// Solo lets only some voices be heard; none named lets all.
func (e *Engine) Solo(voices []string) {
	e.solo = voices
	for i := range e.voices {
		if v := &e.voices[i]; !v.sounds {
			v.apart = e.aside(v)
		}
	}
}

// aside is 1 for a voice that is not heard while others are heard alone, else 0.
func (e *Engine) aside(v *voice) float64 {
	if len(e.solo) > 0 && !slices.Contains(e.solo, v.id) {
		return 1
	}
	return 0
}

func (v *voice) part(from, to int) effect.Block {
	return effect.Block{Left: v.block[0][from:to], Right: v.block[1][from:to]}
}

// mix takes each voice through its row, and buses through theirs, to the output.
func (e *Engine) mix(left, right []float64) {
	n := len(left)
	out := effect.Block{Left: left, Right: right}
	out.Clear()
	if e.mixes == nil {
		return
	}
	clock := e.clock(n)
	e.shape(n, clock)
	e.applyAutomation(n, clock)
	for i := range e.mixes.buses {
		b := &e.mixes.buses[i]
		b.sounds = false
		e.busBlock(i, n).Clear()
	}
	for i := range e.voices {
		v := &e.voices[i]
		if v.dryThere = v.steers && v.sounds; v.dryThere {
			copy(v.dry[0][:n], v.block[0][:n])
			copy(v.dry[1][:n], v.block[1][:n])
		}
	}
	for i := range e.voices {
		v, r := &e.voices[i], &e.mixes.rows[i]
		b := v.part(0, n)
		if v.sounds && !finite(b) {
			b.Clear() // what is no number would stay in the steps for good
		}
		silent := r.process(b, e, clock, !v.sounds, v.ready.Mono() && slices.Equal(b.Left, b.Right))
		v.sounds = v.sounds || !silent // also what only rings on
		if !silent && (len(e.solo) > 0 || v.apart > 0) {
			v.stepAside(e.aside(v), b, r.pre, e.rate)
		}
		e.hush(&v.still, v.id, b)
		e.carry(r, b, silent, out)
	}
	for i := range e.mixes.buses {
		b := &e.mixes.buses[i]
		block := e.busBlock(i, n)
		silent := b.process(block, e, clock, !b.sounds, false)
		e.hush(&b.still, "", block)
		b.sounds = !silent
		e.carry(&b.row, block, silent, out)
	}
	e.quiet = e.mixes.out.process(out, e, clock, !e.loud(n), false)
	e.hush(&e.mixes.still, "", out)
}

// finite reports whether a block holds numbers only, and none absurdly large.
func finite(b effect.Block) bool {
	sum := 0.0
	for i, x := range b.Left {
		sum += math.Abs(x) + math.Abs(b.Right[i])
	}
	return sum < 1e12
}

// loud reports whether anything comes to the output.
func (e *Engine) loud(frames int) bool {
	for i := range e.voices {
		if e.mixes.rows[i].to < 0 && e.voices[i].sounds {
			return true
		}
	}
	for i := range e.mixes.buses {
		if e.mixes.buses[i].to < 0 && e.mixes.buses[i].sounds {
			return true
		}
	}
	return false
}

// carry is route on a copy, so that what the row gave can still be read.
func (e *Engine) carry(r *row, b effect.Block, silent bool, out effect.Block) {
	if r.direct.Frames() == 0 {
		e.route(r, b, silent, out)
		return
	}
	onward := effect.Block{Left: e.onward[0][:b.Frames()], Right: e.onward[1][:b.Frames()]}
	copy(onward.Left, b.Left)
	copy(onward.Right, b.Right)
	e.route(r, onward, silent, out)
}

// stepAside turns a voice down in a few ms while others are heard alone, or back up.
func (v *voice) stepAside(goal float64, b effect.Block, pre *preFader, rate int) {
	step := 1 / (0.005 * float64(rate))
	for k := range b.Left {
		if pre != nil {
			pre.block[0][k] *= 1 - v.apart
			pre.block[1][k] *= 1 - v.apart
		}
		v.apart += max(min(goal-v.apart, step), -step)
		b.Left[k] *= 1 - v.apart
		b.Right[k] *= 1 - v.apart
	}
}

// shape lets the voices' tails, gates and rumbles act on their sounds. Gates listen to
// other voices as they are before that.
func (e *Engine) shape(frames int, clock effect.Clock) {
	for i := range e.voices {
		if v := &e.voices[i]; v.tails != nil && v.tails.Process(v.part(0, frames), clock) {
			v.sounds = true
		}
	}
	for i := range e.voices {
		v := &e.voices[i]
		if v.gate == nil || v.key < 0 {
			continue
		}
		by := e.voices[v.key].part(0, frames)
		for k, x := range by.Left {
			v.opens[k] = max(math.Abs(x), math.Abs(by.Right[k]))
		}
	}
	for i := range e.voices {
		v := &e.voices[i]
		if v.gate != nil && v.key >= 0 {
			v.gate.Process(v.part(0, frames), v.opens[:frames])
		}
		if v.rumbles == nil {
			continue
		}
		if v.sounds {
			v.rumbled = 0
		}
		if v.rumbled < v.rumbles.Tail() {
			v.rumbled += frames
			v.rumbles.Process(v.part(0, frames), clock)
			v.sounds = true
		} else {
			v.rumbles.Rest()
		}
	}
}
