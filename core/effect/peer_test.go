package effect

import (
	"bytes"
	"encoding/binary"
	"os/exec"
	"testing"
	"time"
)

// BenchmarkChainBesideSox takes a minute of stereo noise through three bands, a compressor
// and a reverb, here and by sox, in turns; the metric is how many times as long sox takes.
func BenchmarkChainBesideSox(b *testing.B) {
	if _, err := exec.LookPath("sox"); err != nil {
		b.Skip("sox is not here")
	}
	const seconds = 60
	sound := noise(seconds*rate, 0.2)
	var raw bytes.Buffer
	for i := range sound.Left {
		_ = binary.Write(&raw, binary.LittleEndian, [2]float32{float32(sound.Left[i]), float32(sound.Right[i])})
	}
	chain := []Effect{
		New("a", KindOf("equalizer"), flat8(map[string]float64{"band1.shape": bandBell, "band1.hz": 100, "band1.gain_db": 3, "band1.q": 1, "band2.shape": bandBell, "band2.hz": 1000, "band2.gain_db": -3, "band2.q": 1, "band3.shape": bandBell, "band3.hz": 8000, "band3.gain_db": 2, "band3.q": 1})),
		New("b", KindOf("compressor"), nil), New("c", KindOf("reverb"), nil),
	}
	var ours, theirs time.Duration
	for b.Loop() {
		r := NewRack(chain, rate, Context{})
		from := time.Now()
		for at := 0; at < sound.Frames(); at += MaxBlock {
			r.Run(sound.Part(at, min(at+MaxBlock, sound.Frames())), nil, Clock{}, false)
		}
		ours += time.Since(from)
		cmd := exec.Command("sox", "-t", "raw", "-r", "48000", "-e", "floating-point", "-b", "32", "-c", "2", "-", "-t", "raw", "-e", "floating-point", "-b", "32", "/dev/null",
			"equalizer", "100", "1q", "3", "equalizer", "1000", "1q", "-3", "equalizer", "8000", "1q", "2", "compand", "0.005,0.1", "6:-60,-60,-18,-18,0,-13.5", "0", "0", "0", "reverb", "30")
		cmd.Stdin = bytes.NewReader(raw.Bytes())
		from = time.Now()
		if err := cmd.Run(); err != nil {
			b.Fatal(err)
		}
		theirs += time.Since(from)
	}
	b.ReportMetric(theirs.Seconds()/ours.Seconds(), "x_sox")
	b.ReportMetric(seconds*float64(b.N)/ours.Seconds(), "x_real_time")
}
