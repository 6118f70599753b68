package format

import (
	"bufio"
	"encoding/binary"
	"io"
)

// gap is what an encoder added to an MP3: frames of sound before the first
// sample of the original, and how many the original has (0: not told).
type gap struct{ before, length int }

// readGap looks for the information frame that encoders put first ("Xing" or
// "Info", with the delay and padding that LAME and others write behind it). It
// skips an ID3v2 tag and leaves the reader at the first frame. Decoders add 529
// samples of their own.
func readGap(r *bufio.Reader) (gap, error) {
	if head, err := r.Peek(10); err == nil && string(head[:3]) == "ID3" {
		size := int64(head[6]&0x7f)<<21 | int64(head[7]&0x7f)<<14 | int64(head[8]&0x7f)<<7 | int64(head[9]&0x7f)
		if _, err := io.CopyN(io.Discard, r, size+10); err != nil {
			return gap{}, err
		}
	}
	frame, _ := r.Peek(400)
	if len(frame) < 200 || frame[0] != 0xff || frame[1]&0xe0 != 0xe0 {
		return gap{}, nil
	}
	samples, side := 1152, 32
	mono := frame[3]>>6 == 3
	mpeg1 := frame[1]>>3&3 == 3
	switch {
	case mpeg1 && mono:
		side = 17
	case !mpeg1 && mono:
		samples, side = 576, 9
	case !mpeg1:
		samples, side = 576, 17
	}
	info := frame[4+side:]
	if name := string(info[:4]); name != "Xing" && name != "Info" {
		return gap{}, nil
	}
	g := gap{before: samples} // the information frame itself sounds as silence
	flags := binary.BigEndian.Uint32(info[4:])
	at, frames := 8, 0
	for bit, size := range map[uint32]int{1: 4, 2: 4, 4: 100, 8: 4} {
		if flags&bit != 0 {
			at += size
		}
	}
	if flags&1 != 0 {
		frames = int(binary.BigEndian.Uint32(info[8:]))
	}
	if len(info) < at+24 || info[at] == 0 {
		return g, nil
	}
	packed := int(info[at+21])<<16 | int(info[at+22])<<8 | int(info[at+23])
	delay, padding := packed>>12, packed&0xfff
	g.before += delay + 529
	if n := frames*samples - delay - padding; frames > 0 && n > 0 {
		g.length = n
	}
	return g, nil
}
