package format

/*
#cgo LDFLAGS: -lFLAC
#include <stdlib.h>
#include <string.h>
#include <FLAC/stream_decoder.h>

// A file in memory, and the block of it that was decoded last: channel after
// channel, room samples for each.
typedef struct {
	const unsigned char *data;
	size_t size, at;
	FLAC__StreamDecoder *decoder;
	unsigned rate, channels, bits;
	FLAC__uint64 total; // samples a channel, 0 where the file does not say
	float *block;
	unsigned frames, room;
	int broken, seeking;
} flac_file;

static FLAC__StreamDecoderReadStatus flac_read(const FLAC__StreamDecoder *d, FLAC__byte to[], size_t *bytes, void *handle) {
	flac_file *f = handle;
	if (*bytes > f->size - f->at) *bytes = f->size - f->at;
	memcpy(to, f->data + f->at, *bytes);
	f->at += *bytes;
	return *bytes ? FLAC__STREAM_DECODER_READ_STATUS_CONTINUE : FLAC__STREAM_DECODER_READ_STATUS_END_OF_STREAM;
}

static FLAC__StreamDecoderSeekStatus flac_seek(const FLAC__StreamDecoder *d, FLAC__uint64 to, void *handle) {
	flac_file *f = handle;
	if (to > f->size) return FLAC__STREAM_DECODER_SEEK_STATUS_ERROR;
	f->at = to;
	return FLAC__STREAM_DECODER_SEEK_STATUS_OK;
}

static FLAC__StreamDecoderTellStatus flac_tell(const FLAC__StreamDecoder *d, FLAC__uint64 *at, void *handle) {
	*at = ((flac_file *)handle)->at;
	return FLAC__STREAM_DECODER_TELL_STATUS_OK;
}

static FLAC__StreamDecoderLengthStatus flac_length(const FLAC__StreamDecoder *d, FLAC__uint64 *size, void *handle) {
	*size = ((flac_file *)handle)->size;
	return FLAC__STREAM_DECODER_LENGTH_STATUS_OK;
}

static FLAC__bool flac_end(const FLAC__StreamDecoder *d, void *handle) {
	flac_file *f = handle;
	return f->at == f->size;
}

static FLAC__StreamDecoderWriteStatus flac_write(const FLAC__StreamDecoder *d, const FLAC__Frame *frame, const FLAC__int32 *const sound[], void *handle) {
	flac_file *f = handle;
	const FLAC__FrameHeader *h = &frame->header;
	if (h->channels != f->channels || h->bits_per_sample != f->bits || h->sample_rate != f->rate) f->broken = 1;
	if (f->broken) return FLAC__STREAM_DECODER_WRITE_STATUS_ABORT;
	if (h->blocksize > f->room) {
		float *more = realloc(f->block, sizeof(float) * h->blocksize * f->channels);
		if (!more) return FLAC__STREAM_DECODER_WRITE_STATUS_ABORT;
		f->block = more;
		f->room = h->blocksize;
	}
	const double scale = 1.0 / (double)((FLAC__uint64)1 << (f->bits - 1));
	for (unsigned c = 0; c < f->channels; c++)
		for (unsigned i = 0; i < h->blocksize; i++)
			f->block[c * f->room + i] = (float)(sound[c][i] * scale);
	f->frames = h->blocksize;
	return FLAC__STREAM_DECODER_WRITE_STATUS_CONTINUE;
}

static void flac_told(const FLAC__StreamDecoder *d, const FLAC__StreamMetadata *m, void *handle) {
	flac_file *f = handle;
	if (m->type != FLAC__METADATA_TYPE_STREAMINFO) return;
	f->rate = m->data.stream_info.sample_rate;
	f->channels = m->data.stream_info.channels;
	f->bits = m->data.stream_info.bits_per_sample;
	f->total = m->data.stream_info.total_samples;
}

// Where a place is searched for, what is met in the middle of a frame is no
// damage.
static void flac_error(const FLAC__StreamDecoder *d, FLAC__StreamDecoderErrorStatus status, void *handle) {
	flac_file *f = handle;
	if (!f->seeking) f->broken = 1;
}

static void flac_close(flac_file *f) {
	if (f->decoder) FLAC__stream_decoder_delete(f->decoder);
	free(f->block);
	free(f);
}

// flac_open reads what the file returns of itself; NULL where it cannot.
static flac_file *flac_open(const unsigned char *data, size_t size) {
	flac_file *f = calloc(1, sizeof *f);
	if (!f) return NULL;
	f->data = data;
	f->size = size;
	f->decoder = FLAC__stream_decoder_new();
	if (!f->decoder ||
		FLAC__stream_decoder_init_stream(f->decoder, flac_read, flac_seek, flac_tell, flac_length, flac_end, flac_write, flac_told, flac_error, f) != FLAC__STREAM_DECODER_INIT_STATUS_OK ||
		!FLAC__stream_decoder_process_until_end_of_metadata(f->decoder) || f->broken) {
		flac_close(f);
		return NULL;
	}
	return f;
}

// flac_next decodes the next block; 0 at the end of the file or of what is whole.
static int flac_next(flac_file *f) {
	f->frames = 0;
	while (!f->frames) {
		if (!FLAC__stream_decoder_process_single(f->decoder) || f->broken) return 0;
		if (FLAC__stream_decoder_get_state(f->decoder) == FLAC__STREAM_DECODER_END_OF_STREAM) return f->frames > 0;
	}
	return 1;
}

// flac_go goes to a sample; the block from there on is decoded then.
static int flac_go(flac_file *f, FLAC__uint64 sample) {
	f->seeking = 1;
	f->frames = 0;
	int found = FLAC__stream_decoder_seek_absolute(f->decoder, sample) && f->frames > 0 && !f->broken;
	f->seeking = 0;
	return found;
}
*/
import "C"

