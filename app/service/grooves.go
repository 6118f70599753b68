package service

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"strings"

	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/audition"
	"jubrak/core/compare"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/stretch"
	"jubrak/core/transcribe"
)

// Propose draws changes of a project's groove by a seed.
func (s *Service) Propose(id string, ask project.Ask) ([]project.Proposed, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	list, err := st.Document.Propose(ask)
	if err != nil {
		return nil, &Refusal{Code: "invalid", Message: Sentence(err)}
	}
	if list == nil {
		list = []project.Proposed{}
	}
	return list, nil
}

// aim hears what a project aims at; nil where it has no reference, or one in which
// no beat was found.
func (s *Service) aim(d *project.Document) (*transcribe.Analysis, error) {
	ref := d.Reference(d.Active)
	if ref == nil {
		return nil, nil
	}
	return env{s}.Analysis(ref)
}

// aimed opens a project and reads its active reference, nil where it has none.
func (s *Service) aimed(id string) (*State, *transcribe.Analysis, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, nil, err
	}
	a, err := s.aim(&st.Document)
	return st, a, err
}

// Between compares how voices lie against each other with the active reference.
func (s *Service) Between(id string) ([]compare.Pair, error) {
	st, a, err := s.aimed(id)
	if err != nil {
		return nil, err
	}
	return compare.Between(&st.Document, a), nil
}

// Tries measures each of a project's grooves.
func (s *Service) Tries(id string) ([]compare.Try, error) {
	st, a, err := s.aimed(id)
	if err != nil {
		return nil, err
	}
	return compare.Tries(&st.Document, a), nil
}

// HabitAsk asks for one profile made of several.
type HabitAsk struct {
	Name string `json:"name"`
	// References are those of the project, Profiles those of the library.
	References []string `json:"references"`
	Profiles   []string `json:"profiles"`
	// Into is a saved habit that grows by them; empty makes a new one.
	Into string `json:"into"`
}

// SaveHabit makes one profile of several references and profiles and keeps it in the
// library.
func (s *Service) SaveHabit(ctx context.Context, id string, ask HabitAsk) (*profile.Profile, error) {
	list, err := s.Profiles()
	if err != nil {
		return nil, err
	}
	var from []profile.Profile
	byID := func(id string) *profile.Profile {
		for i := range list {
			if list[i].ID == id {
				return &list[i]
			}
		}
		return nil
	}
	name := ask.Name
	if ask.Into != "" {
		old := byID(ask.Into)
		if old == nil || old.Habit == nil {
			return nil, store.ErrNotFound
		}
		from = append(from, *old)
		if name == "" {
			name = old.Name
		}
	}
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	for _, refID := range ask.References {
		ref := st.Document.Reference(refID)
		if ref == nil {
			return nil, store.ErrNotFound
		}
		if ref.Profile != nil {
			from = append(from, *ref.Profile)
			continue
		}
		a, err := s.Analysis(ctx, id, refID)
		if err != nil {
			return nil, err
		}
		tones, err := s.tones(ctx, id, refID)
		if err != nil {
			return nil, err
		}
		p, err := profile.Of(a, tones, ref.Name, "", nil)
		if err != nil {
			return nil, &Refusal{Code: "invalid", Message: ref.Name + ": " + Sentence(err)}
		}
		from = append(from, *p)
	}
	for _, profileID := range ask.Profiles {
		p := byID(profileID)
		if p == nil {
			return nil, store.ErrNotFound
		}
		from = append(from, *p)
	}
	p, err := profile.Combine(name, from)
	if err != nil {
		return nil, &Refusal{Code: "invalid", Message: Sentence(err)}
	}
	if p.ID = ask.Into; p.ID == "" {
		p.ID = NewID()
	}
	data, err := json.Marshal(p)
	if err != nil {
		return nil, err
	}
	return p, s.Store.PutProfile(p.ID, data)
}

// Nearest is which recording of the active habit the project is nearest to, counted
// from 1; 0 where the reference is none.
func (s *Service) Nearest(id string) (int, error) {
	st, err := s.Open(id)
	if err != nil {
		return 0, err
	}
	d := &st.Document
	ref := d.Reference(d.Active)
	if ref == nil || ref.Profile == nil || ref.Profile.Habit == nil {
		return 0, nil
	}
	return ref.Profile.Nearest(mineAsProfile(d)), nil
}

// known fills what a table leaves open; where nothing is known there is no table.
func known(table []*float64, otherwise float64) []float64 {
	out := []float64{}
	known := false
	for _, v := range table {
		x := otherwise
		if v != nil {
			x, known = *v, true
		}
		out = append(out, math.Round(x*100)/100)
	}
	if !known {
		return []float64{}
	}
	return out
}

