// Package format reads and writes open file formats over io: WAV, AIFF, FLAC, MP3,
// Standard MIDI Files and the project archive.
package format

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"math"

	"jubrak/core/audio"
)

// MaxSamples bounds what a decoder may return, all channels together: 256 MB
// of memory, about 11 minutes of stereo at 48 kHz.
const MaxSamples = 64 << 20

// workRate is the rate, Hz, that recordings are brought to; one of a lower rate
// grows by that, and MaxSamples holds for what comes of it.
const workRate = 48000

const lowestRate = 4000

// longestOf is how many frames of a rate and number of channels may be kept.
func longestOf(rate, channels int) int64 {
	return int64(float64(MaxSamples/max(channels, 1)) * min(float64(max(rate, lowestRate))/workRate, 1))
}

// Error is a file that cannot be read: a code for programs and a sentence
// for people.
type Error struct {
	Code    string
	Message string
}

// Error is the sentence for people.
func (e *Error) Error() string { return e.Message }

// Partial reports whether the file breaks off or breaks somewhere: what lies before
// may be whole.
func (e *Error) Partial() bool { return e.Code == CodeDamaged || e.Code == CodeTruncated }

func fail(code, message string, args ...any) error {
	return &Error{Code: code, Message: fmt.Sprintf(message, args...)}
}

// Codes of Error.
const (
	CodeEmpty     = "file_empty"
	CodeUnknown   = "file_unknown"
	CodeDamaged   = "file_damaged"
	CodeTooLong   = "file_too_long"
	CodeUnusable  = "file_unusable"
	CodeTruncated = "file_truncated"
)

// Kind is a file format recognised by its first bytes.
type Kind string

// The kinds of file that can be brought in.
const (
	WAV     Kind = "wav"
	AIFF    Kind = "aiff"
	FLAC    Kind = "flac"
	MP3     Kind = "mp3"
	MIDI    Kind = "midi"
	Archive Kind = "archive" // a zip, as project archives are
	Unknown Kind = ""
)

// Sniff recognises a file by its content, never by its name.
func Sniff(head []byte) Kind {
	switch {
	case len(head) >= 12 && (string(head[:4]) == "RIFF" || string(head[:4]) == "RF64") && string(head[8:12]) == "WAVE":
		return WAV
	case len(head) >= 12 && string(head[:4]) == "FORM" && (string(head[8:12]) == "AIFF" || string(head[8:12]) == "AIFC"):
		return AIFF
	case bytes.HasPrefix(head, []byte("fLaC")):
		return FLAC
	case bytes.HasPrefix(head, []byte("MThd")):
		return MIDI
	case bytes.HasPrefix(head, []byte("PK\x03\x04")):
		return Archive
	case bytes.HasPrefix(head, []byte("ID3")):
		return MP3
	case len(head) >= 2 && head[0] == 0xFF && head[1]&0xE0 == 0xE0 && head[1]&0x06 == 0x02:
		return MP3
	}
	return Unknown
}

// Decode reads WAV, AIFF, FLAC or MP3 into memory, at its own sample rate. Every
// refusal is an *Error.
func Decode(data []byte) (*audio.Buffer, error) {
	return DecodeWatched(data, func(float64) error { return nil })
}

// DecodeWatched is Decode for long files: watch is reported how far reading has
// come, 0..1, and stops it by an error, which is then returned.
func DecodeWatched(data []byte, watch func(done float64) error) (*audio.Buffer, error) {
	k := &keeper{}
	if err := decode(data, k, watch); err != nil {
		return nil, err
	}
	return k.b, check(k.b)
}

func decode(data []byte, k *keeper, watch func(done float64) error) error {
	if len(data) == 0 {
		return fail(CodeEmpty, "The file is empty.")
	}
	r := &watched{data: bytes.NewReader(data), watch: watch}
	k.size = len(data)
	var err error
	switch Sniff(data) {
	case WAV:
		err = readWAV(r, k)
	case AIFF:
		err = readAIFF(r, k)
	case FLAC:
		err = readFLAC(data, k, r.report)
	case MP3:
		err = readMP3(data, k, r.report)
	default:
		return NotSound()
	}
	if r.stopped != nil {
		return r.stopped
	}
	if errors.Is(err, errEnough) {
		return nil
	}
	return err
}

// NotSound is the error of a file that is of no kind that can be read as sound.
func NotSound() error {
	return fail(CodeUnknown, "This is not a sound file that can be read: its content is not WAV, AIFF, FLAC or MP3, whatever its name says.")
}

// watched is a reader that returns how far it has come and can be stopped.
type watched struct {
	data    *bytes.Reader
	watch   func(float64) error
	stopped error
}

func (w *watched) Read(p []byte) (int, error) {
	if err := w.report(1 - float64(w.data.Len())/float64(w.data.Size())); err != nil {
		return 0, err
	}
	return w.data.Read(p)
}

// report passes on how far reading has come, until it is stopped.
func (w *watched) report(done float64) error {
	if w.stopped == nil {
		w.stopped = w.watch(done)
	}
	return w.stopped
}

// check refuses what no later stage could use.
func check(b *audio.Buffer) error {
	if b.Rate < lowestRate || b.Rate > 768000 {
		return fail(CodeUnusable, "The file says it has %d samples a second; 4,000 to 768,000 can be used.", b.Rate)
	}
	if b.Frames() == 0 {
		return fail(CodeEmpty, "The file holds no sound: its length is zero.")
	}
	for c, ch := range b.Channels {
		for i, v := range ch {
			if x := float64(v); math.IsNaN(x) || math.IsInf(x, 0) {
				return fail(CodeDamaged, "Sample %d of channel %d is not a number, so the file cannot be trusted. Export it again from where it came.", i, c+1)
			}
		}
	}
	return nil
}

// readAll reads at most limit bytes and says when there is more.
func readAll(r io.Reader, limit int64) ([]byte, error) {
	data, err := io.ReadAll(io.LimitReader(r, limit+1))
	if err == nil && int64(len(data)) > limit {
		return nil, fail(CodeTooLong, "The file is larger than %d MB.", limit>>20)
	}
	return data, err
}
