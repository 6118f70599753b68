package format

import (
	"bytes"
	"encoding/binary"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/music"
)

func FuzzReadFLAC(f *testing.F) {
	// sox -n -r 8000 -c 1 -b 16 tiny.flac synth 0.02 sine 500: small, so that many inputs
	// are tried.
	data, err := os.ReadFile("testdata/tiny.flac")
	if err != nil {
		f.Fatal(err)
	}
	f.Add(data)
	f.Add([]byte("fLaC\x00\x00\x00\x22"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if len(data) == 0 {
			return
		}
		k := &keeper{size: len(data)}
		err := readFLAC(data, k, func(float64) error { return nil })
		if err == nil && (k.b == nil || len(k.b.Channels) == 0) {
			t.Fatal("accepted nothing")
		}
	})
}

// Extensible formats that name a codec by a GUID of its own are refused; plain
// tags under the common GUID (KSDATAFORMAT_SUBTYPE_PCM, ..._IEEE_FLOAT) are read.
func TestExtensibleSubFormats(t *testing.T) {
	file := func(sub []byte) []byte {
		format := make([]byte, 24, 40)
		binary.LittleEndian.PutUint16(format, waveExtensible)
		binary.LittleEndian.PutUint16(format[2:], 1)
		binary.LittleEndian.PutUint32(format[4:], 44100)
		binary.LittleEndian.PutUint32(format[8:], 88200)
		binary.LittleEndian.PutUint16(format[12:], 2)
		binary.LittleEndian.PutUint16(format[14:], 16)
		binary.LittleEndian.PutUint16(format[16:], 22)
		format = append(format, sub...)
		out := append([]byte("RIFF\x00\x01\x00\x00WAVEfmt "), byte(len(format)), 0, 0, 0)
		out = append(append(out, format...), "data\x04\x00\x00\x00"...)
		return append(out, 0, 0x40, 0, 0xC0)
	}
	common := []byte("\x00\x00\x00\x00\x10\x00\x80\x00\x00\xAA\x00\x38\x9B\x71")
	b, err := Decode(file(append([]byte{1, 0}, common...)))
	require.NoError(t, err)
	assert.Equal(t, []float32{0.5, -0.5}, b.Channels[0])
	for name, sub := range map[string][]byte{
		"a codec of its own":       append([]byte{1, 0}, "\x21\x07\xd3\x11\x86\x44\xc8\xc1\xca\x00\x00\x00\x00\x00"...),
		"another tag":              append([]byte{0x55, 0}, common...),
		"too short to say":         {1, 0},
		"the tag alone, then zero": append([]byte{1, 0}, make([]byte, 14)...),
	} {
		_, err := Decode(file(sub))
		var e *Error
		require.ErrorAs(t, err, &e, name)
		assert.Equal(t, CodeUnusable, e.Code, name)
	}
}

// A note hours behind the others, or a tempo at which an hour holds millions of
// beats, is refused by the reader.
func TestEndlessPerformances(t *testing.T) {
	write := func(micros, far int) error {
		var b bytes.Buffer
		p := &Performance{PPQ: 96, Meter: music.Meter{Beats: 4, Unit: 4}, Tempo: []MIDITempo{{0, micros}},
			Notes: []MIDINote{{0, 10, 9, 36, 100, 0}, {far, 10, 9, 38, 100, 0}}}
		require.NoError(t, WriteMIDI(&b, p, ""))
		_, err := ReadMIDI(&b)
		return err
	}
	assert.NoError(t, write(500000, 96*7000), "58 minutes")
	assert.ErrorContains(t, write(500000, 96*172800), "24:00:00")
	assert.ErrorContains(t, write(16777215, 96*300), "1:23:5")
	assert.ErrorContains(t, write(1, 96*1000000), "beat 1000001")
}
