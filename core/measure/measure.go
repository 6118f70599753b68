package measure

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/music"
)

// Measures is the tone of a one-shot, as defined in docs/measures.md. Its
// JSON is the contract of `jubrak measure`. A nil value cannot be known.
type Measures struct {
	SampleRate     int      `json:"sample_rate"`
	Channels       int      `json:"channels"`
	Duration       float64  `json:"duration_ms"`
	LeadingSilence float64  `json:"leading_silence_ms"`
	Peak           *float64 `json:"peak_dbfs"`
	TruePeak       *float64 `json:"true_peak_dbtp"`
	RMS            *float64 `json:"rms_dbfs"`
	Crest          *float64 `json:"crest_db"`
	Integrated     *float64 `json:"lufs_integrated"`
	Attack         *float64 `json:"attack_ms"`
	// Decay counts from the peak; DecayRange returns which part of the fall
	// the line was fitted to.
	Decay       *float64     `json:"decay_60db_ms"`
	DecayRange  *string      `json:"decay_range"`
	Fundamental *float64     `json:"fundamental_hz"`
	Note        *string      `json:"note"`
	Cents       *float64     `json:"cents"`
	PitchCurve  [][2]float64 `json:"pitch_curve"`
	// Settles is when 95 % of the way from the first pitch to the fundamental, in
	// octaves, is over for good.
	Settles     *float64           `json:"settles_ms"`
	Centroid    *float64           `json:"spectral_centroid_hz"`
	Flatness    *float64           `json:"flatness"`
	Snap        *float64           `json:"snap_db"`
	ThirdOctave map[string]float64 `json:"third_octave_db"`
	Balance     map[string]float64 `json:"balance_db"`
	Correlation *float64           `json:"stereo_correlation"`
	FamilyGuess *string            `json:"family_guess"`
}

// RMS is the root mean square over all channels, linear.
func RMS(b *audio.Buffer) float64 {
	var sum float64
	n := 0
	for _, ch := range b.Channels {
		for _, v := range ch {
			sum += float64(v) * float64(v)
		}
		n += len(ch)
	}
	return math.Sqrt(sum / math.Max(float64(n), 1))
}

// Measure takes the tone of a one-shot of any rate and channel count.
func Measure(b *audio.Buffer) *Measures {
	m := &Measures{
		SampleRate: b.Rate, Channels: len(b.Channels), Duration: b.Seconds() * 1000,
		PitchCurve: [][2]float64{}, ThirdOctave: map[string]float64{}, Balance: map[string]float64{},
	}
	x := oneSide(b)
	peak := b.Peak()
	if peak == 0 || len(x) == 0 {
		return m
	}
	rms := RMS(b)
	m.Peak, m.TruePeak = ptr(audio.DB(peak)), ptr(TruePeak(b))
	m.RMS, m.Crest = ptr(audio.DB(rms)), ptr(audio.DB(peak/rms))
	if v, ok := Integrated(b); ok {
		m.Integrated = &v
	}
	if len(b.Channels) == 2 {
		if r, ok := correlation(b.Channels[0], b.Channels[1]); ok {
			m.Correlation = &r
		}
	}
	if dc := Offset(x, b.Rate); dc != 0 {
		for i := range x {
			x[i] -= dc
		}
	}
	onset := Onset(x, b.Rate)
	m.LeadingSilence = float64(onset) / float64(b.Rate) * 1000
	m.Attack = Attack(x, b.Rate)
	m.Decay, m.DecayRange = decay(x, b.Rate)
	m.spectrum(x[onset:], b.Rate)
	if hz, ok := Fundamental(x[onset:], b.Rate, 25, 1200); ok {
		m.PitchCurve = pitchCurve(x[onset:], b.Rate, hz)
		if late, ok := Arrives(m.PitchCurve); ok && math.Log2(hz/late) > 0.03 {
			hz = late
			m.PitchCurve = pitchCurve(x[onset:], b.Rate, hz)
		}
		name, cents := music.NoteName(music.NoteOf(hz))
		m.Fundamental, m.Note, m.Cents = &hz, &name, &cents
		m.Settles = settles(m.PitchCurve, hz)
	}
	m.Snap = snap(x[onset:], b.Rate)
	m.guess()
	return m
}

