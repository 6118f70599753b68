package project

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"jubrak/core/arrange"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/pattern"
	"jubrak/core/sound"
)

// Edits of what lies on the arrangement. Places are ticks of the piece.
var overEdits = map[string]Edit{
	"piece.paint": PaintRows{}, "piece.dropout": AddDropout{}, "dropout.set": SetDropout{}, "piece.fill": PlaceFill{}, "piece.object": PlaceObject{},
	"piece.bars": PlaceBars{}, "bar.open": OpenBar{}, "over.move": MoveOver{}, "over.set": SetOver{}, "over.remove": RemoveOver{},
	"piece.automate": Automate{}, "bars.copy": CopyBars{},
}

// PaintRows lets rows play, or not, between two places of the piece.
type PaintRows struct {
	// Voices are the rows.
	Voices []string `json:"voices"`
	// From is the tick of the piece at which it begins.
	From int `json:"from"`
	// To is the tick of the piece behind its end.
	To int `json:"to"`
	// Plays says whether they are heard there.
	Plays bool `json:"plays"`
}

func (e PaintRows) apply(d *Document, _ Env) ([]string, error) {
	for _, v := range e.Voices {
		if d.Kit.Voice(v) == nil {
			return nil, noVoice(v)
		}
	}
	if e.To <= e.From {
		return nil, fmt.Errorf("what is painted has a length")
	}
	d.across(e.From, e.To, func(s *arrange.Section, from, to int) { s.Paint(e.Voices, from, to, e.Plays) })
	return nil, nil
}

// across calls f with each section between two places, its lists its own, and the part of
// it that lies between them.
func (d *Document) across(from, to int, f func(s *arrange.Section, from, to int)) {
	at := 0
	for i := range d.Arrangement.Sections {
		s := &d.Arrangement.Sections[i]
		n := s.Ticks(d.GrooveOf(s.Variation))
		if a, b := max(from-at, 0), min(to-at, n); b > a {
			s.Own()
			f(s, a, b)
		}
		at += n
	}
}

func (e PaintRows) name(before, _ *Document) string {
	who := count(len(e.Voices), "row")
	if len(e.Voices) == 1 {
		who = before.nameOf(e.Voices[0])
	}
	if e.Plays {
		return who + " painted in"
	}
	return who + " left out"
}

// AddDropout silences all rows but some for a while.
type AddDropout struct {
	// At is a tick of the piece.
	At int `json:"at"`
	// Length is in ticks.
	Length int `json:"length"`
	// Keeps are the voices that go on.
	Keeps []string `json:"keeps"`
	// Hit is a voice that is struck once at its start; empty is none.
	Hit string `json:"hit,omitempty"`
	// Cuts stops what rings; else it rings over.
	Cuts bool `json:"cuts_tails,omitempty"`
}

func (e AddDropout) apply(d *Document, _ Env) ([]string, error) {
	if e.Length < 1 {
		return nil, fmt.Errorf("a dropout has a length")
	}
	if e.Hit != "" && d.Kit.Voice(e.Hit) == nil {
		return nil, noVoice(e.Hit)
	}
	first, found := true, false
	d.across(e.At, e.At+e.Length, func(s *arrange.Section, from, to int) {
		one := arrange.Dropout{ID: s.FreeID(), At: from, Length: to - from, Keeps: e.Keeps, Cuts: e.Cuts}
		if first {
			one.Hit = e.Hit
		}
		first, found = false, true
		s.Dropouts = append(s.Dropouts, one)
	})
	if !found {
		return nil, fmt.Errorf("the piece ends before that place")
	}
	return nil, nil
}

func (e AddDropout) name(before, _ *Document) string {
	switch {
	case len(e.Keeps) == 0 && e.Hit == "":
		return "Dropout of all"
	case len(e.Keeps) == 1:
		return "Dropout of all but " + before.nameOf(e.Keeps[0])
	case e.Hit != "":
		return "Dropout with one sound, " + before.nameOf(e.Hit)
	}
	return "Dropout"
}

