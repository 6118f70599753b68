package format

import (
	"bufio"
	"bytes"
	"errors"
	"io"
	"runtime"
	"sync"

	"github.com/hajimehoshi/go-mp3"
)

// mp3File is an MP3 that is decoded in pieces, on all cores at once: to decode
// one takes about as long as to listen to it. What comes before the part that
// is kept need not be decoded.
type mp3File struct {
	data     []byte
	rate     int
	frames   int64 // of sound, with what the encoder added
	decoders []*mp3.Decoder
}

const (
	pieceSeconds = 20
	mostAtOnce   = 8 // pieces, of about 10 MB each while they are decoded
	bytesAFrame  = 4 // as the library gives it: 16 bits, always two channels
)

// readMP3 decodes with hajimehoshi/go-mp3 and leaves out what the encoder added
// before and after the sound. tell is told how far it has come, 0..1, and can
// stop it.
func readMP3(data []byte, k *keeper, tell func(float64) error) error {
	added, err := readGap(bufio.NewReaderSize(bytes.NewReader(data), 1<<16))
	if err != nil {
		return fail(CodeTruncated, "The MP3 file is cut short.")
	}
	f := &mp3File{data: data}
	if err := f.open(); err != nil {
		return fail(CodeDamaged, "The MP3 file holds no readable sound.")
	}
	k.start(f.rate, 2, added, uint64(added.length))
	length := int64(pieceSeconds * f.rate)
	for at := int64(0); at < f.frames; {
		if n := min(length, f.frames-at); k.past(n) {
			k.skip(n)
			at += n
			continue
		}
		for _, p := range f.decode(at, length) {
			if err := k.put(p.sound[:]); err != nil {
				return err
			}
			if p.err != nil {
				return fail(CodeDamaged, "The MP3 file is damaged after %.1f seconds.", float64(k.seen)/float64(f.rate))
			}
			at += int64(len(p.sound[0]))
			if err := tell(float64(at) / float64(f.frames)); err != nil {
				return err
			}
			if p.last {
				return nil
			}
		}
	}
	return nil
}

// open finds the frames of the file. A panic inside the library becomes an
// error, here and in decoding.
func (f *mp3File) open() (err error) {
	defer recovered(&err)
	d, err := mp3.NewDecoder(bytes.NewReader(f.data))
	if err != nil {
		return err
	}
	f.decoders = append(f.decoders, d)
	f.rate, f.frames = d.SampleRate(), d.Length()/bytesAFrame
	return nil
}

// piece is some of the sound.
type piece struct {
	sound [2][]float32
	last  bool  // the file ends here, whatever it promised
	err   error // what came after the sound
}

// decode gives the next pieces of a length, as many as there are cores, within bounds.
func (f *mp3File) decode(at, length int64) []piece {
	count := min(int((f.frames-at+length-1)/length), runtime.GOMAXPROCS(0), mostAtOnce)
	pieces := make([]piece, count)
	var group sync.WaitGroup
	for i := range pieces {
		if i == len(f.decoders) {
			if err := f.open(); err != nil {
				return append(pieces[:i], piece{err: err})
			}
		}
		group.Go(func() {
			from := at + int64(i)*length
			pieces[i] = f.piece(f.decoders[i], from, min(length, f.frames-from))
		})
	}
	group.Wait()
	return pieces
}

// warmUps are how many seconds before a piece decoding begins: a frame may need
// up to 511 bytes of those before it, and what is decoded without them can look
// damaged, so that it is tried again from elsewhere.
var warmUps = [...]float64{0.6, 0.7, 0.9, 1.3, 2}

// piece decodes n frames from one on.
func (f *mp3File) piece(d *mp3.Decoder, from, n int64) (p piece) {
	for _, before := range warmUps {
		lead := min(int64(before*float64(f.rate)), from)
		if p.sound, p.err = read(d, from-lead, lead, n); p.err == nil || len(p.sound[0]) > 0 || lead == from {
			break
		}
	}
	p.last = int64(len(p.sound[0])) < n
	return p
}

// read gives n frames of sound after a lead that is thrown away, or fewer where
// the file ends or, with an error, is damaged.
func read(d *mp3.Decoder, from, lead, n int64) (sound [2][]float32, err error) {
	defer recovered(&err)
	if _, err := d.Seek(from*bytesAFrame, io.SeekStart); err != nil {
		return sound, err
	}
	if _, err := io.CopyN(io.Discard, d, lead*bytesAFrame); err != nil {
		return sound, err
	}
	raw := make([]byte, n*bytesAFrame)
	got, err := io.ReadFull(d, raw)
	if err == io.EOF || err == io.ErrUnexpectedEOF {
		err = nil
	}
	for c := range sound {
		sound[c] = make([]float32, got/bytesAFrame)
		for i := range sound[c] {
			at := i*bytesAFrame + 2*c
			sound[c][i] = float32(int16(uint16(raw[at])|uint16(raw[at+1])<<8)) / (1 << 15)
		}
	}
	return sound, err
}

// recovered makes an error of a panic.
func recovered(err *error) {
	if recover() != nil {
		*err = errors.New("the library gave up")
	}
}