// MeasureSpectrum takes of the tone of a one-shot what spectra say: brightness, flatness,
// snap, third octaves and regions.
func MeasureSpectrum(b *audio.Buffer) *Measures {
	m := &Measures{SampleRate: b.Rate, Channels: len(b.Channels), ThirdOctave: map[string]float64{}, Balance: map[string]float64{}}
	x := oneSide(b)
	if b.Peak() == 0 || len(x) == 0 {
		return m
	}
	if dc := Offset(x, b.Rate); dc != 0 {
		for i := range x {
			x[i] -= dc
		}
	}
	x = x[Onset(x, b.Rate):]
	m.spectrum(x, b.Rate)
	m.Snap = snap(x, b.Rate)
	return m
}

// How far below its strongest bin a spectrum still counts in Surface, dB: for brightness,
// and for flatness, in which what is below is raised to there.
const (
	surfaceDB = 40.0
	flatDB    = 60.0
)

func ptr[T any](v T) *T { return &v }

// oneSide is the mean of the channels, or the first where they cancel.
func oneSide(b *audio.Buffer) []float64 {
	x := b.Mono()
	var sum float64
	for _, v := range x {
		sum += v * v
	}
	if len(b.Channels) > 1 && math.Sqrt(sum/math.Max(float64(len(x)), 1)) < 0.2*RMS(b) {
		for i, v := range b.Channels[0] {
			x[i] = float64(v)
		}
	}
	return x
}

func correlation(a, b []float32) (float64, bool) {
	var ab, aa, bb float64
	for i := range a {
		x, y := float64(a[i]), float64(b[i])
		ab, aa, bb = ab+x*y, aa+x*x, bb+y*y
	}
	return ab / math.Sqrt(aa*bb), aa > 0 && bb > 0
}

// Regions are the five named regions of the spectrum, Hz.
var Regions = []struct {
	Name     string
	From, To float64
}{{"sub", 20, 60}, {"low", 60, 150}, {"low_mid", 150, 600}, {"presence", 600, 5000}, {"air", 5000, 20000}}

// nominal third-octave centres from 25 Hz to 20 kHz (IEC 61260-1).
var nominal = []string{"25", "31.5", "40", "50", "63", "80", "100", "125", "160", "200", "250", "315", "400", "500", "630", "800", "1000", "1250", "1600", "2000", "2500", "3150", "4000", "5000", "6300", "8000", "10000", "12500", "16000", "20000"}

// steadyTone is how alike a partial must be to itself one period later, 0..1,
// to be a tone: 1 is a steady one, noise of a band an octave wide about 0.3.
const steadyTone = 0.75

// Partials: how far below the strongest one is looked for, and how much of all
// energy the strongest must have with half an octave around it.
// A drum has few within an octave of it; noise has many.
const (
	mostPartials   = 5
	softestPartial = 0.2 // of its magnitude
	leastShare     = 0.25
)

// narrowTone is the least share of a tone in what sounds about it.
const narrowTone = 0.6

// The band of analytic fades out at these multiples of its ends.
const edgeLow, edgeHigh = 0.7, 1.4

// guess files the sound by a few plain rules (common practice).
func (m *Measures) guess() {
	if m.Centroid == nil {
		return
	}
	low := m.Balance["sub"]
	name := "perc"
	switch {
	case m.Fundamental != nil && *m.Fundamental < 110 && m.Decay != nil && *m.Decay > 900 && *m.Centroid < 1500:
		name = "808"
	case m.Fundamental != nil && *m.Fundamental < 90 && math.Max(low, m.Balance["low"]) > -6:
		name = "kick"
	case *m.Centroid > 5000 && m.Balance["low_mid"] < -20 && m.Decay != nil && *m.Decay > 320:
		name = "hat_open"
	case *m.Centroid > 5000 && m.Balance["low_mid"] < -20:
		name = "hat_closed"
	case m.Fundamental != nil && *m.Fundamental < 250 && *m.Centroid < 900:
		name = "tom"
	case *m.Centroid > 700:
		name = "snare"
	}
	m.FamilyGuess = &name
}
