package synth

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/mix"
	"jubrak/core/sound"
)

// recipe is a sound.Recipe made ready at a rate. A part whose gain is 0 is
// switched off; ends are the ages in frames at which parts have died away.
type recipe struct {
	rate float64
	life int

	bodyGain              float64
	bodyEnd, bodyRatio    float64 // Hz, and ln(start / end)
	bodyPitchFall         float64 // per frame
	bodyFall              dsp.Fall
	bodyDies              int
	noiseGain             float64
	noiseBand             dsp.Biquad
	noiseFall             dsp.Fall
	noiseDies             int
	snapGain              float64
	snapHigh              dsp.Biquad
	snapFall              dsp.Fall
	snapDies              int
	metalGain, metalPitch float64
	metalFall             dsp.Fall
	metalDies             int

	driven             bool
	driveFrom, driveTo float64
	driveFall          float64 // per frame
	drive              mix.Drive
	lowCut             dsp.Biquad
}

// compileRecipe makes a recipe ready, tuned by semitones, in a layer of a level
// in dB.
func compileRecipe(in *sound.Recipe, semitones, level, rate float64) *recipe {
	r := in.Tuned(semitones)
	out := &recipe{rate: rate}
	out.driven = r.Drive.Attack > 0 || r.Drive.Body > 0
	out.driveFrom, out.driveTo = dsp.DriveGain(r.Drive.Attack), dsp.DriveGain(r.Drive.Body)
	out.drive = mix.NewDrive(math.Max(out.driveFrom, out.driveTo))
	out.driveFall = 3 / (r.Drive.Fall / 1000 * rate)
	// Drive lifts quiet tails by sqrt(1 + g²).
	lift := level + 10*math.Log10(1+out.driveTo*out.driveTo)
	ends := func(attack, decay, level float64) int {
		age := dies(attack, decay, level+lift, rate)
		out.life = max(out.life, age)
		return age
	}
	if g := partGain(r.Body.Level); g > 0 {
		out.bodyGain = g
		out.bodyEnd = r.Body.End
		out.bodyRatio = math.Log(math.Max(r.Body.Start, 1) / r.Body.End)
		out.bodyPitchFall = 3 / (r.Body.Fall / 1000 * rate)
		out.bodyFall = dsp.NewFall(r.Body.Attack, r.Body.Decay, rate)
		out.bodyDies = ends(r.Body.Attack, r.Body.Decay, r.Body.Level)
	}
	if g := partGain(r.Noise.Level); g > 0 {
		// The narrower the band the less of the white noise passes; the
		// gain makes up for it so that Width is a colour, not a fader.
		out.noiseGain = g * math.Min(math.Sqrt(0.5*rate/r.Noise.Colour/math.Max(r.Noise.Width, 0.3)), 6)
		out.noiseBand = dsp.BandPass(r.Noise.Colour, r.Noise.Width, rate)
		out.noiseFall = dsp.NewFall(0, r.Noise.Decay, rate)
		out.noiseDies = ends(0, r.Noise.Decay, r.Noise.Level)
	}
	if g := partGain(r.Snap.Level); g > 0 {
		out.snapGain = g
		out.snapHigh = dsp.HighPass(r.Snap.Colour, 0.7, rate)
		out.snapFall = dsp.NewFall(0, r.Snap.Decay, rate)
		out.snapDies = ends(0, r.Snap.Decay, r.Snap.Level)
	}
	if g := partGain(r.Metal.Level); g > 0 {
		out.metalGain, out.metalPitch = g/3, r.Metal.Pitch
		out.metalFall = dsp.NewFall(0, r.Metal.Decay, rate)
		out.metalDies = ends(0, r.Metal.Decay, r.Metal.Level)
	}
	out.lowCut = dsp.HighPass(r.Cut.Low, math.Sqrt2/2, rate)
	return out
}

