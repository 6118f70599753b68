package engine

import (
	"math"

	"jubrak/core/effect"
	"jubrak/core/music"
)

// click is the metronome of the monitor; it is never part of a bounce.
type click struct {
	on    bool
	per   int // clicks a beat
	phase float64
	step  float64 // of the phase per frame
	level float64
}

const (
	clickLevel = 0.25
	clickFall  = 0.012 // seconds to 1/e
)

// SetClick lets a click sound on each beat of the meter, divided into so many parts, 1
// to 8. A count-in clicks in any case.
func (m *Monitor) SetClick(on bool, per int) {
	m.click.on, m.click.per = on, min(max(per, 1), 8)
}

// process adds the clicks of a block that began at a tick of the line.
func (c *click) process(e *Engine, from float64, b effect.Block) {
	playing := e.playing && e.line != nil && (c.on || e.CountingIn())
	if !playing && c.level < 1e-4 {
		return
	}
	next, frame := math.Inf(1), len(b.Left)
	var beat float64
	find := func(tick float64) {
		meter, bar := e.meterAt(tick + 1e-6)
		beat = music.PPQ * 4 / float64(meter.Unit)
		if c.on {
			beat /= float64(max(c.per, 1))
		}
		next = min(bar+math.Ceil((tick-bar)/beat-1e-9)*beat, max(bar+float64(meter.BarTicks()), tick))
		frame = int(math.Round((e.line.Seconds(next) - e.line.Seconds(from)) * float64(e.rate)))
	}
	if playing {
		find(from)
	}
	fall := math.Exp(-1 / (clickFall * float64(e.rate)))
	for i := range b.Left {
		if i == frame {
			c.strike(e, next)
			find(next + 1)
		}
		if c.level > 1e-4 {
			v := c.level * math.Sin(c.phase)
			c.phase += c.step
			c.level *= fall
			b.Left[i] += v
			b.Right[i] += v
		}
	}
}

// strike begins a click: high on a bar, lower on beats, soft between.
func (c *click) strike(e *Engine, tick float64) {
	meter, bar := e.meterAt(tick + 1e-6)
	beat := music.PPQ * 4 / float64(meter.Unit)
	hz, level := 1000.0, clickLevel*0.4
	switch {
	case tick-bar < 0.5:
		hz, level = 2000, clickLevel
	case math.Mod(tick-bar+0.5, beat) < 1:
		hz, level = 1500, clickLevel*0.8
	}
	c.phase, c.level, c.step = 0, level, 2*math.Pi*hz/float64(e.rate)
}