// SetDropout changes who goes on in a dropout.
type SetDropout struct {
	// Section is its id.
	Section string `json:"section"`
	// Over is the id of what is meant.
	Over string `json:"over"`
	// Keeps are the voices that go on.
	Keeps []string `json:"keeps"`
	// Hit is a voice that is struck once at its start; empty is none.
	Hit string `json:"hit"`
	// Cuts stops what rings; else it rings over.
	Cuts bool `json:"cuts_tails"`
}

func (e SetDropout) apply(d *Document, _ Env) ([]string, error) {
	_, s, err := d.section(e.Section)
	if err != nil {
		return nil, err
	}
	for i := range s.Dropouts {
		if s.Dropouts[i].ID == e.Over {
			s.Dropouts[i].Keeps, s.Dropouts[i].Hit, s.Dropouts[i].Cuts = e.Keeps, e.Hit, e.Cuts
			return nil, nil
		}
	}
	return nil, fmt.Errorf("that dropout is not there any more")
}

func (e SetDropout) name(_, _ *Document) string { return "Dropout changed" }

// PlaceFill puts a fill at a place: one that ships, one made of the groove by a seed, or a
// bar of a reference.
type PlaceFill struct {
	// At is a tick of the piece.
	At int `json:"at"`
	// Fill is the id of one that ships; empty is another source.
	Fill string `json:"fill,omitempty"`
	// Made makes one of what the section plays there, Length ticks long; Seed draws it.
	Made bool `json:"made,omitempty"`
	// Seed draws it.
	Seed int64 `json:"seed,omitempty"`
	// Length is in ticks.
	Length int `json:"length,omitempty"`
	// Reference and Bar borrow a bar of a reference, counted from 1; Bars is how many.
	Reference string `json:"reference,omitempty"`
	// Bar is the first of them, counted from 1.
	Bar int `json:"bar,omitempty"`
	// Bars is how many.
	Bars int `json:"bars,omitempty"`
}

func (e PlaceFill) apply(d *Document, env Env) (notes []string, err error) {
	s, tick, err := d.place(e.At)
	if err != nil {
		return nil, err
	}
	g := d.GrooveOf(s.Variation)
	var of *groove.Groove
	name, length, keeps := "", e.Length, []string{}
	switch {
	case e.Fill != "":
		f := pattern.FindFill(e.Fill)
		if f == nil {
			return nil, fmt.Errorf("there is no fill %q", e.Fill)
		}
		of, notes = d.fillFor(f, g)
		name, length = f.Name, f.Ticks
		for i := range d.Kit.Voices {
			if v := &d.Kit.Voices[i]; slices.Contains(f.Keeps, v.Family) {
				keeps = append(keeps, v.ID)
			}
		}
	case e.Made:
		if length < 1 {
			return nil, fmt.Errorf("a fill has a length")
		}
		if of, err = d.madeFill(s, g, tick, length, e.Seed); err != nil {
			return nil, err
		}
		name = fmt.Sprintf("Fill of %s", d.variationName(s.Variation))
	default:
		if of, name, notes, err = d.borrowed(e.Reference, e.Bar, max(e.Bars, 1), env); err != nil {
			return nil, err
		}
		length = max(e.Bars, 1) * of.Meter.BarTicks()
	}
	return notes, d.put(s, arrange.Placed{Kind: arrange.Fill, Name: name, At: tick, Length: length, Keeps: keeps}, of)
}

func (e PlaceFill) name(_, _ *Document) string {
	if f := pattern.FindFill(e.Fill); f != nil {
		return "Fill " + f.Name
	}
	if e.Made {
		return "Fill made of the groove"
	}
	return "Fill from the reference"
}

