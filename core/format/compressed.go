package format

import (
	"errors"
	"io"

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
	k.start(int(info.SampleRate), int(info.NChannels), info.NSamples)
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
