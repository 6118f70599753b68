package drumnet

import (
	"encoding/binary"
	"fmt"
	"io"

	"gonum.org/v1/gonum/blas/blas32"

	"jubrak/core/sound"
)

// Families that the network reports apart, in the order of its outputs.
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

// write stores the model: the number of layers, then for each In, Out, weights
// and biases, little endian, 32 bits each.
func (m *Model) write(w io.Writer) error {
	out := []any{uint32(len(m.Layers))}
	for _, l := range m.Layers {
		out = append(out, uint32(l.In), uint32(l.Out), l.W, l.B)
	}
	for _, v := range out {
		if err := binary.Write(w, binary.LittleEndian, v); err != nil {
			return err
		}
	}
	return nil
}

// readModel reads what write stored; io.EOF where nothing is left.
func readModel(r io.Reader) (*Model, error) {
	var n uint32
	if err := binary.Read(r, binary.LittleEndian, &n); err != nil {
		return nil, err
	}
	m := &Model{}
	for range n {
		l, err := readLayer(r)
		if err == io.EOF {
			err = io.ErrUnexpectedEOF
		}
		if err != nil {
			return nil, err
		}
		m.Layers = append(m.Layers, l)
	}
	return m, nil
}

func readLayer(r io.Reader) (l Layer, err error) {
	var shape [2]uint32
	if err := binary.Read(r, binary.LittleEndian, &shape); err != nil {
		return l, err
	}
	if shape[0] > 4096 || shape[1] > 4096 {
		return l, fmt.Errorf("a layer of %d by %d is no network of ours", shape[0], shape[1])
	}
	l = Layer{In: int(shape[0]), Out: int(shape[1])}
	l.W, l.B = make([]float32, l.In*l.Out), make([]float32, l.Out)
	for _, v := range [][]float32{l.W, l.B} {
		if err := binary.Read(r, binary.LittleEndian, v); err != nil {
			return l, err
		}
	}
	return l, nil
}

// seesFar reports whether the model sees more than the first NearInputs.
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
