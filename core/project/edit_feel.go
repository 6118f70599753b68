package project

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/groove"
	"jubrak/core/music"
)

// Edits of the feel part by part.
var feelEdits = map[string]Edit{
	"feel.table": SetTable{}, "feel.drift": SetDrift{}, "feel.ramp": SetRamp{}, "feel.alike": SwingAlike{}, "feel.pull": PullBack{},
	"feel.apart": FeelApart{}, "feel.freeze": FreezeFeel{}, "feel.take": TakeParts{}, "take.play": PlayIn{}, "hit.straighten": StraightenHits{},
}

// SetTable sets a voice's contour or accent, a value for each step of the grid that
// repeats with its own length.
type SetTable struct {
	Voice string `json:"voice"`
	// Table is contour or accent.
	Table string `json:"table"`
	// Values are ms, late is positive, at most 100 either way; accents multiply
	// velocity, 1 leaves it, 0 to 8. None takes the table away.
	Values []float64 `json:"values"`
}

func (e SetTable) apply(d *Document, _ Env) ([]string, error) {
	if d.Kit.Voice(e.Voice) == nil {
		return nil, noVoice(e.Voice)
	}
	f := d.Groove.Feel.Voices[e.Voice]
	switch e.Table {
	case "contour":
		f.Contour = slices.Clone(e.Values)
	case "accent":
		f.Accent = slices.Clone(e.Values)
	default:
		return nil, fmt.Errorf("a voice's feel has a contour and an accent, no %q", e.Table)
	}
	d.Groove.Feel.Voices[e.Voice] = f
	return nil, nil
}

func (e SetTable) name(before, _ *Document) string {
	return fmt.Sprintf("%s: %s", before.nameOf(e.Voice), e.Table)
}

// SetDrift draws the lateness that comes and goes over bars.
type SetDrift struct {
	// Curve is ms at the start of each bar; none takes the drift away.
	Curve []float64 `json:"curve_ms"`
	// Voices are those that it moves.
	Voices []string `json:"voices"`
	// Stays holds the last value through its bar instead of going back to the first.
	Stays bool `json:"stays,omitempty"`
}

func (e SetDrift) apply(d *Document, _ Env) ([]string, error) {
	if err := d.knows(e.Voices); err != nil {
		return nil, err
	}
	d.Groove.Feel.Drift = groove.Drift{Curve: append([]float64{}, e.Curve...), Voices: append([]string{}, e.Voices...), Stays: e.Stays}
	return nil, nil
}

func (e SetDrift) name(_, _ *Document) string { return "Feel: drift" }

// SetRamp draws the loudness that comes and goes over bars.
type SetRamp struct {
	// Curve is percent by which velocities are raised at the start of each bar; none
	// takes the ramp away.
	Curve []float64 `json:"curve_percent"`
	// Voices are those that it raises and lowers.
	Voices []string `json:"voices"`
	// Stays holds the last value through its bar instead of going back to the first.
	Stays bool `json:"stays,omitempty"`
}

func (e SetRamp) apply(d *Document, _ Env) ([]string, error) {
	if err := d.knows(e.Voices); err != nil {
		return nil, err
	}
	d.Groove.Feel.Ramp = groove.Ramp{}
	if len(e.Curve) > 0 {
		d.Groove.Feel.Ramp = groove.Ramp{Curve: slices.Clone(e.Curve), Voices: append([]string{}, e.Voices...), Stays: e.Stays}
	}
	return nil, nil
}

func (e SetRamp) name(_, _ *Document) string { return "Feel: velocity over bars" }

func (d *Document) knows(voices []string) error {
	for _, id := range voices {
		if d.Kit.Voice(id) == nil {
			return noVoice(id)
		}
	}
	return nil
}

// SwingAlike takes the swings that voices have of their own away: all swing as the
// groove does.
type SwingAlike struct{}

func (e SwingAlike) apply(d *Document, _ Env) ([]string, error) {
	for id, f := range d.Groove.Feel.Voices {
		f.Swing = 0
		d.Groove.Feel.Voices[id] = f
	}
	return nil, nil
}

func (e SwingAlike) name(_, _ *Document) string { return "Feel: all voices share the swing" }

// PullBack moves every voice later, or earlier, by as much.
type PullBack struct {
	// By is ms, later where positive.
	By float64 `json:"by_ms"`
}

func (e PullBack) apply(d *Document, _ Env) ([]string, error) {
	by := e.By
	for _, v := range d.Kit.Voices {
		by = room(by, -groove.MaxLean, groove.MaxLean, d.Groove.Feel.Voices[v.ID].Lean)
	}
	for _, v := range d.Kit.Voices {
		f := d.Groove.Feel.Voices[v.ID]
		f.Lean = round2(f.Lean + by)
		d.Groove.Feel.Voices[v.ID] = f
	}
	return nil, nil
}

