package project

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"jubrak/core/effect"
	"jubrak/core/mixer"
	"jubrak/core/sound"
)

// TakeMix takes a mix from elsewhere: its buses, shapes and moves, its output, and a row
// with its balance for each voice of this kit that has one there. Buses and shapes are
// given ids of their own here; what refers to them follows.
type TakeMix struct {
	// Desk are the buses and shapes, and the moves at the addresses that they have once
	// voices are called as here.
	Desk mixer.Desk `json:"desk"`
	// Output takes the output's level and chain as well.
	Output bool `json:"output,omitempty"`
	// Rows are what the voices of this kit get, by their ids.
	Rows map[string]TakenRow `json:"rows"`
	// Title says where it comes from, for the history.
	Title string `json:"title"`
}

// TakenRow is a voice's place in a mix with its balance.
type TakenRow struct {
	Level float64 `json:"level_db"`
	Pan   float64 `json:"pan"`
	mixer.Row
}

func (e TakeMix) apply(d *Document, _ Env) ([]string, error) {
	buses, shapes := map[string]string{}, map[string]string{}
	for _, b := range e.Desk.Buses {
		id := b.ID
		for n := 2; d.Mix.Bus(id) != nil || slices.Contains(slices.Collect(maps.Values(buses)), id); n++ {
			id = fmt.Sprintf("%s%d", b.ID, n)
		}
		buses[b.ID] = id
	}
	for _, s := range e.Desk.Shapes {
		s.Points = slices.Clone(s.Points)
		from := s.ID
		for n := 2; ; n++ {
			here := d.Mix.Shape(s.ID)
			if here == nil {
				d.Mix.Shapes = append(d.Mix.Shapes, s)
				break
			}
			if same := *here; same.Beats == s.Beats && slices.Equal(same.Points, s.Points) {
				break // the very same is here
			}
			s.ID = fmt.Sprintf("%s%d", from, n)
		}
		shapes[from] = s.ID
	}
	row := func(name string) string {
		if bus, ok := strings.CutPrefix(name, busRow); ok {
			return BusRow(buses[bus])
		}
		return name
	}
	moved := func(r mixer.Row) mixer.Row {
		r.Chain, r.Sends, r.Own = effect.CloneChain(r.Chain), slices.Clone(r.Sends), maps.Clone(r.Own)
		reshape(r.Chain, shapes)
		r.To = buses[r.To]
		for i := range r.Sends {
			r.Sends[i].To = buses[r.Sends[i].To]
		}
		if r.Like != "" {
			r.Like = row(r.Like)
		}
		return r
	}
	for _, b := range e.Desk.Buses {
		b.ID, b.Row = buses[b.ID], moved(b.Row)
		d.Mix.Buses = append(d.Mix.Buses, b)
	}
	for _, voice := range slices.Sorted(maps.Keys(e.Rows)) {
		v, r := d.Kit.Voice(voice), e.Rows[voice]
		if v == nil {
			return nil, noVoice(voice)
		}
		v.Level, v.Pan, v.Row = r.Level, r.Pan, moved(r.Row)
	}
	if e.Output {
		d.Mix.Out = e.Desk.Out
		d.Mix.Out.Chain = effect.CloneChain(e.Desk.Out.Chain)
		reshape(d.Mix.Out.Chain, shapes)
	}
	for _, m := range e.Desk.Automation {
		m.At = readdress(m.At, row)
		m.Points = slices.Clone(m.Points)
		if part := strings.Split(m.At, "/"); len(part) == 4 && part[1] == "sends" {
			part[2] = buses[part[2]]
			m.At = strings.Join(part, "/")
		}
		d.Mix.Automation = append(slices.DeleteFunc(slices.Clone(d.Mix.Automation), func(o mixer.Automation) bool { return o.At == m.At }), m)
	}
	return nil, nil
}

// reshape lets effects follow the shapes that theirs have become.
func reshape(effects []effect.Effect, shapes map[string]string) {
	effect.Each(effects, func(s *effect.Effect) {
		if to, ok := shapes[s.Shape]; ok {
			s.Shape = to
		}
	})
}

// readdress calls the row of an address otherwise.
func readdress(at string, row func(string) string) string {
	head, rest, _ := strings.Cut(at, "/")
	return row(head) + "/" + rest
}

func (e TakeMix) name(_, _ *Document) string {
	if e.Title == "" {
		return "A mix from elsewhere"
	}
	return "Mix from " + e.Title
}

// MixOf is the edit that brings a part of another project's mix into this one, and in
// words what comes along: "all", or a row of the other one. The rows of its voices go to
// this kit's voices of the same family, the second snare's to the second snare, or to
// their nearest relations.
func MixOf(other, d *Document, what string) (TakeMix, []string) {
	t := taking{
		other: other, d: d, buses: map[string]bool{},
		edit: TakeMix{Rows: map[string]TakenRow{}, Title: other.Name, Desk: mixer.Desk{Buses: []mixer.Bus{}, Shapes: []effect.Shape{}, Automation: []mixer.Automation{}, Out: mixer.Output{Chain: []effect.Effect{}}}},
	}
	var rows []GrooveRow
	for i := range other.Kit.Voices {
		v := &other.Kit.Voices[i]
		rows = append(rows, GrooveRow{Lane: v.ID, Name: v.Name, Family: v.Family})
	}
	t.heirs = d.PlacesFor(rows, nil)
	for i := range other.Kit.Voices {
		v := &other.Kit.Voices[i]
		if what == "all" || what == v.ID || v.To != "" && what == BusRow(v.To) {
			t.voice(v)
		}
	}
	for _, b := range other.Mix.Buses {
		if what == "all" || what == BusRow(b.ID) {
			t.need(b.ID)
		}
	}
	for _, b := range other.Mix.Buses {
		if t.buses[b.ID] {
			t.bus(b)
		}
	}
	if what == "all" {
		t.output()
	}
	t.links()
	t.moves(what == "all")
	t.shapes()
	return t.edit, t.comes
}

