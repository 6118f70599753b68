package compare

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/isolate"
	"jubrak/core/measure"
	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Against is what a project is compared with.
type Against struct {
	Analysis *transcribe.Analysis
	// Profile is the reference where it is one: its ranges count as tolerance.
	Profile *profile.Profile
	// Drums are the reference's, each by itself; none where it has no sound.
	Drums []isolate.Drum
	// Reference is its id, to which targets of voices refer.
	Reference string

	whole *whole
}

// whole is what is measured of the reference's drums together.
type whole struct {
	loudness, truePeak, crest *float64
	balance                   map[string]float64
	// within is how far levels may lie off, dB.
	within float64
	// alone is true of a recording in which nothing but drums sounds.
	alone bool
}

// Drum is the drum of the reference that a voice is built towards, or, without such a
// target, the one of its family that is struck most; nil where there is none.
func (a *Against) Drum(d *project.Document, v *sound.Voice) *isolate.Drum {
	if t := d.Target(v.ID); t != nil && t.Reference == a.Reference && t.Drum != nil {
		for i := range a.Drums {
			if a.Drums[i].Family == t.Drum.Family && a.Drums[i].Group == t.Drum.Group {
				return &a.Drums[i]
			}
		}
	}
	var most *isolate.Drum
	for i := range a.Drums {
		if x := &a.Drums[i]; x.Family == v.Family && (most == nil || len(x.Strokes) > len(most.Strokes)) {
			most = x
		}
	}
	return most
}

// aloneFrom is how much louder than the rest drums are where nothing else sounds, dB.
const aloneFrom = 12.0

// drumsAlone is how far levels of drums that are put together again may lie off, dB.
const drumsAlone = 0.5

// wholeOf measures the whole of the reference: the recording, or its drums without what
// else sounds there.
func (a *Against) wholeOf() *whole {
	if a.whole != nil {
		return a.whole
	}
	w := &whole{loudness: a.Analysis.Level.Integrated, truePeak: a.Analysis.Level.TruePeak, crest: a.Analysis.Level.Crest, balance: map[string]float64{}, alone: true}
	if b := a.Analysis.Balance; b != nil {
		w.balance = map[string]float64{"sub": b.Sub, "low": b.Low, "low_mid": b.LowMid, "presence": b.Presence, "air": b.Air}
	}
	if s := a.Analysis.Share; s != nil && !s.Alone && s.DB < aloneFrom && len(a.Drums) > 0 {
		w.alone, w.within = false, drumsAlone
		b := a.Struck()
		w.balance = measure.Balance(b.Mono(), b.Rate)
		w.loudness, w.truePeak, w.crest = nil, nil, nil
		if l, ok := measure.Integrated(b); ok {
			w.loudness, w.truePeak, w.crest = &l, value(measure.TruePeak(b)), value(audio.DB(b.Peak()/measure.RMS(b)))
		}
	}
	a.whole = w
	return w
}

// struckSeconds is how much of a reference's drums is put together.
const struckSeconds = 30.0

// Struck is the reference's drums at all their strokes, put together again from the drums
// alone, 48 kHz, at most 30 s.
func (a *Against) Struck() *audio.Buffer {
	from, to := math.Inf(1), 0.0
	for i := range a.Drums {
		for _, s := range a.Drums[i].Strokes {
			from, to = math.Min(from, s.Time), math.Max(to, s.Time)
		}
	}
	if len(a.Drums) == 0 {
		return audio.New(48000, 2, 0)
	}
	b := audio.New(48000, 2, int(math.Min(to-from+0.5, struckSeconds)*48000))
	for i := range a.Drums {
		d := &a.Drums[i]
		isolate.Strike(b, from-0.02, d, d.Sound.Slice(int((isolate.Lead-0.003)*float64(d.Sound.Rate)), d.Sound.Frames()))
	}
	return b
}
