package effect

import (
	"cmp"
	"fmt"
	"slices"

	"jubrak/core/param"
)

// Kind is a kind of effect: all that the program knows of it stands here. The screen, the
// docs, the report, recipes and racks read it; a new effect is a file of its own with a Kind
// that it registers.
type Kind struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	// Group is where the menu lists it; within a group those of a lower Order come first.
	Group Group `json:"group"`
	Order int   `json:"-"`
	// Hint says in a few words what it does.
	Hint string `json:"hint"`
	// Short names an effect by its telling parameters, which stand in braces: "{bits} bits".
	// Empty is the label.
	Short string `json:"short"`
	// Params are its parameters. The last, which register adds, is how much of the effect is
	// mixed in.
	Params []param.Param `json:"params"`
	// Rows is true for a kind that stands only in the chain of a row, not in a recipe.
	Rows bool `json:"rows"`
	// Recipes is true for a kind that is offered in recipes alone; rows have one that does more.
	Recipes bool `json:"recipes"`
	// Keyed is true where another voice may be its sidechain.
	Keyed bool `json:"keyed"`
	// Shaped is true where it follows a shape of the project.
	Shaped bool `json:"shaped"`
	// Recorded is true where it uses a recording of the user's, such as an impulse response.
	Recorded bool `json:"recorded"`
	// Paths name the chains within it.
	Paths []string `json:"paths"`
	// Bands is how many bands with a curve of their own it has; their parameters begin with
	// "band1." and so on.
	Bands int `json:"bands"`
	// Picture is what there is to see of it.
	Picture Picture `json:"picture"`
	// Linear is true where it does the same to all sounds, so that its response can be drawn.
	Linear bool `json:"-"`
	// Reduces is true where it turns a sound down over time, so that this can be drawn.
	Reduces bool `json:"-"`
	// Steady are parameters that a picture of its transfer curve sets to 0.
	Steady []string `json:"-"`
	// Alike is true where it does the same to each side by itself. Only such an effect is
	// given a sound of one channel, whose Right is nil; all others always get both sides.
	Alike bool `json:"-"`
	// MidSide is true where it can act on the mid or the side alone, for which register adds a
	// parameter. It must be alike.
	MidSide bool `json:"-"`
	// Ceiling is true where it keeps a sound below a level, so that a fader goes before it.
	Ceiling bool `json:"-"`
	// Room is true where it rings like a room: all notes of a voice may share one.
	Room bool `json:"-"`
	// Mixed is how much of it is mixed in by default, percent; 0 is 100.
	Mixed float64 `json:"-"`

	// Words say in two short lines what an effect does; nil says its label.
	Words func(s Said) [2]string `json:"-"`
	// Lift is about by how much it makes soft sounds louder, dB; nil is 0.
	Lift func(v func(id string) float64) float64 `json:"-"`
	// Shared reports whether behind a room all notes may share it: with these values it is
	// linear and not late. Nil is never.
	Shared func(v func(id string) float64) bool `json:"-"`
	// Upgrade brings values of an older version up to date; nil where nothing has changed.
	Upgrade func(values map[string]float64) `json:"-"`

	make  func(rate float64) Tuned
	index map[string]int
}

// Group is what effects are for.
type Group string

// The groups, in order of the menu.
const (
	Tone       Group = "tone"
	Dynamics   Group = "dynamics"
	Distortion Group = "distortion"
	Space      Group = "space"
	Modulation Group = "modulation"
	Routing    Group = "routing"
)

// Groups are all groups, in order of the menu.
var Groups = []Group{Tone, Dynamics, Distortion, Space, Modulation, Routing}

// Picture is how an effect is drawn.
type Picture string

// The pictures: what it changes in the spectrum, levels over time, and what comes out against
// what goes in.
const (
	Spectrum Picture = "spectrum"
	Levels   Picture = "time"
	Transfer Picture = "transfer"
)

// Tuned is a processor whose parameters may change while it runs.
//
// Tune takes the parameters of its kind by their ids; what would click glides there over so
// many frames, or jumps with 0. It allocates nothing, and costs little where nothing has
// changed.
type Tuned interface {
	Processor
	Tune(v Values, glide int)
}