// put places a groove on a section, cut off at its end.
func (d *Document) put(s *arrange.Section, p arrange.Placed, of *groove.Groove) (err error) {
	end := s.Ticks(d.GrooveOf(s.Variation))
	p.ID, p.Length = s.FreeID(), min(p.Length, end-p.At)
	if p.Name = strings.TrimSpace(p.Name); len([]rune(p.Name)) > arrange.MaxName {
		p.Name = string([]rune(p.Name)[:arrange.MaxName])
	}
	if p.Variation == "" {
		if p.Variation, err = d.keepVariation(of, p.Name, true); err != nil {
			return err
		}
	}
	if p.Keeps == nil {
		p.Keeps = []string{}
	}
	s.Placed = append(s.Placed, p)
	return nil
}

// fillFor is a fill that ships, played by the kit in the feel of a groove.
func (d *Document) fillFor(f *pattern.Fill, like *groove.Groove) (*groove.Groove, []string) {
	var rows []GrooveRow
	for _, r := range f.Rows {
		rows = append(rows, GrooveRow{Lane: r.Lane, Name: r.Name, Family: r.Family})
	}
	places := d.PlacesFor(rows, nil)
	out := *kept(&f.Of)
	out.Feel, out.Seed = like.Feel, like.Seed
	out.Meter = music.Meter{Beats: 4, Unit: 4}
	out.Lanes = nil
	var notes []string
	for _, r := range f.Rows {
		to, ok := places[r.Lane]
		if !ok {
			notes = append(notes, fmt.Sprintf("%s of %s have no matching voice in this kit and were left out. Ctrl Z brings them back.", r.Name, f.Name))
			continue
		}
		out.Lanes = append(out.Lanes, groove.Lane{Voice: to, Hits: f.Of.Lane(r.Lane).Hits})
	}
	return &out, notes
}

// madeFill is a stretch of what a section plays with a fill in its place, drawn by a seed.
func (d *Document) madeFill(s *arrange.Section, g *groove.Groove, tick, length int, seed int64) (*groove.Groove, error) {
	scratch := d.draft()
	bar := g.Meter.BarTicks()
	scratch.Groove = *cutGroove(g, s.From*bar+tick, length, "Fill")
	scratch.Groove.Bars = (length + bar - 1) / bar
	drums := func(f sound.Family) bool {
		return slices.Contains(fillFamilies, f)
	}
	for i := range scratch.Groove.Lanes {
		l := &scratch.Groove.Lanes[i]
		if v := d.Kit.Voice(l.Voice); v != nil && drums(v.Family) {
			l.Hits = []groove.Hit{} // what plays the fill begins anew
		}
	}
	for i := range d.Kit.Voices {
		scratch.Groove.EnsureLane(d.Kit.Voices[i].ID)
	}
	for b := range scratch.Groove.Bars {
		list, err := scratch.Propose(Ask{Kind: "fill", Amount: 60, Bar: b + 1, Seed: seed})
		if err != nil {
			return nil, err
		}
		for _, p := range list {
			if p.Tick >= length {
				continue
			}
			for _, edit := range p.Edits {
				if _, err := edit.apply(scratch, nil); err != nil {
					return nil, err
				}
			}
		}
	}
	return kept(&scratch.Groove), nil
}

// borrowed are bars of a reference as a groove of the kit's.
func (d *Document) borrowed(id string, bar, bars int, env Env) (*groove.Groove, string, []string, error) {
	if id == "" {
		id = d.Active
	}
	r := d.Reference(id)
	if r == nil {
		return nil, "", nil, fmt.Errorf("there is no reference to borrow from; bring one first")
	}
	if r.Kind == "profile" {
		return nil, "", nil, fmt.Errorf("a profile has a feel but no bars to borrow")
	}
	a, err := env.Analysis(r)
	if err != nil {
		return nil, "", nil, err
	}
	if a.Grid == nil || a.Feel == nil {
		return nil, "", nil, fmt.Errorf("no beat was found in %q, so there is nothing to borrow", r.Name)
	}
	scratch := d.draft()
	taken := scratch.takePattern(a, asked{bars: AllBars, pattern: true})
	if bar < 1 || bar+bars-1 > scratch.Groove.Bars {
		return nil, "", nil, fmt.Errorf("the reference has bars 1 to %d, no bar %d", scratch.Groove.Bars, bar)
	}
	ticks := scratch.Groove.Meter.BarTicks()
	return cutGroove(&scratch.Groove, (bar-1)*ticks, bars*ticks, r.Name), fmt.Sprintf("Bar %d of %s", bar, r.Name), taken.notes, nil
}

