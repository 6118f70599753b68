package service

import (
	"context"
	"fmt"
	"math"
	"strings"

	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/fit"
	"jubrak/core/isolate"
	"jubrak/core/mixreport"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// ChainAsk asks for effects that bring a row to the reference.
type ChainAsk struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
}

// RowFit is effects that bring a row to what the reference has in its place.
type RowFit struct {
	fit.ChainFit
	// Against names what it was brought to.
	Against string `json:"against"`
}

// What of a project and of its reference is compared.
const (
	chainBars    = 4
	chainSeconds = 16.0
)

// FitChain finds effects that bring a row, behind what is done with it now, to the balance,
// crest and space of the active reference's drums of the same families. Nothing is changed.
func (s *Service) FitChain(ctx context.Context, id string, ask ChainAsk) (*RowFit, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	d := &st.Document
	families, name := familiesOf(d, ask.Row)
	if families == nil {
		return nil, store.ErrNotFound
	}
	ref := d.Reference(d.Active)
	if ref == nil || ref.Kind != "audio" {
		return nil, &Refusal{Code: "no_reference", Message: "There is no recording to bring it to: bring one in Reference."}
	}
	list, err := s.drumsOf(ctx, ref)
	if err != nil {
		return nil, err
	}
	theirs := audio.New(48000, 1, int(chainSeconds*48000))
	from, found := math.Inf(1), false
	for i := range list {
		for _, stroke := range list[i].Strokes {
			from = math.Min(from, stroke.Time)
		}
	}
	for i := range list {
		if families[list[i].Family] {
			isolate.Strike(theirs, from-0.05, &list[i], fromStroke(list[i].Sound))
			found = true
		}
	}
	if !found {
		return nil, &Refusal{Code: "invalid", Message: fmt.Sprintf("The reference has no drums of %s to bring it to.", name)}
	}
	mine, err := mixreport.Sound(ctx, d, s.samples(d), ask.Row, chainBars, false)
	if err != nil {
		return nil, err
	}
	got, err := fit.Chain(ctx, mine, theirs)
	if err != nil {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return nil, &Refusal{Code: "no_sound", Message: name + " is silent in the first bars: there is nothing to bring to the reference."}
	}
	return &RowFit{*got, name + " of " + ref.Name}, nil
}

// familiesOf are the families whose drums go through a row, and what that is called.
func familiesOf(d *project.Document, row string) (out map[sound.Family]bool, name string) {
	add := func(v *sound.Voice) {
		if out == nil {
			out = map[sound.Family]bool{}
		}
		out[v.Family] = true
	}
	if row == project.OutRow {
		for i := range d.Kit.Voices {
			add(&d.Kit.Voices[i])
		}
		return out, "all drums"
	}
	if v := d.Kit.Voice(row); v != nil {
		add(v)
		return out, v.Family.Label()
	}
	bus := strings.TrimPrefix(row, "bus:")
	if b := d.Mix.Bus(bus); b != nil {
		for i := range d.Kit.Voices {
			if d.Kit.Voices[i].To == bus {
				add(&d.Kit.Voices[i])
			}
		}
		return out, b.Name
	}
	return nil, ""
}
