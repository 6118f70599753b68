package format

import (
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"

	"jubrak/core/audio"
)

// SampleFormat is how samples are written to a file.
type SampleFormat string

// The sample formats of WAV files.
const (
	WAV16  SampleFormat = "wav16"
	WAV24  SampleFormat = "wav24"
	WAV32F SampleFormat = "wav32f"
)

// Known reports whether f can be written.
func (f SampleFormat) Known() bool { return f == WAV16 || f == WAV24 || f == WAV32F }

const (
	wavePCM        = 1
	waveFloat      = 3
	waveExtensible = 0xFFFE
)

// waveFormat is how the samples of a WAV or AIFF file are written.
type waveFormat struct {
	name                string // of the file format, for messages
	tag, channels, bits uint16
	rate                uint32
	big, signed8        bool // byte order; whether 8 bits are signed
}

// ReadWAV reads a RIFF/WAVE or RF64 file (Multimedia Programming Interface
// and Data Specifications 1.0, 1991; EBU Tech 3306): PCM of 8, 16, 24 or 32
// bits and float of 32 or 64, plain or extensible, chunks padded to even
// length. Memory follows the bytes that are there, not what the header says.
// A data chunk that ends early is refused as truncated.
func ReadWAV(r io.Reader) (*audio.Buffer, error) {
	k := &keeper{}
	if err := readWAV(r, k); err != nil {
		return nil, err
	}
	return k.b, nil
}

func readWAV(r io.Reader, k *keeper) error {
	var head [12]byte
	if _, err := io.ReadFull(r, head[:]); err != nil {
		return fail(CodeTruncated, "The WAV file ends inside its header.")
	}
	f := waveFormat{name: "WAV"}
	var long uint64 // the data size of an RF64 file
	for {
		var chunk [8]byte
		if _, err := io.ReadFull(r, chunk[:]); err != nil {
			return fail(CodeTruncated, "The WAV file ends before its sound begins.")
		}
		size := uint64(binary.LittleEndian.Uint32(chunk[4:]))
		switch string(chunk[:4]) {
		case "ds64":
			body, err := chunkBody(r, size, 28, f.name)
			if err != nil {
				return err
			}
			long = binary.LittleEndian.Uint64(body[8:])
		case "fmt ":
			body, err := chunkBody(r, size, 16, f.name)
			if err != nil {
				return err
			}
			f.parse(body)
		case "data":
			if err := f.check(); err != nil {
				return err
			}
			if size == math.MaxUint32 && long > 0 {
				size = long
			}
			return f.samples(r, size, k)
		default:
			if _, err := io.CopyN(io.Discard, r, int64(size+size&1)); err != nil {
				return fail(CodeTruncated, "The WAV file ends before its sound begins.")
			}
		}
	}
}

func chunkBody(r io.Reader, size uint64, least int, name string) ([]byte, error) {
	if size < uint64(least) || size > 1<<16 {
		return nil, fail(CodeDamaged, "The %s file's header is damaged: a chunk has an impossible size.", name)
	}
	body := make([]byte, size+size&1)
	if _, err := io.ReadFull(r, body); err != nil {
		return nil, fail(CodeTruncated, "The %s file ends inside its header.", name)
	}
	return body, nil
}

// parse reads the body of a WAV file's fmt chunk.
func (f *waveFormat) parse(body []byte) {
	f.tag, f.channels = binary.LittleEndian.Uint16(body), binary.LittleEndian.Uint16(body[2:])
	f.rate, f.bits = binary.LittleEndian.Uint32(body[4:]), binary.LittleEndian.Uint16(body[14:])
	if f.tag == waveExtensible && len(body) >= 40 && string(body[26:40]) == subFormatTail {
		f.tag = binary.LittleEndian.Uint16(body[24:]) // first two bytes of the sub-format
	}
}

// subFormatTail ends the GUID of every sub-format that is a plain format tag
// (KSDATAFORMAT_SUBTYPE_WAVEFORMATEX: 0000xxxx-0000-0010-8000-00AA00389B71); any
// other names a codec of its own.
const subFormatTail = "\x00\x00\x00\x00\x10\x00\x80\x00\x00\xAA\x00\x38\x9B\x71"

func (f *waveFormat) check() error {
	switch {
	case f.rate == 0 && f.channels == 0:
		return fail(CodeDamaged, "The %s file has sound before it says what kind of sound.", f.name)
	case f.rate == 0:
		return fail(CodeUnusable, "The %s file says it has 0 samples a second, so it cannot be played.", f.name)
	case f.channels == 0 || f.channels > 16:
		return fail(CodeUnusable, "The %s file says it has %d channels; 1 to 16 can be read.", f.name, f.channels)
	case f.tag == wavePCM && (f.bits == 8 || f.bits == 16 || f.bits == 24 || f.bits == 32):
		return nil
	case f.tag == waveFloat && (f.bits == 32 || f.bits == 64):
		return nil
	}
	return fail(CodeUnusable, "The %s file is compressed or of a rare kind (format %d, %d bits). Save it as PCM or float.", f.name, f.tag, f.bits)
}

