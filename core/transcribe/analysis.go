package transcribe

import (
	"jubrak/core/groove"
	"jubrak/core/sound"
)

// Raw is what was heard, before any correction: the part of an analysis that
// is kept for a file. Version returns which listener made it.
type Raw struct {
	Version    int     `json:"version"`
	Kind       string  `json:"kind"` // "audio" or "midi"
	Duration   float64 `json:"duration_s"`
	SampleRate int     `json:"sample_rate"`
	// Confidence of the tempo, 0..1.
	Confidence float64 `json:"tempo_confidence"`
	// BarOne is how sure bar one is, beat included, 0..1.
	BarOne  float64          `json:"bar_one_confidence"`
	Grid    *groove.BeatGrid `json:"grid"`
	Unit    int              `json:"beat_unit"`
	Hits    []Hit            `json:"hits"`
	Level   Level            `json:"level"`
	Balance *Balance         `json:"balance_db"`
	// OtherNotes are those of a MIDI file on other channels than the drums'.
	OtherNotes int `json:"other_notes,omitempty"`
	// NoDrums is true where nothing drum-like repeats: hits are then reported with
	// little confidence, and no beat.
	NoDrums bool   `json:"no_drums"`
	Bands   []Band `json:"third_octaves"`
	// Share is how loud the drums are against the rest; nil where it cannot
	// be reported.
	Share *Share `json:"drums_against_rest"`
}

// RawVersion is the version of the listener; older results are made anew.
const RawVersion = 19

// Hit is one drum heard. Time counts from the first sample of the file.
// Bar and Step count from 0; a step is a sixteenth, or an eighth triplet where
// the grid was set so. They and
// Offset are nil where no grid was found.
type Hit struct {
	ID         string       `json:"id"`
	Time       float64      `json:"time_s"`
	Family     sound.Family `json:"family"`
	Velocity   int          `json:"velocity"`
	Confidence float64      `json:"confidence"`
	Bar        *int         `json:"bar"`
	Step       *int         `json:"step"`
	Offset     *float64     `json:"offset_ms"`
	// Within is by how many ticks, 960 to a quarter note, a stroke of a roll comes
	// after its step; Offset counts from there.
	Within int `json:"within_ticks"`
	// Grace is a softer stroke just before another of its family, as in a flam.
	Grace bool `json:"grace"`
	// Covered is a hit whose onset other sound hides: Time is where its family
	// usually lies, which is likely, not measured.
	Covered bool `json:"covered"`
	// Unnamed is a stroke that was found but not recognized; it is filed as
	// percussion.
	Unnamed bool `json:"unnamed"`
	// Key is the MIDI key of a hit that came from a MIDI file, else nil.
	Key *int `json:"key"`

	odds float64 // log odds of its family, while a recording is heard
}

// Level is how loud the file is; nil where it is silent or too short.
type Level struct {
	Integrated *float64 `json:"lufs_integrated"`
	TruePeak   *float64 `json:"true_peak_dbtp"`
	Crest      *float64 `json:"crest_db"`
}

// Balance is the energy in five regions against the whole, dB.
type Balance struct {
	Sub      float64 `json:"sub"`
	Low      float64 `json:"low"`
	LowMid   float64 `json:"low_mid"`
	Presence float64 `json:"presence"`
	Air      float64 `json:"air"`
}

// Analysis is a reference as the user sees it: what was heard, corrected,
// and the facts that follow. Its JSON is the contract of `jubrak analyze`.
type Analysis struct {
	Duration   float64  `json:"duration_s"`
	SampleRate int      `json:"sample_rate"`
	Tempo      *float64 `json:"tempo_bpm"`
	Confidence *float64 `json:"tempo_confidence"`
	// BarOne is how sure bar one is, the beat included, 0..1; nil where there
	// is no beat, and where AlikeBeats is no whole bar, so that it cannot be known.
	BarOne *float64 `json:"bar_one_confidence"`
	// AlikeBeats is after how many beats a loop is the same as from its
	// beginning: bar one may as well lie there. nil where it is not.
	AlikeBeats *int      `json:"alike_beats"`
	Meter      string    `json:"meter"`
	Beats      []float64 `json:"beats_s"`
	Downbeats  []float64 `json:"downbeats_s"`
	CycleBars  *int      `json:"cycle_bars"`
	// LoopBars is how many bars the file is exactly long, as a loop is; else
	// nil. A hit of the bar after it is an early one of bar one.
	LoopBars *int `json:"loop_bars"`
	// OtherNotes are those of a MIDI file on other channels than the drums'.
	OtherNotes int   `json:"other_notes"`
	Hits       []Hit `json:"hits"`
	// NoDrums is true where nothing drum-like repeats: hits are then reported with
	// little confidence, and no beat.
	NoDrums bool             `json:"no_drums"`
	Feel    *groove.Measured `json:"feel"`
	Groove  Density          `json:"groove"`
	Level   Level            `json:"level"`
	Balance *Balance         `json:"balance_db"`
	// KickHz is the fundamental of the kick by itself, which package drums measures; nil
	// until then, and where it cannot be measured.
	KickHz *float64 `json:"kick_fundamental_hz"`
	// Grid is the beat grid behind Beats, moved so that the anchor's on-beat
	// hits average offset zero.
	Grid *groove.BeatGrid `json:"grid"`
	// Bars is the number of bars begun within the file.
	Bars int `json:"bars"`
	// Unit is the note value of a beat, 4 or 8; Steps is steps per beat.
	Unit       int          `json:"beat_unit"`
	Steps      int          `json:"steps_per_beat"`
	LeftOut    []Region     `json:"left_out"`
	Steady     *Region      `json:"steadiest"`
	Cycles     []Cycle      `json:"cycles"`
	Rolls      []Roll       `json:"rolls"`
	ByStep     []StepStat   `json:"by_step"`
	TempoCurve []TempoPoint `json:"tempo_curve"`
	Facts      []Fact       `json:"facts"`
	// Bands is the average spectrum in third octaves.
	Bands []Band `json:"third_octaves"`
	// Share is how loud the drums are against the rest; nil where it cannot
	// be reported.
	Share *Share `json:"drums_against_rest"`

	onSteps []Hit // see OnSteps
}

// Band is one third-octave band: its exact centre and its energy against the
// whole.
type Band struct {
	Hz float64 `json:"hz"`
	DB float64 `json:"db"`
}

// Density is hits per beat by family.
type Density struct {
	Density map[sound.Family]float64 `json:"density"`
}
