package format

import (
	"bytes"
	"encoding/binary"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// aiff writes a small file: 16 bits, so many channels, a rate as an 80-bit
// float, and the chunks in the order given.
func aiff(form, kind string, bits uint16, rate [10]byte, data []byte) []byte {
	comm := binary.BigEndian.AppendUint16(nil, 1)
	comm = binary.BigEndian.AppendUint32(comm, uint32(len(data)))
	comm = binary.BigEndian.AppendUint16(comm, bits)
	comm = append(comm, rate[:]...)
	if form == "AIFC" {
		comm = append(comm, kind...)
		comm = append(comm, 0, 0)
	}
	var b bytes.Buffer
	b.WriteString("FORM\x00\x00\x00\x00" + form)
	for name, body := range map[string][]byte{"COMM": comm} {
		b.WriteString(name)
		_ = binary.Write(&b, binary.BigEndian, uint32(len(body)))
		b.Write(body)
	}
	b.WriteString("SSND")
	_ = binary.Write(&b, binary.BigEndian, uint32(8+len(data)))
	b.Write(make([]byte, 8))
	b.Write(data)
	return b.Bytes()
}

// Published: 44100 as an 80-bit float is 400E AC44 0000 0000 0000 (AIFF 1.3).
func TestAIFFKinds(t *testing.T) {
	cd := [10]byte{0x40, 0x0e, 0xac, 0x44}
	for name, c := range map[string]struct {
		data []byte
		want []float32
	}{
		"16 bits, big":    {aiff("AIFF", "", 16, cd, []byte{0x40, 0, 0xc0, 0}), []float32{0.5, -0.5}},
		"16 bits, little": {aiff("AIFC", "sowt", 16, cd, []byte{0, 0x40, 0, 0xc0}), []float32{0.5, -0.5}},
		"8 bits, signed":  {aiff("AIFF", "", 8, cd, []byte{0x40, 0xc0}), []float32{0.5, -0.5}},
		"24 bits":         {aiff("AIFF", "", 24, cd, []byte{0x40, 0, 0, 0xc0, 0, 0}), []float32{0.5, -0.5}},
		"12 bits in 16":   {aiff("AIFF", "", 12, cd, []byte{0x40, 0, 0xc0, 0}), []float32{0.5, -0.5}},
		"float":           {aiff("AIFC", "fl32", 32, cd, []byte{0x3f, 0, 0, 0, 0xbf, 0, 0, 0}), []float32{0.5, -0.5}},
		"double":          {aiff("AIFC", "FL64", 64, cd, []byte{0x3f, 0xe0, 0, 0, 0, 0, 0, 0}), []float32{0.5}},
	} {
		b, err := Decode(c.data)
		require.NoError(t, err, name)
		assert.Equal(t, 44100, b.Rate, name)
		assert.Equal(t, c.want, b.Channels[0], name)
	}
	for name, c := range map[string]struct {
		data []byte
		code string
	}{
		"compressed":     {aiff("AIFC", "ima4", 16, cd, []byte{1, 2}), CodeUnusable},
		"no rate":        {aiff("AIFF", "", 16, [10]byte{}, []byte{1, 2}), CodeUnusable},
		"endless rate":   {aiff("AIFF", "", 16, [10]byte{0x7f, 0xff, 0xff}, []byte{1, 2}), CodeUnusable},
		"cut in sound":   {aiff("AIFF", "", 16, cd, []byte{1, 2, 3, 4})[:56], CodeTruncated},
		"cut in header":  {aiff("AIFF", "", 16, cd, []byte{1, 2})[:20], CodeTruncated},
		"sound too soon": {append([]byte("FORM\x00\x00\x00\x00AIFFSSND\x00\x00\x00\x0a"), make([]byte, 10)...), CodeDamaged},
	} {
		_, err := Decode(c.data)
		var e *Error
		require.ErrorAs(t, err, &e, name)
		assert.Equal(t, c.code, e.Code, "%s: %s", name, e.Message)
		assert.NotContains(t, e.Message, "WAV", name)
	}
}
