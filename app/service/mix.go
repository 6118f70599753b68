package service

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/mixreport"
	"jubrak/core/music"
	"jubrak/core/preset"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Mix measures a project's mix over its first bars.
func (s *Service) Mix(ctx context.Context, id string) (*mixreport.Look, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	return mixreport.At(s.background.context(ctx), &st.Document, s.samples(&st.Document))
}

// BypassGain returns by how much an effect, a chain or all chains make their row louder, LU.
func (s *Service) BypassGain(ctx context.Context, id, row, effectID string) (float64, error) {
	st, err := s.Open(id)
	if err != nil {
		return 0, err
	}
	return mixreport.BypassGain(ctx, &st.Document, s.samples(&st.Document), row, effectID)
}

const libraryChain = "chain"

// LibraryChain is a chain of the library.
type LibraryChain struct {
	ID   string   `json:"id"`
	Name string   `json:"name"`
	Tags []string `json:"tags"`
	// Effects in the order in which sound goes through them.
	Effects []effect.Effect `json:"effects"`
	// Own reports that the user saved it.
	Own bool `json:"own"`
}

// Chains are those that the user saved, then those that ship.
func (s *Service) Chains() ([]LibraryChain, error) {
	out := []LibraryChain{}
	if err := own(s.Store, libraryChain, &out); err != nil {
		return nil, err
	}
	for _, c := range preset.Chains() {
		out = append(out, LibraryChain{ID: c.ID, Name: c.Name, Tags: c.Tags, Effects: c.Effects})
	}
	return out, nil
}

// SaveChain keeps the chain of a row in the library.
func (s *Service) SaveChain(id, row, name string) (*LibraryChain, error) {
	name, err := named(name)
	if err != nil {
		return nil, err
	}
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	chain := st.Document.Chain(row)
	if chain == nil || len(*chain) == 0 {
		return nil, &Refusal{Code: "invalid", Message: "This row has no effects to be kept."}
	}
	out := &LibraryChain{ID: NewID(), Name: name, Tags: []string{}, Effects: effect.CloneChain(*chain), Own: true}
	return out, s.putItem(out.ID, libraryChain, out)
}

// BounceRow asks for a row to come back into the project as a sound of its own.
type BounceRow struct {
	// Base is the version that it is made from.
	Base int `json:"base"`
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// Slices cuts it into hits, a voice for each family, in place of one recording, and
	// puts them where they fell.
	Slices bool `json:"slices"`
	// Tail is "kept", so that the recording rings on over the loop's end, or "wrapped",
	// so that what rings there is in its start; empty is kept.
	Tail Tail `json:"tail,omitempty"`
	// Semitones plays the recording faster or slower, with its pitch, -24 to 24.
	Semitones float64 `json:"semitones,omitempty"`
	// TempoFollows changes the project's tempo by as much, so that the recording still
	// lasts as many bars; else the tempo stays.
	TempoFollows bool `json:"tempo_follows,omitempty"`
	// Sounding lets the row go on beside what was made of it, instead of muting it.
	Sounding bool `json:"sounding,omitempty"`
}

// Tail says what becomes of what rings over the end of a bounce.
type Tail string

// The tails of bounces.
const (
	TailKept    Tail = "kept"
	TailWrapped Tail = "wrapped"
)

// longestBounce is how long the bars of a bounce last at most, seconds.
const longestBounce = 120.0

// Bounce renders a row with all that it goes through and brings it back as a new voice,
// struck once where the groove begins and called after the row, or as hits. It is one
// effect that can be undone.
func (s *Service) Bounce(ctx context.Context, id string, ask BounceRow) (*State, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	d := &st.Document
	if d.Chain(ask.Row) == nil {
		return nil, &Refusal{Code: "edit_refused", Message: "This row is no longer in the mix."}
	}
	bars := d.Groove.Bars
	line := groove.NewLine(&d.Groove, d.Tempo, 0)
	if seconds := line.Seconds(float64(bars * d.Groove.Meter.BarTicks())); seconds > longestBounce {
		return nil, &Refusal{Code: "edit_refused", Message: fmt.Sprintf("The groove lasts %.0f s; a bounce lasts at most %.0f s. Make a variation with fewer bars and bounce that.", seconds, longestBounce)}
	}
	if ask.Tail != "" && ask.Tail != TailKept && ask.Tail != TailWrapped {
		return nil, &Refusal{Code: "invalid", Message: "The tail of a bounce is kept or wrapped."}
	}
	faster, err := varispeed(d, &ask)
	if err != nil {
		return nil, err
	}
	heard := d
	if ask.Row != project.OutRow { // a row that is muted is still brought back
		if heard, _, err = d.Apply(project.Edits{project.SetNumber{At: ask.Row + "/mute", Value: 0}}, nil); err != nil {
			return nil, &Refusal{Code: "edit_refused", Message: Sentence(err)}
		}
	}
	b, err := mixreport.Sound(ctx, heard, s.samples(d), ask.Row, bars, ask.Tail == TailWrapped)
	if err != nil {
		return nil, err
	}
	title := bounceName(d, d.RowName(ask.Row))
	if ask.Slices {
		edits, release, err := s.hitsOf(ctx, d, b, title, PlaceTiming)
		defer release()
		if err != nil {
			return nil, err
		}
		return s.Edit(id, ask.Base, append(edits, muting(d, ask)...), "")
	}
	blob, release, err := s.keepSound(b)
	if err != nil {
		return nil, err
	}
	defer release()
	family := sound.Perc
	if v := d.Kit.Voice(ask.Row); v != nil {
		family = v.Family
	}
	layer := sound.Recorded(NewID(), title, blob)
	layer.Pitch = ask.Semitones
	edits := project.Edits{project.AddVoice{Family: family, Name: title, Layers: []sound.Layer{layer}}}
	after, _, err := d.Apply(edits, nil)
	if err != nil {
		return nil, &Refusal{Code: "edit_refused", Message: err.Error()}
	}
	voice := after.Kit.Voices[len(after.Kit.Voices)-1].ID
	// As loud as the row was, at 0 dB whatever the velocity, and its tail rings on beside
	// the next pass.
	edits = append(edits,
		project.SetNumber{At: voice + "/mono", Value: 0},
		project.SetNumber{At: voice + "/level_db", Value: 0}, project.SetNumber{At: voice + "/touch_percent", Value: 0},
		project.PutHits{Hits: []project.NewHit{{Voice: voice, Hit: groove.Hit{Velocity: 127}}}})
	edits = append(edits, faster...)
	return s.Edit(id, ask.Base, append(edits, muting(d, ask)...), "")
}