func (e PullBack) name(_, _ *Document) string {
	if e.By < 0 {
		return fmt.Sprintf("Feel: all pushed %s", amount(-e.By, "ms"))
	}
	return fmt.Sprintf("Feel: all pulled back %s", amount(e.By, "ms"))
}

// FreezeFeel writes the feel into the hits: timing as nudges, accents as velocities.
// The feel is straight then and everything falls where it did in the first pass; later
// passes fall as that one.
type FreezeFeel struct{}

func (e FreezeFeel) apply(d *Document, _ Env) ([]string, error) {
	g := d.Groove
	line := groove.NewLine(&g, d.Tempo, 0)
	held := 0
	for i := range d.Groove.Lanes {
		l := &d.Groove.Lanes[i]
		falls := line.Falls(i)
		own(l)
		for j := range l.Hits {
			h := &l.Hits[j]
			h.Nudge = limit(falls[j].Offset, groove.MaxNudge)
			if h.Nudge != falls[j].Offset {
				held++
			}
			h.Velocity = falls[j].Velocity
		}
	}
	d.Groove.Feel = groove.Straight()
	if held > 0 {
		return []string{fmt.Sprintf("%s lay more than %g ms from the grid and were limited to that.", count(held, "hit"), groove.MaxNudge)}, nil
	}
	return nil, nil
}

func (e FreezeFeel) name(_, _ *Document) string { return "Feel frozen into the hits" }

// FeelApart takes what is systematic in nudges out of them: swing, lean, contour and
// drift become parts of the feel, what they do not explain stays with its hit, and each
// hit falls where it did.
type FeelApart struct{}

func (e FeelApart) apply(d *Document, _ Env) ([]string, error) {
	g := d.Groove
	before := groove.NewLine(&g, d.Tempo, 0)
	was := map[HitRef]float64{}
	step := g.StepTicks()
	var placed []groove.Placed
	for i := range g.Lanes {
		l := &g.Lanes[i]
		for j, f := range before.Falls(i) {
			h := &l.Hits[j]
			was[HitRef{l.Voice, h.ID}] = f.Offset
			at := int(math.Round(float64(h.Tick) / float64(step)))
			placed = append(placed, groove.Placed{
				Heard: groove.Heard{Voice: l.Voice, Velocity: f.Velocity, Time: before.Seconds(float64(h.Tick)) + f.Offset/1000},
				Step:  at, Within: h.Tick - at*step, Offset: f.Offset,
			})
		}
	}
	if len(placed) < groove.EnoughHits {
		return nil, fmt.Errorf("%s are too few to measure a feel; play at least %d", count(len(placed), "hit"), groove.EnoughHits)
	}
	m := groove.Measure(placed, groove.Frame{Steps: g.Grid, PerBar: max(g.Meter.BarTicks()/music.PPQ, 1), Beat: 60 / d.Tempo[0].BPM, Pair: g.Feel.Pair, Anchor: d.anchor(), Loop: g.Bars})
	f := groove.Straight()
	f.ScatterKind = g.Feel.ScatterKind
	if m.Swing != nil {
		f.Pair, f.Swing = m.Pair, round2(limit(*m.Swing-50, 25)+50)
	}
	for id, v := range m.Voices {
		vf := groove.VoiceFeel{Contour: contour(v.Contour), Accent: g.Feel.Voices[id].Accent}
		if vf.Contour == nil {
			vf.Contour = []float64{}
		}
		if vf.Accent == nil {
			vf.Accent = []float64{}
		}
		if v.Lean != nil {
			vf.Lean = round2(limit(*v.Lean+m.OriginShift, groove.MaxLean))
		}
		f.Voices[id] = vf
	}
	if m.Drift != nil {
		for _, c := range m.Drift.Curve {
			f.Drift.Curve = append(f.Drift.Curve, round2(c))
		}
		f.Drift.Voices = m.Drift.Voices
	}
	d.Groove.Feel = f
	g = d.Groove
	after := groove.NewLine(&g, d.Tempo, 0)
	var rest float64
	for i := range d.Groove.Lanes {
		l := &d.Groove.Lanes[i]
		own(l)
		for j, fall := range after.Falls(i) {
			h := &l.Hits[j]
			h.Nudge = limit(was[HitRef{l.Voice, h.ID}]-(fall.Offset-h.Nudge), groove.MaxNudge)
			rest += h.Nudge * h.Nudge
		}
	}
	return []string{fmt.Sprintf("Timing is unchanged. %s ms (RMS) stay with the hits as nudges.", amount(math.Sqrt(rest/float64(len(placed))), ""))}, nil
}

// anchor is the voice that stands for the beat: the first kick, or the first voice.
func (d *Document) anchor() string {
	for i := range d.Kit.Voices {
		if d.Kit.Voices[i].Family == "kick" {
			return d.Kit.Voices[i].ID
		}
	}
	if len(d.Kit.Voices) > 0 {
		return d.Kit.Voices[0].ID
	}
	return ""
}

