package project

import (
	"fmt"
	"slices"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/sound"
)

// Edits that put other sounds in place of those of the kit.
var kitEdits = map[string]Edit{
	"kit.set": SetKit{}, "voice.sound": SetSound{}, "voice.cut": SetCutBy{}, "voice.gate": SetGate{}, "layer.attack": SetAttack{},
}

// SetKit puts another kit in the place of this one. Lanes and feel follow by
// family: the second snare's to the second snare, and where a family is missing, to
// its nearest relation. Hits that find no place are left out, and that is said.
type SetKit struct {
	// Voices are those of the kit, in the order of rows.
	Voices []sound.Voice `json:"voices"`
	// Title is what the kit is called, for the history.
	Title string `json:"title,omitempty"`
}

func (e SetKit) apply(d *Document, _ Env) ([]string, error) {
	if len(e.Voices) == 0 {
		return nil, fmt.Errorf("the kit has no voices")
	}
	kit := sound.Kit{Voices: slices.Clone(e.Voices)}
	taken := make([]bool, len(kit.Voices))
	heir := map[string]int{} // by the old voice
	pick := func(f sound.Family) int {
		for i := range kit.Voices {
			if kit.Voices[i].Family == f && !taken[i] {
				return i
			}
		}
		return -1
	}
	old := d.Kit.Voices
	for _, v := range old { // the same family first
		if i := pick(v.Family); i >= 0 {
			heir[v.ID], taken[i] = i, true
		}
	}
	var notes []string
	var lanes []groove.Lane
	feel := map[string]groove.VoiceFeel{}
	ids := make([]string, len(kit.Voices)) // what each new voice will be called
	for id, i := range heir {
		ids[i] = id
	}
	for _, v := range old {
		if _, ok := heir[v.ID]; ok {
			continue
		}
		lane := d.Groove.Lane(v.ID)
		if lane == nil || len(lane.Hits) == 0 {
			continue
		}
		for _, f := range sound.Relations(v.Family) {
			if i := pick(f); i >= 0 {
				heir[v.ID], taken[i], ids[i] = i, true, v.ID
				break
			}
		}
		if _, ok := heir[v.ID]; !ok {
			notes = append(notes, fmt.Sprintf("The hits of %s (%d) found no place in this kit and were left out.", v.Name, len(lane.Hits)))
		}
	}
	renamed := map[string]string{}
	for i := range kit.Voices {
		if ids[i] == "" {
			like := strings.TrimRight(kit.Voices[i].ID, "0123456789_")
			if like == "" {
				like = "voice"
			}
			ids[i] = like
			for n := 2; slices.Contains(ids[:i], ids[i]) || slices.Contains(ids[i+1:], ids[i]) || slices.Contains(reserved, ids[i]); n++ {
				ids[i] = fmt.Sprintf("%s%d", like, n)
			}
		}
		renamed[kit.Voices[i].ID] = ids[i]
	}
	for i := range kit.Voices {
		v := &kit.Voices[i]
		v.ID = ids[i]
		if was := d.Kit.Voice(v.ID); was != nil && len(v.Chain) == 0 && v.To == "" && len(v.Sends) == 0 {
			v.Row = was.Row // it keeps its place in the mix
		}
		cut := []string{}
		for _, id := range v.CutBy {
			if to, ok := renamed[id]; ok {
				cut = append(cut, to)
			}
		}
		v.CutBy = cut
		if v.Gate != nil {
			by, ok := renamed[v.Gate.By]
			v.Gate = new(*v.Gate)
			v.Gate.By = by
			if !ok {
				v.Gate = nil
			}
		}
		lane := groove.Lane{Voice: v.ID, Hits: []groove.Hit{}}
		if was := d.Groove.Lane(v.ID); was != nil {
			lane = *was
		}
		lanes = append(lanes, lane)
		if f, ok := d.Groove.Feel.Voices[v.ID]; ok {
			feel[v.ID] = f
		}
	}
	d.Kit, d.Groove.Lanes, d.Groove.Feel.Voices = kit, lanes, feel
	d.homeless()
	d.Groove.Feel.Drift.Voices = slices.DeleteFunc(slices.Clone(d.Groove.Feel.Drift.Voices), func(id string) bool { return d.Kit.Voice(id) == nil })
	return notes, nil
}

