package format

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// informed is the first frame of an MP3 with an information frame: header
// bytes, where it stands, and what the encoder wrote behind it.
func informed(header [4]byte, side int, name string, flags uint32, frames uint32, encoder string, delay, padding int) []byte {
	b := make([]byte, 600)
	copy(b, header[:])
	at := 4 + side
	copy(b[at:], name)
	binary.BigEndian.PutUint32(b[at+4:], flags)
	p := at + 8
	if flags&1 != 0 {
		binary.BigEndian.PutUint32(b[p:], frames)
		p += 4
	}
	for bit, size := range map[uint32]int{2: 4, 4: 100, 8: 4} {
		if flags&bit != 0 {
			p += size
		}
	}
	copy(b[p:], encoder)
	packed := delay<<12 | padding
	b[p+21], b[p+22], b[p+23] = byte(packed>>16), byte(packed>>8), byte(packed)
	return b
}

// Published: MPEG-1 and MPEG-2 Layer III side information is 32 and 17 bytes
// (17 and 9 mono), a frame 1152 and 576 samples (ISO/IEC 11172-3, 13818-3).
// A decoder adds 529 samples.
func TestGapOfInformationFrames(t *testing.T) {
	stereo, mono := [4]byte{0xff, 0xfb, 0x90, 0x04}, [4]byte{0xff, 0xfb, 0x90, 0xc4}
	low, lowMono := [4]byte{0xff, 0xf3, 0x90, 0x04}, [4]byte{0xff, 0xf3, 0x90, 0xc4}
	for name, c := range map[string]struct {
		data []byte
		want gap
	}{
		"stereo with all fields": {informed(stereo, 32, "Xing", 15, 100, "LAME3.100", 576, 1000), gap{1152 + 576 + 529, 100*1152 - 1576}},
		"mono":                   {informed(mono, 17, "Info", 15, 50, "LAME3.100", 576, 600), gap{1152 + 576 + 529, 50*1152 - 1176}},
		"half rate":              {informed(low, 17, "Xing", 1, 50, "Lavc59.37", 1105, 0), gap{576 + 1105 + 529, 50*576 - 1105}},
		"half rate mono":         {informed(lowMono, 9, "Info", 3, 50, "Lavf", 576, 0), gap{576 + 576 + 529, 50*576 - 576}},
		"length not told":        {informed(stereo, 32, "Xing", 0, 0, "LAME3.100", 576, 0), gap{1152 + 576 + 529, 0}},
		"no encoder behind":      {informed(stereo, 32, "Xing", 15, 100, "", 0, 0), gap{1152, 0}},
		"no information frame":   {informed(stereo, 32, "none", 0, 0, "", 0, 0), gap{}},
		"no frame at all":        {make([]byte, 600), gap{}},
		"too short to say":       {[]byte{0xff, 0xfb, 0x90}, gap{}},
	} {
		g, err := readGap(bufio.NewReaderSize(bytes.NewReader(c.data), 1<<12))
		require.NoError(t, err, name)
		assert.Equal(t, c.want, g, name)
		tagged := append([]byte("ID3\x04\x00\x00\x00\x00\x01\x00"), make([]byte, 128)...) // 128 bytes of tag
		g, err = readGap(bufio.NewReaderSize(bytes.NewReader(append(tagged, c.data...)), 1<<12))
		require.NoError(t, err, name)
		assert.Equal(t, c.want, g, "%s behind a tag", name)
	}
	_, err := readGap(bufio.NewReader(bytes.NewReader([]byte("ID3\x04\x00\x00\x7f\x7f\x7f\x7fshort"))))
	assert.Error(t, err, "a tag that promises more than there is")
}

func TestTheGapIsLeftOut(t *testing.T) {
	kept := func(g gap, blocks ...[]float32) []float32 {
		k := &keeper{}
		k.start(44100, 1, g, 0)
		for _, b := range blocks {
			require.NoError(t, k.put([][]float32{b}))
		}
		return k.b.Channels[0]
	}
	x := []float32{9, 9, 1, 2, 3, 8, 8}
	assert.Equal(t, []float32{1, 2, 3}, kept(gap{2, 3}, x))
	assert.Equal(t, []float32{1, 2, 3}, kept(gap{2, 3}, x[:1], x[1:4], x[4:6], x[6:]))
	assert.Equal(t, []float32{1, 2, 3, 8, 8}, kept(gap{2, 0}, x))
	assert.Equal(t, x, kept(gap{}, x))
	assert.Empty(t, kept(gap{99, 3}, x))
}

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