func (e FeelApart) name(_, _ *Document) string { return "Feel extracted from the hits" }

// PlayIn puts a stroke that was played while the groove went round.
type PlayIn struct {
	Voice string `json:"voice"`
	// At is where it was played, ticks from the start of the groove, fractions
	// allowed.
	At float64 `json:"at_ticks"`
	// Velocity is 1 to 127.
	Velocity int `json:"velocity"`
	// Straighten is how much of its distance from where it belongs is taken away,
	// percent.
	Straighten float64 `json:"straighten_percent"`
	// Towards is where it belongs: grid, or feel.
	Towards string `json:"towards"`
	// From is where the part begins that went round, ticks, where only a part did: what
	// is played just before its end may belong to its first step.
	From int `json:"from_ticks,omitempty"`
	// To is where that part ends, ticks; 0 is all of the lane.
	To int `json:"to_ticks,omitempty"`
}

// round is a place within the part that goes round, or within a lane of a length.
func (e PlayIn) round(at float64, length int) float64 {
	from, n := 0.0, float64(length)
	if e.From >= 0 && e.To > e.From && e.To <= length {
		from, n = float64(e.From), float64(e.To-e.From)
	}
	return from + math.Mod(math.Mod(at-from, n)+n, n)
}

func (e PlayIn) apply(d *Document, _ Env) ([]string, error) {
	i, _, err := d.laneOf(e.Voice)
	if err != nil {
		return nil, err
	}
	if !(e.At > -1e9 && e.At < 1e9) || !(e.Straighten >= 0 && e.Straighten <= 100) {
		return nil, fmt.Errorf("a stroke is played at a place and straightened by 0 to 100 %%")
	}
	length, step := d.Groove.LaneTicks(i), d.Groove.LaneStep(i)
	at := e.round(e.At, length)
	// The step whose place, with the feel, is nearest.
	probe := func(s int) (tick int, offset float64) {
		tick = int(e.round(float64(s*step), length))
		return tick, d.feelAt(e.Voice, tick)
	}
	perMS := d.Tempo[0].BPM * music.PPQ / 60000 // ticks of a ms
	best, nudge, near := 0, 0.0, math.Inf(1)
	middle := int(math.Floor(at / float64(step)))
	for s := middle - 1; s <= middle+2; s++ {
		tick, offset := probe(s)
		belongs := float64(s * step)
		if e.Towards == "feel" {
			belongs += offset * perMS
		}
		if off := at - belongs; math.Abs(off) < near {
			near = math.Abs(off)
			best = tick
			left := off / perMS * (1 - e.Straighten/100)
			nudge = left
			if e.Towards != "feel" {
				nudge = left - offset // what the feel will add is not wanted twice
			}
		}
	}
	hit := groove.Hit{Tick: best, Velocity: min(max(e.Velocity, 1), 127), Nudge: limit(nudge, groove.MaxNudge)}
	return PutHits{[]NewHit{{e.Voice, hit}}}.apply(d, nil)
}

// feelAt is how late the feel makes a place of a voice, without scatter, ms.
func (d *Document) feelAt(voice string, tick int) float64 {
	g := d.Groove
	g.Lanes = []groove.Lane{{Voice: voice, Hits: []groove.Hit{{ID: "x", Tick: tick, Velocity: 100}}}}
	g.Feel.Voices = map[string]groove.VoiceFeel{}
	f := d.Groove.Feel.Voices[voice]
	f.Scatter = 0
	g.Feel.Voices[voice] = f
	return groove.NewLine(&g, d.Tempo, 0).Falls(0)[0].Offset
}

func (e PlayIn) name(before, _ *Document) string { return before.nameOf(e.Voice) + " played in" }

// StraightenHits takes some of the nudges of hits away: towards the feel. Towards the
// grid it takes the feel's part and the scatter away too, so that a hit at 100 % falls
// straight, on every pass.
type StraightenHits struct {
	Hits []HitRef `json:"hits"`
	// Percent is how much.
	Percent float64 `json:"percent"`
	// Towards is grid or feel.
	Towards string `json:"towards"`
}

func (e StraightenHits) apply(d *Document, _ Env) ([]string, error) {
	if !(e.Percent >= 0 && e.Percent <= 100) {
		return nil, fmt.Errorf("hits are straightened by 0 to 100 %%")
	}
	if e.Towards != "grid" && e.Towards != "feel" {
		return nil, fmt.Errorf("hits are straightened towards the grid or the feel, not %q", e.Towards)
	}
	refs := unique(e.Hits)
	hits, err := d.findAll(refs)
	if err != nil {
		return nil, err
	}
	for i, h := range hits {
		target := 0.0
		if e.Towards == "grid" {
			target = -d.feelAt(refs[i].Voice, h.Tick)
			h.Still = round2(h.Still + (100-h.Still)*e.Percent/100)
		}
		h.Nudge = limit(round2(h.Nudge+(target-h.Nudge)*e.Percent/100), groove.MaxNudge)
	}
	return nil, nil
}