import (
	"runtime"
	"unsafe"
)

// libFLAC decodes a FLAC file in memory with the library of that name.
type libFLAC struct {
	file           *C.flac_file
	pin            runtime.Pinner
	rate, channels int
	bits           int
	frames         int64 // of the whole file, 0 where it does not say
	block          [][]float32
}

func openFLAC(data []byte) (*libFLAC, error) {
	f := &libFLAC{}
	f.pin.Pin(&data[0])
	if f.file = C.flac_open((*C.uchar)(&data[0]), C.size_t(len(data))); f.file == nil {
		f.pin.Unpin()
		return nil, fail(CodeDamaged, "The FLAC file's header is damaged.")
	}
	f.rate, f.channels, f.bits, f.frames = int(f.file.rate), int(f.file.channels), int(f.file.bits), int64(f.file.total)
	f.block = make([][]float32, f.channels)
	return f, nil
}

func (f *libFLAC) close() {
	if f != nil {
		C.flac_close(f.file)
		f.pin.Unpin()
	}
}

// next decodes the next block. It is good until the next call, and false at the
// end or before damage.
func (f *libFLAC) next() ([][]float32, bool) {
	if C.flac_next(f.file) == 0 {
		return nil, false
	}
	return f.decoded(), true
}

// seek goes to a frame of the sound and decodes the block that begins there.
func (f *libFLAC) seek(frame int64) ([][]float32, bool) {
	if C.flac_go(f.file, C.FLAC__uint64(frame)) == 0 {
		return nil, false
	}
	return f.decoded(), true
}

func (f *libFLAC) decoded() [][]float32 {
	room := int(f.file.room)
	all := unsafe.Slice((*float32)(f.file.block), room*f.channels)
	for c := range f.block {
		f.block[c] = all[c*room : c*room+int(f.file.frames)]
	}
	return f.block
}

// broken reports whether damage ended the reading.
func (f *libFLAC) broken() bool { return f.file.broken != 0 }

// read is the share of the file's bytes that were read, 0..1.
func (f *libFLAC) read() float64 { return float64(f.file.at) / float64(f.file.size) }
