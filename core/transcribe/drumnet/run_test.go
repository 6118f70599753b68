package drumnet

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
)

func randomModel(sizes ...int) *Model {
	r := rand.New(rand.NewPCG(1, 2))
	m := &Model{}
	for i := range len(sizes) - 1 {
		l := Layer{In: sizes[i], Out: sizes[i+1]}
		for range l.In * l.Out {
			l.W = append(l.W, float32(r.NormFloat64()))
		}
		for range l.Out {
			l.B = append(l.B, float32(r.NormFloat64()))
		}
		m.Layers = append(m.Layers, l)
	}
	return m
}

// Derivation: the same sums, one after the other.
func TestRunIsItsDefinition(t *testing.T) {
	m := randomModel(7, 5, 3)
	x := []float64{1, -2, 0.5, 0, 3, -1, 2}
	want := x
	for i, l := range m.Layers {
		next := make([]float64, l.Out)
		for o := range next {
			next[o] = float64(l.B[o])
			for k, v := range want {
				next[o] += float64(l.W[o*l.In+k]) * v
			}
			if i+1 < len(m.Layers) && next[o] < 0 {
				next[o] = 0
			}
		}
		want = next
	}
	assert.InDeltaSlice(t, want, Committee{m}.Run(x), 1e-4)
}

// Derivation: what is heard together is what is heard alone.
func TestTogetherIsAlone(t *testing.T) {
	m := randomModel(7, 5, 3)
	r := rand.New(rand.NewPCG(3, 4))
	x := make([]float32, 4*7)
	for i := range x {
		x[i] = float32(r.NormFloat64())
	}
	var alone []float32
	for i := range 4 {
		alone = append(alone, m.run(x[i*7:][:7], 7, 1)...)
	}
	assert.Equal(t, alone, m.run(x, 7, 4))
}

func BenchmarkRun(b *testing.B) {
	m := randomModel(Inputs, 256, 96, 3*Classes)
	x := make([]float64, Inputs)
	for i := range x {
		x[i] = float64(i%7) - 3
	}
	for b.Loop() {
		Committee{m}.Run(x)
	}
}
