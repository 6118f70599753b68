package format

import (
	"encoding/binary"
	"io"
	"math"
)

// readAIFF reads an AIFF or AIFF-C file (Audio Interchange File Format 1.3,
// 1989; AIFF-C draft, 1991): PCM of 8 to 32 bits in either byte order, and
// float of 32 or 64. Memory follows the bytes that are there.
func readAIFF(r io.Reader, k *keeper) error {
	var head [12]byte
	if _, err := io.ReadFull(r, head[:]); err != nil {
		return fail(CodeTruncated, "The AIFF file ends inside its header.")
	}
	f := waveFormat{name: "AIFF"}
	for {
		var chunk [8]byte
		if _, err := io.ReadFull(r, chunk[:]); err != nil {
			return fail(CodeTruncated, "The AIFF file ends before its sound begins.")
		}
		size := uint64(binary.BigEndian.Uint32(chunk[4:]))
		switch string(chunk[:4]) {
		case "COMM":
			body, err := chunkBody(r, size, 18, f.name)
			if err != nil {
				return err
			}
			if err := f.common(body, string(head[8:12]) == "AIFC"); err != nil {
				return err
			}
		case "SSND":
			var place [8]byte // offset and block size
			if _, err := io.ReadFull(r, place[:]); err != nil || size < 8 {
				return fail(CodeTruncated, "The AIFF file ends before its sound begins.")
			}
			skip := uint64(binary.BigEndian.Uint32(place[:]))
			if err := f.check(); err != nil {
				return err
			}
			if _, err := io.CopyN(io.Discard, r, int64(skip)); err != nil || size < 8+skip {
				return fail(CodeTruncated, "The AIFF file ends before its sound begins.")
			}
			return f.samples(r, size-8-skip, k)
		default:
			if _, err := io.CopyN(io.Discard, r, int64(size+size&1)); err != nil {
				return fail(CodeTruncated, "The AIFF file ends before its sound begins.")
			}
		}
	}
}

// common reads the body of a COMM chunk.
func (f *waveFormat) common(body []byte, compressed bool) error {
	f.channels, f.bits = binary.BigEndian.Uint16(body), binary.BigEndian.Uint16(body[6:])
	f.tag, f.big = wavePCM, true
	f.bits = (f.bits + 7) / 8 * 8 // odd widths are left-justified in whole bytes
	rate := extended(body[8:18])
	if !(rate >= 0 && rate < math.MaxUint32) {
		return fail(CodeUnusable, "The AIFF file's sample rate is impossible, so it cannot be played.")
	}
	f.rate = uint32(math.Round(rate))
	f.signed8 = true
	if !compressed || len(body) < 22 {
		return nil
	}
	switch kind := string(body[18:22]); kind {
	case "NONE", "twos", "in24", "in32":
	case "sowt":
		f.big = false
	case "fl32", "FL32":
		f.tag, f.bits = waveFloat, 32
	case "fl64", "FL64":
		f.tag, f.bits = waveFloat, 64
	default:
		return fail(CodeUnusable, "The AIFF file is compressed as %q, which cannot be read. Save it as PCM or float.", kind)
	}
	return nil
}

// extended is an 80-bit float of IEEE 754, big endian.
func extended(b []byte) float64 {
	exponent := int(binary.BigEndian.Uint16(b)&0x7fff) - 16383 - 63
	v := math.Ldexp(float64(binary.BigEndian.Uint64(b[2:])), exponent)
	if b[0]&0x80 != 0 {
		return -v
	}
	return v
}
