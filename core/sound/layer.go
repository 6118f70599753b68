package sound

import (
	"fmt"
	"math"
	"sync/atomic"

	"jubrak/core/audio"
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
	Flip bool `json:"flip"`
	Mute bool `json:"mute"`
	// Solo leaves out every layer of the voice that is not solo.
	Solo bool `json:"solo"`
	// Turn says on which hits it sounds, one of Turns. Every and Chance are the
	// numbers of "every nth" and "by chance".
	Turn   int     `json:"turn"`
	Every  int     `json:"turn_every"`
	Chance float64 `json:"turn_chance_percent"`
	// Attack takes the place of the layer's own start; nil leaves it.
	Attack *Attack `json:"attack"`
	// One of these is what sounds.
	Recipe    *Recipe    `json:"recipe"`
	Recording *Recording `json:"recording"`
	Rumble    *Rumble    `json:"rumble"`
}

// Turns are how layers take turns, by number. Those "in turn" and "shuffled" of a
// voice take turns among themselves; shuffled, none comes twice in a row.
var Turns = []string{"every hit", "in turn", "shuffled", "every nth hit", "by chance"}

// Turns by name.
const (
	Always = iota
	InTurn
	Shuffled
	EveryNth
	ByLot
)

// Attack is the start of another sound, borrowed.
type Attack struct {
	// Blob names the sound, a file kept beside the project.
	Blob string `json:"blob"`
	// Length is how much of it is heard, Fade how long it then fades into the
	// layer's own sound, ms.
	Length float64 `json:"length_ms"`
	Fade   float64 `json:"fade_ms"`
	Level  float64 `json:"level_db"`
}

