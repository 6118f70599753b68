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
	ids, notes := d.heirs(&kit)
	renamed := nameRest(&kit, ids)
	for i := range kit.Voices {
		v := &kit.Voices[i]
		v.ID = ids[i]
		if was := d.Kit.Voice(v.ID); was != nil && len(v.Chain) == 0 && v.To == "" && len(v.Sends) == 0 {
			v.Row = was.Row // it keeps its place in the mix
		}
		refer(v, renamed)
	}
	lanes, feel := make([]groove.Lane, len(kit.Voices)), map[string]groove.VoiceFeel{}
	for i := range lanes {
		id := kit.Voices[i].ID
		lanes[i] = groove.Lane{Voice: id, Hits: []groove.Hit{}}
		if was := d.Groove.Lane(id); was != nil {
			lanes[i] = *was
		}
		if f, ok := d.Groove.Feel.Voices[id]; ok {
			feel[id] = f
		}
	}
	d.Kit, d.Groove.Lanes, d.Groove.Feel.Voices = kit, lanes, feel
	d.orphanedLanes()
	d.Groove.Feel.Drift.Voices = slices.DeleteFunc(slices.Clone(d.Groove.Feel.Drift.Voices), func(id string) bool { return d.Kit.Voice(id) == nil })
	return notes, nil
}

// heirs are the ids that voices of another kit take over from those of this one, by place:
// of the same family first, then of a related one where there are hits. Notes say whose hits
// have none.
func (d *Document) heirs(kit *sound.Kit) (ids, notes []string) {
	ids = make([]string, len(kit.Voices))
	inherits := func(v *sound.Voice, f sound.Family) bool {
		i := slices.IndexFunc(ids, func(id string) bool { return id == "" })
		for ; i >= 0 && i < len(ids); i++ {
			if ids[i] == "" && kit.Voices[i].Family == f {
				ids[i] = v.ID
				return true
			}
		}
		return false
	}
	var left []*sound.Voice
	for i := range d.Kit.Voices {
		if v := &d.Kit.Voices[i]; !inherits(v, v.Family) {
			left = append(left, v)
		}
	}
	for _, v := range left {
		lane := d.Groove.Lane(v.ID)
		if lane == nil || len(lane.Hits) == 0 {
			continue
		}
		if !slices.ContainsFunc(sound.Relations(v.Family), func(f sound.Family) bool { return inherits(v, f) }) {
			notes = append(notes, fmt.Sprintf("The hits of %s (%d) have no matching voice in this kit and were left out. Ctrl Z brings them back.", v.Name, len(lane.Hits)))
		}
	}
	return ids, notes
}

// nameRest gives the voices that inherit nothing ids of their own, and returns what each id of
// the kit has become.
func nameRest(kit *sound.Kit, ids []string) map[string]string {
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
	return renamed
}

// refer lets a voice of a kit name the others by what they have become; what is not there is
// no longer named.
func refer(v *sound.Voice, renamed map[string]string) {
	cut := []string{}
	for _, id := range v.CutBy {
		if to, ok := renamed[id]; ok {
			cut = append(cut, to)
		}
	}
	v.CutBy = cut
	if v.Gate == nil {
		return
	}
	by, ok := renamed[v.Gate.By]
	if !ok {
		v.Gate = nil
		return
	}
	v.Gate = new(*v.Gate)
	v.Gate.By = by
}

func (e SetKit) name(_, _ *Document) string {
	if e.Title == "" {
		return "Kit changed"
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
		return before.nameOf(e.Voice) + ": sound changed"
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
		return before.nameOf(e.Voice) + " choke removed"
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
