// Package arrange says what a whole piece of drums is: sections in order, each playing a
// groove, what is left out of them and put over them, and how numbers move through them.
// It knows grooves and the mix's numbers, and nothing of sound.
package arrange

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
)

// Limits of an arrangement.
const (
	MaxSections = 1000
	MaxBars     = 1000
	MaxSeconds  = 3600
	MaxOrders   = 32
	MaxOver     = 400 // placed things, dropouts and rests of a section, each
	MaxName     = 40
	MaxMarkers  = 200
)

// Arrangement is a piece: its sections in order. Everything that happens in a section is
// counted from the section's start and goes where it goes.
type Arrangement struct {
	Sections []Section `json:"sections"`
	// Orders are other orders of sections that were kept.
	Orders  []Order  `json:"orders"`
	Markers []Marker `json:"markers"`
	Speed   Speed    `json:"speed"`
	// Backings are what is heard behind the drums.
	Backings []Backing `json:"backings"`
}

// Order is an order of sections that was kept beside the one that plays.
type Order struct {
	ID       string    `json:"id"`
	Name     string    `json:"name"`
	Sections []Section `json:"sections"`
}

// Marker names a place of the piece.
type Marker struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Section and Tick are the place: so many ticks after a section's start.
	Section string `json:"section"`
	Tick    int    `json:"tick"`
}

// Section is a part of the piece: a variation that is played for some bars.
type Section struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Variation is the id of the groove that it plays.
	Variation string `json:"variation"`
	Bars      int    `json:"bars"`
	// From is how many bars of the variation have gone by where the section begins.
	From int `json:"from_bar,omitempty"`
	// Meter is nil for that of the variation. A bar of another meter plays as much of the
	// variation's bar as it holds.
	Meter *music.Meter `json:"meter,omitempty"`
	// Tempo is that from its start, BPM; 0 goes on with the tempo before. TempoTo, where
	// it is not 0, is what the tempo runs straight to, in beats, by its end.
	Tempo   float64 `json:"tempo_bpm,omitempty"`
	TempoTo float64 `json:"tempo_to_bpm,omitempty"`
	// GoesOn lets lanes with a length of their own go on from before; else they begin anew.
	GoesOn bool `json:"lanes_go_on,omitempty"`
	// Cuts stops what rings at its end.
	Cuts bool `json:"cuts_tails,omitempty"`
	// Take names its draws of chance: sections of one take play alike.
	Take     int       `json:"take,omitempty"`
	Rests    []Rest    `json:"rests"`
	Placed   []Placed  `json:"placed"`
	Dropouts []Dropout `json:"dropouts"`
	// Automation are numbers drawn over it, by address, bars counted from its start. At
	// its end each is again what it is everywhere else.
	Automation []mixer.Automation `json:"automation"`
}

// Rest is where a row does not play, ticks from the section's start.
type Rest struct {
	Voice string `json:"voice"`
	From  int    `json:"from"`
	To    int    `json:"to"`
}

// Dropout is a stretch in which all rows but some are silent.
type Dropout struct {
	ID     string `json:"id"`
	At     int    `json:"at"`
	Length int    `json:"length"`
	// Keeps are the voices that go on.
	Keeps []string `json:"keeps"`
	// Hit is a voice that is struck once at its start; empty is none.
	Hit string `json:"hit,omitempty"`
	// Cuts stops what rings there, effects too; else it rings over.
	Cuts bool `json:"cuts_tails,omitempty"`
}

// Kind is what a placed thing is.
type Kind string

// The kinds of what is placed over a section's own playing.
const (
	Bars    Kind = "bars"    // bars that are changed for here
	Fill    Kind = "fill"    // a fill
	Reverse Kind = "reverse" // a sound backwards into a place
	Impact  Kind = "impact"  // a blow
	Riser   Kind = "riser"   // strokes that rise towards a place
	Fall    Kind = "fall"    // strokes that fall away from a place
)

// Placed is a groove of its own over a stretch of a section.
type Placed struct {
	ID     string `json:"id"`
	Kind   Kind   `json:"kind"`
	Name   string `json:"name"`
	At     int    `json:"at"`
	Length int    `json:"length"`
	// Variation is the groove that plays there, from its beginning, so many bars on.
	Variation string `json:"variation"`
	From      int    `json:"from_bar,omitempty"`
	// Over lets all that the section plays go on beneath it; else only the voices that
	// are kept do.
	Over  bool     `json:"over,omitempty"`
	Keeps []string `json:"keeps"`
}

// Speed is how fast the whole is played.
type Speed struct {
	// Semitones are those of a tape that runs faster: tempo and pitch together.
	Semitones float64 `json:"semitones,omitempty"`
	// Percent is the tempo without the pitch; 0 stands for 100.
	Percent float64 `json:"tempo_percent,omitempty"`
}

