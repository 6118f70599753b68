// Package synth turns a voice's recipe and a hit into samples.
package synth

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/sound"
)

// stride is the number of samples over which pitch and drive are held; at
// 48 kHz two thirds of a millisecond.
const stride = 32

// cutMS is the fade of a note that another one stops.
const cutMS = 4

// metalRatios are the first six modes of an ideal circular membrane: zeros
// of Bessel functions over the lowest (Fletcher & Rossing, The Physics of
// Musical Instruments, ch. 3).
var metalRatios = [6]float64{1, 1.594, 2.136, 2.296, 2.653, 2.918}

// Note is one sounding hit. Start prepares it, Add renders it; neither
// allocates, so notes can live in a pool.
type Note struct {
	on    bool
	rate  float64
	age   int // samples since the start
	life  int // samples until nothing is left
	level float64

	body                body
	bodyFall            dsp.Fall
	noise               dsp.Noise
	noiseGain           float64
	noiseFall, snapFall dsp.Fall
	noiseBand, snapHigh dsp.Biquad
	snapGain            float64
	noiseEnd, snapEnd   int // ages at which noise and snap have died away
	metalGain           float64
	metalFall           dsp.Fall
	metalPhase          [6]float64
	metalStep           [6]float64

	drive              dsp.Drive
	driven             bool
	driveFrom, driveTo float64
	driveFall          float64
	driveGain          float64
	lowCut             dsp.Biquad

	layers     [sound.MaxLayers]layer
	layerCount int
	bare       bool // layers only

	cut, cutStep float64 // fade level and its step per sample once cut
}

// body is a sine oscillator that turns a unit vector: sin and cos are the
// vector, turnSin and turnCos its turn in one sample.
type body struct {
	gain, ratio, end, fall     float64
	sin, cos, turnSin, turnCos float64
}

// pitch sets the frequency in cycles a sample and mends the vector's length.
func (b *body) pitch(step float64) {
	b.turnSin, b.turnCos = math.Sincos(2 * math.Pi * step)
	mend := 1 / math.Hypot(b.sin, b.cos)
	b.sin, b.cos = b.sin*mend, b.cos*mend
}

// next is the present sample of the sine.
func (b *body) next() float64 {
	v := b.sin
	b.sin, b.cos = b.sin*b.turnCos+b.cos*b.turnSin, b.cos*b.turnCos-b.sin*b.turnSin
	return v
}

// VelocityGain is the linear level of a velocity in 1..127: 40 dB per
// tenfold, so that 127 is full level and 40 lies 20 dB below it.
func VelocityGain(velocity int) float64 {
	v := float64(velocity) / 127
	return v * v
}

// Start begins the note: velocity in 1..127, semitones above the recipe's
// own pitch, and the seed of its noise.
func (n *Note) Start(r sound.Recipe, rate, velocity int, semitones float64, seed uint64) {
	if semitones != 0 {
		r = r.Tuned(semitones)
	}
	sr := float64(rate)
	*n = Note{on: true, rate: sr, level: VelocityGain(velocity), cut: 1}
	n.driven = r.Drive.Attack > 0 || r.Drive.Body > 0
	n.driveFrom, n.driveTo = dsp.DriveGain(r.Drive.Attack), dsp.DriveGain(r.Drive.Body)
	n.drive = dsp.NewDrive(math.Max(n.driveFrom, n.driveTo))
	n.driveFall = 3 / (r.Drive.Fall / 1000 * sr)
	// Drive lifts quiet tails by sqrt(1 + g²).
	lift := 10 * math.Log10(1+n.driveTo*n.driveTo)
	if g := partGain(r.Body.Level); g > 0 {
		n.body.gain, n.body.cos = g, 1
		n.body.end = r.Body.End
		n.body.ratio = math.Log(math.Max(r.Body.Start, 1) / r.Body.End)
		n.body.fall = 3 / (r.Body.Fall / 1000 * sr)
		n.bodyFall = dsp.NewFall(r.Body.Attack, r.Body.Decay, sr)
		n.end(r.Body.Attack, r.Body.Decay, r.Body.Level+lift)
	}
	n.noise = dsp.NewNoise(seed)
	if g := partGain(r.Noise.Level); g > 0 {
		// The narrower the band the less of the white noise passes; the
		// gain makes up for it so that Width is a colour, not a fader.
		n.noiseGain = g * math.Min(math.Sqrt(0.5*sr/r.Noise.Colour/math.Max(r.Noise.Width, 0.3)), 6)
		n.noiseBand = dsp.BandPass(r.Noise.Colour, r.Noise.Width, sr)
		n.noiseFall = dsp.NewFall(0, r.Noise.Decay, sr)
		n.noiseEnd = n.end(0, r.Noise.Decay, r.Noise.Level+lift)
	}
	if g := partGain(r.Snap.Level); g > 0 {
		// A harder hit has more stick in it.
		n.snapGain = g * (0.4 + 0.6*float64(velocity)/127)
		n.snapHigh = dsp.HighPass(r.Snap.Colour, 0.7, sr)
		n.snapFall = dsp.NewFall(0, r.Snap.Decay, sr)
		n.snapEnd = n.end(0, r.Snap.Decay, r.Snap.Level+lift)
	}
	if g := partGain(r.Metal.Level); g > 0 {
		n.metalGain = g / 3
		n.metalFall = dsp.NewFall(0, r.Metal.Decay, sr)
		for i, ratio := range metalRatios {
			n.metalPhase[i] = float64(i) / 6
			n.metalStep[i] = math.Min(r.Metal.Pitch*ratio/sr, 0.45)
		}
		n.end(0, r.Metal.Decay, r.Metal.Level+lift)
	}
	n.lowCut = dsp.HighPass(r.LowCut, math.Sqrt2/2, sr)
}

