package workshop

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"jubrak/core/balance"
	"jubrak/core/groove"
	"jubrak/core/mix"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/stock"
)

// Mix measures a project's mix over its first bars; while something plays it works no
// more than part of the time.
func (s *Workshop) Mix(ctx context.Context, id string) (*balance.Look, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	return balance.At(ctx, &st.Document, s.samples(&st.Document), givesWay(s.Hub.Playing, time.Now, time.Sleep))
}

// Judge tells by how much a step, a chain or all chains make their row louder, LU.
func (s *Workshop) Judge(ctx context.Context, id, row, step string) (float64, error) {
	st, err := s.Open(id)
	if err != nil {
		return 0, err
	}
	return balance.Judge(ctx, &st.Document, s.samples(&st.Document), row, step)
}

const shelfChain = "chain"

// ShelfChain is a chain of the library.
type ShelfChain struct {
	ID   string   `json:"id"`
	Name string   `json:"name"`
	Tags []string `json:"tags"`
	// Steps in the order in which sound goes through them.
	Steps []mix.Step `json:"steps"`
	// Own tells that the user saved it.
	Own bool `json:"own"`
}

// Chains are those that the user saved, then those that ship.
func (s *Workshop) Chains() ([]ShelfChain, error) {
	out := []ShelfChain{}
	if err := own(s.Store, shelfChain, &out); err != nil {
		return nil, err
	}
	for _, c := range stock.Chains() {
		out = append(out, ShelfChain{ID: c.ID, Name: c.Name, Tags: c.Tags, Steps: c.Steps})
	}
	return out, nil
}

// SaveChain keeps the chain of a row in the library.
func (s *Workshop) SaveChain(id, row, name string) (*ShelfChain, error) {
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
		return nil, &Refusal{Code: "invalid", Message: "This row has no steps to be kept."}
	}
	out := &ShelfChain{ID: NewID(), Name: name, Tags: []string{}, Steps: mix.CloneSteps(*chain), Own: true}
	return out, s.putItem(out.ID, shelfChain, out)
}

// BounceRow asks for a row to come back into the project as a sound of its own.
type BounceRow struct {
	// Base is the version that it is made from.
	Base int `json:"base"`
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// Slices cuts it into hits, a voice for each family, in place of one recording.
	Slices bool `json:"slices"`
}

// longestBounce is how long a bounce lasts at most, seconds: what a layer may.
const longestBounce = 12.0

// Bounce renders a row with all that it goes through and brings it back as a new voice,
// struck once where the groove begins and called after the row, or as hits. It is one
// step that can be undone.
func (s *Workshop) Bounce(ctx context.Context, id string, ask BounceRow) (*State, error) {
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
	for bars > 1 && line.Seconds(float64(bars*d.Groove.Meter.BarTicks())) > longestBounce {
		bars--
	}
	b, err := balance.Sound(ctx, d, s.samples(d), ask.Row, bars)
	if err != nil {
		return nil, err
	}
	title := bounceName(d, d.RowName(ask.Row))
	if ask.Slices {
		edits, release, err := s.hitsOf(ctx, b, title)
		defer release()
		if err != nil {
			return nil, err
		}
		return s.Edit(id, ask.Base, edits, "")
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
	edits := project.Edits{project.AddVoice{Family: family, Name: title, Layers: []sound.Layer{sound.Recorded(NewID(), title, blob)}}}
	after, _, err := d.Apply(edits, nil)
	if err != nil {
		return nil, &Refusal{Code: "edit_refused", Message: err.Error()}
	}
	voice := after.Kit.Voices[len(after.Kit.Voices)-1].ID
	// As loud as the row was: at 0 dB, whatever the velocity.
	edits = append(edits,
		project.SetNumber{At: voice + "/level_db", Value: 0}, project.SetNumber{At: voice + "/touch_percent", Value: 0},
		project.PutHits{Hits: []project.NewHit{{Voice: voice, Hit: groove.Hit{Velocity: 127}}}})
	return s.Edit(id, ask.Base, edits, "")
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
	// Dry tells what would come along, and changes nothing.
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
func (s *Workshop) TakeMix(id string, ask MixAsk) (*TakenMix, error) {
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
