package project

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Edits that borrow from a reference.
var takeEdits = map[string]Edit{"take.pattern": TakePattern{}, "take.feel": TakeFeel{}, "take.both": TakeBoth{}, "take.groove": TakeGroove{}}

// TakePattern writes the hits of a reference on the lanes.
type TakePattern struct {
	// Reference is its id; empty for the active one.
	Reference string `json:"reference,omitempty"`
	// Places say to which voice a family goes that has none of its own, by family.
	Places map[string]string `json:"places,omitempty"`
	// Bars is "all", each bar as it was played, or "cycle", what repeats; empty is all.
	Bars TakenBars `json:"bars,omitempty"`
}

// TakenBars says which bars of a reference a pattern is made of.
type TakenBars string

// All bars as they were played, or the cycle that repeats, its places struck where at
// least half of the passes strike them.
const (
	AllBars   TakenBars = "all"
	OnlyCycle TakenBars = "cycle"
)

// TakeFeel takes the feel of a reference.
type TakeFeel struct {
	// Reference is its id; empty for the active one.
	Reference string `json:"reference,omitempty"`
}

// TakeBoth takes pattern, feel and tempo of a reference; of a profile, which has
// no pattern, feel and tempo.
type TakeBoth struct {
	// Reference is its id; empty for the active one.
	Reference string `json:"reference,omitempty"`
	// Places say to which voice a family goes that has none of its own, by family.
	Places map[string]string `json:"places,omitempty"`
	// Bars is "all" or "cycle", as of a pattern. Of all bars each hit falls where it was
	// played: what the feel does not do stays with it as a nudge.
	Bars TakenBars `json:"bars,omitempty"`
}

func (e TakePattern) apply(d *Document, env Env) ([]string, error) {
	return d.take(e.Reference, env, asked{e.Places, e.Bars, true, false})
}

func (e TakePattern) name(before, _ *Document) string {
	return "Pattern taken from " + before.takenFrom(e.Reference)
}

func (e TakeFeel) apply(d *Document, env Env) ([]string, error) {
	return d.take(e.Reference, env, asked{feel: true})
}

func (e TakeFeel) name(before, _ *Document) string {
	return "Feel taken from " + before.takenFrom(e.Reference)
}

func (e TakeBoth) apply(d *Document, env Env) ([]string, error) {
	return d.take(e.Reference, env, asked{e.Places, e.Bars, true, true})
}

func (e TakeBoth) name(before, _ *Document) string {
	return "Pattern and feel taken from " + before.takenFrom(e.Reference)
}

func (d *Document) takenFrom(id string) string {
	if id == "" {
		id = d.Active
	}
	return d.referenceName(id)
}

// asked is what is taken from a reference.
type asked struct {
	places        map[string]string
	bars          TakenBars
	pattern, feel bool
}

// take borrows from a reference: its pattern, its feel, or both and its tempo.
func (d *Document) take(id string, env Env, ask asked) ([]string, error) {
	pattern, feel := ask.pattern, ask.feel
	if ask.bars != "" && ask.bars != AllBars && ask.bars != OnlyCycle {
		return nil, fmt.Errorf("a pattern is made of all bars or of the cycle, not of %q", ask.bars)
	}
	if id == "" {
		id = d.Active
	}
	r := d.Reference(id)
	if r == nil {
		return nil, fmt.Errorf("there is no reference to take from; bring one first")
	}
	a, err := env.Analysis(r)
	if err != nil {
		return nil, err
	}
	switch {
	case r.Kind == "profile" && pattern && !feel:
		return nil, fmt.Errorf("a profile has a feel but no pattern; take the feel")
	case r.Kind == "profile":
		notes := d.takeFeel(a)
		if pattern {
			d.Tempo = music.Steady(math.Round(*a.Tempo*100) / 100)
		}
		return notes, nil
	case a.Grid == nil || a.Feel == nil:
		return nil, fmt.Errorf("no beat was found in %q, so there is nothing to take", r.Name)
	}
	var notes []string
	if pattern && feel {
		d.Tempo = music.Steady(math.Round(*a.Tempo*100) / 100)
	}
	var taken *heardPattern
	if pattern {
		taken = d.takePattern(a, ask)
		notes = append(notes, taken.notes...)
	}
	if feel {
		notes = append(notes, d.takeFeel(a)...)
	}
	if pattern && feel && taken.all {
		d.nudgeTo(taken)
	}
	return notes, nil
}