// PlaceObject puts a sound of the kit at a place: backwards into it, as a blow, or as
// strokes that rise to it or fall from it.
type PlaceObject struct {
	// Kind is reverse, impact, riser or fall.
	Kind arrange.Kind `json:"kind"`
	// Voice is whose sound it is.
	Voice string `json:"voice"`
	// At is the place that a reversed sound and a riser lead to, and where an impact and
	// a fall begin.
	At int `json:"at"`
	// Length is how long it takes, ticks; 0 is a bar, of an impact a beat.
	Length int `json:"length,omitempty"`
	// Semitones is how far a riser rises, or a fall and an impact lie lower; 0 is 12.
	Semitones float64 `json:"semitones,omitempty"`
}

func (e PlaceObject) apply(d *Document, _ Env) ([]string, error) {
	v := d.Kit.Voice(e.Voice)
	if v == nil {
		return nil, noVoice(e.Voice)
	}
	length := e.Length
	if length == 0 {
		length = 4 * music.PPQ
		if e.Kind == arrange.Impact {
			length = music.PPQ
		}
	}
	if length < 1 || length > groove.MaxLength {
		return nil, fmt.Errorf("it lasts up to %d bars of 4/4", groove.MaxLength/4/music.PPQ)
	}
	far := e.Semitones
	if far == 0 {
		far = 12
	}
	if !(math.Abs(far) <= groove.MaxSemitones) {
		return nil, fmt.Errorf("it rises or falls by at most %d semitones", groove.MaxSemitones)
	}
	start := e.At
	if e.Kind == arrange.Riser || e.Kind == arrange.Reverse {
		start = max(e.At-length, 0)
		length = e.At - start
	}
	if length < 1 {
		return nil, fmt.Errorf("there is no room before the first bar")
	}
	s, tick, err := d.place(start)
	if err != nil {
		return nil, err
	}
	g := d.GrooveOf(s.Variation)
	hit := groove.Hit{ID: "h1", Velocity: 112}
	strokes := min(max(length/240, 2), groove.MaxStrokes)
	names := map[arrange.Kind]string{arrange.Reverse: "backwards", arrange.Impact: "impact", arrange.Riser: "riser", arrange.Fall: "fall"}
	switch e.Kind {
	case arrange.Reverse:
		hit.Reverse, hit.Length, hit.Tick = true, length, length-1
	case arrange.Impact:
		hit.Velocity, hit.Semitones = 127, -math.Abs(far)
	case arrange.Riser:
		hit.Velocity, hit.Semitones, hit.Length = 40, -math.Abs(far)/2, length
		hit.Roll = groove.Even{Strokes: strokes, VelocityTo: 127, PitchTo: math.Abs(far), Spacing: 40}
	case arrange.Fall:
		hit.Semitones, hit.Length = 0, length
		hit.Roll = groove.Even{Strokes: strokes, VelocityTo: 20, PitchTo: -math.Abs(far), Spacing: 200}
	default:
		return nil, fmt.Errorf("there is no object of kind %q", e.Kind)
	}
	of := &groove.Groove{Name: v.Name, Meter: g.Meter, Grid: g.Grid, Feel: groove.Straight(), Seed: g.Seed}
	of.Bars = min((length+g.Meter.BarTicks()-1)/g.Meter.BarTicks(), groove.MaxBars)
	of.Lanes = []groove.Lane{{Voice: v.ID, Hits: []groove.Hit{hit}}}
	return nil, d.put(s, arrange.Placed{Kind: e.Kind, Name: v.Name + " " + names[e.Kind], At: tick, Length: length, Over: true}, of)
}