// Limits of the speed.
const (
	MostSemitones = 24.0
	LeastPercent  = 50.0
	MostPercent   = 200.0
)

// Tape is by what factor the tape runs faster.
func (s Speed) Tape() float64 { return semitones(s.Semitones) }

// Tempo is the factor of the tempo without the pitch.
func (s Speed) Tempo() float64 {
	if s.Percent == 0 {
		return 1
	}
	return s.Percent / 100
}

// Section finds a section by id, or nil.
func (a *Arrangement) Section(id string) *Section {
	for i := range a.Sections {
		if a.Sections[i].ID == id {
			return &a.Sections[i]
		}
	}
	return nil
}

// Bars is how many bars the piece has.
func (a *Arrangement) Bars() (n int) {
	for i := range a.Sections {
		n += a.Sections[i].Bars
	}
	return n
}

// MeterOf is the meter of a section that plays a groove.
func (s *Section) MeterOf(g *groove.Groove) music.Meter {
	if s.Meter != nil {
		return *s.Meter
	}
	return g.Meter
}

// Ticks is how long a section lasts that plays a groove.
func (s *Section) Ticks(g *groove.Groove) int { return s.Bars * s.MeterOf(g).BarTicks() }

// AutomationOf finds the automation of an address, or nil.
func (s *Section) AutomationOf(at string) *mixer.Automation {
	for i := range s.Automation {
		if s.Automation[i].At == at {
			return &s.Automation[i]
		}
	}
	return nil
}

