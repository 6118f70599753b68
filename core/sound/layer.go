package sound

import (
	"fmt"
	"math"

	"jubrak/core/param"
)

// Layer is one of the sounds that a voice strikes together: a recipe or a
// recording, of which the other is nil.
type Layer struct {
	ID    string  `json:"id"`
	Name  string  `json:"name"`
	Level float64 `json:"level_db"`
	// Pan runs from -1 (left) to 1 (right).
	Pan float64 `json:"pan"`
	// Pitch in semitones: a recipe is tuned, a recording is read faster.
	Pitch float64 `json:"pitch_st"`
	// Start is how much later than the hit the layer begins, ms.
	Start float64 `json:"start_ms"`
	// LowCut and HighCut are corners in Hz; at their ends they do nothing.
	LowCut  float64 `json:"low_cut_hz"`
	HighCut float64 `json:"high_cut_hz"`
	// Above and Below bound what part of the spectrum the layer owns, Hz; at their
	// ends they do nothing. Two layers that share a frequency, one below and one
	// above it, add up flat.
	Above float64 `json:"above_hz"`
	Below float64 `json:"below_hz"`
	// VelocityFrom and VelocityTo bound the velocities that the layer answers to.
	// VelocityFade is how wide the crossfade at each bound is, half on either
	// side; layers that meet at a bound keep their power.
	VelocityFrom int `json:"velocity_from"`
	VelocityTo   int `json:"velocity_to"`
	VelocityFade int `json:"velocity_fade"`
	// Flip turns the polarity over.
	Flip      bool       `json:"flip"`
	Mute      bool       `json:"mute"`
	Recipe    *Recipe    `json:"recipe"`
	Recording *Recording `json:"recording"`
}

// Recording is a recorded sound: a slice of a reference, or a one-shot of
// one's own.
type Recording struct {
	// Blob names the sound, a file kept beside the project.
	Blob string `json:"blob"`
	// Skip is how much of its start is left out, ms.
	Skip float64 `json:"skip_ms"`
	// Decay lets it fall by 60 dB in so many ms; 0 leaves it as it is.
	Decay float64 `json:"decay_ms"`
	// FadeIn and FadeOut are straight fades at its ends, ms at its own pitch.
	FadeIn  float64 `json:"fade_in_ms"`
	FadeOut float64 `json:"fade_out_ms"`
	// Reverse plays it backwards, from its end to where Skip left it.
	Reverse bool `json:"reverse"`
}

// MaxLayers is the most layers of a voice, MaxLayerSeconds the longest
// recording.
const (
	MaxLayers       = 8
	MaxLayerSeconds = 12
)

// Corners of a layer's cuts, and bounds of what it owns, at which they do
// nothing, Hz.
const (
	NoLowCut  = 20
	NoHighCut = 20000
)

