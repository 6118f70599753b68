package compare

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/groove"
	"jubrak/core/isolate"
	"jubrak/core/measure"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Over is one family of mine and of the reference on one axis.
type Over struct {
	Family sound.Family `json:"family"`
	Voice  string       `json:"voice"`
	// Steps are by step of the bar.
	Steps []OverStep `json:"steps"`
	// Mine and Reference are levels over time, dB against the loudest, from the onset on,
	// a point each envelopeMS; empty where there is no sound.
	Mine      []float64 `json:"mine_db"`
	Reference []float64 `json:"reference_db"`
	// Frame is from point to point, ms.
	Frame float64 `json:"frame_ms"`
	// Octaves are third octaves, both as loud.
	Octaves []OverBand `json:"third_octaves"`
}

// OverStep is a step of the bar: timing beside swing, velocity, and hits a bar, 0 to 1; nil
// cannot be measured.
type OverStep struct {
	Mine              *float64 `json:"mine_ms"`
	Reference         *float64 `json:"reference_ms"`
	MineVelocity      *float64 `json:"mine_velocity"`
	ReferenceVelocity *float64 `json:"reference_velocity"`
	MineHits          float64  `json:"mine_hits"`
	ReferenceHits     float64  `json:"reference_hits"`
}

// OverBand is a third octave, dB.
type OverBand struct {
	Hz        float64 `json:"hz"`
	Mine      float64 `json:"mine"`
	Reference float64 `json:"reference"`
}

const (
	envelopeMS     = 5.0
	envelopePoints = 80
	envelopeLow    = -60.0
)

func overs(d *project.Document, mine *Mine, a *Against) []Over {
	out := []Over{}
	theirs := a.Analysis.Feel
	for _, f := range sound.Families {
		m, plays := mine.Feel.Voices[string(f)]
		var t groove.MeasuredVoice
		also := false
		if theirs != nil {
			t, also = theirs.Voices[string(f)]
		}
		v := Voice(d, f)
		if !plays && !also || v == nil {
			continue
		}
		o := Over{Family: f, Voice: v.ID, Frame: envelopeMS, Mine: []float64{}, Reference: []float64{}, Octaves: []OverBand{}, Steps: steps(&m, &t)}
		shot := mine.Shots[f]
		if shot != nil {
			o.Mine = envelope(shot)
		}
		if drum := a.Drum(d, v); drum != nil {
			b := DrumSound(drum)
			o.Reference = envelope(b)
			if shot != nil {
				o.Octaves = octaves(shot, b)
			}
		}
		out = append(out, o)
	}
	return out
}

// DrumSound is a drum of a reference from 3 ms before its stroke on.
func DrumSound(d *isolate.Drum) *audio.Buffer {
	return d.Sound.Slice(int((isolate.Lead-0.003)*float64(d.Sound.Rate)), d.Sound.Frames())
}

func steps(m, t *groove.MeasuredVoice) []OverStep {
	out := make([]OverStep, max(len(m.StepCount), len(t.StepCount)))
	put := func(v *groove.MeasuredVoice, set func(o *OverStep, ms, velocity *float64, hits float64)) {
		most := 0
		for _, n := range v.StepCount {
			most = max(most, n)
		}
		for i, n := range v.StepCount {
			var ms, velocity *float64
			if n > 0 && v.Lean != nil {
				at := *v.Lean
				if i < len(v.Contour) && v.Contour[i] != nil {
					at += *v.Contour[i]
				}
				ms = &at
			}
			if i < len(v.Accent) && v.Accent[i] != nil {
				velocity = value(*v.Accent[i] * v.VelocityMean)
			}
			set(&out[i], ms, velocity, float64(n)/float64(max(most, 1)))
		}
	}
	put(m, func(o *OverStep, ms, velocity *float64, hits float64) {
		o.Mine, o.MineVelocity, o.MineHits = ms, velocity, hits
	})
	put(t, func(o *OverStep, ms, velocity *float64, hits float64) {
		o.Reference, o.ReferenceVelocity, o.ReferenceHits = ms, velocity, hits
	})
	return out
}

// envelope is the level of a sound from its onset on, against its loudest frame.
func envelope(b *audio.Buffer) []float64 {
	x := b.Mono()
	from := measure.Onset(x, b.Rate)
	size := int(envelopeMS * float64(b.Rate) / 1000)
	out := []float64{}
	top := math.Inf(-1)
	for k := range envelopePoints {
		sum := 0.0
		for i := from + k*size; i < min(from+(k+1)*size, len(x)); i++ {
			sum += x[i] * x[i]
		}
		db := 10 * math.Log10(sum/float64(size)+1e-12)
		top = math.Max(top, db)
		out = append(out, db)
	}
	for k := range out {
		out[k] = math.Round(10*math.Max(out[k]-top, envelopeLow)) / 10
	}
	return out
}

// octaves are the third octaves of two sounds, each against its own sum.
func octaves(mine, theirs *audio.Buffer) []OverBand {
	levels := func(b *audio.Buffer) (hz, db []float64) {
		x := b.Mono()
		hz, db = measure.NewMeanSpectrum(x[measure.Onset(x, b.Rate):], b.Rate).ThirdOctaves()
		sum := 1e-20
		for _, v := range db {
			sum += math.Pow(10, v/10)
		}
		for i := range db {
			db[i] -= 10 * math.Log10(sum)
		}
		return hz, db
	}
	hz, a := levels(mine)
	_, b := levels(theirs)
	out := []OverBand{}
	for i := range min(len(a), len(b)) {
		out = append(out, OverBand{math.Round(hz[i]), math.Round(10*math.Max(a[i], -90)) / 10, math.Round(10*math.Max(b[i], -90)) / 10})
	}
	return out
}