// Uses are the variations that an arrangement plays, its kept orders included, each once.
func (a *Arrangement) Uses() []string {
	var out []string
	add := func(list []Section) {
		for i := range list {
			out = append(out, list[i].Variation)
			for _, p := range list[i].Placed {
				out = append(out, p.Variation)
			}
		}
	}
	add(a.Sections)
	for _, o := range a.Orders {
		add(o.Sections)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Grooves finds the groove of a variation; nil where there is none.
type Grooves func(variation string) *groove.Groove

// Validate checks ids, lengths, tempos and that every variation is there. The error says
// what to do.
func (a *Arrangement) Validate(grooves Grooves, tempo music.TempoMap) error {
	if err := validSections(a.Sections, grooves); err != nil {
		return err
	}
	if len(a.Orders) > MaxOrders {
		return fmt.Errorf("an arrangement keeps at most %d orders; remove one first", MaxOrders)
	}
	for i := range a.Orders {
		o := &a.Orders[i]
		if o.ID == "" || badName(o.Name) {
			return fmt.Errorf("a kept order needs a name of 1 to %d letters", MaxName)
		}
		if err := validSections(o.Sections, grooves); err != nil {
			return fmt.Errorf("order %q: %w", o.Name, err)
		}
	}
	if len(a.Markers) > MaxMarkers {
		return fmt.Errorf("a piece has at most %d markers", MaxMarkers)
	}
	for _, m := range a.Markers {
		if s := a.Section(m.Section); badName(m.Name) || s == nil || m.Tick < 0 {
			return fmt.Errorf("a marker needs a name of 1 to %d letters and a place in a section", MaxName)
		}
	}
	if len(a.Backings) > MaxBackings {
		return fmt.Errorf("a piece has at most %d backings", MaxBackings)
	}
	for i := range a.Backings {
		if err := a.Backings[i].Validate(); err != nil {
			return err
		}
		if a.Backing(a.Backings[i].ID) != &a.Backings[i] {
			return fmt.Errorf("each backing needs an id of its own")
		}
	}
	if !(a.Speed.Semitones >= -MostSemitones && a.Speed.Semitones <= MostSemitones) {
		return fmt.Errorf("the tape runs at most %g semitones faster or slower", MostSemitones)
	}
	if p := a.Speed.Percent; p != 0 && !(p >= LeastPercent && p <= MostPercent) {
		return fmt.Errorf("the tempo of the whole lies between %g and %g %%", LeastPercent, MostPercent)
	}
	m := a.tempo(grooves, tempo)
	if err := m.Validate(); err != nil {
		return err
	}
	if s := m.Seconds(float64(a.ticks(grooves))); s > MaxSeconds {
		return fmt.Errorf("the piece would last %d minutes; an hour is the most", int(s/60))
	}
	return nil
}

func badName(name string) bool {
	n := utf8.RuneCountInString(strings.TrimSpace(name))
	return n == 0 || n > MaxName
}

func validSections(list []Section, grooves Grooves) error {
	if len(list) == 0 {
		return fmt.Errorf("a piece has at least one section")
	}
	if len(list) > MaxSections {
		return fmt.Errorf("a piece has at most %d sections", MaxSections)
	}
	seen, bars := map[string]bool{}, 0
	for i := range list {
		s := &list[i]
		if s.ID == "" || seen[s.ID] {
			return fmt.Errorf("section %d needs an id of its own", i+1)
		}
		seen[s.ID] = true
		if badName(s.Name) {
			return fmt.Errorf("a section needs a name of 1 to %d letters", MaxName)
		}
		if err := s.validate(grooves); err != nil {
			return fmt.Errorf("section %q: %w", s.Name, err)
		}
		bars += s.Bars
	}
	if bars > MaxBars {
		return fmt.Errorf("the piece would have %d bars; %d is the most", bars, MaxBars)
	}
	return nil
}

func (s *Section) validate(grooves Grooves) error {
	if s.Bars < 1 || s.Bars > MaxBars {
		return fmt.Errorf("it needs 1 to %d bars, not %d", MaxBars, s.Bars)
	}
	if s.From < 0 || s.From > 100*MaxBars {
		return fmt.Errorf("it cannot begin at bar %d of its variation", s.From+1)
	}
	g := grooves(s.Variation)
	if g == nil {
		return fmt.Errorf("its variation %q is not in the project; choose another one", s.Variation)
	}
	if s.Meter != nil {
		if err := s.Meter.Validate(); err != nil {
			return err
		}
	}
	for _, bpm := range []float64{s.Tempo, s.TempoTo} {
		if bpm != 0 {
			if err := music.ValidTempo(bpm); err != nil {
				return err
			}
		}
	}
	end := s.Ticks(g)
	if len(s.Rests) > MaxOver || len(s.Placed) > MaxOver || len(s.Dropouts) > MaxOver || len(s.Automation) > mixer.MaxAutomation {
		return fmt.Errorf("it holds too much; split it")
	}
	for _, r := range s.Rests {
		if r.From < 0 || r.To <= r.From || r.To > end {
			return fmt.Errorf("what is left out of a row lies inside the section")
		}
	}
	ids := map[string]bool{}
	inside := func(id string, at, length int) error {
		if id == "" || ids[id] {
			return fmt.Errorf("what lies on it needs ids of its own")
		}
		ids[id] = true
		if at < 0 || length < 1 || at+length > end {
			return fmt.Errorf("what is placed on it lies inside it; make the section longer, or move it")
		}
		return nil
	}
	for i := range s.Placed {
		p := &s.Placed[i]
		if err := inside(p.ID, p.At, p.Length); err != nil {
			return err
		}
		if grooves(p.Variation) == nil {
			return fmt.Errorf("the groove of %q is not in the project", p.Name)
		}
		if p.From < 0 || utf8.RuneCountInString(p.Name) > MaxName {
			return fmt.Errorf("%q cannot be placed", p.Name)
		}
	}
	for _, d := range s.Dropouts {
		if err := inside(d.ID, d.At, d.Length); err != nil {
			return err
		}
	}
	seen := map[string]bool{}
	for i := range s.Automation {
		m := &s.Automation[i]
		if err := m.Validate(); err != nil {
			return err
		}
		if seen[m.At] {
			return fmt.Errorf("%s is drawn twice", m.At)
		}
		seen[m.At] = true
		if last := m.Points[len(m.Points)-1].Bar; last > float64(s.Bars) {
			return fmt.Errorf("the automation of %s goes on behind its end", m.At)
		}
	}
	return nil
}

// Tidy makes lists that hold nothing empty rather than absent. It changes the
// arrangement's own lists only.
func (a *Arrangement) Tidy() {
	if a.Sections == nil {
		a.Sections = []Section{}
	}
	if a.Orders == nil {
		a.Orders = []Order{}
	}
	if a.Markers == nil {
		a.Markers = []Marker{}
	}
	if a.Backings == nil {
		a.Backings = []Backing{}
	}
	tidy(a.Sections)
	for i := range a.Orders {
		tidy(a.Orders[i].Sections)
	}
}

func tidy(list []Section) {
	for i := range list {
		s := &list[i]
		if s.Rests == nil {
			s.Rests = []Rest{}
		}
		if s.Placed == nil {
			s.Placed = []Placed{}
		}
		for j := range s.Placed {
			if s.Placed[j].Keeps == nil {
				s.Placed[j].Keeps = []string{}
			}
		}
		if s.Dropouts == nil {
			s.Dropouts = []Dropout{}
		}
		for j := range s.Dropouts {
			if s.Dropouts[j].Keeps == nil {
				s.Dropouts[j].Keeps = []string{}
			}
		}
		if s.Automation == nil {
			s.Automation = []mixer.Automation{}
		}
	}
}
