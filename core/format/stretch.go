package format

import (
	"errors"
	"math"

	"jubrak/core/audio"
)

// Survey is what a long file holds, without its sound in memory.
type Survey struct {
	Seconds  float64 `json:"duration_s"`
	Rate     int     `json:"sample_rate"`
	Channels int     `json:"channels"`
	// Peaks is the greatest level of each Every seconds, linear.
	Peaks []float32 `json:"peaks"`
	Every float64   `json:"every_s"`
	// Damage says why the file can be read only so far; empty where it is whole.
	Damage string `json:"damage"`
}

// Length is how long the kept part of a file may be, seconds.
func (s *Survey) Length() float64 {
	return math.Floor(float64(longestOf(s.Rate, s.Channels)) / float64(s.Rate))
}

const (
	surveyEvery = 0.5      // seconds
	longest     = 8 * 3600 // seconds that are surveyed
	mostPerByte = 32       // samples, all channels; more only from silence
	everything  = 1 << 60  // frames
)

// DecodeStretch is DecodeWatched for a part of a file, in seconds; memory
// follows the part, not the file.
func DecodeStretch(data []byte, from, to float64, watch func(done float64) error) (*audio.Buffer, error) {
	if !(from >= 0 && to > from) {
		return nil, fail(CodeUnusable, "The stretch must begin before it ends.")
	}
	k := &keeper{from: from, to: to}
	if err := decode(data, k, watch); err != nil {
		return nil, err
	}
	if k.b.Frames() == 0 {
		return nil, fail(CodeUnusable, "The stretch lies beyond the end of the file, which is %.1f seconds long.", float64(k.seen)/float64(k.b.Rate))
	}
	return k.b, check(k.b)
}

// DecodeBlocks reads a file of up to eight hours and gives what it holds block by block,
// channel by channel, valid until take returns; an error of take stops it and is returned.
func DecodeBlocks(data []byte, take func(rate int, block [][]float32) error, watch func(done float64) error) error {
	k := &keeper{take: take}
	if err := decode(data, k, watch); err != nil {
		return err
	}
	if k.seen == 0 {
		return fail(CodeEmpty, "The file holds no sound.")
	}
	return nil
}

// SurveyFile reads a file of any length to its end, or as far as it is whole if
// that is a second or more, without keeping its sound.
func SurveyFile(data []byte, watch func(done float64) error) (*Survey, error) {
	k := &keeper{survey: &Survey{Every: surveyEvery, Peaks: []float32{}}}
	s := k.survey
	if err := decode(data, k, watch); err != nil {
		var broken *Error
		if !errors.As(err, &broken) || !broken.Partial() || k.b == nil || k.seen < int64(k.b.Rate) {
			return nil, err
		}
		s.Damage = broken.Message
	}
	s.Rate, s.Channels, s.Seconds = k.b.Rate, len(k.b.Channels), float64(k.seen)/float64(max(k.b.Rate, 1))
	return s, nil
}

// errEnough stops a decoder that has all that is kept.
var errEnough = errors.New("enough has been read")

// keeper takes decoded sound block by block and keeps a part of it, or only
// its peaks.
type keeper struct {
	from, to float64 // seconds; both 0 is all
	survey   *Survey
	take     func(rate int, block [][]float32) error // nil: what is read is kept
	size     int                                     // of the file, bytes

	b           *audio.Buffer
	first, last int64 // frames that are kept
	seen        int64 // frames so far
	tooLong     bool  // by what the file says, so that nothing of it is kept
}

// start comes before the first block. frames is how many the file says it has:
// room is made for them as far as the file's size makes them likely.
func (k *keeper) start(rate, channels int, frames uint64) {
	k.b = &audio.Buffer{Rate: rate, Channels: make([][]float32, channels)}
	k.last = everything
	if k.to > 0 {
		k.first, k.last = int64(k.from*float64(rate)), int64(k.to*float64(rate))
	}
	if k.survey == nil && k.take == nil {
		likely := min(frames, uint64(k.size)*mostPerByte/uint64(channels))
		k.tooLong = k.to == 0 && likely > uint64(longestOf(rate, channels))
		if k.tooLong {
			return
		}
		kept := min(frames-min(frames, uint64(k.first)), uint64(k.last-k.first))
		room := min(kept, uint64(MaxSamples/channels), uint64(k.size)*mostPerByte/uint64(channels))
		for c := range k.b.Channels {
			k.b.Channels[c] = make([]float32, 0, room)
		}
	}
}

// put takes the next frames, channel by channel. It returns errEnough after
// the last that is kept.
func (k *keeper) put(block [][]float32) error {
	from, to := int64(0), int64(len(block[0]))
	start := k.seen
	k.seen += to
	if k.survey != nil {
		return k.look(block, start)
	}
	if k.take != nil {
		if k.seen > int64(longest*k.b.Rate) {
			return fail(CodeTooLong, "The sound is too long: files of up to %d hours can be read.", longest/3600)
		}
		return k.take(k.b.Rate, block)
	}
	from, to = max(from, k.first-start), min(to, k.last-start)
	if from < to {
		if most := longestOf(k.b.Rate, len(block)); k.tooLong || int64(k.b.Frames())+to-from > most {
			return fail(CodeTooLong, "The sound is too long: at most %d minutes of such a file can be read.", most/int64(k.b.Rate)/60)
		}
		for c := range block {
			k.b.Channels[c] = append(k.b.Channels[c], block[c][from:to]...)
		}
	}
	if k.seen >= k.last {
		return errEnough
	}
	return nil
}

// skip passes over n frames that are not kept.
func (k *keeper) skip(n int64) { k.seen += n }

func (k *keeper) look(block [][]float32, start int64) error {
	s := k.survey
	per := int64(surveyEvery * float64(k.b.Rate))
	if per == 0 || k.seen > int64(longest*k.b.Rate) {
		return fail(CodeTooLong, "The sound is too long: files of up to %d hours can be looked through.", longest/3600)
	}
	for i := range block[0] {
		at := int((start + int64(i)) / per)
		for len(s.Peaks) <= at {
			s.Peaks = append(s.Peaks, 0)
		}
		for c := range block {
			s.Peaks[at] = max(s.Peaks[at], block[c][i], -block[c][i])
		}
	}
	return nil
}

// Fullest is where the loudest stretch of a length begins, seconds: the one
// with the greatest mean peak.
func (s *Survey) Fullest(seconds float64) float64 {
	n := min(max(int(seconds/s.Every), 1), len(s.Peaks))
	var sum float64
	best, at := -1.0, 0
	for i, p := range s.Peaks {
		sum += float64(p)
		if i >= n {
			sum -= float64(s.Peaks[i-n])
		}
		if i >= n-1 && sum > best+1e-9 {
			best, at = sum, i-n+1
		}
	}
	return float64(at) * s.Every
}
