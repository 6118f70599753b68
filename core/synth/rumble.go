package synth

import (
	"math"
	"slices"

	"jubrak/core/effect"
	"jubrak/core/sound"
)

// Rumbles are the rumbles of a voice that sounds: they take its dry sound and add
// theirs. They keep what rings in them, so they outlive notes and new versions of
// the voice.
type Rumbles struct {
	each  []rumble
	alone bool // without the sound that they are made of
	rests bool
	dry   [2][effect.MaxBlock]float64
}

type rumble struct {
	chain *effect.Chain
	id    string       // of its layer
	of    sound.Rumble `state:"shared"`
	dry   follower     // what ducks it
	most  float64      // the loudest lately
	fall  float64
	gain  [2]float64
	wet   [2][effect.MaxBlock]float64
}

// follower is a level that rises at once and falls by a time constant.
type follower struct{ level, fall float64 }

func (f *follower) next(x float64) float64 {
	f.level = max(x, f.level*f.fall)
	return f.level
}

// NewRumbles makes the rumbles of a voice ready. Where they are those of was, which
// may be nil, but for their levels, it is was itself, which goes on. It is nil
// where the voice has none.
func (v *Voice) NewRumbles(was *Rumbles) *Rumbles {
	if len(v.rumbles) == 0 {
		return nil
	}
	if was != nil && slices.EqualFunc(v.rumbles, was.each, func(l sound.Layer, r rumble) bool {
		return l.ID == r.id && *l.Rumble == r.of
	}) {
		return was
	}
	out := &Rumbles{}
	for i := range v.rumbles {
		out.each = append(out.each, newRumble(&v.rumbles[i], v.rate))
	}
	return out
}

// Follow takes the levels of a voice's rumbles.
func (r *Rumbles) Follow(v *Voice) {
	r.alone = v.alone
	for i := range v.rumbles {
		l := &v.rumbles[i]
		gain := effect.Panned(l.Level, l.Pan)
		if l.Flip {
			gain = [2]float64{-gain[0], -gain[1]}
		}
		r.each[i].gain = gain
	}
}

func newRumble(l *sound.Layer, rate float64) rumble {
	type v = map[string]float64
	n := l.Rumble
	effects := []effect.Effect{
		effect.New("room", effect.KindOf("reverb"), v{"decay_ms": n.Decay, "size_percent": 85, "damping_hz": 3000, "low_cut_hz": 20, "high_cut_hz": 6000, "width_percent": 60, "mix_percent": 100}),
		effect.New("dark", effect.KindOf("filter"), v{"slope": 1, "corner_hz": n.HighCut}),
		effect.New("drive", effect.KindOf("drive"), v{"amount_percent": n.Drive}),
		effect.New("press", effect.KindOf("compressor"), v{"detector": 1, "threshold_db": -30, "ratio": 4, "attack_ms": 10, "release_ms": 150, "gain_db": 9}),
		effect.New("darker", effect.KindOf("filter"), v{"slope": 1, "corner_hz": n.HighCut}),
		effect.New("narrow", effect.KindOf("filter"), v{"shape": 1, "slope": 1, "corner_hz": n.LowCut}),
	}
	chain, _ := effect.NewChain(effects, rate)
	r := rumble{chain: chain, id: l.ID, of: *n}
	// After its time the duck is 10 % of what it was.
	r.dry.fall = math.Pow(0.1, 1000/(n.DuckTime*rate))
	r.fall = math.Pow(0.1, 1/(4*rate))
	return r
}

// Process adds the rumbles of a block's dry sound to it, or puts them in its place where
// they are alone.
func (r *Rumbles) Process(b effect.Block, c effect.Clock) {
	if r.rests {
		r.rests = false
		for i := range r.each {
			r.each[i].chain.Reset()
		}
	}
	if r.alone {
		copy(r.dry[0][:], b.Left)
		copy(r.dry[1][:], b.Right)
	}
	for i := range r.each {
		r.each[i].chain.At(c)
		r.each[i].process(b)
	}
	if r.alone {
		for i := range b.Left {
			b.Left[i] -= r.dry[0][i]
			b.Right[i] -= r.dry[1][i]
		}
	}
}

func (r *rumble) process(b effect.Block) {
	n := b.Frames()
	wet := effect.Block{Left: r.wet[0][:n], Right: r.wet[1][:n]}
	copy(wet.Left, b.Left)
	copy(wet.Right, b.Right)
	r.chain.Process(wet, nil)
	for i := range wet.Left {
		x := max(math.Abs(b.Left[i]), math.Abs(b.Right[i]))
		level := r.dry.next(x)
		r.most = max(x, r.most*r.fall)
		duck := 0.0
		if r.most > 1e-5 {
			duck = r.of.Duck * level / r.most
		}
		gain := math.Pow(10, -duck/20)
		wet.Left[i] *= gain * r.gain[0]
		wet.Right[i] *= gain * r.gain[1]
	}
	for i := range wet.Left {
		b.Left[i] += wet.Left[i]
		b.Right[i] += wet.Right[i]
	}
}

// Rest lets them begin from silence at the next sound.
func (r *Rumbles) Rest() { r.rests = true }

// Tail is how many frames they ring after the last sound.
func (r *Rumbles) Tail() int {
	most := 0
	for i := range r.each {
		most = max(most, r.each[i].chain.Tail())
	}
	return most
}
