// Package compare judges a project against a reference: what differs, by how
// much, whether anyone would hear it, and what would close the gap.
package compare

import (
	"math"
	"strings"

	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Row is one measure of the comparison. A nil number cannot be measured; then
// Inside is nil too and Why says why.
type Row struct {
	// ID is the column, and for a row of a family "column.family".
	ID      string       `json:"id"`
	Column  string       `json:"column"`
	Measure string       `json:"measure"`
	Family  sound.Family `json:"family,omitempty"`
	// Voice is the voice of mine that the row is about, or "bus:" with a bus; empty of the
	// whole.
	Voice      string   `json:"voice"`
	Unit       string   `json:"unit"`
	Mine       *float64 `json:"mine"`
	Reference  *float64 `json:"reference"`
	Difference *float64 `json:"difference"`
	// Within is how far the reference's value may lie off, in the unit of Difference.
	Within float64 `json:"within"`
	// Tolerance is what nobody would hear; Inside is true up to Tolerance and Within
	// together.
	Tolerance float64 `json:"tolerance"`
	Inside    *bool   `json:"inside"`
	Why       string  `json:"why"`
	// Sentence says the difference in words; empty where nobody would hear it.
	Sentence string `json:"sentence"`
	// Change says what would close the gap, Act what does it; empty where there is no gap.
	Change string `json:"change"`
	Act    Act    `json:"act"`
	// Edits do it, where Act is ByEdits.
	Edits project.Edits `json:"edits"`
	// Others are the values of other references, in the order of their names.
	Others []*float64 `json:"others"`
}

// Act is how a gap is closed.
type Act string

// The acts: edits that are known at once; numbers that are moved while the sound is
// measured (Closer); effects on the output fitted to the reference; a sound fitted anew.
const (
	NoAct     Act = ""
	ByEdits   Act = "edits"
	ByMeasure Act = "measure"
	ByChain   Act = "chain"
	ByFit     Act = "fit"
)

// Comparison is the whole judgement.
type Comparison struct {
	Columns []Column `json:"columns"`
	Rows    []Row    `json:"rows"`
	Outside int      `json:"outside"`
	// Measurable is how many rows can be measured on both sides.
	Measurable int `json:"measurable"`
	// Parts are the same by group of columns.
	Parts []PartCount `json:"parts"`
	// Largest are the three largest differences in sentences.
	Largest []string `json:"largest"`
	// Over are mine and the reference's on one axis, by family.
	Over []Over `json:"over"`
	// Names are those of the references: the active one, then the others.
	Names []string `json:"names"`
	// profile widens tolerances where the reference is one.
	profile *profile.Profile
}

// PartCount is how many rows of a group lie outside, of how many that can be measured.
type PartCount struct {
	Group      Group `json:"group"`
	Outside    int   `json:"outside"`
	Measurable int   `json:"measurable"`
	Rows       int   `json:"rows"`
}

// Group is what columns are about.
type Group string

// The groups.
const (
	FeelGroup  Group = "feel"
	HitsGroup  Group = "hits"
	ToneGroup  Group = "tone"
	LevelGroup Group = "levels"
)

// Column is a measure.
type Column struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	// Unit is that of differences.
	Unit  string `json:"unit"`
	Group Group  `json:"group"`
	// Whole is true for a measure of all of it, Bus for one of each bus; else it is one of
	// each voice.
	Whole bool `json:"whole"`
	Bus   bool `json:"bus"`
	// Digits are shown behind the point.
	Digits int `json:"digits"`
	// Source is where the tolerance is from.
	Source string `json:"source"`
	// Hint says what is measured.
	Hint      string  `json:"hint"`
	tolerance float64 // of Unit; 0 where it depends on the value
}

// Where tolerances are from.
const (
	displaced = "6 ms, 2.5 % of the spacing above 240 ms: Friberg & Sundberg 1995"
	common    = "common practice"
	levelJust = "1 dB is just noticed: common practice"
)

