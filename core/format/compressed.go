package format

import (
	"bufio"
	"errors"
	"io"

	"github.com/hajimehoshi/go-mp3"
	"github.com/mewkiz/flac"

	"jubrak/core/audio"
)

// readFLAC decodes with mewkiz/flac. A panic inside the library, which
// hostile files can cause, becomes an error.
func readFLAC(r io.Reader) (b *audio.Buffer, err error) {
	defer func() {
		if recover() != nil {
			b, err = nil, fail(CodeDamaged, "The FLAC file is damaged.")
		}
	}()
	stream, err := flac.New(r)
	if err != nil {
		return nil, fail(CodeDamaged, "The FLAC file's header is damaged.")
	}
	info := stream.Info
	if info.SampleRate == 0 || info.NChannels == 0 || info.BitsPerSample == 0 {
		return nil, fail(CodeUnusable, "The FLAC file says it has %d samples a second and %d channels, so it cannot be played.", info.SampleRate, info.NChannels)
	}
	b = &audio.Buffer{Rate: int(info.SampleRate), Channels: make([][]float32, info.NChannels)}
	scale := 1 / float64(uint64(1)<<(info.BitsPerSample-1))
	for {
		frame, err := stream.ParseNext()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, fail(CodeTruncated, "The FLAC file is damaged or cut short after %.1f seconds.", b.Seconds())
		}
		if len(frame.Subframes) != len(b.Channels) {
			return nil, fail(CodeDamaged, "The FLAC file is damaged: its number of channels changes.")
		}
		if (b.Frames()+int(frame.BlockSize))*len(b.Channels) > MaxSamples {
			return nil, fail(CodeTooLong, "The sound is too long: at most %d minutes of stereo at 48 kHz can be read.", MaxSamples/2/48000/60)
		}
		for c, sub := range frame.Subframes {
			for _, v := range sub.Samples {
				b.Channels[c] = append(b.Channels[c], float32(float64(v)*scale))
			}
		}
	}
	if info.NSamples > 0 && uint64(b.Frames()) < info.NSamples {
		return nil, fail(CodeTruncated, "The FLAC file is cut short: %d of %d samples are there.", b.Frames(), info.NSamples)
	}
	return b, nil
}

// readMP3 decodes with hajimehoshi/go-mp3, which always gives two channels,
// and leaves out what the encoder added before and after the sound.
// A panic inside the library becomes an error.
func readMP3(r io.Reader) (b *audio.Buffer, err error) {
	defer func() {
		if recover() != nil {
			b, err = nil, fail(CodeDamaged, "The MP3 file is damaged.")
		}
	}()
	in := bufio.NewReaderSize(r, 1<<16)
	added, err := readGap(in)
	if err != nil {
		return nil, fail(CodeTruncated, "The MP3 file is cut short.")
	}
	d, err := mp3.NewDecoder(in)
	if err != nil {
		return nil, fail(CodeDamaged, "The MP3 file holds no readable sound.")
	}
	b = &audio.Buffer{Rate: d.SampleRate(), Channels: make([][]float32, 2)}
	block := make([]byte, 1<<16)
	for {
		n, err := io.ReadFull(d, block)
		for i := 0; i+4 <= n; i += 4 {
			b.Channels[0] = append(b.Channels[0], float32(int16(uint16(block[i])|uint16(block[i+1])<<8))/(1<<15))
			b.Channels[1] = append(b.Channels[1], float32(int16(uint16(block[i+2])|uint16(block[i+3])<<8))/(1<<15))
		}
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			for c := range b.Channels {
				b.Channels[c] = added.trim(b.Channels[c])
			}
			return b, nil
		}
		if err != nil {
			return nil, fail(CodeDamaged, "The MP3 file is damaged after %.1f seconds.", b.Seconds())
		}
		if b.Frames()*2 > MaxSamples {
			return nil, fail(CodeTooLong, "The sound is too long: at most %d minutes of stereo at 48 kHz can be read.", MaxSamples/2/48000/60)
		}
	}
}