// cooking is the running state of a recipe that sounds.
type cooking struct {
	age    int
	tuning float64 // ratio by which the hit is higher
	body   oscillator
	metal  metal
	noise  dsp.Noise
	stick  dsp.Noise // the snap's

	bodyFall, noiseFall, snapFall, metalFall dsp.Fall
	noiseBand, snapHigh, lowCut              dsp.Biquad
	snapGain                                 float64
	drive                                    mix.Drive
}

// strike sets the state of a hit. Its parts' noises have seeds of their own.
func (c *cooking) strike(r *recipe, velocity int, semitones float64, seed uint64) {
	c.age, c.tuning = 0, 1
	if semitones != 0 {
		c.tuning = math.Exp2(semitones / 12)
	}
	c.bodyFall, c.noiseFall, c.snapFall, c.metalFall = r.bodyFall, r.noiseFall, r.snapFall, r.metalFall
	c.noiseBand, c.snapHigh, c.lowCut = r.noiseBand, r.snapHigh, r.lowCut
	c.noise, c.stick = dsp.NewNoise(dsp.Key(seed, 1)), dsp.NewNoise(dsp.Key(seed, 2))
	// A harder hit has more stick in it.
	c.snapGain = r.snapGain * (0.4 + 0.6*float64(velocity)/127)
	c.body = oscillator{cos: 1}
	if r.metalGain > 0 {
		c.metal.strike(r.metalPitch*c.tuning, r.rate)
	}
	if r.driven {
		c.drive = r.drive
	}
}

// run renders the next stride.
func (c *cooking) run(r *recipe, x *[stride]float64) {
	clear(x[:])
	t := float64(c.age)
	if r.bodyGain > 0 && c.age <= r.bodyDies {
		hz := c.tuning * r.bodyEnd * math.Exp(r.bodyRatio*math.Exp(-r.bodyPitchFall*t))
		c.body.pitch(math.Min(hz/r.rate, 0.45))
		c.body.run(x, r.bodyGain)
		c.bodyFall.Times(x[:])
	}
	var part [stride]float64
	if r.noiseGain > 0 && c.age <= r.noiseDies {
		c.noise.Run(part[:])
		c.noiseBand.Run(part[:])
		c.noiseFall.Times(part[:])
		add(x, &part, r.noiseGain)
	}
	if r.snapGain > 0 && c.age <= r.snapDies {
		c.stick.Run(part[:])
		c.snapHigh.Run(part[:])
		c.snapFall.Times(part[:])
		add(x, &part, c.snapGain)
	}
	if r.metalGain > 0 && c.age <= r.metalDies {
		clear(part[:])
		c.metal.run(&part)
		c.metalFall.Times(part[:])
		add(x, &part, r.metalGain)
	}
	if r.driven {
		c.drive.Gain = r.driveTo + (r.driveFrom-r.driveTo)*math.Exp(-r.driveFall*t)
		c.drive.Process(mix.Block{Left: x[:]}, nil)
	}
	c.lowCut.Run(x[:])
	c.age += stride
}

func add(x, part *[stride]float64, gain float64) {
	for i, v := range part {
		x[i] += v * gain
	}
}

// oscillator is a sine that turns a unit vector: sin and cos are the vector,
// turnSin and turnCos its turn in one sample.
type oscillator struct{ sin, cos, turnSin, turnCos float64 }

// pitch sets the frequency in cycles a sample and mends the vector's length.
func (o *oscillator) pitch(step float64) {
	o.turnSin, o.turnCos = math.Sincos(2 * math.Pi * step)
	mend := 1 / math.Hypot(o.sin, o.cos)
	o.sin, o.cos = o.sin*mend, o.cos*mend
}

func (o *oscillator) run(x *[stride]float64, gain float64) {
	sin, cos, ts, tc := o.sin, o.cos, o.turnSin, o.turnCos
	for i := range x {
		x[i] = sin * gain
		sin, cos = sin*tc+cos*ts, cos*tc-sin*ts
	}
	o.sin, o.cos = sin, cos
}
