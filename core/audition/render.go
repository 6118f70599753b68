// Package audition prepares a stretch of a recording for close listening: slowed
// down with or without its pitch, parts of the spectrum or one family alone,
// the percussive part or the rest, with clicks on beats and hits.
package audition

import (
	"context"
	"fmt"
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/sound"
	"jubrak/core/stretch"
	"jubrak/core/transcribe"
)

// Place is a place of the groove, and the voice that is meant there; empty is all.
type Place struct {
	Voice string `json:"voice"`
	Tick  int    `json:"tick"`
}

// Drum is a drum of a reference by itself: heard once, or at all its strokes with what
// remains of the stretch without the other drums.
type Drum struct {
	Family  sound.Family `json:"family"`
	Group   int          `json:"group"`
	Dry     bool         `json:"dry"`
	InPlace bool         `json:"in_place"`
}

// Settings say which stretch of a reference is heard and how.
type Settings struct {
	Reference string  `json:"reference"`
	From      float64 `json:"from_s"`
	To        float64 `json:"to_s"`
	// Speed is 0.25 to 1; KeepPitch stretches instead of slowing the tape.
	Speed     float64 `json:"speed"`
	KeepPitch bool    `json:"keep_pitch"`
	// Band is all, lows (under 150 Hz), mids, or highs (above 5 kHz).
	Band string `json:"band"`
	// Part is all, percussive, rest, or, where drums are known by themselves, drums or
	// without_drums.
	Part string `json:"part"`
	// Drum, where it is given, is a drum of the reference by itself.
	Drum *Drum `json:"drum,omitempty"`
	// Family lets through only that family's hits; empty is everything.
	Family sound.Family `json:"family,omitempty"`
	// Click is none, beats (a metronome on the measured beats) or hits (the
	// detected hits).
	Click string `json:"click"`
	// Voice, where it is given, is a voice of the kit: one hit of it is heard again and
	// again at Speed, down to a sixteenth, with its pitch slowed too, so that what
	// follows fast is heard apart.
	Voice string `json:"voice,omitempty"`
	// Place, where it is given, is a place of the groove: what strikes there is heard
	// together with the reference's stroke, at a quarter of the speed.
	Place *Place `json:"place,omitempty"`
	// Both, where it is given, is one hit of mine and of the active reference, one after the
	// other, then slowly; Blind is one side of a blind test.
	Both  *Both  `json:"both,omitempty"`
	Blind *Blind `json:"blind,omitempty"`
	// Without a reference it is a metronome: bars of beats at a tempo.
	Tempo float64 `json:"tempo_bpm"`
	Beats int     `json:"beats"`
	Bars  int     `json:"bars"`
}

// Parts that are made of drums known by themselves: whoever renders a stretch has taken
// the part out of it before.
const (
	PartDrums   = "drums"
	PartWithout = "without_drums"
)

// MostSeconds bounds the stretch.
const MostSeconds = 60

// Validate checks ranges and words.
func (s *Settings) Validate() error {
	switch {
	case !(s.From >= 0 && s.To > s.From+0.05 && s.To < 36000):
		return fmt.Errorf("choose a stretch of the recording first")
	case s.To-s.From > MostSeconds:
		return fmt.Errorf("at most %d seconds can be studied at once", MostSeconds)
	case !(s.Speed >= 0.25 && s.Speed <= 1):
		return fmt.Errorf("speed lies between 25 and 100 %%")
	case !slices.Contains([]string{"all", "lows", "mids", "highs"}, s.Band):
		return fmt.Errorf("hear all, lows, mids or highs")
	case !slices.Contains([]string{"all", "percussive", "rest", PartDrums, PartWithout}, s.Part):
		return fmt.Errorf("hear all, the percussive part, the rest, the drums or all without them")
	case !slices.Contains([]string{"none", "beats", "hits"}, s.Click):
		return fmt.Errorf("click on none, beats or hits")
	case s.Family != "" && !s.Family.Known():
		return fmt.Errorf("unknown family %q", s.Family)
	}
	return nil
}

// Metronome is the clicks of so many bars, the first of each bar higher, at a
// sample rate.
func Metronome(rate int, s Settings) (*audio.Buffer, error) {
	if !(s.Tempo >= 30 && s.Tempo <= 300) || s.Beats < 1 || s.Beats > 16 || s.Bars < 1 || s.Bars > 64 {
		return nil, fmt.Errorf("a metronome needs 30 to 300 BPM, 1 to 16 beats and 1 to 64 bars")
	}
	beat := 60 / s.Tempo
	b := audio.New(rate, 1, int(float64(s.Bars*s.Beats)*beat*float64(rate)))
	for i := range s.Bars * s.Beats {
		hz := 1200.0
		if i%s.Beats == 0 {
			hz = 1800
		}
		addClick(b, float64(i)*beat, hz, 0.3)
	}
	return b, nil
}

// Render makes the stretch as it is to be heard, to be played in a loop.
func Render(ctx context.Context, b *audio.Buffer, a *transcribe.Analysis, s Settings) (*audio.Buffer, error) {
	if err := s.Validate(); err != nil {
		return nil, err
	}
	rate := float64(b.Rate)
	return render(ctx, copyOf(b.Slice(int(s.From*rate), int(s.To*rate))), a, s)
}

// RenderPart is Render of a stretch that was cut out before; it is changed.
func RenderPart(ctx context.Context, part *audio.Buffer, a *transcribe.Analysis, s Settings) (*audio.Buffer, error) {
	if err := s.Validate(); err != nil {
		return nil, err
	}
	return render(ctx, part, a, s)
}