// takeFeel sets what was measured; what could not be reported stays as it is.
func (d *Document) takeFeel(a *transcribe.Analysis) (notes []string) {
	m := a.Feel
	f := &d.Groove.Feel
	f.Strength = 100
	if m.Swing != nil {
		f.Pair, f.Swing = m.Pair, round2(limit(*m.Swing-50, 25)+50)
	} else {
		notes = append(notes, "The reference's swing cannot be measured, so it was left alone.")
	}
	if f.Voices == nil {
		f.Voices = map[string]groove.VoiceFeel{}
	}
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		heard, ok := m.Voices[string(v.Family)]
		if !ok || heard.Lean == nil {
			continue
		}
		vf := f.Voices[v.ID]
		vf.Lean = round2(limit(*heard.Lean, groove.MaxLean))
		if heard.Scatter != nil {
			vf.Scatter = round2(math.Min(*heard.Scatter, groove.MaxScatter))
		}
		vf.Contour = contour(heard.Contour)
		if d.Groove.Grid != a.Steps*a.Unit/4 {
			vf.Contour = nil
		}
		f.Voices[v.ID] = vf
	}
	f.Drift = groove.Drift{Curve: []float64{}, Voices: []string{}}
	if m.Drift != nil {
		for _, c := range m.Drift.Curve {
			f.Drift.Curve = append(f.Drift.Curve, round2(c))
		}
		for i := range d.Kit.Voices {
			if slices.Contains(m.Drift.Voices, string(d.Kit.Voices[i].Family)) {
				f.Drift.Voices = append(f.Drift.Voices, d.Kit.Voices[i].ID)
			}
		}
	}
	return notes
}

// contour takes what is known of a measured contour; the rest is 0. A
// contour within 1 ms everywhere is none.
func contour(heard []*float64) []float64 {
	out := make([]float64, len(heard))
	matters := false
	for i, c := range heard {
		if c != nil {
			out[i] = round2(*c)
			matters = matters || math.Abs(*c) > 1
		}
	}
	if !matters {
		return nil
	}
	return out
}

func round2(x float64) float64 { return math.Round(x*100) / 100 }

func limit(v, most float64) float64 { return math.Min(math.Max(v, -most), most) }

// GrooveRow is a row of a groove that comes from elsewhere, for which a voice is to be found.
type GrooveRow struct {
	// Lane is the lane's voice there.
	Lane   string       `json:"lane"`
	Name   string       `json:"name"`
	Family sound.Family `json:"family"`
}

// TakeGroove takes a groove from elsewhere: one that ships, one of another project. Its
// rows go to voices by family, the second snare's to the second snare, and what finds
// no place is said.
type TakeGroove struct {
	Groove groove.Groove `json:"groove"`
	// Rows say of each lane what it was.
	Rows []GrooveRow `json:"rows"`
	// Places say where rows go that are placed by hand, by lane: a voice, or empty for
	// nowhere.
	Places map[string]string `json:"places,omitempty"`
	// Part is pattern, feel or both.
	Part string `json:"part"`
	// Tempo is taken along where it is not 0, BPM.
	Tempo float64 `json:"tempo_bpm,omitempty"`
	// Title says where it comes from, for the history.
	Title string `json:"title,omitempty"`
}

