package drumnet

import (
	"bytes"
	"compress/gzip"
	"embed"
	"io"
	"slices"
	"sync"
)

// Committee is networks of one task that speak as one: the mean of what they
// say (bagging: Breiman 1996, Machine Learning 24). Networks that began
// differently, or learnt from other recordings, err differently.
type Committee []*Model

//go:embed first.bin.gz second.bin.gz third.bin.gz fourth.bin.gz
var members embed.FS

// Trained is the committee that hears: a network that sees what is near, one
// that does not see the finer lows either, and so errs elsewhere, and two that
// learnt on from such ones with all that is to be seen.
var Trained = sync.OnceValue(func() (c Committee) {
	for _, name := range []string{"first", "second", "third", "fourth"} {
		packed, err := members.ReadFile(name + ".bin.gz")
		if err != nil {
			panic(err) // the file is part of the program
		}
		c = append(c, Shipped(packed)()...)
	}
	return c
})

// Shipped is a committee that is part of the program, unpacked when it is
// first asked for.
func Shipped(packed []byte) func() Committee {
	return sync.OnceValue(func() Committee {
		c, err := ReadCommittee(bytes.NewReader(packed))
		if err != nil {
			panic(err) // the file is part of the program
		}
		return c
	})
}

// Write stores the models one after the other, packed with gzip.
func (c Committee) Write(w io.Writer) error {
	z := gzip.NewWriter(w)
	for _, m := range c {
		if err := m.write(z); err != nil {
			return err
		}
	}
	return z.Close()
}

// ReadCommittee reads what Write stored.
func ReadCommittee(packed io.Reader) (Committee, error) {
	r, err := gzip.NewReader(packed)
	if err != nil {
		return nil, err
	}
	var c Committee
	for {
		m, err := readModel(r)
		if err == io.EOF {
			return c, nil
		}
		if err != nil {
			return nil, err
		}
		c = append(c, m)
	}
}

// Run computes the mean of the models' outputs for one set of features.
func (c Committee) Run(features []float64) []float64 {
	x := make([]float32, len(features))
	for i, v := range features {
		x[i] = float32(v)
	}
	var out []float64
	for _, m := range c {
		y := m.run(x, len(x), 1)
		if out == nil {
			out = make([]float64, len(y))
		}
		for i, v := range y {
			out[i] += float64(v) / float64(len(c))
		}
	}
	return out
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
	scene.long.finish()
	sums := make([]float64, len(frames)*outputs)
	for j, v := range c[0].run(x, Inputs, len(frames)) {
		sums[j] = float64(v)
	}
	asked := make([]float64, len(frames))
	var open []int // of whom the others are asked
	for i := range frames {
		asked[i] = 1
		if slices.Max(sums[i*outputs:][:Classes]) >= hopeless {
			asked[i] = float64(len(c))
			open = append(open, i)
		}
	}
	again := make([]float32, len(open)*Inputs)
	for j, i := range open {
		row := again[j*Inputs:][:Inputs]
		copy(row, x[i*Inputs:])
		if !c[0].seesFar() {
			scene.beyond(frames[i], row)
		}
	}
	scene.long.finish()
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
