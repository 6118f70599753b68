package ear

import (
	"bytes"
	"compress/gzip"
	"embed"
	"encoding/binary"
	"fmt"
	"io"
	"slices"
	"sync"

	"gonum.org/v1/gonum/blas/blas32"

	"jubrak/core/sound"
)

// Families that the network tells apart, in the order of its outputs.
var Families = []sound.Family{
	sound.Kick, sound.Snare, sound.Clap, sound.Rim, sound.HatClosed, sound.HatOpen, sound.Shaker,
	sound.Tambourine, sound.Ride, sound.Crash, sound.Tom, sound.Conga, sound.Cowbell, sound.Perc,
}

// Classes is the number of Families.
const Classes = 14

// Layer is one layer of a network: Out×In weights by row, and biases.
type Layer struct {
	In, Out int
	W, B    []float32
}

// Model is a multilayer perceptron with rectified linear units. Its outputs
// are, for each family, the log odds that it was struck, then its level in
// units of 20 dB above 40 dB under Scene.Reference, then when it was struck in
// units of 10 ms from the candidate.
type Model struct{ Layers []Layer }

// Committee is networks that hear together: the mean of what they say.
type Committee []*Model

//go:embed first.bin.gz second.bin.gz third.bin.gz fourth.bin.gz fifth.bin.gz sixth.bin.gz seventh.bin.gz
var members embed.FS

// Trained is the committee that ships: two networks that learnt from the same
// recordings from different beginnings, in different orders; a third that
// learnt from others, whose drums are changed more and which are sometimes
// without any; two that do not see the finer lows, and so err elsewhere; and two
// that learnt on from these with all that is to be seen.
var Trained = sync.OnceValue(func() (c Committee) {
	for _, name := range []string{"first", "second", "third", "fourth", "fifth", "sixth", "seventh"} {
		packed, err := members.ReadFile(name + ".bin.gz")
		if err != nil {
			panic(err) // the file is part of the program
		}
		c = append(c, Shipped(packed)())
	}
	return c
})

// Shipped is a model that is part of the program, unpacked when it is first
// asked for.
func Shipped(packed []byte) func() *Model {
	return sync.OnceValue(func() *Model {
		m, err := ReadModel(bytes.NewReader(packed))
		if err != nil {
			panic(err) // the file is part of the program
		}
		return m
	})
}

// Write stores the model, packed with gzip: the number of layers, then for each
// In, Out, weights and biases, little endian, 32 bits each.
func (m *Model) Write(w io.Writer) error {
	z := gzip.NewWriter(w)
	out := []any{uint32(len(m.Layers))}
	for _, l := range m.Layers {
		out = append(out, uint32(l.In), uint32(l.Out), l.W, l.B)
	}
	for _, v := range out {
		if err := binary.Write(z, binary.LittleEndian, v); err != nil {
			return err
		}
	}
	return z.Close()
}

// ReadModel reads what Write stored.
func ReadModel(packed io.Reader) (*Model, error) {
	r, err := gzip.NewReader(packed)
	if err != nil {
		return nil, err
	}
	var n uint32
	if err := binary.Read(r, binary.LittleEndian, &n); err != nil {
		return nil, err
	}
	m := &Model{}
	for range n {
		var shape [2]uint32
		if err := binary.Read(r, binary.LittleEndian, &shape); err != nil {
			return nil, err
		}
		if shape[0] > 4096 || shape[1] > 4096 {
			return nil, fmt.Errorf("a layer of %d by %d is no network of ours", shape[0], shape[1])
		}
		l := Layer{In: int(shape[0]), Out: int(shape[1])}
		l.W, l.B = make([]float32, l.In*l.Out), make([]float32, l.Out)
		for _, v := range [][]float32{l.W, l.B} {
			if err := binary.Read(r, binary.LittleEndian, v); err != nil {
				return nil, err
			}
		}
		m.Layers = append(m.Layers, l)
	}
	return m, nil
}

// Run computes the outputs for one set of features.
func (m *Model) Run(features []float64) []float64 {
	x := make([]float32, len(features))
	for i, v := range features {
		x[i] = float32(v)
	}
	y := m.run(x, len(x), 1)
	out := make([]float64, len(y))
	for i, v := range y {
		out[i] = float64(v)
	}
	return out
}

// seesFar tells whether the model sees more than the first NearInputs.
func (m *Model) seesFar() bool { return m.Layers[0].In > NearInputs }

// run computes the outputs for n sets of features in x, each of which begins
// step after the one before. The model sees the first of each set, as many as
// it has inputs. Each weight is fetched once for all of them.
func (m *Model) run(x []float32, step, n int) []float32 {
	for i := range m.Layers {
		l := &m.Layers[i]
		y := make([]float32, n*l.Out)
		for o := range l.Out {
			w := blas32.Vector{N: l.In, Inc: 1, Data: l.W[o*l.In:]}
			for j := range n {
				v := l.B[o] + blas32.Dot(w, blas32.Vector{N: l.In, Inc: 1, Data: x[j*step:]})
				if i+1 < len(m.Layers) {
					v = max(v, 0)
				}
				y[j*l.Out+o] = v
			}
		}
		x, step = y, l.Out
	}
	return x
}

// Heard is what the network hears at one candidate.
type Heard struct {
	Frame int
	// Odds is the log odds of each family, in the order of Families.
	Odds [Classes]float64
	// Level is each family's level if it was struck, dB under full power of
	// the file.
	Level [Classes]float64
	// Delay is how much later than the candidate each family was struck, ms.
	Delay [Classes]float64
}

// hopeless is how unlikely, in log odds, all families must be to the first
// network for the others not to be asked.
const hopeless = -3.5

// together is how many candidates are heard at a time.
const together = 16

// Hear runs the networks over every candidate of a scene.
func (c Committee) Hear(scene *Scene) []Heard {
	out := make([]Heard, 0, len(scene.Candidates))
	for frames := range slices.Chunk(scene.Candidates, together) {
		out = append(out, c.hear(scene, frames)...)
	}
	return out
}

// hear runs the networks over a few candidates.
func (c Committee) hear(scene *Scene, frames []int) []Heard {
	const outputs = 3 * Classes
	x := make([]float32, len(frames)*Inputs)
	for i, frame := range frames {
		scene.near(frame, x[i*Inputs:])
		if c[0].seesFar() {
			scene.beyond(frame, x[i*Inputs:][:Inputs])
		}
	}
	sums := make([]float64, len(frames)*outputs)
	for j, v := range c[0].run(x, Inputs, len(frames)) {
		sums[j] = float64(v)
	}
	asked := make([]float64, len(frames))
	var open []int // of whom the others are asked
	var again []float32
	for i, frame := range frames {
		asked[i] = 1
		if slices.Max(sums[i*outputs:][:Classes]) >= hopeless {
			asked[i] = float64(len(c))
			open = append(open, i)
			if !c[0].seesFar() {
				scene.beyond(frame, x[i*Inputs:][:Inputs])
			}
			again = append(again, x[i*Inputs:][:Inputs]...)
		}
	}
	for _, m := range c[1:] {
		for j, v := range m.run(again, Inputs, len(open)) {
			sums[open[j/outputs]*outputs+j%outputs] += float64(v)
		}
	}
	out := make([]Heard, len(frames))
	for i, h := range out {
		sum, n := sums[i*outputs:][:outputs], asked[i]
		h.Frame = frames[i]
		for k := range Classes {
			h.Odds[k] = sum[k] / n
			h.Level[k] = sum[Classes+k]/n*20 - 40
			h.Delay[k] = sum[2*Classes+k] / n * 10
		}
		out[i] = h
	}
	return out
}