// nothing is the level at which a part has died away, dB.
const nothing = -84

// end returns the age at which a part that starts at level dB has died away,
// and lets the note last at least so long. Filters ring for 10 ms more.
func (n *Note) end(attack, decay, level float64) int {
	ms := attack + decay*math.Max(level-nothing, 0)/60 + 10
	age := int(ms / 1000 * n.rate)
	n.life = max(n.life, age)
	return age
}

// partGain is 0 for a part that is switched off.
func partGain(db float64) float64 {
	if db <= sound.Silent {
		return 0
	}
	return audio.Gain(db)
}

// On tells whether the note still sounds.
func (n *Note) On() bool { return n.on }

// Life is how many samples the note lasts from its start, uncut.
func (n *Note) Life() int { return n.life }

// Cut fades the note out over a few ms.
func (n *Note) Cut() {
	if n.cutStep == 0 {
		n.cutStep = 1 / (cutMS / 1000.0 * n.rate)
	}
}

// Add renders the next len(dst) samples and adds them to dst.
func (n *Note) Add(dst []float32) {
	for i := range dst {
		if !n.on {
			return
		}
		var x float64
		if !n.bare {
			if n.age%stride == 0 {
				n.turn()
			}
			x = n.parts()
			if n.driven {
				x = n.drive.Next(x, n.driveGain)
			}
			x = n.lowCut.Next(x)
		}
		for k := range n.layerCount {
			x += n.layers[k].next()
		}
		x *= n.level
		if n.cutStep > 0 {
			x *= n.cut
			if n.cut -= n.cutStep; n.cut <= 0 {
				n.on = false
			}
		}
		dst[i] += float32(x)
		if n.age++; n.age >= n.life {
			n.on = false
		}
	}
}

// turn moves the slow curves, pitch and drive, and lets go of parts that have
// died away.
func (n *Note) turn() {
	t := float64(n.age)
	if n.body.gain > 0 {
		hz := n.body.end * math.Exp(n.body.ratio*math.Exp(-n.body.fall*t))
		n.body.pitch(math.Min(hz/n.rate, 0.45))
	}
	if n.driven {
		n.driveGain = n.driveTo + (n.driveFrom-n.driveTo)*math.Exp(-n.driveFall*t)
	}
	if n.age > n.noiseEnd {
		n.noiseGain = 0
	}
	if n.age > n.snapEnd {
		n.snapGain = 0
	}
}

// parts is the next sample of body, noise, snap and metal together.
func (n *Note) parts() float64 {
	var x float64
	if n.body.gain > 0 {
		x = n.body.next() * n.bodyFall.Next() * n.body.gain
	}
	if n.noiseGain > 0 || n.snapGain > 0 {
		white := n.noise.Next()
		if n.noiseGain > 0 {
			x += n.noiseBand.Next(white) * n.noiseFall.Next() * n.noiseGain
		}
		if n.snapGain > 0 {
			x += n.snapHigh.Next(white) * n.snapFall.Next() * n.snapGain
		}
	}
	if n.metalGain > 0 {
		var sum float64
		for i := range n.metalPhase {
			sum += square(n.metalPhase[i], n.metalStep[i])
			if n.metalPhase[i] += n.metalStep[i]; n.metalPhase[i] >= 1 {
				n.metalPhase[i]--
			}
		}
		x += sum * n.metalFall.Next() * n.metalGain
	}
	return x
}

// square is a band-limited square wave: steps smoothed by a two-sample
// polynomial (Välimäki & Huovilainen 2007, IEEE Signal Process. Mag. 24(2)).
func square(phase, step float64) float64 {
	v := -1.0
	if phase < 0.5 {
		v = 1
	}
	v += polyStep(phase, step)
	half := phase + 0.5
	if half >= 1 {
		half--
	}
	return v - polyStep(half, step)
}

func polyStep(phase, step float64) float64 {
	if phase < step {
		t := phase / step
		return t + t - t*t - 1
	}
	if phase > 1-step {
		t := (phase - 1) / step
		return t*t + t + t + 1
	}
	return 0
}