func (e StraightenHits) name(_, _ *Document) string {
	return fmt.Sprintf("%s straightened by %s %%", count(len(e.Hits), "hit"), amount(e.Percent, ""))
}

// TakeParts takes parts of a feel from somewhere and leaves the rest.
type TakeParts struct {
	// From is whose they are: reference or variation.
	From string `json:"from"`
	// ID names it; of a reference, empty is the active one.
	ID string `json:"id,omitempty"`
	// Parts are parts of a feel: swing, lean, contour, drift, scatter, accent,
	// velocity_scatter, ramp.
	Parts []groove.FeelPart `json:"parts"`
	// Voices are those that take; none named is all.
	Voices []string `json:"voices,omitempty"`
}

func (e TakeParts) apply(d *Document, env Env) ([]string, error) {
	for _, p := range e.Parts {
		if !slices.Contains(groove.FeelParts, p) || p == groove.PartNudge {
			return nil, fmt.Errorf("a feel has no part %q to take", p)
		}
	}
	if err := d.knows(e.Voices); err != nil {
		return nil, err
	}
	from, notes, err := d.feelFrom(e.From, e.ID, env)
	if err != nil {
		return nil, err
	}
	f := &d.Groove.Feel
	for _, p := range e.Parts {
		switch p {
		case "swing":
			if len(e.Voices) == 0 {
				f.Pair, f.Swing = from.Pair, from.Swing
			}
		case "drift":
			f.Drift = from.Drift
		case "ramp":
			f.Ramp = from.Ramp
		}
	}
	for i := range d.Kit.Voices {
		id := d.Kit.Voices[i].ID
		if len(e.Voices) > 0 && !slices.Contains(e.Voices, id) {
			continue
		}
		theirs, ok := from.Voices[id]
		if !ok && len(e.Voices) == 0 {
			continue
		}
		mine := f.Voices[id]
		for _, p := range e.Parts {
			switch p {
			case "swing":
				mine.Swing = theirs.Swing
				if len(e.Voices) > 0 && mine.Swing == 0 && from.Swing != f.Swing {
					mine.Swing = from.Swing
				}
			case "lean":
				mine.Lean = theirs.Lean
			case "contour":
				mine.Contour = theirs.Contour
			case "scatter":
				mine.Scatter = theirs.Scatter
			case "accent":
				mine.Accent = theirs.Accent
			case "velocity_scatter":
				mine.VelocityScatter = theirs.VelocityScatter
			}
		}
		f.Voices[id] = mine
	}
	return notes, nil
}

// feelFrom is the whole feel that could be taken from somewhere, for this kit.
func (d *Document) feelFrom(from, id string, env Env) (*groove.Feel, []string, error) {
	switch from {
	case "variation":
		g := d.GrooveOf(id)
		if g == nil {
			return nil, nil, fmt.Errorf("there is no variation %q", id)
		}
		return &g.Feel, nil, nil
	case "reference":
		if id == "" {
			id = d.Active
		}
		r := d.Reference(id)
		if r == nil {
			return nil, nil, fmt.Errorf("there is no reference to take from; bring one first")
		}
		a, err := env.Analysis(r)
		if err != nil {
			return nil, nil, err
		}
		if a.Feel == nil {
			return nil, nil, fmt.Errorf("no beat was found in %q, so there is nothing to take", r.Name)
		}
		other := d.draft()
		other.Groove.Feel = groove.Straight()
		notes := other.takeFeel(a)
		for i := range other.Kit.Voices {
			v := &other.Kit.Voices[i]
			heard, ok := a.Feel.Voices[string(v.Family)]
			if !ok {
				continue
			}
			vf := other.Groove.Feel.Voices[v.ID]
			vf.Accent = accents(heard.Accent)
			other.Groove.Feel.Voices[v.ID] = vf
		}
		return &other.Groove.Feel, notes, nil
	}
	return nil, nil, fmt.Errorf("a feel is taken from a reference or a variation, not from %q", from)
}

// accents takes what is known of measured accents; the rest is 1.
func accents(heard []*float64) []float64 {
	out := make([]float64, len(heard))
	for i, a := range heard {
		out[i] = 1
		if a != nil {
			out[i] = round2(math.Min(math.Max(*a, 0), 8))
		}
	}
	return out
}

func (e TakeParts) name(_, _ *Document) string {
	if len(e.Parts) == 1 {
		return fmt.Sprintf("Feel: %s taken", e.Parts[0])
	}
	return "Feel: parts taken"
}