// taking gathers what comes along with a mix.
type taking struct {
	other, d *Document
	heirs    map[string]string // voices of this kit by those of the other
	buses    map[string]bool   // those of the other that come
	edit     TakeMix
	comes    []string
}

func (t *taking) say(format string, args ...any) {
	t.comes = append(t.comes, fmt.Sprintf(format, args...))
}

func (t *taking) voice(v *sound.Voice) {
	heir := t.d.Kit.Voice(t.heirs[v.ID])
	if heir == nil {
		t.say("%s: no voice here for it", v.Name)
		return
	}
	row := v.Row
	row.Chain = effect.CloneChain(v.Chain)
	t.rekey(row.Chain)
	t.edit.Rows[heir.ID] = TakenRow{v.Level, v.Pan, row}
	t.say("%s: %s, %s for %s", v.Name, amount(v.Level, "dB")+panned(v.Pan), effectsCount(effect.Count(v.Chain)), heir.Name)
	t.need(v.To)
	for _, s := range v.Sends {
		t.need(s.To)
	}
}

// panned says where a row lies between the sides, where that is not in the middle.
func panned(pan float64) string {
	switch {
	case pan < 0:
		return fmt.Sprintf(", %.0f %% left", -pan*100)
	case pan > 0:
		return fmt.Sprintf(", %.0f %% right", pan*100)
	}
	return ""
}

// need lets a bus come along with all that it goes to.
func (t *taking) need(bus string) {
	b := t.other.Mix.Bus(bus)
	if b == nil || t.buses[bus] {
		return
	}
	t.buses[bus] = true
	t.need(b.To)
	for _, s := range b.Sends {
		t.need(s.To)
	}
}

func (t *taking) bus(b mixer.Bus) {
	b.Chain = effect.CloneChain(b.Chain)
	t.rekey(b.Chain)
	t.edit.Desk.Buses = append(t.edit.Desk.Buses, b)
	t.say("bus %s: %s, %s", b.Name, amount(b.Level, "dB")+panned(b.Pan), effectsCount(effect.Count(b.Chain)))
}

func (t *taking) output() {
	t.edit.Output = true
	t.edit.Desk.Out = t.other.Mix.Out
	t.edit.Desk.Out.Chain = effect.CloneChain(t.other.Mix.Out.Chain)
	t.rekey(t.edit.Desk.Out.Chain)
	t.say("the output: %s, %s", amount(t.other.Mix.Out.Level, "dB"), effectsCount(effect.Count(t.other.Mix.Out.Chain)))
}

// rekey lets effects that listen to a voice of the other project listen to this kit's, and
// says where there is none.
func (t *taking) rekey(effects []effect.Effect) {
	effect.Each(effects, func(s *effect.Effect) {
		if v := t.other.Kit.Voice(s.Key); v != nil {
			if s.Key = t.heirs[v.ID]; s.Key == "" {
				t.say("nothing here plays %s: its sidechain is removed", v.Name)
			}
		}
	})
}

// links lets a row follow the row here that the one it followed has become; where that
// does not come along, it keeps a copy of its chain.
func (t *taking) links() {
	link := func(r *mixer.Row) {
		if r.Like == "" {
			return
		}
		to := r.Like
		if bus, ok := strings.CutPrefix(to, busRow); ok {
			if !t.buses[bus] {
				to = ""
			}
		} else if to = t.heirs[to]; to != "" {
			if _, ok := t.edit.Rows[to]; !ok {
				to = ""
			}
		}
		if r.Like = to; to == "" {
			r.Own = nil
		}
	}
	for id, r := range t.edit.Rows {
		link(&r.Row)
		t.edit.Rows[id] = r
	}
	for i := range t.edit.Desk.Buses {
		link(&t.edit.Desk.Buses[i].Row)
	}
}

// moves takes along what is drawn over the bars of rows that come.
func (t *taking) moves(output bool) {
	for _, m := range t.other.Mix.Automation {
		n, err := t.other.Number(m.At)
		if err != nil {
			continue
		}
		head, _, _ := strings.Cut(m.At, "/")
		switch bus, isBus := strings.CutPrefix(head, busRow); {
		case isBus && t.buses[bus]:
		case head == OutRow && output:
		default:
			heir := t.heirs[head]
			if _, ok := t.edit.Rows[heir]; isBus || head == OutRow || !ok {
				continue
			}
			m.At = readdress(m.At, func(string) string { return heir })
		}
		t.say("%s, %s: drawn automated", n.Of, lower(n.Label))
		t.edit.Desk.Automation = append(t.edit.Desk.Automation, m)
	}
}

// shapes takes along those that an effect of what comes follows.
func (t *taking) shapes() {
	used := map[string]bool{}
	look := func(effects []effect.Effect) { effect.Each(effects, func(s *effect.Effect) { used[s.Shape] = true }) }
	for _, r := range t.edit.Rows {
		look(r.Chain)
	}
	for i := range t.edit.Desk.Buses {
		look(t.edit.Desk.Buses[i].Chain)
	}
	look(t.edit.Desk.Out.Chain)
	for _, s := range t.other.Mix.Shapes {
		if used[s.ID] {
			t.edit.Desk.Shapes = append(t.edit.Desk.Shapes, s)
			t.say("shape %s", s.Name)
		}
	}
}