// Rumble is a long reverb of the voice's other layers, dark and narrow, driven,
// and turned down while the dry hit sounds.
type Rumble struct {
	Decay   float64 `json:"decay_ms"`
	LowCut  float64 `json:"low_cut_hz"`
	HighCut float64 `json:"high_cut_hz"`
	Drive   float64 `json:"drive_percent"`
	// Duck is how far it is turned down at the hit, and DuckTime how long it takes
	// to come back.
	Duck     float64 `json:"duck_db"`
	DuckTime float64 `json:"duck_ms"`
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
	// Length is how much of it is heard after Skip, ms at its own pitch; 0 is all.
	Length float64 `json:"length_ms"`
	// Gain brings it to a level, for instance to full scale.
	Gain float64 `json:"gain_db"`
	// Root is its pitch where it is known, else 0.
	Root float64 `json:"root_hz"`
	// KeepLength lets Pitch change the pitch alone, not the length.
	KeepLength bool `json:"keep_length"`
	// Gate takes away what is soft; Threshold is where it opens, Hysteresis lower
	// is where it closes, and what is closed is turned down to Floor. It opens
	// Ahead of what is loud.
	Gate           bool    `json:"gate"`
	GateThreshold  float64 `json:"gate_threshold_db"`
	GateHysteresis float64 `json:"gate_hysteresis_db"`
	GateFloor      float64 `json:"gate_floor_db"`
	GateAttack     float64 `json:"gate_attack_ms"`
	GateHold       float64 `json:"gate_hold_ms"`
	GateRelease    float64 `json:"gate_release_ms"`
	GateAhead      float64 `json:"gate_ahead_ms"`
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
		param.Number(param.Param{ID: "above_hz", Label: "Crossover low", Unit: "Hz", Min: NoLowCut, Max: 8000, Default: NoLowCut, Scale: param.Log}, func(l *Layer) *float64 { return &l.Above }),
		param.Number(param.Param{ID: "below_hz", Label: "Crossover high", Unit: "Hz", Min: 40, Max: NoHighCut, Default: NoHighCut, Scale: param.Log}, func(l *Layer) *float64 { return &l.Below }),
		param.Whole(param.Param{ID: "velocity_from", Label: "Velocity from", Min: 1, Max: 127, Default: 1}, func(l *Layer) *int { return &l.VelocityFrom }),
		param.Whole(param.Param{ID: "velocity_to", Label: "Velocity to", Min: 1, Max: 127, Default: 127}, func(l *Layer) *int { return &l.VelocityTo }),
		param.Whole(param.Param{ID: "velocity_fade", Label: "Crossfade", Min: 0, Max: 64}, func(l *Layer) *int { return &l.VelocityFade }),
		param.Flag("flip", "Flip", func(l *Layer) *bool { return &l.Flip }),
		param.Flag("mute", "Mute", func(l *Layer) *bool { return &l.Mute }),
		param.Flag("solo", "Solo", func(l *Layer) *bool { return &l.Solo }),
		param.Whole(param.Choice("turn", "", "Plays on", Turns...), func(l *Layer) *int { return &l.Turn }),
		param.Whole(param.Param{ID: "turn_every", Label: "Nth hit", Min: 2, Max: 16, Default: 2}, func(l *Layer) *int { return &l.Every }),
		param.Number(param.Param{ID: "turn_chance_percent", Label: "Chance", Unit: "%", Min: 0, Max: 100, Default: 50, Scale: param.Linear}, func(l *Layer) *float64 { return &l.Chance }),
	}
	AttackParams = param.Table[Attack]{
		attack("length_ms", "Length", "ms", 0.2, 100, 5, param.Log, func(a *Attack) *float64 { return &a.Length }),
		attack("fade_ms", "Fade", "ms", 0, 50, 2, param.Linear, func(a *Attack) *float64 { return &a.Fade }),
		attack("level_db", "Level", "dB", -24, 12, 0, param.DB, func(a *Attack) *float64 { return &a.Level }),
	}
	RumbleParams = param.Table[Rumble]{
		rumble("decay_ms", "Decay", "ms", 200, 10000, 2500, param.Log, func(r *Rumble) *float64 { return &r.Decay }),
		rumble("low_cut_hz", "Low cut", "Hz", 20, 200, 37, param.Log, func(r *Rumble) *float64 { return &r.LowCut }),
		rumble("high_cut_hz", "High cut", "Hz", 60, 2000, 300, param.Log, func(r *Rumble) *float64 { return &r.HighCut }),
		rumble("drive_percent", "Drive", "%", 0, 100, 25, param.Linear, func(r *Rumble) *float64 { return &r.Drive }),
		rumble("duck_db", "Duck amount", "dB", 0, 48, 18, param.DB, func(r *Rumble) *float64 { return &r.Duck }),
		rumble("duck_ms", "Duck release", "ms", 20, 1000, 200, param.Log, func(r *Rumble) *float64 { return &r.DuckTime }),
	}
	RecordingParams = param.Table[Recording]{
		param.Number(param.Param{ID: "recording.skip_ms", Part: "recording", Label: "Skip", Unit: "ms", Min: 0, Max: 12000, Scale: param.Linear}, func(r *Recording) *float64 { return &r.Skip }),
		param.Number(param.Param{ID: "recording.decay_ms", Part: "recording", Label: "Decay", Unit: "ms", Min: 0, Max: 4000, Scale: param.Linear}, func(r *Recording) *float64 { return &r.Decay }),
		param.Number(param.Param{ID: "recording.fade_in_ms", Part: "recording", Label: "Fade in", Unit: "ms", Min: 0, Max: 1000, Scale: param.Linear}, func(r *Recording) *float64 { return &r.FadeIn }),
		param.Number(param.Param{ID: "recording.fade_out_ms", Part: "recording", Label: "Fade out", Unit: "ms", Min: 0, Max: 1000, Scale: param.Linear}, func(r *Recording) *float64 { return &r.FadeOut }),
		param.Flag("recording.reverse", "Reverse", func(r *Recording) *bool { return &r.Reverse }),
		recording("length_ms", "Length", "ms", 0, 12000, 0, param.Linear, func(r *Recording) *float64 { return &r.Length }),
		recording("gain_db", "Gain", "dB", -24, 48, 0, param.DB, func(r *Recording) *float64 { return &r.Gain }),
		recording("root_hz", "Root", "Hz", 0, 8000, 0, param.Linear, func(r *Recording) *float64 { return &r.Root }),
		param.Flag("recording.keep_length", "Keep length", func(r *Recording) *bool { return &r.KeepLength }),
		param.Flag("recording.gate", "Gate", func(r *Recording) *bool { return &r.Gate }),
		recording("gate_threshold_db", "Threshold", "dB", -80, 0, -36, param.DB, func(r *Recording) *float64 { return &r.GateThreshold }),
		recording("gate_hysteresis_db", "Hysteresis", "dB", 0, 24, 4, param.DB, func(r *Recording) *float64 { return &r.GateHysteresis }),
		recording("gate_floor_db", "Range", "dB", -90, 0, -90, param.DB, func(r *Recording) *float64 { return &r.GateFloor }),
		recording("gate_attack_ms", "Gate attack", "ms", 0.1, 200, 0.5, param.Log, func(r *Recording) *float64 { return &r.GateAttack }),
		recording("gate_hold_ms", "Gate hold", "ms", 0, 1000, 20, param.Linear, func(r *Recording) *float64 { return &r.GateHold }),
		recording("gate_release_ms", "Gate release", "ms", 1, 2000, 40, param.Log, func(r *Recording) *float64 { return &r.GateRelease }),
		recording("gate_ahead_ms", "Lookahead", "ms", 0, 20, 2, param.Linear, func(r *Recording) *float64 { return &r.GateAhead }),
	}
)

