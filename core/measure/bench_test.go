package measure

import (
	"os"
	"testing"

	"jubrak/core/format"
)

// BenchmarkTruePeak looks at a full mix; the metric is how many times faster
// than real time.
func BenchmarkTruePeak(b *testing.B) {
	data, err := os.ReadFile("../../fixtures/set/full-rock-131.flac")
	if err != nil {
		b.Fatal(err)
	}
	mix, err := format.Decode(data)
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		TruePeak(mix)
	}
	b.ReportMetric(mix.Seconds()*float64(b.N)/b.Elapsed().Seconds(), "x-real-time")
}
