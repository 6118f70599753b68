package synth

import (
	"fmt"
	"testing"
)

// BenchmarkRead is what a frame of a stereo recording costs by how fast it is read.
func BenchmarkRead(b *testing.B) {
	x := [][]float32{make([]float32, 100000), make([]float32, 100000)}
	for _, speed := range []float64{0.5, 1, 1.5, 2, 4} {
		b.Run(fmt.Sprintf("speed %g", speed), func(b *testing.B) {
			var l, r [stride]float64
			for b.Loop() {
				read(x, 1000, speed, &l, &r)
			}
			b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/stride, "ns/frame")
		})
	}
}