// mineAsProfile is the groove measured as a recording would be.
func mineAsProfile(d *project.Document) *profile.Profile {
	m := compare.Feel(d)
	one := func(v float64) *profile.Range { return &profile.Range{Low: v, High: v} }
	p := &profile.Profile{Tempo: one(d.Tempo[0].BPM), Pair: m.Pair, Voices: map[sound.Family]profile.Voice{}, Tones: map[sound.Family]profile.Tone{}}
	if m.Swing != nil {
		p.Swing = one(*m.Swing)
	}
	for f, v := range m.Voices {
		pv := profile.Voice{Velocity: one(v.VelocityMean), Hits: v.Count, Contour: known(v.Contour, 0), Accent: known(v.Accent, 1)}
		if v.Lean != nil {
			pv.Lean = one(*v.Lean)
		}
		if v.Scatter != nil {
			pv.Scatter = one(*v.Scatter)
		}
		p.Voices[sound.Family(f)] = pv
	}
	return p
}

// SaveFeel keeps the groove's own feel in the library, measured as a reference's is.
func (s *Service) SaveFeel(id, name, notes string, tags []string) (*profile.Profile, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	d := &st.Document
	p := mineAsProfile(d)
	p.ID, p.Name, p.Notes, p.Tags, p.Source = NewID(), strings.TrimSpace(name), notes, append([]string{}, tags...), "measured"
	p.Meter, p.Balance = fmt.Sprintf("%d/%d", d.Groove.Meter.Beats, d.Groove.Meter.Unit), map[string]profile.Range{}
	if len(p.Voices) == 0 {
		return nil, &Refusal{Code: "invalid", Message: "An empty groove has no feel to keep."}
	}
	if err := p.Validate(); err != nil {
		return nil, &Refusal{Code: "invalid", Message: Sentence(err)}
	}
	data, err := json.Marshal(p)
	if err != nil {
		return nil, err
	}
	return p, s.Store.PutProfile(p.ID, data)
}

// Where one stroke lies: a window around it, mine and the reference's, slowed.
const (
	beforeStroke = 0.12 // seconds
	afterStroke  = 0.28
	strokeSpeed  = 0.25
)

// together is one place of the groove and of the reference at quarter speed, both at
// once, in a loop.
func (s *Service) together(ctx context.Context, id string, settings audition.Settings) (*audio.Buffer, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	d := &st.Document
	ref := d.Reference(d.Active)
	if ref == nil || ref.Profile != nil {
		return nil, &Refusal{Code: "no_sound", Message: "A recording is needed to hear a stroke against; bring one first."}
	}
	a, err := env{s}.Analysis(ref)
	if err != nil {
		return nil, err
	}
	b, err := s.sound(ref)
	if err != nil {
		return nil, err
	}
	if b == nil || a.Grid == nil {
		return nil, &Refusal{Code: "no_sound", Message: "This reference has no sound with a beat to hear a stroke against."}
	}
	// Mine: only the voice meant, over the bars up to a little after the place.
	song := d.Song(s.samples(d))
	song.Kit.Voices = append([]sound.Voice{}, song.Kit.Voices...)
	for i := range song.Kit.Voices {
		if v := &song.Kit.Voices[i]; settings.Place.Voice != "" && v.ID != settings.Place.Voice {
			v.Mute = true
		}
	}
	bar := d.Groove.Meter.BarTicks()
	tick := min(max(settings.Place.Tick, 0), d.Groove.Ticks()-1)
	out, err := engine.Render(ctx, song, engine.Bounce{Rate: engine.Rate, Bars: tick/bar + 1})
	if err != nil {
		return nil, err
	}
	at := groove.NewLine(&d.Groove, d.Tempo, 0).Seconds(float64(tick))
	mine := window(out.Mix, at)
	theirs := window(b.Resample(engine.Rate), a.Grid.Seconds(float64(tick)/music.PPQ*float64(a.Unit)/4))
	peak := func(b *audio.Buffer) float64 { return max(b.Peak(), 1e-6) }
	level := peak(mine) / peak(theirs)
	n := min(mine.Frames(), theirs.Frames())
	both := audio.New(engine.Rate, 2, n)
	for c := range both.Channels {
		m, t := mine.Channels[c%len(mine.Channels)], theirs.Channels[c%len(theirs.Channels)]
		for i := range n {
			both.Channels[c][i] = 0.7 * (m[i] + t[i]*float32(level))
		}
	}
	slow := stretch.Varispeed(both, strokeSpeed)
	for c := range slow.Channels {
		slow.Channels[c] = append(slow.Channels[c], make([]float32, engine.Rate/3)...)
	}
	return slow, nil
}

// window is what lies around a moment, silence where there is nothing.
func window(b *audio.Buffer, at float64) *audio.Buffer {
	n := int((beforeStroke + afterStroke) * float64(b.Rate))
	from := int((at - beforeStroke) * float64(b.Rate))
	out := audio.New(b.Rate, min(len(b.Channels), 2), n)
	for c := range out.Channels {
		for i := range n {
			if j := from + i; j >= 0 && j < b.Frames() {
				out.Channels[c][i] = b.Channels[c][j]
			}
		}
	}
	return out
}
