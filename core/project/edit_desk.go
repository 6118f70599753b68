package project

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/mix"
	"jubrak/core/sound"
)

// Edits that build a whole part of the mix in one step, all of it then open to be changed.
var deskEdits = map[string]Edit{"mix.rooms": AddRooms{}, "mix.rumble": AddRumble{}, "mix.complement": Complement{}, "mix.take": TakeMix{}}

// AddRooms gives a programmed kit the pictures that microphones farther off would have of
// it: a bus over the kit and one in the room, to which every voice sends by its distance.
type AddRooms struct{}

// A distance to the pair over the kit and how loud a family is there (common practice).
type distance struct{ metres, level float64 }

var overhead = map[sound.Family]distance{
	sound.Kick: {1.7, -18}, sound.Snare: {1.1, -10}, sound.Rim: {1.1, -10}, sound.Clap: {1.4, -12}, sound.HatClosed: {0.9, -10}, sound.HatOpen: {0.9, -8},
	sound.Ride: {0.8, -5}, sound.Crash: {0.7, -4}, sound.Tom: {1.0, -9}, sound.Bass808: {2, -30},
}

// soundSpeed in metres a second; roomFarther is how much farther off the room's pair stands.
const (
	soundSpeed  = 343.0
	roomFarther = 3.2
)

func (e AddRooms) apply(d *Document, _ Env) ([]string, error) {
	over := mix.NewStep("", mix.KindOf("equalizer"), map[string]float64{"band1.hz": 120, "band2.shape": 0, "band3.shape": 0, "band4.shape": 0, "band7.hz": 9000, "band7.gain_db": 1.5})
	air := mix.NewStep("", mix.KindOf("reverb"), map[string]float64{"decay_ms": 380, "size_percent": 30, "mix_percent": 25, "low_cut_hz": 200})
	far := mix.NewStep("", mix.KindOf("reverb"), map[string]float64{"decay_ms": 700, "size_percent": 60, "mix_percent": 100, "low_cut_hz": 60, "high_cut_hz": 9000})
	squash := mix.NewStep("", mix.KindOf("compressor"), map[string]float64{"threshold_db": -30, "ratio": 6, "attack_ms": 1, "release_ms": 120, "gain_db": 6})
	for _, b := range []struct {
		name  string
		chain []mix.Step
		more  float64 // metres
		less  float64 // dB
	}{{"Overhead", []mix.Step{over, air}, 0, 0}, {"Room", []mix.Step{far, squash}, roomFarther, -4}} {
		if _, err := (AddBus{Name: b.name}).apply(d, nil); err != nil {
			return nil, err
		}
		bus := &d.Mix.Buses[len(d.Mix.Buses)-1]
		if _, err := (SetChain{Row: BusRow(bus.ID), Steps: b.chain}).apply(d, nil); err != nil {
			return nil, err
		}
		for i := range d.Kit.Voices {
			v := &d.Kit.Voices[i]
			at, ok := overhead[v.Family]
			if !ok {
				at = distance{1.3, -11}
			}
			s := mix.Send{To: bus.ID}
			mix.SendParams.Reset(&s)
			s.Level, s.Later = at.level+b.less, math.Round((at.metres+b.more)/soundSpeed*10000)/10
			v.Sends = append(slices.Clone(v.Sends), s)
		}
	}
	return nil, nil
}

func (e AddRooms) name(_, _ *Document) string { return "Rooms added" }

// AddRumble makes a rumble of a voice in one step: a copy of it goes to a bus of its own,
// where a long dark room, cuts, a compressor and the beat make a floor of it.
type AddRumble struct {
	// Voice is the kick, as a rule.
	Voice string `json:"voice"`
}