// samples reads size bytes, block by block, so that a header that promises
// more than there is costs nothing.
func (f *waveFormat) samples(r io.Reader, size uint64, k *keeper) error {
	width := int(f.bits) / 8
	frame := width * int(f.channels)
	there := size
	if k.size > 0 {
		there = min(size, uint64(k.size)) // a header may promise more
	}
	k.start(int(f.rate), int(f.channels), there/uint64(frame))
	streamed := size == 0 || size == math.MaxUint32 // written by a program that could not seek back
	raw, block := make([]byte, frame*8192), make([][]float32, f.channels)
	var read uint64
	for streamed || read < size {
		want := len(raw)
		if left := size - read; !streamed && left < uint64(want) {
			want = int(left)
		}
		n, err := io.ReadFull(r, raw[:want])
		whole := n / frame * frame
		for at := 0; f.big && at < whole; at += width {
			slices.Reverse(raw[at : at+width])
		}
		for c := range block {
			block[c] = block[c][:0]
			for at := c * width; at < whole; at += frame {
				block[c] = append(block[c], f.sample(raw[at:]))
			}
		}
		if err := k.put(block); err != nil {
			return err
		}
		read += uint64(n)
		if err != nil {
			if streamed && (errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF)) {
				break
			}
			return fail(CodeTruncated, "The %s file is cut short: %d of %d bytes of sound are there.", f.name, read, size)
		}
	}
	return nil
}

func (f *waveFormat) sample(p []byte) float32 {
	switch {
	case f.tag == waveFloat && f.bits == 32:
		return math.Float32frombits(binary.LittleEndian.Uint32(p))
	case f.tag == waveFloat:
		return float32(math.Float64frombits(binary.LittleEndian.Uint64(p)))
	case f.bits == 8 && f.signed8:
		return float32(int8(p[0])) / 128
	case f.bits == 8:
		return (float32(p[0]) - 128) / 128
	case f.bits == 16:
		return float32(int16(binary.LittleEndian.Uint16(p))) / (1 << 15)
	case f.bits == 24:
		return float32(int32(uint32(p[0])<<8|uint32(p[1])<<16|uint32(p[2])<<24)>>8) / (1 << 23)
	}
	return float32(float64(int32(binary.LittleEndian.Uint32(p))) / (1 << 31))
}

// WriteWAV writes the buffer as a RIFF/WAVE file. 16 and 24 bits are rounded
// and clipped at full scale; float is written as it is. Float files carry
// the longer format chunk and the fact chunk that the standard asks for.
func WriteWAV(w io.Writer, b *audio.Buffer, f SampleFormat) error {
	at := 0
	return WriteWAVFrom(w, b.Rate, len(b.Channels), b.Frames(), f, func() ([][]float32, error) {
		from, to := at, min(at+4096, b.Frames())
		at = to
		return b.Slice(from, to).Channels, nil
	})
}

// WriteWAVFrom is WriteWAV for a sound that comes block by block: next gives blocks,
// channel by channel, of frames in all.
func WriteWAVFrom(w io.Writer, rate, channels, frames int, f SampleFormat, next func() ([][]float32, error)) error {
	head, size := wavHead(rate, channels, frames, f)
	if _, err := w.Write(head); err != nil {
		return err
	}
	out := make([]byte, 0, 1<<16)
	for left := frames; left > 0; {
		block, err := next()
		if err != nil {
			return err
		}
		n := min(len(block[0]), left)
		if n == 0 {
			return fmt.Errorf("the sound ended %d frames early", left)
		}
		for i := range n {
			for _, ch := range block {
				out = appendSample(out, ch[i], f)
			}
		}
		if _, err := w.Write(out); err != nil {
			return err
		}
		out, left = out[:0], left-n
	}
	if size&1 == 1 {
		_, err := w.Write([]byte{0})
		return err
	}
	return nil
}

// wavHead is what comes before the samples of a file, and their size in bytes.
func wavHead(rate, channels, frames int, f SampleFormat) (head []byte, size int) {
	bits, tag := 16, uint16(wavePCM)
	switch f {
	case WAV24:
		bits = 24
	case WAV32F:
		bits, tag = 32, waveFloat
	}
	width := bits / 8
	size = frames * channels * width
	padded := size + size&1
	head = make([]byte, 0, 64)
	le := binary.LittleEndian
	extra := 0
	if tag == waveFloat {
		extra = 14
	}
	head = append(head, "RIFF"...)
	head = le.AppendUint32(head, uint32(4+24+extra+8+padded))
	head = append(head, "WAVEfmt "...)
	if tag == waveFloat {
		head = le.AppendUint32(head, 18)
	} else {
		head = le.AppendUint32(head, 16)
	}
	head = le.AppendUint16(head, tag)
	head = le.AppendUint16(head, uint16(channels))
	head = le.AppendUint32(head, uint32(rate))
	head = le.AppendUint32(head, uint32(rate*channels*width))
	head = le.AppendUint16(head, uint16(channels*width))
	head = le.AppendUint16(head, uint16(bits))
	if tag == waveFloat {
		head = le.AppendUint16(head, 0) // no extension
		head = append(head, "fact"...)
		head = le.AppendUint32(head, 4)
		head = le.AppendUint32(head, uint32(frames))
	}
	head = append(head, "data"...)
	head = le.AppendUint32(head, uint32(size))
	return head, size
}

func appendSample(p []byte, v float32, f SampleFormat) []byte {
	switch f {
	case WAV32F:
		return binary.LittleEndian.AppendUint32(p, math.Float32bits(v))
	case WAV24:
		x := quantize(v, 1<<23)
		return append(p, byte(x), byte(x>>8), byte(x>>16))
	}
	return binary.LittleEndian.AppendUint16(p, uint16(quantize(v, 1<<15)))
}

func quantize(v float32, scale float64) int32 {
	return int32(math.Min(math.Max(math.Round(float64(v)*scale), -scale), scale-1))
}