// PlacesFor returns which voice of the kit each row goes to, by lane; a row that is not
// there has no place.
func (d *Document) PlacesFor(rows []GrooveRow, byHand map[string]string) map[string]string {
	out := map[string]string{}
	taken := map[string]bool{}
	for lane, v := range byHand {
		if v != "" && d.Kit.Voice(v) != nil {
			out[lane], taken[v] = v, true
		}
	}
	pick := func(f sound.Family) string {
		for i := range d.Kit.Voices {
			if v := &d.Kit.Voices[i]; v.Family == f && !taken[v.ID] {
				return v.ID
			}
		}
		return ""
	}
	for _, related := range []bool{false, true} {
		for _, r := range rows {
			if _, ok := out[r.Lane]; ok {
				continue
			}
			if _, ok := byHand[r.Lane]; ok {
				continue
			}
			families := []sound.Family{r.Family}
			if related {
				families = sound.Relations(r.Family)
			}
			for _, f := range families {
				if v := pick(f); v != "" {
					out[r.Lane], taken[v] = v, true
					break
				}
			}
		}
	}
	return out
}

func (e TakeGroove) apply(d *Document, _ Env) ([]string, error) {
	if err := e.Groove.Validate(); err != nil {
		return nil, err
	}
	pattern, feel := e.Part == "pattern" || e.Part == "both", e.Part == "feel" || e.Part == "both"
	if !pattern && !feel {
		return nil, fmt.Errorf("a groove's pattern, feel or both are taken, not %q", e.Part)
	}
	places := d.PlacesFor(e.Rows, e.Places)
	var notes []string
	if pattern {
		d.Groove.Bars, d.Groove.Meter, d.Groove.Grid, d.Groove.Seed = e.Groove.Bars, e.Groove.Meter, e.Groove.Grid, e.Groove.Seed
		for i := range d.Groove.Lanes {
			d.Groove.Lanes[i] = groove.Lane{Voice: d.Groove.Lanes[i].Voice, Hits: []groove.Hit{}}
		}
		for _, r := range e.Rows {
			from := e.Groove.Lane(r.Lane)
			if from == nil || len(from.Hits) == 0 {
				continue
			}
			to, ok := places[r.Lane]
			if !ok {
				notes = append(notes, fmt.Sprintf("%s of %s have no matching voice in this kit and were left out. Ctrl Z brings them back.", count(len(from.Hits), "hit"), r.Name))
				continue
			}
			hits := slices.Clone(from.Hits)
			for j := range hits {
				hits[j].Sound = places[hits[j].Sound]
			}
			*d.Groove.EnsureLane(to) = groove.Lane{Voice: to, Hits: hits, Steps: from.Steps, Grid: from.Grid}
		}
	}
	if feel {
		f := e.Groove.Feel
		mine := &d.Groove.Feel
		if pattern {
			clear(mine.Voices) // nothing of the groove that was
		}
		mine.Pair, mine.Swing, mine.Strength, mine.ScatterKind = f.Pair, f.Swing, f.Strength, f.ScatterKind
		for lane, v := range f.Voices {
			if to, ok := places[lane]; ok {
				mine.Voices[to] = v
			}
		}
		moved := func(voices []string) []string {
			out := []string{}
			for _, v := range voices {
				if to, ok := places[v]; ok {
					out = append(out, to)
				}
			}
			return out
		}
		mine.Drift = groove.Drift{Curve: f.Drift.Curve, Voices: moved(f.Drift.Voices), Stays: f.Drift.Stays}
		mine.Ramp = groove.Ramp{}
		if len(f.Ramp.Curve) > 0 {
			mine.Ramp = groove.Ramp{Curve: f.Ramp.Curve, Voices: moved(f.Ramp.Voices), Stays: f.Ramp.Stays}
		}
	}
	if e.Tempo > 0 {
		_, err := SetNumber{At: "tempo/bpm", Value: e.Tempo}.apply(d, nil)
		return notes, err
	}
	return notes, nil
}

func (e TakeGroove) name(_, _ *Document) string {
	what := map[string]string{"pattern": "Pattern", "feel": "Feel", "both": "Groove"}[e.Part]
	if e.Title == "" {
		return what + " taken"
	}
	return fmt.Sprintf("%s of %s taken", what, e.Title)
}
