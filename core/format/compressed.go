package format

import (
	"bufio"
	"errors"
	"io"

	"github.com/hajimehoshi/go-mp3"
	"github.com/mewkiz/flac"
)

// readFLAC decodes with mewkiz/flac. A panic inside the library, which
// hostile files can cause, becomes an error.
func readFLAC(r io.Reader, k *keeper) (err error) {
	defer func() {
		if recover() != nil {
			err = fail(CodeDamaged, "The FLAC file is damaged.")
		}
	}()
	stream, err := flac.New(r)
	if err != nil {
		return fail(CodeDamaged, "The FLAC file's header is damaged.")
	}
	info := stream.Info
	if info.SampleRate == 0 || info.NChannels == 0 || info.BitsPerSample == 0 {
		return fail(CodeUnusable, "The FLAC file says it has %d samples a second and %d channels, so it cannot be played.", info.SampleRate, info.NChannels)
	}
	k.start(int(info.SampleRate), int(info.NChannels), gap{}, info.NSamples)
	block := make([][]float32, info.NChannels)
	scale := 1 / float64(uint64(1)<<(info.BitsPerSample-1))
	for {
		frame, err := stream.ParseNext()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return fail(CodeTruncated, "The FLAC file is damaged or cut short after %.1f seconds.", float64(k.seen)/float64(info.SampleRate))
		}
		if len(frame.Subframes) != len(block) {
			return fail(CodeDamaged, "The FLAC file is damaged: its number of channels changes.")
		}
		for c, sub := range frame.Subframes {
			block[c] = block[c][:0]
			for _, v := range sub.Samples {
				block[c] = append(block[c], float32(float64(v)*scale))
			}
		}
		if err := k.put(block); err != nil {
			return err
		}
	}
	if info.NSamples > 0 && uint64(k.seen) < info.NSamples {
		return fail(CodeTruncated, "The FLAC file is cut short: %d of %d samples are there.", k.seen, info.NSamples)
	}
	return nil
}

// readMP3 decodes with hajimehoshi/go-mp3, which always gives two channels,
// and leaves out what the encoder added before and after the sound.
// A panic inside the library becomes an error.
func readMP3(r io.Reader, k *keeper) (err error) {
	defer func() {
		if recover() != nil {
			err = fail(CodeDamaged, "The MP3 file is damaged.")
		}
	}()
	in := bufio.NewReaderSize(r, 1<<16)
	added, err := readGap(in)
	if err != nil {
		return fail(CodeTruncated, "The MP3 file is cut short.")
	}
	d, err := mp3.NewDecoder(in)
	if err != nil {
		return fail(CodeDamaged, "The MP3 file holds no readable sound.")
	}
	k.start(d.SampleRate(), 2, added, uint64(added.length))
	raw, block := make([]byte, 1<<16), make([][]float32, 2)
	for {
		n, err := io.ReadFull(d, raw)
		block[0], block[1] = block[0][:0], block[1][:0]
		for i := 0; i+4 <= n; i += 4 {
			block[0] = append(block[0], float32(int16(uint16(raw[i])|uint16(raw[i+1])<<8))/(1<<15))
			block[1] = append(block[1], float32(int16(uint16(raw[i+2])|uint16(raw[i+3])<<8))/(1<<15))
		}
		if err := k.put(block); err != nil {
			return err
		}
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			return nil
		}
		if err != nil {
			return fail(CodeDamaged, "The MP3 file is damaged after %.1f seconds.", float64(k.seen)/float64(d.SampleRate()))
		}
	}
}