func (e AddRumble) apply(d *Document, _ Env) ([]string, error) {
	v := d.Kit.Voice(e.Voice)
	if v == nil {
		return nil, noVoice(e.Voice)
	}
	if _, err := (AddBus{Name: "Rumble"}).apply(d, nil); err != nil {
		return nil, err
	}
	bus := d.Mix.Buses[len(d.Mix.Buses)-1].ID
	// Common practice: under 300 Hz, over 37 Hz where big systems stop, ducked on quarters.
	k := func(kind string, values map[string]float64) mix.Step {
		return mix.NewStep("", mix.KindOf(kind), values)
	}
	steps := []mix.Step{
		k("reverb", map[string]float64{"decay_ms": 2600, "size_percent": 90, "mix_percent": 100, "low_cut_hz": 30, "damping_hz": 1500, "high_cut_hz": 2000}),
		k("equalizer", map[string]float64{"band1.hz": 37, "band1.slope": 3, "band2.shape": 5, "band2.hz": 300, "band2.slope": 3, "band3.shape": 0, "band4.shape": 0, "band7.shape": 0}),
		k("compressor", map[string]float64{"threshold_db": -26, "ratio": 4, "attack_ms": 10, "release_ms": 150, "gain_db": 6}),
		k("duck", map[string]float64{"amount_percent": 90}),
	}
	if _, err := (SetChain{Row: BusRow(bus), Steps: steps}).apply(d, nil); err != nil {
		return nil, err
	}
	s := mix.Send{To: bus}
	mix.SendParams.Reset(&s)
	s.Level = -6
	v.Sends = append(slices.Clone(v.Sends), s)
	return nil, nil
}

func (e AddRumble) name(before, _ *Document) string {
	return before.nameOf(e.Voice) + ": a rumble added"
}

// Complement equalizes two voices as complements: where one is lifted, the other is cut
// by as much. Each keeps its own tone and leaves the other's alone.
type Complement struct {
	// First is the kick, as a rule.
	First string `json:"first"`
	// Second is the 808, as a rule.
	Second string `json:"second"`
}

func (e Complement) apply(d *Document, _ Env) ([]string, error) {
	if d.Kit.Voice(e.First) == nil || d.Kit.Voice(e.Second) == nil || e.First == e.Second {
		return nil, fmt.Errorf("two voices of the kit are complements of each other")
	}
	one, two := d.weight(e.First), d.weight(e.Second)
	if ratio := two / one; ratio > 0.8 && ratio < 1.25 {
		two = one * 2 // both in one place: the second is known by its partial
	}
	const by = 2.5
	for _, v := range []struct {
		voice      string
		own, leave float64
	}{{e.First, one, two}, {e.Second, two, one}} {
		values := map[string]float64{"band1.shape": 0, "band2.shape": 1, "band2.hz": v.own, "band2.gain_db": by, "band2.q": 1.4, "band3.hz": v.leave, "band3.gain_db": -by, "band3.q": 1.4, "band4.shape": 0, "band7.shape": 0}
		if _, err := (AddToChain{Row: v.voice, Kind: "equalizer", To: mix.MaxChain, Values: values}).apply(d, nil); err != nil {
			return nil, err
		}
	}
	return nil, nil
}

// weight is where a voice's lowest tone lies, Hz.
func (d *Document) weight(voice string) float64 {
	v := d.Kit.Voice(voice)
	if l := v.Synth(); l != nil && l.Recipe.Body.Level > sound.Silent {
		return math.Min(math.Max(math.Round(l.Recipe.Body.End*10)/10, 25), 400)
	}
	if v.Family == sound.Bass808 {
		return 80
	}
	return 55
}

func (e Complement) name(before, _ *Document) string {
	return fmt.Sprintf("%s and %s as complements", before.nameOf(e.First), before.nameOf(e.Second))
}

// TakeMix takes a mix from elsewhere: its buses, its output, and a row for each voice of
// this kit that has one there.
type TakeMix struct {
	// Desk are the buses and shapes; the output's chain is taken where it has one.
	Desk mix.Desk `json:"desk"`
	// Rows are what the voices of this kit get, by their ids.
	Rows map[string]mix.Row `json:"rows"`
	// Title says where it comes from, for the history.
	Title string `json:"title"`
}

func (e TakeMix) apply(d *Document, _ Env) ([]string, error) {
	renamed := map[string]string{}
	for _, b := range e.Desk.Buses {
		id := b.ID
		for n := 2; d.Mix.Bus(id) != nil; n++ {
			id = fmt.Sprintf("%s%d", b.ID, n)
		}
		renamed[b.ID] = id
	}
	moved := func(r mix.Row) mix.Row {
		r.Chain, r.Sends = mix.CloneSteps(r.Chain), slices.Clone(r.Sends)
		r.To = renamed[r.To]
		for i := range r.Sends {
			r.Sends[i].To = renamed[r.Sends[i].To]
		}
		return r
	}
	for _, b := range e.Desk.Buses {
		b.ID, b.Row = renamed[b.ID], moved(b.Row)
		d.Mix.Buses = append(d.Mix.Buses, b)
	}
	for _, s := range e.Desk.Shapes {
		if d.Mix.Shape(s.ID) == nil {
			s.Points = slices.Clone(s.Points)
			d.Mix.Shapes = append(d.Mix.Shapes, s)
		}
	}
	for voice, r := range e.Rows {
		v := d.Kit.Voice(voice)
		if v == nil {
			return nil, noVoice(voice)
		}
		v.Row = moved(r)
	}
	if len(e.Desk.Out.Chain) > 0 {
		d.Mix.Out = e.Desk.Out
		d.Mix.Out.Chain = mix.CloneSteps(e.Desk.Out.Chain)
	}
	return nil, nil
}