// Columns are all measures in order.
var Columns = []Column{
	{ID: "tempo", Label: "Tempo", Unit: "BPM", Group: FeelGroup, Whole: true, Digits: 2, Source: "half a percent: " + common, Hint: "Tempo of the whole"},
	{ID: "swing", Label: "Swing", Unit: "%", Group: FeelGroup, Whole: true, Digits: 1, Source: displaced, Hint: "Where the second step of each pair falls"},
	{ID: "drift", Label: "Drift", Unit: "ms", Group: FeelGroup, Whole: true, Digits: 1, Source: displaced, Hint: "Lateness over bars: the bar that differs most", tolerance: leanTolerance},
	{ID: "lean", Label: "Lean", Unit: "ms", Group: FeelGroup, Digits: 1, Source: displaced, Hint: "How late the voice is on the mean", tolerance: leanTolerance},
	{ID: "steps", Label: "By step", Unit: "ms", Group: FeelGroup, Digits: 1, Source: displaced, Hint: "Timing by step, beside swing and lean: the step that differs most", tolerance: leanTolerance},
	{ID: "scatter", Label: "Scatter", Unit: "ms", Group: FeelGroup, Digits: 1, Source: common, Hint: "How much the timing varies from hit to hit", tolerance: 2},
	{ID: "pair", Label: "To the kick", Unit: "ms", Group: FeelGroup, Digits: 1, Source: displaced, Hint: "How much later than the kick the voice is where both strike"},
	{ID: "velocity", Label: "Velocity", Unit: "", Group: FeelGroup, Digits: 0, Source: "6 of 127 is 1 dB: " + common, Hint: "The mean velocity", tolerance: 6},
	{ID: "accents", Label: "Accents", Unit: "", Group: FeelGroup, Digits: 0, Source: "12 of 127 is 2 dB: " + common, Hint: "Velocity by step against the mean: the step that differs most", tolerance: 12},
	{ID: "hits", Label: "Hits", Unit: "", Group: HitsGroup, Digits: 0, Source: "a hit too many or too few is heard: " + common, Hint: "Hits that are missing, extra or moved"},
	{ID: "density", Label: "Density", Unit: "/beat", Group: HitsGroup, Digits: 2, Source: common, Hint: "Hits a beat", tolerance: 0.25},
	{ID: "syncopation", Label: "Syncopation", Unit: "", Group: HitsGroup, Digits: 1, Source: common, Hint: "How far off the beats its hits are, a bar (Longuet-Higgins & Lee 1984)", tolerance: 1},
	{ID: "fundamental", Label: "Pitch", Unit: "ct", Group: ToneGroup, Digits: 0, Source: "20 cents at 50 Hz: " + common, Hint: "The fundamental where it has settled", tolerance: 20},
	{ID: "settles", Label: "Settling", Unit: "%", Group: ToneGroup, Digits: 0, Source: common, Hint: "How long the pitch falls", tolerance: 30},
	{ID: "decay", Label: "Decay", Unit: "%", Group: ToneGroup, Digits: 0, Source: common, Hint: "Time to fall 60 dB", tolerance: 20},
	{ID: "attack", Label: "Attack", Unit: "ms", Group: ToneGroup, Digits: 1, Source: common, Hint: "From the onset to the peak", tolerance: 3},
	{ID: "snap", Label: "Snap", Unit: "dB", Group: ToneGroup, Digits: 1, Source: common, Hint: "The first 10 ms above 1 kHz, against the whole", tolerance: 2},
	{ID: "brightness", Label: "Brightness", Unit: "%", Group: ToneGroup, Digits: 0, Source: common, Hint: "The spectral centroid", tolerance: 20},
	{ID: "noisiness", Label: "Noisiness", Unit: "", Group: ToneGroup, Digits: 2, Source: common, Hint: "Spectral flatness, 0 to 1", tolerance: 0.1},
	{ID: "hit_crest", Label: "Crest", Unit: "dB", Group: ToneGroup, Digits: 1, Source: common, Hint: "Peak over RMS of the first 200 ms", tolerance: 3},
	{ID: "width", Label: "Width", Unit: "", Group: ToneGroup, Digits: 2, Source: common, Hint: "Correlation of both sides, 1 in the middle", tolerance: 0.2},
	{ID: "loudness", Label: "Loudness", Unit: "LUFS", Group: LevelGroup, Whole: true, Digits: 1, Source: levelJust, Hint: "Integrated (ITU-R BS.1770-4)", tolerance: 1},
	{ID: "true_peak", Label: "True peak", Unit: "dBTP", Group: LevelGroup, Whole: true, Digits: 1, Source: common, Hint: "ITU-R BS.1770-4", tolerance: 2},
	{ID: "crest", Label: "Crest", Unit: "dB", Group: LevelGroup, Whole: true, Digits: 1, Source: common, Hint: "Peak over RMS", tolerance: 2},
	{ID: "rest", Label: "To the rest", Unit: "dB", Group: LevelGroup, Whole: true, Digits: 1, Source: levelJust, Hint: "Drums against all that is no drum, K-weighted", tolerance: 2},
	{ID: "level", Label: "Level", Unit: "dB", Group: LevelGroup, Digits: 1, Source: levelJust, Hint: "All its hits against all drums", tolerance: 1.5},
	region("sub", "Sub"), region("low", "Low"), region("low_mid", "Low mid"), region("presence", "Presence"), region("air", "Air"),
	wholeRegion("sub", "Sub of all"), wholeRegion("low", "Low of all"), wholeRegion("low_mid", "Low mid of all"), wholeRegion("presence", "Presence of all"), wholeRegion("air", "Air of all"),
	busColumn("bus_level", "Level", "All its voices against all drums", 1.5), busColumn("bus_crest", "Crest", "Peak over RMS", 2),
	busColumn("bus_sub", "Sub", busHint, 2), busColumn("bus_low", "Low", busHint, 2), busColumn("bus_low_mid", "Low mid", busHint, 2),
	busColumn("bus_presence", "Presence", busHint, 2), busColumn("bus_air", "Air", busHint, 2),
}

