package transcribe

import "jubrak/core/sound"

// StepStat is what one family does at one step of the cycle.
type StepStat struct {
	Family sound.Family `json:"family"`
	Step   int          `json:"step"` // from the start of the cycle
	Count  int          `json:"count"`
	// Timed is how many of them are not covered, and so speak for the offset.
	Timed      int     `json:"timed"`
	Offset     float64 `json:"offset_ms"`
	OffsetSD   float64 `json:"offset_sd_ms"`
	Velocity   float64 `json:"velocity"`
	VelocitySD float64 `json:"velocity_sd"`
}

// TempoPoint is the tempo around the middle of a bar, quarter notes a minute.
type TempoPoint struct {
	Bar   int     `json:"bar"`
	Time  float64 `json:"time_s"`
	Tempo float64 `json:"tempo_bpm"`
	Error float64 `json:"stderr_bpm"`
}

// Cycle is how a family, or all together, repeats.
type Cycle struct {
	// Family is empty for all families together.
	Family sound.Family `json:"family,omitempty"`
	// Steps is the length after which the pattern repeats.
	Steps int `json:"steps"`
	// Bars is Steps in whole bars, or nil where it runs against the bar.
	Bars *int `json:"bars"`
	// Repeats is the share of hits that have their like one cycle later.
	Repeats float64 `json:"repeats"`
	Hits    int     `json:"hits"`
}

// Fact is one thing that was found, of a family or of all: a number with its
// uncertainty and how many hits speak for it, and a sentence for people. Value
// is nil where there is not enough to say.
type Fact struct {
	ID     string       `json:"id"`
	Family sound.Family `json:"family,omitempty"`
	// Name says what the number is: "Lean". Whose, Family says.
	Name  string   `json:"name"`
	Value *float64 `json:"value"`
	Error *float64 `json:"stderr"`
	Unit  string   `json:"unit"`
	Count int      `json:"count"`
	// Text is a sentence where the fact is worth one.
	Text string `json:"text"`
}

// Region is a part of a file, seconds.
type Region struct {
	From float64 `json:"from_s"`
	To   float64 `json:"to_s"`
}

// Roll is strokes of a family between and on steps that divide them evenly.
type Roll struct {
	Family sound.Family `json:"family"`
	// PerQuarter is how many strokes would fill a quarter note: 6 sixteenth
	// triplets, 8 thirty-seconds.
	PerQuarter int `json:"per_quarter"`
	// From and To are the times of the first and the last stroke, seconds.
	From float64 `json:"from_s"`
	To   float64 `json:"to_s"`
	// Hits are the strokes, by ID, in order.
	Hits []string `json:"hits"`
	// Rise is by how much velocity rises over the roll, by the median of the
	// slopes between any two strokes (Sen 1968), so that the one it lands on,
	// which is often an accent, does not hide a fall.
	Rise float64 `json:"rise"`
}

// Share is how loud the drums are against what plays beside them.
type Share struct {
	// DB is drums over the rest, K-weighted, held to ±ShareLimit.
	DB float64 `json:"db"`
	// Error is the standard error of DB.
	Error float64 `json:"stderr_db"`
	// Alone is true where next to nothing but drums was heard.
	Alone bool `json:"alone"`
}