func (e SetKit) name(_, _ *Document) string {
	if e.Title == "" {
		return "Another kit"
	}
	return "Kit " + e.Title
}

// SetSound puts other layers in the place of a voice's, and keeps its place in the
// mix and in the groove.
type SetSound struct {
	Voice string `json:"voice"`
	// Layers are what it strikes from now on.
	Layers []sound.Layer `json:"layers"`
	// Title says where they come from, for the history.
	Title string `json:"title,omitempty"`
}

func (e SetSound) apply(d *Document, _ Env) ([]string, error) {
	v := d.Kit.Voice(e.Voice)
	if v == nil {
		return nil, noVoice(e.Voice)
	}
	v.Layers = slices.Clone(e.Layers)
	for i := range v.Layers {
		ownLayer(v, v.Layers[i].ID)
	}
	return nil, nil
}

func (e SetSound) name(before, _ *Document) string {
	if e.Title == "" {
		return before.nameOf(e.Voice) + ": another sound"
	}
	return fmt.Sprintf("%s: %s", before.nameOf(e.Voice), e.Title)
}

// SetCutBy says which voices' hits stop a voice.
type SetCutBy struct {
	Voice string `json:"voice"`
	// By are voices of the kit; none lets it ring.
	By []string `json:"by"`
}

func (e SetCutBy) apply(d *Document, _ Env) ([]string, error) {
	v := d.Kit.Voice(e.Voice)
	if v == nil {
		return nil, noVoice(e.Voice)
	}
	for _, id := range e.By {
		if d.Kit.Voice(id) == nil {
			return nil, noVoice(id)
		}
	}
	v.CutBy = slices.Clone(e.By)
	return nil, nil
}

func (e SetCutBy) name(before, _ *Document) string {
	if len(e.By) == 0 {
		return before.nameOf(e.Voice) + " rings on"
	}
	names := make([]string, len(e.By))
	for i, id := range e.By {
		names[i] = before.nameOf(id)
	}
	return fmt.Sprintf("%s stopped by %s", before.nameOf(e.Voice), strings.Join(names, ", "))
}

// SetGate lets a voice sound only while another one opens its gate.
type SetGate struct {
	Voice string `json:"voice"`
	// By is the voice that opens it; empty takes the gate away. A new gate has its
	// default numbers.
	By string `json:"by"`
}

func (e SetGate) apply(d *Document, _ Env) ([]string, error) {
	v := d.Kit.Voice(e.Voice)
	if v == nil {
		return nil, noVoice(e.Voice)
	}
	if e.By == "" {
		v.Gate = nil
		return nil, nil
	}
	if d.Kit.Voice(e.By) == nil || e.By == e.Voice {
		return nil, fmt.Errorf("another voice of the kit opens a gate")
	}
	g := sound.Gate{By: e.By}
	if v.Gate != nil {
		g = *v.Gate
		g.By = e.By
	} else {
		sound.GateParams.Reset(&g)
	}
	v.Gate = &g
	return nil, nil
}

func (e SetGate) name(before, _ *Document) string {
	if e.By == "" {
		return before.nameOf(e.Voice) + ": gate removed"
	}
	return fmt.Sprintf("%s gated by %s", before.nameOf(e.Voice), before.nameOf(e.By))
}

// SetAttack borrows the start of another sound for a layer.
type SetAttack struct {
	Voice string `json:"voice"`
	Layer string `json:"layer"`
	// Blob names the sound, a file kept beside the project; empty gives the layer
	// its own start back.
	Blob string `json:"blob"`
}

func (e SetAttack) apply(d *Document, _ Env) ([]string, error) {
	_, l, err := d.layerOf(e.Voice, e.Layer)
	if err != nil {
		return nil, err
	}
	if e.Blob == "" {
		l.Attack = nil
		return nil, nil
	}
	a := sound.Attack{}
	sound.AttackParams.Reset(&a)
	if l.Attack != nil {
		a = *l.Attack
	}
	a.Blob = e.Blob
	l.Attack = &a
	return nil, nil
}

func (e SetAttack) name(before, _ *Document) string {
	if e.Blob == "" {
		return before.layerName(e.Voice, e.Layer) + ": its own attack"
	}
	return before.layerName(e.Voice, e.Layer) + ": attack borrowed"
}