func (e PlaceObject) name(before, _ *Document) string {
	return fmt.Sprintf("%s: %s", before.nameOf(e.Voice), e.Kind)
}

// PlaceBars lets bars of a variation play at a place, in place of the section's own.
type PlaceBars struct {
	// At is a tick of the piece.
	At int `json:"at"`
	// Variation is the id of a groove.
	Variation string `json:"variation"`
	// From is the bar of the variation from which they are, counted from 0; Bars how many.
	From int `json:"from_bar,omitempty"`
	// Bars is how many.
	Bars int `json:"bars"`
}

func (e PlaceBars) apply(d *Document, _ Env) ([]string, error) {
	s, tick, err := d.place(e.At)
	if err != nil {
		return nil, err
	}
	g := d.GrooveOf(e.Variation)
	if g == nil {
		return nil, fmt.Errorf("there is no variation %q", e.Variation)
	}
	if e.Bars < 1 || e.Bars > arrange.MaxBars || e.From < 0 {
		return nil, fmt.Errorf("1 to %d bars are placed", arrange.MaxBars)
	}
	name := d.variationName(e.Variation)
	return nil, d.put(s, arrange.Placed{Kind: arrange.Bars, Name: name, At: tick, Length: e.Bars * g.Meter.BarTicks(), Variation: e.Variation, From: e.From}, nil)
}

func (e PlaceBars) name(before, _ *Document) string {
	return fmt.Sprintf("%s of %s placed", count(e.Bars, "bar"), before.variationName(e.Variation))
}

// OpenBar opens a bar in the groove: what plays there is copied for that place alone, or
// as a new variation, and is in hand then.
type OpenBar struct {
	// Section is its id.
	Section string `json:"section"`
	// Bar counts from 0.
	Bar int `json:"bar"`
	// Variation makes the copy a variation of its own, which other places can play, too.
	Variation bool `json:"variation,omitempty"`
}

func (e OpenBar) apply(d *Document, env Env) ([]string, error) {
	_, s, err := d.section(e.Section)
	if err != nil {
		return nil, err
	}
	if e.Bar < 0 || e.Bar >= s.Bars {
		return nil, fmt.Errorf("%s has no bar %d", s.Name, e.Bar+1)
	}
	g := d.GrooveOf(s.Variation)
	bar, mine := s.MeterOf(g).BarTicks(), g.Meter.BarTicks()
	at := e.Bar * bar
	for i := range s.Placed {
		p := &s.Placed[i]
		if p.Kind != arrange.Bars || at < p.At || at >= p.At+p.Length {
			continue
		}
		if v := d.variation(p.Variation); v != nil && v.Here != e.Variation {
			return UseVariation{p.Variation}.apply(d, env)
		}
	}
	name := fmt.Sprintf("Bar %d of %s", e.Bar+1, s.Name)
	of := cutGroove(g, (s.From+e.Bar)*mine, min(bar, mine), name)
	id, err := d.keepVariation(of, shortened(name), !e.Variation)
	if err != nil {
		return nil, err
	}
	s.Placed = slices.DeleteFunc(s.Placed, func(p arrange.Placed) bool { return p.Kind == arrange.Bars && p.At == at && p.Length <= bar })
	if err := d.put(s, arrange.Placed{Kind: arrange.Bars, Name: shortened(name), At: at, Length: bar, Variation: id}, nil); err != nil {
		return nil, err
	}
	return UseVariation{id}.apply(d, env)
}

func shortened(name string) string {
	if r := []rune(name); len(r) > arrange.MaxName {
		return string(r[:arrange.MaxName-1]) + "…"
	}
	return name
}

func (e OpenBar) name(before, _ *Document) string {
	return fmt.Sprintf("Bar %d of %s opened", e.Bar+1, before.sectionName(e.Section))
}