func (e TakeMix) name(_, _ *Document) string {
	if e.Title == "" {
		return "A mix from elsewhere"
	}
	return "Mix from " + e.Title
}

// MixOf is the edit that brings a part of another project's mix into this one, and in
// words what comes along: "all", or a row of the other one. The rows of its voices go to
// this kit's voices of the same family, or their nearest relations.
func MixOf(other, d *Document, what string) (TakeMix, []string) {
	e := TakeMix{Rows: map[string]mix.Row{}, Title: other.Name, Desk: mix.Desk{Buses: []mix.Bus{}, Shapes: []mix.Shape{}, Moves: []mix.Move{}, Out: mix.Output{Chain: []mix.Step{}}}}
	comes := []string{}
	buses := map[string]bool{}
	take := func(v *sound.Voice) {
		heir := d.Kit.ForFamily(v.Family)
		if heir == nil {
			comes = append(comes, fmt.Sprintf("%s: no voice here for it", v.Name))
			return
		}
		if _, done := e.Rows[heir.ID]; done {
			return
		}
		row := v.Row
		row.Chain = mix.CloneSteps(v.Chain)
		d.rekey(row.Chain, other)
		e.Rows[heir.ID] = row
		comes = append(comes, fmt.Sprintf("%s: %s for %s", v.Name, steps(len(v.Chain)), heir.Name))
	}
	var need func(bus string)
	need = func(bus string) {
		b := other.Mix.Bus(bus)
		if b == nil || buses[bus] {
			return
		}
		buses[bus] = true
		need(b.To)
		for _, s := range b.Sends {
			need(s.To)
		}
	}
	for i := range other.Kit.Voices {
		v := &other.Kit.Voices[i]
		if what == "all" && (len(v.Chain) > 0 || v.To != "" || len(v.Sends) > 0) || what == v.ID || v.To != "" && what == BusRow(v.To) {
			take(v)
			need(v.To)
			for _, s := range v.Sends {
				need(s.To)
			}
		}
	}
	for _, b := range other.Mix.Buses {
		if what == "all" || what == BusRow(b.ID) {
			need(b.ID)
		}
	}
	for _, b := range other.Mix.Buses {
		if buses[b.ID] {
			b.Chain = mix.CloneSteps(b.Chain)
			d.rekey(b.Chain, other)
			e.Desk.Buses = append(e.Desk.Buses, b)
			comes = append(comes, fmt.Sprintf("bus %s: %s", b.Name, steps(len(b.Chain))))
		}
	}
	if what == "all" && len(other.Mix.Out.Chain) > 0 {
		e.Desk.Out = other.Mix.Out
		e.Desk.Out.Chain = mix.CloneSteps(other.Mix.Out.Chain)
		d.rekey(e.Desk.Out.Chain, other)
		comes = append(comes, "the output: "+steps(len(other.Mix.Out.Chain)))
	}
	if len(e.Rows) > 0 || len(e.Desk.Buses) > 0 {
		e.Desk.Shapes = other.Mix.Shapes
	}
	return e, comes
}

// rekey lets steps that listen to a voice of another project listen to this kit's by
// family.
func (d *Document) rekey(steps []mix.Step, other *Document) {
	for i := range steps {
		if v := other.Kit.Voice(steps[i].Key); v != nil {
			steps[i].Key = ""
			if heir := d.Kit.ForFamily(v.Family); heir != nil {
				steps[i].Key = heir.ID
			}
		}
		for _, p := range steps[i].Paths {
			d.rekey(p, other)
		}
	}
}

func steps(n int) string {
	if n == 1 {
		return "1 step"
	}
	return fmt.Sprintf("%d steps", n)
}
