package format

/*
#cgo LDFLAGS: -lmpg123
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <mpg123.h>

// A file in memory.
typedef struct { const unsigned char *data; size_t size, at; } memory;

static ssize_t memory_read(void *handle, void *to, size_t count) {
	memory *m = handle;
	size_t left = m->size - m->at;
	if (count > left) count = left;
	memcpy(to, m->data + m->at, count);
	m->at += count;
	return (ssize_t)count;
}

static off_t memory_seek(void *handle, off_t to, int whence) {
	memory *m = handle;
	if (whence == SEEK_CUR) to += (off_t)m->at;
	if (whence == SEEK_END) to += (off_t)m->size;
	if (to < 0 || to > (off_t)m->size) return -1;
	m->at = (size_t)to;
	return to;
}

static mpg123_handle *open_memory(memory *m) {
	const long *rates;
	size_t count, i;
	mpg123_handle *h = mpg123_new(NULL, NULL);
	if (!h) return NULL;
	mpg123_param(h, MPG123_ADD_FLAGS, MPG123_QUIET | MPG123_FORCE_FLOAT, 0);
	// Its own leaving out stops where a file is damaged or put together of several.
	mpg123_param(h, MPG123_REMOVE_FLAGS, MPG123_GAPLESS, 0);
	mpg123_param(h, MPG123_RESYNC_LIMIT, -1, 0);
	// A frame may need up to 511 bytes of those before it.
	mpg123_param(h, MPG123_PREFRAMES, 24, 0);
	mpg123_format_none(h);
	mpg123_rates(&rates, &count);
	for (i = 0; i < count; i++)
		mpg123_format(h, rates[i], MPG123_MONO | MPG123_STEREO, MPG123_ENC_FLOAT_32);
	mpg123_replace_reader_handle(h, memory_read, memory_seek, NULL);
	if (mpg123_open_handle(h, m) != MPG123_OK) {
		mpg123_delete(h);
		return NULL;
	}
	return h;
}

// The shortest frame that a standard bit rate gives, 8 kbit/s at 24 kHz
// (ISO/IEC 13818-3). Free bit rates may be lower still, down to a header and
// nothing else.
enum { shortest_frame = 24 };

// whole_until passes over all frames without decoding them and returns the
// number of the first that does not follow the one before it at once, is of
// another kind or too short to hold sound, or -1.
static long whole_until(mpg123_handle *h) {
	struct mpg123_frameinfo first, info;
	off_t end = 0;
	long n = 0;
	for (;; n++) {
		int got = mpg123_framebyframe_next(h);
		if (got != MPG123_OK && got != MPG123_NEW_FORMAT) return got == MPG123_DONE ? -1 : n;
		if (mpg123_info(h, &info) != MPG123_OK) return n;
		off_t at = mpg123_framepos(h);
		if (info.framesize < shortest_frame) return n;
		if (n == 0)
			first = info;
		else if (at != end || info.rate != first.rate || info.layer != first.layer || (info.mode == MPG123_M_MONO) != (first.mode == MPG123_M_MONO))
			return n;
		end = at + info.framesize;
	}
}
*/
import "C"

import (
	"errors"
	"runtime"
	"unsafe"
)

// mpg123 decodes an MP3 in memory with libmpg123, without what the encoder says
// it added before and after the sound.
type mpg123 struct {
	handle         *C.mpg123_handle
	memory         *C.memory
	pin            runtime.Pinner
	rate, channels int
	lead           int64 // frames that encoder and decoder put before the sound
	frames         int64 // of sound
	// whole is the number of frames of sound before the first damage.
	whole int64
	block []float32
}

var errNoSound = errors.New("no readable sound")

func openMPG123(data []byte) (*mpg123, error) {
	m := &mpg123{memory: (*C.memory)(C.calloc(1, C.sizeof_memory))}
	m.pin.Pin(&data[0])
	m.memory.data, m.memory.size = (*C.uchar)(&data[0]), C.size_t(len(data))
	if m.handle = C.open_memory(m.memory); m.handle == nil {
		m.close()
		return nil, errNoSound
	}
	broken := int64(C.whole_until(m.handle))
	C.mpg123_scan(m.handle)
	var rate C.long
	var channels, encoding C.int
	if C.mpg123_getformat(m.handle, &rate, &channels, &encoding) != C.MPG123_OK || rate <= 0 || channels < 1 || channels > 2 {
		m.close()
		return nil, errNoSound
	}
	m.rate, m.channels = int(rate), int(channels)
	all := int64(C.mpg123_length(m.handle))
	delay, padding := m.state(C.MPG123_ENC_DELAY), m.state(C.MPG123_ENC_PADDING)
	m.lead = decoderDelay
	if delay >= 0 { // else the encoder does not say
		m.lead += delay
		all = min(all, all-max(padding, 0)+decoderDelay)
	}
	m.frames = max(all-m.lead, 0)
	m.whole = m.frames
	if broken >= 0 {
		m.whole = max(min(m.frames, broken*int64(C.mpg123_spf(m.handle))-m.lead), 0)
	}
	if err := m.seek(0); err != nil {
		m.close()
		return nil, err
	}
	return m, nil
}

// decoderDelay is by how many samples a decoder of Layer III is late (as lame,
// whose information frame counts without it, and all common ones have it).
const decoderDelay = 529

// state is a number that the library knows of the file, -1 for none.
func (m *mpg123) state(which uint32) int64 {
	value := C.long(-1)
	if C.mpg123_getstate(m.handle, C.int(which), &value, nil) != C.MPG123_OK {
		return -1
	}
	return int64(value)
}

func (m *mpg123) close() {
	if m.handle != nil {
		C.mpg123_close(m.handle)
		C.mpg123_delete(m.handle)
	}
	C.free(unsafe.Pointer(m.memory))
	m.pin.Unpin()
}

// seek goes to a frame of the sound.
func (m *mpg123) seek(frame int64) error {
	if C.mpg123_seek(m.handle, C.off_t(m.lead+frame), C.SEEK_SET) < 0 {
		return errors.New("cannot be reached")
	}
	return nil
}

// read gives the next frames, channels interleaved, at most as many as asked
// for; none at the end.
func (m *mpg123) read(frames int64) ([]float32, error) {
	if need := int(frames) * m.channels; cap(m.block) < need {
		m.block = make([]float32, need)
	}
	block := m.block[:int(frames)*m.channels]
	var done C.size_t
	for {
		result := C.mpg123_read(m.handle, unsafe.Pointer(&block[0]), C.size_t(len(block)*4), &done)
		switch {
		case done > 0 || result == C.MPG123_DONE:
			return block[:done/4], nil
		case result == C.MPG123_OK || result == C.MPG123_NEW_FORMAT:
			continue
		}
		return nil, errors.New(C.GoString(C.mpg123_strerror(m.handle)))
	}
}