func recording(id, label, unit string, low, high, value float64, scale param.Scale, at func(*Recording) *float64) param.Row[Recording] {
	return param.Number(param.Param{ID: "recording." + id, Part: "recording", Label: label, Unit: unit, Min: low, Max: high, Default: value, Scale: scale}, at)
}

func attack(id, label, unit string, low, high, value float64, scale param.Scale, at func(*Attack) *float64) param.Row[Attack] {
	return param.Number(param.Param{ID: "attack." + id, Part: "attack", Label: label, Unit: unit, Min: low, Max: high, Default: value, Scale: scale}, at)
}

func rumble(id, label, unit string, low, high, value float64, scale param.Scale, at func(*Rumble) *float64) param.Row[Rumble] {
	return param.Number(param.Param{ID: "rumble." + id, Part: "rumble", Label: label, Unit: unit, Min: low, Max: high, Default: value, Scale: scale}, at)
}

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
	RecordingParams.Reset(l.Recording)
	return l
}

// Rumbling is a layer of a rumble, at its defaults.
func Rumbling(id, name string) Layer {
	l := Layer{ID: id, Name: name, Rumble: &Rumble{}}
	LayerParams.Reset(&l)
	RumbleParams.Reset(l.Rumble)
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

// Blob names the layer's recorded sound; empty for one that is made.
func (l *Layer) Blob() string {
	if l.Recording == nil {
		return ""
	}
	return l.Recording.Blob
}

// Blobs are all recorded sounds that the layer needs.
func (l *Layer) Blobs() (out []string) {
	if l.Recording != nil {
		out = append(out, l.Recording.Blob)
	}
	if l.Attack != nil {
		out = append(out, l.Attack.Blob)
	}
	if l.Recipe != nil {
		out = append(out, l.Recipe.Blobs()...)
	}
	return out
}

// Validate checks that the layer has a sound and that its numbers are within
// their ranges.
func (l *Layer) Validate() error {
	sounds := 0
	for _, there := range []bool{l.Recipe != nil, l.Recording != nil, l.Rumble != nil} {
		if there {
			sounds++
		}
	}
	if l.ID == "" || sounds != 1 || l.Recording != nil && l.Recording.Blob == "" {
		return fmt.Errorf("layer %q has lost its sound", l.Name)
	}
	err := LayerParams.Validate(l)
	if err == nil && l.Attack != nil {
		err = AttackParams.Validate(l.Attack)
	}
	switch {
	case err != nil:
	case l.Recipe != nil:
		err = l.Recipe.Validate()
	case l.Rumble != nil:
		err = RumbleParams.Validate(l.Rumble)
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
	at   atomic.Pointer[Sample] // at the rate that was last asked for
}

// At is the sample at a rate: itself where that is its own, else resampled (see
// audio.Buffer.Resample) and kept.
func (s *Sample) At(rate int) *Sample {
	if s.Rate == rate {
		return s
	}
	if kept := s.at.Load(); kept != nil && kept.Rate == rate {
		return kept
	}
	b := (&audio.Buffer{Rate: s.Rate, Channels: s.X}).Resample(rate)
	out := &Sample{Rate: rate, X: b.Channels}
	s.at.Store(out)
	return out
}

// Samples are the sounds of recordings by blob. A layer whose sound is not
// there is silent.
type Samples map[string]*Sample