// RenderClicks is Render of a performance that has no sound, at a sample rate:
// its clicks alone.
func RenderClicks(ctx context.Context, rate int, a *transcribe.Analysis, s Settings) (*audio.Buffer, error) {
	if err := s.Validate(); err != nil {
		return nil, err
	}
	length := min(s.To, a.Duration) - s.From
	return render(ctx, audio.New(rate, 1, max(int(length*float64(rate)), 0)), a, s)
}

func render(ctx context.Context, part *audio.Buffer, a *transcribe.Analysis, s Settings) (*audio.Buffer, error) {
	if part.Frames() == 0 {
		return nil, fmt.Errorf("the stretch lies outside the recording")
	}
	if s.Part == "percussive" || s.Part == "rest" {
		percussive, rest, err := Separate(ctx, part)
		if err != nil {
			return nil, err
		}
		part = rest
		if s.Part == "percussive" {
			part = percussive
		}
	}
	filter(part, s.Band)
	if s.Family != "" {
		gate(part, a, s)
	}
	if s.Speed != 1 {
		if s.KeepPitch {
			var onsets []float64
			for _, h := range a.Hits {
				onsets = append(onsets, h.Time-s.From)
			}
			part = stretch.Sound(part, s.Speed, onsets)
		} else {
			part = stretch.Varispeed(part, s.Speed)
		}
	}
	click(part, a, s)
	fadeEnds(part)
	return part, nil
}

func copyOf(b *audio.Buffer) *audio.Buffer {
	out := &audio.Buffer{Rate: b.Rate}
	for _, ch := range b.Channels {
		out.Channels = append(out.Channels, slices.Clone(ch))
	}
	return out
}

// Corners of the bands, Hz.
const (
	lowCorner  = 150
	highCorner = 5000
)

// filter leaves one band: fourth-order Butterworth slopes.
func filter(b *audio.Buffer, band string) {
	rate := float64(b.Rate)
	design := func() (f []dsp.Biquad) {
		for _, q := range []float64{0.5412, 1.3066} {
			if band == "lows" {
				f = append(f, dsp.LowPass(lowCorner, q, rate))
			}
			if band == "mids" {
				f = append(f, dsp.HighPass(lowCorner, q, rate), dsp.LowPass(highCorner, q, rate))
			}
			if band == "highs" {
				f = append(f, dsp.HighPass(highCorner, q, rate))
			}
		}
		return f
	}
	for _, ch := range b.Channels {
		filters := design()
		for i, v := range ch {
			x := float64(v)
			for k := range filters {
				x = filters[k].Next(x)
			}
			ch[i] = float32(x)
		}
	}
}

// gate lets through each hit of the family until the next hit of any other,
// at most 400 ms, with short fades.
func gate(b *audio.Buffer, a *transcribe.Analysis, s Settings) {
	rate := float64(b.Rate)
	gain := make([]float32, b.Frames())
	for i, h := range a.Hits {
		if h.Family != s.Family {
			continue
		}
		end := h.Time + 0.4
		for _, next := range a.Hits[i+1:] {
			if next.Time > h.Time+0.03 && next.Family != h.Family {
				end = math.Min(end, next.Time-0.004)
				break
			}
		}
		first, last := int((h.Time-s.From-0.002)*rate), int((end-s.From)*rate)
		fade := 0.004 * rate
		for j := max(first, 0); j < min(last, len(gain)); j++ {
			g := math.Min(float64(j-first)/(0.0015*rate), float64(last-j)/fade)
			gain[j] = max(gain[j], float32(math.Min(g, 1)))
		}
	}
	for _, ch := range b.Channels {
		for i := range ch {
			ch[i] *= gain[i]
		}
	}
}

// clickHz is the pitch of a family's click: low drums low, cymbals high.
func clickHz(f sound.Family) float64 {
	switch f {
	case sound.Kick, sound.Bass808:
		return 500
	case sound.Snare, sound.Clap, sound.Rim:
		return 1000
	case sound.Tom, sound.Conga:
		return 700
	}
	return 2200
}

// click adds the clicks, at the output's own time.
func click(b *audio.Buffer, a *transcribe.Analysis, s Settings) {
	switch s.Click {
	case "beats":
		for i, t := range a.Beats {
			hz := 1200.0
			if a.Grid != nil && ((i-a.Grid.Downbeat)%a.Grid.PerBar+a.Grid.PerBar)%a.Grid.PerBar == 0 {
				hz = 1800
			}
			addClick(b, (t-s.From)/s.Speed, hz, 0.35)
		}
	case "hits":
		for _, h := range a.Hits {
			if s.Family == "" || h.Family == s.Family {
				addClick(b, (h.Time-s.From)/s.Speed, clickHz(h.Family), 0.1+0.35*float64(h.Velocity)/127)
			}
		}
	}
}

func addClick(b *audio.Buffer, seconds, hz, level float64) {
	rate := float64(b.Rate)
	from := int(math.Round(seconds * rate))
	for _, ch := range b.Channels {
		for i := range int(0.03 * rate) {
			if j := from + i; j >= 0 && j < len(ch) {
				t := float64(i) / rate
				ch[j] += float32(level * math.Sin(2*math.Pi*hz*t) * math.Exp(-t/0.006))
			}
		}
	}
}

// fadeEnds keeps the seam of the loop from clicking.
func fadeEnds(b *audio.Buffer) {
	n := min(b.Rate*2/1000, b.Frames()/2)
	for _, ch := range b.Channels {
		for i := range n {
			g := float32(i) / float32(n)
			ch[i] *= g
			ch[len(ch)-1-i] *= g
		}
	}
}
