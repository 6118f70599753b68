// Package profile holds feels and tones worth keeping: those that a user saved
// from a reference, and those of genres, which say what is common practice as
// ranges.
package profile

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode/utf8"

	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Range is from Low to High; a measured value has both alike.
type Range struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Middle is halfway.
func (r Range) Middle() float64 { return (r.Low + r.High) / 2 }

// Half is how far the ends lie from the middle.
func (r Range) Half() float64 { return (r.High - r.Low) / 2 }

// Voice is what a profile says of one family; nil is nothing said.
type Voice struct {
	Lean     *Range `json:"lean_ms"`
	Scatter  *Range `json:"scatter_ms"`
	Velocity *Range `json:"velocity"`
	Density  *Range `json:"density"` // hits per beat
	// Contour and Accent go by step of the bar; empty is none.
	Contour []float64 `json:"contour_ms"`
	Accent  []float64 `json:"accent"`
	// Hits is how many hits it was measured on; 0 where that is not known.
	Hits int `json:"hits,omitempty"`
}

// Profile is a feel and a tone without a recording.
type Profile struct {
	ID   string   `json:"id"`
	Name string   `json:"name"`
	Tags []string `json:"tags"`
	// Source says where it comes from: "common practice" for a genre.
	Source string `json:"source"`
	Notes  string `json:"notes"`
	Tempo  *Range `json:"tempo_bpm"`
	Meter  string `json:"meter"`
	// Pair is the note value whose pairs swing, 8 or 16.
	Pair   int                    `json:"pair"`
	Swing  *Range                 `json:"swing_percent"`
	Voices map[sound.Family]Voice `json:"voices"`
	KickHz *Range                 `json:"kick_fundamental_hz"`
	// Tones is the sound of each family's hits.
	Tones map[sound.Family]Tone `json:"tones"`
	// Balance is energy by region against the whole, dB.
	Balance map[string]Range `json:"balance_db"`
	// Habit is what it is made of where that is several recordings, else nil.
	Habit *Habit `json:"habit,omitempty"`
	// Borrowed is how much of its numbers comes from a genre on which it leans.
	Borrowed []Leaning `json:"borrowed,omitempty"`
}

// Limits of a saved profile.
const (
	maxName  = 80
	maxNotes = 4000
	maxTags  = 20
)

// Tidy makes what a profile saved by an older version lacks empty rather than
// absent.
func (p *Profile) Tidy() {
	if p.Tones == nil {
		p.Tones = map[sound.Family]Tone{}
	}
}

// Validate checks texts and ranges.
func (p *Profile) Validate() error {
	if strings.TrimSpace(p.Name) == "" || utf8.RuneCountInString(p.Name) > maxName {
		return fmt.Errorf("a profile needs a name of at most %d characters", maxName)
	}
	if utf8.RuneCountInString(p.Notes) > maxNotes || len(p.Tags) > maxTags {
		return fmt.Errorf("notes hold at most %d characters and %d tags", maxNotes, maxTags)
	}
	if p.Pair != 8 && p.Pair != 16 {
		return fmt.Errorf("swing acts on pairs of eighths (8) or sixteenths (16)")
	}
	check := func(name string, r *Range, lo, hi float64) error {
		if r != nil && !(r.Low >= lo && r.High <= hi && r.Low <= r.High) {
			return fmt.Errorf("%s must run upwards between %g and %g", name, lo, hi)
		}
		return nil
	}
	for _, err := range []error{
		check("tempo", p.Tempo, 20, 400), check("swing", p.Swing, 25, 75), check("kick", p.KickHz, 20, 200),
	} {
		if err != nil {
			return err
		}
	}
	if h := p.Habit; h != nil {
		if len(h.Recordings) > MaxRecordings || h.Aim < 0 || h.Aim > len(h.Recordings) {
			return fmt.Errorf("a habit is made of at most %d recordings and aims at one of them", MaxRecordings)
		}
		for i := range h.Recordings {
			if h.Recordings[i].Habit != nil {
				return fmt.Errorf("a habit is made of recordings")
			}
			if err := h.Recordings[i].Validate(); err != nil {
				return err
			}
		}
	}
	for f, t := range p.Tones {
		if !f.Known() {
			return fmt.Errorf("unknown family %q", f)
		}
		if err := t.validate(); err != nil {
			return err
		}
	}
	for f, v := range p.Voices {
		if !f.Known() {
			return fmt.Errorf("unknown family %q", f)
		}
		for _, err := range []error{
			check("lean", v.Lean, -100, 100), check("scatter", v.Scatter, 0, 50),
			check("velocity", v.Velocity, 1, 127), check("density", v.Density, 0, 64),
		} {
			if err != nil {
				return err
			}
		}
	}
	return nil
}

// Of saves what was measured of a reference, with the tones of its hits.
func Of(a *transcribe.Analysis, tones map[sound.Family]Tone, name, notes string, tags []string) (*Profile, error) {
	if a.Feel == nil || a.Tempo == nil {
		return nil, fmt.Errorf("no beat was found, so there is no feel to save")
	}
	p := &Profile{Name: strings.TrimSpace(name), Notes: notes, Tags: tags, Source: "measured", Meter: a.Meter, Pair: a.Feel.Pair,
		Tempo: exactly(*a.Tempo), Voices: map[sound.Family]Voice{}, Tones: tones, Balance: map[string]Range{}}
	if p.Tones == nil {
		p.Tones = map[sound.Family]Tone{}
	}
	if p.Tags == nil {
		p.Tags = []string{}
	}
	if a.Feel.Swing != nil {
		p.Swing = exactly(*a.Feel.Swing)
	}
	for f, m := range a.Feel.Voices {
		v := Voice{Velocity: exactly(round(m.VelocityMean)), Density: exactly(round(a.Groove.Density[sound.Family(f)])), Hits: m.Count}
		if m.Lean != nil {
			v.Lean = exactly(round(*m.Lean))
		}
		if m.Scatter != nil {
			v.Scatter = exactly(round(*m.Scatter))
		}
		v.Contour, v.Accent = known(m.Contour, 0), known(m.Accent, 1)
		p.Voices[sound.Family(f)] = v
	}
	if a.KickHz != nil {
		p.KickHz = exactly(round(*a.KickHz))
	}
	if b := a.Balance; b != nil {
		for region, db := range map[string]float64{"sub": b.Sub, "low": b.Low, "low_mid": b.LowMid, "presence": b.Presence, "air": b.Air} {
			p.Balance[region] = *exactly(round(db))
		}
	}
	return p, p.Validate()
}

func exactly(v float64) *Range { return &Range{v, v} }

func round(v float64) float64 { return math.Round(v*100) / 100 }

// known fills what was not reported with a default; nothing at all stays empty.
func known(table []*float64, otherwise float64) []float64 {
	if !slices.ContainsFunc(table, func(v *float64) bool { return v != nil }) {
		return []float64{}
	}
	out := make([]float64, len(table))
	for i, v := range table {
		out[i] = otherwise
		if v != nil {
			out[i] = round(*v)
		}
	}
	return out
}
