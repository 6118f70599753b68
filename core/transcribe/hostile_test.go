package transcribe

import (
	"bytes"
	"context"
	"encoding/binary"
	"encoding/json"
	"math"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/format"
)

func silent(string, float64) {}

// FuzzListener hears whatever a decoder may give: samples of any size, at some
// rates and any length up to 10 ms, so that many inputs are tried. What is heard
// can be written as JSON.
func FuzzListener(f *testing.F) {
	rates := []int{rate, 48000, 8000, 22050, 96000}
	f.Add([]byte("\x00\x00\x80\x3f\x00\x00\x80\xbf"), uint8(0), uint16(300))
	f.Add([]byte("\xff\xff\x7f\x7f\xff\xff\x7f\xff"), uint8(2), uint16(60))
	f.Fuzz(func(t *testing.T, data []byte, which uint8, repeats uint16) {
		var x []float32
		for len(data) >= 4 {
			v := math.Float32frombits(binary.LittleEndian.Uint32(data))
			data = data[4:]
			if f := float64(v); !math.IsNaN(f) && !math.IsInf(f, 0) { // those a decoder refuses
				x = append(x, v)
			}
		}
		if len(x) == 0 {
			return
		}
		b := &audio.Buffer{Rate: rates[int(which)%len(rates)], Channels: [][]float32{nil}}
		x = x[:min(len(x), b.Rate/200)]
		for range min(int(repeats)+1, b.Rate/200/len(x)) {
			b.Channels[0] = append(b.Channels[0], x...)
		}
		raw, err := Analyze(context.Background(), b, silent)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := json.Marshal(Finish(raw, nil)); err != nil {
			t.Fatal(err)
		}
	})
}

// FuzzPerformance takes whatever the MIDI reader lets through.
func FuzzPerformance(f *testing.F) {
	var buf bytes.Buffer
	p := &format.Performance{PPQ: 96, Tempo: []format.MIDITempo{{Micros: 500000}}, Notes: []format.MIDINote{{Length: 10, Channel: 9, Key: 36, Velocity: 100}}}
	p.Meter.Beats, p.Meter.Unit = 4, 4
	_ = format.WriteMIDI(&buf, p, "")
	f.Add(buf.Bytes())
	f.Fuzz(func(t *testing.T, data []byte) {
		p, err := format.ReadMIDI(bytes.NewReader(data))
		if err != nil {
			return
		}
		if _, err := json.Marshal(Finish(FromPerformance(p), nil)); err != nil {
			t.Fatal(err)
		}
	})
}

// Float files may hold any number. The same sound is heard at any level.
func TestSamplesFarBeyondFullScale(t *testing.T) {
	data, err := os.ReadFile("../../fixtures/gm/driving-140.flac")
	require.NoError(t, err)
	b, err := format.Decode(data)
	require.NoError(t, err)
	want, err := Analyze(context.Background(), b, silent)
	require.NoError(t, err)
	for _, gain := range []float64{1e3, 1e18, 1e30, 3e38 / b.Peak()} {
		loud := &audio.Buffer{Rate: b.Rate}
		for _, ch := range b.Channels {
			y := make([]float32, len(ch))
			for i, v := range ch {
				y[i] = float32(float64(v) * gain)
			}
			loud.Channels = append(loud.Channels, y)
		}
		got, err := Analyze(context.Background(), loud, silent)
		require.NoError(t, err)
		assert.InDelta(t, len(want.Hits), len(got.Hits), float64(len(want.Hits))/20, "gain %g", gain)
		_, err = json.Marshal(Finish(got, nil))
		assert.NoError(t, err, "gain %g", gain)
	}
}