// LayerParams is the table of the numbers that every layer has, RecordingParams
// of those of a recording; Params has a recipe's.
var (
	LayerParams = param.Table[Layer]{
		param.Number(param.Param{ID: "level_db", Label: "Level", Unit: "dB", Min: -48, Max: 12, Scale: param.DB}, func(l *Layer) *float64 { return &l.Level }),
		param.Number(param.Param{ID: "pan", Label: "Pan", Min: -1, Max: 1, Scale: param.Linear}, func(l *Layer) *float64 { return &l.Pan }),
		param.Number(param.Param{ID: "pitch_st", Label: "Pitch", Unit: "st", Min: -24, Max: 24, Scale: param.Linear}, func(l *Layer) *float64 { return &l.Pitch }),
		param.Number(param.Param{ID: "start_ms", Label: "Start", Unit: "ms", Min: 0, Max: 100, Scale: param.Linear}, func(l *Layer) *float64 { return &l.Start }),
		param.Number(param.Param{ID: "low_cut_hz", Label: "Low cut", Unit: "Hz", Min: NoLowCut, Max: 8000, Default: NoLowCut, Scale: param.Log}, func(l *Layer) *float64 { return &l.LowCut }),
		param.Number(param.Param{ID: "high_cut_hz", Label: "High cut", Unit: "Hz", Min: 200, Max: NoHighCut, Default: NoHighCut, Scale: param.Log}, func(l *Layer) *float64 { return &l.HighCut }),
		param.Number(param.Param{ID: "above_hz", Label: "Only above", Unit: "Hz", Min: NoLowCut, Max: 8000, Default: NoLowCut, Scale: param.Log}, func(l *Layer) *float64 { return &l.Above }),
		param.Number(param.Param{ID: "below_hz", Label: "Only below", Unit: "Hz", Min: 40, Max: NoHighCut, Default: NoHighCut, Scale: param.Log}, func(l *Layer) *float64 { return &l.Below }),
		param.Whole(param.Param{ID: "velocity_from", Label: "Velocity from", Min: 1, Max: 127, Default: 1}, func(l *Layer) *int { return &l.VelocityFrom }),
		param.Whole(param.Param{ID: "velocity_to", Label: "Velocity to", Min: 1, Max: 127, Default: 127}, func(l *Layer) *int { return &l.VelocityTo }),
		param.Whole(param.Param{ID: "velocity_fade", Label: "Crossfade", Min: 0, Max: 64}, func(l *Layer) *int { return &l.VelocityFade }),
		param.Flag("flip", "Flip", func(l *Layer) *bool { return &l.Flip }),
		param.Flag("mute", "Mute", func(l *Layer) *bool { return &l.Mute }),
	}
	RecordingParams = param.Table[Recording]{
		param.Number(param.Param{ID: "recording.skip_ms", Part: "recording", Label: "Skip", Unit: "ms", Min: 0, Max: 500, Scale: param.Linear}, func(r *Recording) *float64 { return &r.Skip }),
		param.Number(param.Param{ID: "recording.decay_ms", Part: "recording", Label: "Decay", Unit: "ms", Min: 0, Max: 4000, Scale: param.Linear}, func(r *Recording) *float64 { return &r.Decay }),
		param.Number(param.Param{ID: "recording.fade_in_ms", Part: "recording", Label: "Fade in", Unit: "ms", Min: 0, Max: 1000, Scale: param.Linear}, func(r *Recording) *float64 { return &r.FadeIn }),
		param.Number(param.Param{ID: "recording.fade_out_ms", Part: "recording", Label: "Fade out", Unit: "ms", Min: 0, Max: 1000, Scale: param.Linear}, func(r *Recording) *float64 { return &r.FadeOut }),
		param.Flag("recording.reverse", "Reverse", func(r *Recording) *bool { return &r.Reverse }),
	}
)

// Synthesized is a layer of a recipe, at unity.
func Synthesized(id, name string, r Recipe) Layer {
	l := Layer{ID: id, Name: name, Recipe: &r}
	LayerParams.Reset(&l)
	return l
}

// Recorded is a layer of a recorded sound as it comes.
func Recorded(id, name, blob string) Layer {
	l := Layer{ID: id, Name: name, Recording: &Recording{Blob: blob}}
	LayerParams.Reset(&l)
	return l
}

// VelocityGain is how loud a layer is at a velocity because of the range that it
// answers to, 0 to 1.
func (l *Layer) VelocityGain(velocity int) float64 {
	v, fade := float64(velocity), float64(l.VelocityFade)
	// Half-way between two velocities is where one layer ends and the next begins.
	in := func(beyond float64) float64 {
		if fade == 0 {
			if beyond > 0 {
				return 1
			}
			return 0
		}
		return math.Sin(math.Min(math.Max(beyond/fade+0.5, 0), 1) * math.Pi / 2)
	}
	gain := 1.0
	if l.VelocityFrom > 1 {
		gain *= in(v - float64(l.VelocityFrom) + 0.5)
	}
	if l.VelocityTo < 127 {
		gain *= in(float64(l.VelocityTo) + 0.5 - v)
	}
	return gain
}

// Blob names the layer's recorded sound; empty for a recipe.
func (l *Layer) Blob() string {
	if l.Recording == nil {
		return ""
	}
	return l.Recording.Blob
}

// Validate checks that the layer has a sound and that its numbers are within
// their ranges.
func (l *Layer) Validate() error {
	if l.ID == "" || (l.Recipe == nil) == (l.Recording == nil) || l.Recording != nil && l.Recording.Blob == "" {
		return fmt.Errorf("layer %q has lost its sound", l.Name)
	}
	err := LayerParams.Validate(l)
	switch {
	case err != nil:
	case l.Recipe != nil:
		err = l.Recipe.Validate()
	default:
		err = RecordingParams.Validate(l.Recording)
	}
	if err != nil {
		return fmt.Errorf("layer %q: %w", l.Name, err)
	}
	return nil
}

// Sample is the sound of a recording, one or two channels of equal length.
type Sample struct {
	Rate int
	X    [][]float32
}

// Samples are the sounds of recordings by blob. A layer whose sound is not
// there is silent.
type Samples map[string]*Sample