// MoveOver moves what lies on the arrangement to another place, perhaps of another
// section, and changes its length.
type MoveOver struct {
	// Section is its id.
	Section string `json:"section"`
	// Over is the id of what is moved.
	Over string `json:"over"`
	// At is a tick of the piece.
	At int `json:"at"`
	// Length is in ticks; 0 leaves it.
	Length int `json:"length,omitempty"`
}

func (e MoveOver) apply(d *Document, _ Env) ([]string, error) {
	_, from, err := d.section(e.Section)
	if err != nil {
		return nil, err
	}
	if e.Length < 0 {
		return nil, fmt.Errorf("what lies on a section has a length")
	}
	for i, p := range from.Placed {
		if p.ID != e.Over {
			continue
		}
		from.Placed = slices.Delete(from.Placed, i, i+1)
		to, tick, err := d.place(max(e.At, 0))
		if err != nil {
			return nil, err
		}
		p.At = tick
		if e.Length > 0 {
			p.Length = e.Length
		}
		return nil, d.put(to, p, nil)
	}
	for i, o := range from.Dropouts {
		if o.ID != e.Over {
			continue
		}
		from.Dropouts = slices.Delete(from.Dropouts, i, i+1)
		if e.Length > 0 {
			o.Length = e.Length
		}
		return AddDropout{max(e.At, 0), o.Length, o.Keeps, o.Hit, o.Cuts}.apply(d, nil)
	}
	return nil, fmt.Errorf("that is not there any more")
}

func (e MoveOver) name(before, _ *Document) string {
	if s := before.Arrangement.Section(e.Section); s != nil {
		for _, p := range s.Placed {
			if p.ID == e.Over {
				return p.Name + " moved"
			}
		}
	}
	return "Dropout moved"
}

// SetOver changes what goes on beneath something placed.
type SetOver struct {
	// Section is its id.
	Section string `json:"section"`
	// Over is its id.
	Over string `json:"over"`
	// Name has up to 40 letters.
	Name string `json:"name"`
	// Beneath lets everything go on beneath it; else the voices that it keeps do.
	Beneath bool `json:"beneath"`
	// Keeps are the voices that go on.
	Keeps []string `json:"keeps"`
}

func (e SetOver) apply(d *Document, _ Env) ([]string, error) {
	_, s, err := d.section(e.Section)
	if err != nil {
		return nil, err
	}
	for i := range s.Placed {
		if p := &s.Placed[i]; p.ID == e.Over {
			p.Name, p.Over, p.Keeps = strings.TrimSpace(e.Name), e.Beneath, e.Keeps
			return nil, nil
		}
	}
	return nil, fmt.Errorf("that is not there any more")
}

func (e SetOver) name(_, _ *Document) string { return strings.TrimSpace(e.Name) + " changed" }

// RemoveOver takes away something that lies on the arrangement.
type RemoveOver struct {
	// Section is its id.
	Section string `json:"section"`
	// Over is its id.
	Over string `json:"over"`
}

func (e RemoveOver) apply(d *Document, _ Env) ([]string, error) {
	_, s, err := d.section(e.Section)
	if err != nil {
		return nil, err
	}
	n := len(s.Placed) + len(s.Dropouts)
	s.Placed = slices.DeleteFunc(s.Placed, func(p arrange.Placed) bool { return p.ID == e.Over })
	s.Dropouts = slices.DeleteFunc(s.Dropouts, func(o arrange.Dropout) bool { return o.ID == e.Over })
	if len(s.Placed)+len(s.Dropouts) == n {
		return nil, fmt.Errorf("that is not there any more")
	}
	return nil, nil
}

func (e RemoveOver) name(before, _ *Document) string {
	if s := before.Arrangement.Section(e.Section); s != nil {
		for _, p := range s.Placed {
			if p.ID == e.Over {
				return p.Name + " removed"
			}
		}
	}
	return "Dropout removed"
}

// Automate draws a number over a section.
type Automate struct {
	// Section is its id.
	Section string `json:"section"`
	// At is the address of a number of the mix, of a sound, of the feel, or the tempo's.
	At string `json:"at"`
	// Points follow each other, bars counted from the section's start; none lets the number
	// stay where it is set.
	Points []mixer.AutomationPoint `json:"points"`
}