// Values are the parameters of an effect that runs.
type Values struct {
	kind *Kind
	list []float64 // in order of the kind's Params, perhaps without the last
}

// Get is a parameter by its id. Asking for one that the kind does not have is a fault of the
// program, which every test that makes such an effect finds.
func (v Values) Get(id string) float64 {
	i, ok := v.kind.index[id]
	if !ok {
		panic(fmt.Sprintf("effect: a %s has no parameter %q", v.kind.ID, id))
	}
	return v.list[i]
}

// Is reports whether a switch is on, or a choice at its second name.
func (v Values) Is(id string) bool { return v.Get(id) == 1 }

var registry = map[string]*Kind{}

// register adds a kind to those that there are, with the parameter that every kind ends with.
func register(k Kind) *Kind {
	mix := mixed
	if k.Mixed > 0 {
		mix.Default = k.Mixed
	}
	if k.Paths == nil {
		k.Paths = []string{}
	}
	if k.MidSide {
		k.Params = append(k.Params, channelsParam())
	}
	k.Params = append(k.Params, mix)
	k.index = map[string]int{}
	for i := range k.Params {
		k.Params[i].Part = k.ID
		k.index[k.Params[i].ID] = i
	}
	if registry[k.ID] != nil || len(k.index) != len(k.Params) {
		panic(fmt.Sprintf("effect: %s or one of its parameters is there twice", k.ID))
	}
	registry[k.ID] = &k
	return &k
}

const mixedID = "mix_percent"

// mixed is the parameter that every kind ends with: how much of what comes out has gone
// through the effect.
var mixed = param.Param{ID: mixedID, Label: "Mix", Unit: "%", Max: 100, Default: 100, Scale: param.Linear}

// Kinds are all kinds of effect, in order of the menu.
func Kinds() []*Kind {
	out := make([]*Kind, 0, len(registry))
	for _, k := range registry {
		out = append(out, k)
	}
	slices.SortFunc(out, func(a, b *Kind) int {
		return cmp.Or(slices.Index(Groups, a.Group)-slices.Index(Groups, b.Group), a.Order-b.Order, cmp.Compare(a.ID, b.ID))
	})
	return out
}

// KindOf finds a kind by its id, or nil.
func KindOf(id string) *Kind { return registry[id] }

// Param finds a parameter of the kind and its place, or nil.
func (k *Kind) Param(id string) (*param.Param, int) {
	if i, ok := k.index[id]; ok {
		return &k.Params[i], i
	}
	return nil, -1
}

// whole is a parameter that nothing moves on its way.
func whole(p param.Param) param.Param {
	p.Scale = param.Discrete
	return p
}

// fixed are parameters that cannot glide.
func fixed(params ...param.Param) []param.Param {
	for i := range params {
		params[i].Fixed = true
	}
	return params
}

// unit is the choice of a unit, which takes another parameter for the same thing.
func unit(id, label string, names ...string) param.Param {
	p := param.Choice(id, "", label, names...)
	p.Smooth = true
	return p
}

// as gives a parameter another default.
func as(p param.Param, value float64) param.Param {
	p.Default = value
	return p
}

// hint gives a parameter a hint.
func hint(p param.Param, text string) param.Param {
	p.Hint = text
	return p
}

// when shows a parameter only where another one has one of some values.
func when(p param.Param, id string, is ...float64) param.Param {
	p.When = &param.When{ID: id, Is: is}
	return p
}

// unless shows a parameter only where another one has none of some values.
func unless(p param.Param, id string, not ...float64) param.Param {
	p.When = &param.When{ID: id, Not: not}
	return p
}

// named is parameters of a band: their ids and labels begin with the band's.
func named(id, label string, params ...param.Param) []param.Param {
	out := slices.Clone(params)
	for i := range out {
		out[i].ID, out[i].Label = id+"."+out[i].ID, label+" "+out[i].Label
		if w := out[i].When; w != nil {
			out[i].When = &param.When{ID: id + "." + w.ID, Is: w.Is, Not: w.Not}
		}
	}
	return out
}