// mostVarispeed is by how far a bounce is read faster or slower, semitones.
const mostVarispeed = 24

// varispeed are the edits with which the tempo follows a bounce that is read at another
// speed; it refuses what cannot be.
func varispeed(d *project.Document, ask *BounceRow) (project.Edits, error) {
	switch {
	case ask.Semitones == 0:
		return nil, nil
	case !(math.Abs(ask.Semitones) <= mostVarispeed):
		return nil, &Refusal{Code: "invalid", Message: fmt.Sprintf("A bounce is read up to %d semitones faster or slower.", mostVarispeed)}
	case ask.Slices:
		return nil, &Refusal{Code: "invalid", Message: "Hits stay where they fell: only a bounce as a recording is read faster or slower."}
	case !ask.TempoFollows:
		return nil, nil
	case len(d.Tempo) > 1:
		return nil, &Refusal{Code: "edit_refused", Message: "The tempo of this song changes: it cannot follow a bounce. Let it stay."}
	}
	bpm := d.Tempo[0].BPM * math.Exp2(ask.Semitones/12)
	if bpm < music.MinBPM || bpm > music.MaxBPM {
		return nil, &Refusal{Code: "edit_refused", Message: fmt.Sprintf("The tempo would be %.1f BPM, beyond %d to %d. Choose another speed, or let the tempo stay.", bpm, int(music.MinBPM), int(music.MaxBPM))}
	}
	return project.Edits{project.SetNumber{At: "tempo/bpm", Value: bpm}}, nil
}

// muting are edits that mute what a bounce takes the place of: the row, or of the output
// everything.
func muting(d *project.Document, ask BounceRow) (edits project.Edits) {
	if ask.Sounding {
		return nil
	}
	mute := func(row string) { edits = append(edits, project.SetNumber{At: row + "/mute", Value: 1}) }
	if ask.Row != project.OutRow {
		mute(ask.Row)
		return edits
	}
	for i := range d.Kit.Voices {
		mute(d.Kit.Voices[i].ID)
	}
	return edits
}

// bounceName is what the next bounce of a row is called.
func bounceName(d *project.Document, row string) string {
	letters := []rune(row)
	row = string(letters[:min(len(letters), 26)])
	for n := 1; ; n++ {
		name := fmt.Sprintf("%s bounce %d", row, n)
		if !slices.ContainsFunc(d.Kit.Voices, func(v sound.Voice) bool { return strings.HasPrefix(v.Name, name) }) {
			return name
		}
	}
}

// MixAsk asks for a row, a bus with its rows or a whole mix of another project.
type MixAsk struct {
	Base int `json:"base"`
	// From is the other project.
	From string `json:"from"`
	// What is "all", or a row of that project: a voice, or "bus:" with a bus.
	What string `json:"what"`
	// Dry returns what would come along, and changes nothing.
	Dry bool `json:"dry"`
}

// TakenMix is what comes along with a mix.
type TakenMix struct {
	// Comes lists it in words.
	Comes []string `json:"comes"`
	// State is the project with it, or null where nothing was changed.
	State *State `json:"state"`
}

// TakeMix takes a mix from another project: its voices' rows go to this kit's by family.
func (s *Service) TakeMix(id string, ask MixAsk) (*TakenMix, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	other, err := s.Open(ask.From)
	if err != nil {
		return nil, err
	}
	edit, comes := project.MixOf(&other.Document, &st.Document, ask.What)
	if len(comes) == 0 {
		return nil, &Refusal{Code: "edit_refused", Message: "There is nothing of that in its mix."}
	}
	out := &TakenMix{Comes: comes}
	if !ask.Dry {
		out.State, err = s.Edit(id, ask.Base, project.Edits{edit}, "")
	}
	return out, err
}
