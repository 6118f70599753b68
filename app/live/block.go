package live

import (
	"encoding/binary"
	"math"
)

// Block is the number of frames in a block.
const Block = 256

// HeaderBytes is the length of a block's header; left samples as float32 follow, then right.
const HeaderBytes = 48

// BlockBytes is the length of a block as it is sent. A message holds one or several, one
// behind the other.
const BlockBytes = HeaderBytes + 8*Block

// Header is what a block says of itself.
type Header struct {
	Frames int `json:"frames"`
	// Version of the document that plays.
	Version int `json:"version"`
	// Position at the start of the block, ticks; of a study the part of its way, 0 to 1.
	Position float64 `json:"position"`
	// PeakLeft and PeakRight are sample peaks, linear.
	PeakLeft  float64 `json:"peak_left"`
	PeakRight float64 `json:"peak_right"`
	// Loudness is momentary, LUFS.
	Loudness float64 `json:"loudness"`
	// Playing is whether the groove or the arrangement plays.
	Playing bool `json:"playing"`
	// Studying is whether a study plays.
	Studying bool `json:"studying"`
	// Held is whether the safety limiter turns down what is heard.
	Held bool `json:"held"`
	// Piece is whether the position is one of the arrangement.
	Piece bool `json:"piece"`
	// At is the first frame's place since the connection opened; a block whose place was
	// sent before takes the place of what is not played yet.
	At int64 `json:"at"`
	// Reach is how far ahead of what is played a change is made, ms.
	Reach float64 `json:"reach"`
}

// put writes the header: little endian, frames uint32, version uint32, position float64,
// peaks and loudness float32, flags uint32 (playing, studying, held, piece, from bit 0 on),
// place uint64, reach float32, 4 bytes unused.
func (h *Header) put(b []byte) {
	le := binary.LittleEndian
	float := func(at int, v float64) { le.PutUint32(b[at:], math.Float32bits(float32(v))) }
	le.PutUint32(b, uint32(h.Frames))
	le.PutUint32(b[4:], uint32(h.Version))
	le.PutUint64(b[8:], math.Float64bits(h.Position))
	float(16, h.PeakLeft)
	float(20, h.PeakRight)
	float(24, h.Loudness)
	var flags uint32
	for bit, on := range []bool{h.Playing, h.Studying, h.Held, h.Piece} {
		if on {
			flags |= 1 << bit
		}
	}
	le.PutUint32(b[28:], flags)
	le.PutUint64(b[32:], uint64(h.At))
	float(40, h.Reach)
}

// Bytes are a block as it is sent: its header and as many samples left and right.
func (h *Header) Bytes(left, right []float32) []byte {
	b := make([]byte, HeaderBytes+8*len(left))
	h.put(b)
	putSamples(b[HeaderBytes:], left)
	putSamples(b[HeaderBytes+4*len(left):], right)
	return b
}

func putSamples(b []byte, samples []float32) {
	for i, v := range samples {
		binary.LittleEndian.PutUint32(b[4*i:], math.Float32bits(v))
	}
}