const busHint = "This region against the whole bus; the reference's drums of the same families"

const (
	leanTolerance  = 6.0 // ms
	tempoTolerance = 0.5 // %
	// regionLow is below which a region is not heard, dB against the whole.
	regionLow = -30.0
)

func region(name, label string) Column {
	return Column{ID: "region_" + name, Label: label, Unit: "dB", Group: LevelGroup, Digits: 1, Source: common, Hint: "This region against the whole drum", tolerance: 3}
}

func wholeRegion(name, label string) Column {
	return Column{ID: "balance_" + name, Label: label, Unit: "dB", Group: LevelGroup, Whole: true, Digits: 1, Source: common, Hint: "This region against the whole", tolerance: 2}
}

func busColumn(id, label, hint string, tolerance float64) Column {
	return Column{ID: id, Label: label, Unit: "dB", Group: LevelGroup, Bus: true, Digits: 1, Source: common, Hint: hint, tolerance: tolerance}
}

func column(id string) *Column {
	for i := range Columns {
		if Columns[i].ID == id {
			return &Columns[i]
		}
	}
	panic("no column " + id)
}

// row begins a row of a column; f is empty for one of the whole.
func row(id string, f sound.Family, voice string) Row {
	c := column(id)
	r := Row{ID: id, Column: id, Measure: c.Label, Unit: c.Unit, Family: f, Voice: voice, Tolerance: c.tolerance}
	switch {
	case f != "":
		r.ID += "." + string(f)
	case c.Bus:
		r.ID += "." + voice
	}
	return r
}

// relative units: the difference is not mine less the reference's.
const (
	cents   = "ct"
	percent = "%"
)

// add fills in difference and judgement, and offers the change where the row is outside.
func (c *Comparison) add(r Row, act Act, change string, edits ...project.Edit) {
	r.Edits, r.Others = project.Edits{}, []*float64{}
	if c.profile != nil {
		r.Tolerance = math.Max(r.Tolerance, c.profile.Room(r.ID))
	}
	switch {
	case r.Mine != nil && r.Reference != nil:
		if r.Difference == nil {
			r.Difference = value(difference(&r))
		}
		inside := math.Abs(*r.Difference) <= r.Tolerance+r.Within
		r.Inside, r.Why = &inside, ""
		if !inside {
			r.Change, r.Act = minus.Replace(change), act
			r.Edits = append(r.Edits, edits...)
		}
	case r.Why == "" && r.Mine == nil:
		r.Why = "not enough in mine to measure"
	case r.Why == "":
		r.Why = "not enough in the reference to measure"
	}
	c.Rows = append(c.Rows, r)
}

// difference is mine less the reference's in the unit of the row's column.
func difference(r *Row) float64 {
	switch {
	case r.Unit == cents:
		return 1200 * math.Log2(*r.Mine / *r.Reference)
	case r.Unit == percent && r.Column != "swing":
		return 100 * (*r.Mine / *r.Reference - 1)
	}
	return *r.Mine - *r.Reference
}

// minus writes negative amounts with the true sign.
var minus = strings.NewReplacer(" -", " −", "-0.0 ", "0.0 ")

func value(v float64) *float64 { return &v }

// finish counts what lies outside and says what is largest.
func (c *Comparison) finish() {
	c.Columns = Columns
	for _, g := range []Group{FeelGroup, HitsGroup, ToneGroup, LevelGroup} {
		p := PartCount{Group: g}
		for i := range c.Rows {
			r := &c.Rows[i]
			if column(r.Column).Group != g {
				continue
			}
			p.Rows++
			if r.Inside == nil {
				continue
			}
			p.Measurable++
			if !*r.Inside {
				p.Outside++
				r.Sentence = r.words()
			}
		}
		c.Outside, c.Measurable = c.Outside+p.Outside, c.Measurable+p.Measurable
		c.Parts = append(c.Parts, p)
	}
	c.Largest = c.largest()
	if c.Names == nil {
		c.Names = []string{}
	}
	if c.Over == nil {
		c.Over = []Over{}
	}
}

// Severity is how many tolerances a row lies off, with what the reference's value may be
// wrong by; 0 inside and where it cannot be measured.
func (r *Row) Severity() float64 {
	if r.Inside == nil || *r.Inside {
		return 0
	}
	return math.Abs(*r.Difference) / math.Max(r.Tolerance+r.Within, 0.5)
}