func (e Automate) apply(d *Document, _ Env) ([]string, error) {
	_, s, err := d.section(e.Section)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(s.Automation, func(m mixer.Automation) bool { return m.At == e.At })
	if len(e.Points) == 0 {
		if i >= 0 {
			s.Automation = slices.Delete(s.Automation, i, i+1)
		}
		return nil, nil
	}
	n, err := d.drawable(e.At)
	if err != nil {
		return nil, err
	}
	m := mixer.Automation{At: e.At, Points: slices.Clone(e.Points)}
	for k := range m.Points {
		if e.At == arrange.TempoAddress {
			if err := music.ValidTempo(m.Points[k].Value); err != nil {
				return nil, err
			}
		}
		if m.Points[k].Value, err = n.Held(m.Points[k].Value); err != nil {
			return nil, err
		}
	}
	if i >= 0 {
		s.Automation[i] = m
	} else {
		s.Automation = append(s.Automation, m)
	}
	return nil, nil
}

func (e Automate) name(before, _ *Document) string {
	n, err := before.Number(e.At)
	if err != nil {
		return "Automation"
	}
	what := fmt.Sprintf("%s: %s over %s", n.Of, lower(n.Label), before.sectionName(e.Section))
	if len(e.Points) == 0 {
		return fmt.Sprintf("%s: %s no longer drawn", n.Of, lower(n.Label))
	}
	return what
}

// CopyBars copies bars of a variation over those of another one.
type CopyBars struct {
	// From is the variation whose bars are copied, FromBar the first, counted from 0.
	From string `json:"from"`
	// FromBar is the first of them, counted from 0.
	FromBar int `json:"from_bar"`
	// Bars is how many.
	Bars int `json:"bars"`
	// To is the variation that gets them, from ToBar on, counted from 0. It grows where it
	// must.
	To string `json:"to"`
	// ToBar is where they go, counted from 0.
	ToBar int `json:"to_bar"`
}

func (e CopyBars) apply(d *Document, _ Env) ([]string, error) {
	from, to := d.GrooveOf(e.From), d.GrooveOf(e.To)
	if from == nil || to == nil {
		return nil, fmt.Errorf("there is no variation to copy from or to")
	}
	if e.Bars < 1 || e.FromBar < 0 || e.ToBar < 0 || e.FromBar+e.Bars > groove.MaxBars || e.ToBar+e.Bars > groove.MaxBars {
		return nil, fmt.Errorf("1 to %d bars are copied", groove.MaxBars)
	}
	if from.Meter != to.Meter {
		return nil, fmt.Errorf("bars of %s cannot be copied into bars of %s", from.Meter, to.Meter)
	}
	bar := from.Meter.BarTicks()
	cut := cutGroove(from, e.FromBar*bar, e.Bars*bar, "")
	out := kept(to)
	out.Bars = max(out.Bars, e.ToBar+e.Bars)
	a, b := e.ToBar*bar, (e.ToBar+e.Bars)*bar
	for _, l := range cut.Lanes {
		lane := out.EnsureLane(l.Voice)
		if lane.Steps > 0 {
			continue // its own length goes on
		}
		hits := slices.DeleteFunc(slices.Clone(lane.Hits), func(h groove.Hit) bool { return h.Tick >= a && h.Tick < b })
		lane.Hits = hits
		for _, h := range l.Hits {
			h.Tick += a
			h.ID = lane.NewHitID()
			lane.Hits = append(lane.Hits, h)
		}
		lane.Sort()
	}
	if e.To == d.Variation {
		d.Groove = *out
	} else {
		d.variation(e.To).Groove = out
	}
	return nil, nil
}

func (e CopyBars) name(before, _ *Document) string {
	return fmt.Sprintf("%s of %s copied to %s", count(e.Bars, "bar"), before.variationName(e.From), before.variationName(e.To))
}
