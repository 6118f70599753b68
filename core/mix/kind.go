package mix

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

// Kind is a kind of step: what it is called, its numbers, and how it is made.
type Kind struct {
	ID     string        `json:"id"`
	Label  string        `json:"label"`
	Params []param.Param `json:"params"`
	// Rows is true for a kind that stands only in the chain of a row, not in a recipe.
	Rows bool `json:"rows"`
	// Keyed is true where another voice may steer it.
	Keyed bool `json:"keyed"`
	// Paths is how many chains of its own it holds at least.
	Paths int `json:"paths"`
	// Shaped is true where it follows a shape of the project.
	Shaped bool `json:"shaped"`
	make   func(rate float64) Tuned
}

// Tuned is a processor whose numbers may change while it runs.
//
// Tune takes the numbers of its kind, in the order of the kind's Params; what
// would click glides there over so many frames, or jumps with 0. It allocates
// nothing, and costs little where nothing has changed.
type Tuned interface {
	Processor
	Tune(v []float64, glide int)
}

// Kinds are all kinds of step, in order of the screen.
var Kinds = []*Kind{&driveKind, &crushKind, &filterKind, &equalizerKind, &combKind, &shiftKind, &transientKind, &compressorKind, &bandsKind, &reverbKind, &widthKind, &clipKind, &limitKind,
	&rowEqualizerKind, &gateKind, &transient3Kind, &tapeKind, &wornKind, &octaveKind, &tremoloKind, &echoKind, &bedKind, &duckKind, &trimKind, &ceilingKind, &parallelKind, &splitKind, &split3Kind}

// KindOf finds a kind by its id, or nil.
func KindOf(id string) *Kind {
	for _, k := range Kinds {
		if k.ID == id {
			return k
		}
	}
	return nil
}

// mixed is the number that every kind ends with: how much of what comes out has
// gone through the step.
var mixed = param.Param{ID: "mix_percent", Label: "Mix", Unit: "%", Max: 100, Default: 100, Scale: param.Linear}

// kind fills the parts of its params and adds the mix.
func kind(id, label string, make func(rate float64) Tuned, params ...param.Param) Kind {
	params = append(params, mixed)
	for i := range params {
		params[i].Part = id
	}
	return Kind{ID: id, Label: label, Params: params, make: make}
}

// beside is a kind that is mixed in at first by so many percent.
func beside(percent float64, k Kind) Kind {
	k.Params[len(k.Params)-1].Default = percent
	return k
}

// keyed is a kind that another voice may steer.
func keyed(k Kind) Kind {
	k.Keyed = true
	return k
}

// inRows is a kind that stands only in chains of rows.
func inRows(k Kind) Kind {
	k.Rows = true
	return k
}

// whole is a number that takes whole values only, so that nothing moves it on its way.
func whole(p param.Param) param.Param {
	p.Scale = param.Steps
	return p
}

// Param finds a number of the kind and its place, or nil.
func (k *Kind) Param(id string) (*param.Param, int) {
	for i := range k.Params {
		if k.Params[i].ID == id {
			return &k.Params[i], i
		}
	}
	return nil, -1
}

// Step is a processor with its numbers, as it stands in a recipe or a chain. It
// holds every number of its kind by its id.
type Step struct {
	ID     string             `json:"id"`
	Kind   string             `json:"kind"`
	Off    bool               `json:"off"`
	Values map[string]float64 `json:"values"`
	// Key names the voice whose dry sound steers it; empty is the sound itself.
	Key string `json:"key,omitempty"`
	// Shape names a shape of the project that it follows.
	Shape string `json:"shape,omitempty"`
	// Paths are the chains of a step that divides the sound.
	Paths [][]Step `json:"paths,omitempty"`
}

// UnmarshalJSON reads a step; numbers that its kind has got since it was written have
// their defaults.
func (s *Step) UnmarshalJSON(data []byte) error {
	type plain Step
	if err := json.Unmarshal(data, (*plain)(s)); err != nil {
		return err
	}
	if k := KindOf(s.Kind); k != nil && s.Values != nil {
		renew(s)
		for _, p := range k.Params {
			if _, ok := s.Values[p.ID]; !ok {
				s.Values[p.ID] = p.Default
			}
		}
	}
	return nil
}

// Clone is a step that shares nothing with this one.
func (s *Step) Clone() Step {
	out := *s
	out.Values = maps.Clone(s.Values)
	out.Paths = slices.Clone(s.Paths)
	for i := range out.Paths {
		out.Paths[i] = CloneSteps(out.Paths[i])
	}
	return out
}

// CloneSteps are steps that share nothing with those given.
func CloneSteps(steps []Step) []Step {
	out := make([]Step, len(steps))
	for i := range steps {
		out[i] = steps[i].Clone()
	}
	return out
}

// NewStep is a step of a kind with its defaults, changed by values given as pairs
// of id and value.
func NewStep(id string, k *Kind, values map[string]float64) Step {
	s := Step{ID: id, Kind: k.ID, Values: map[string]float64{}}
	for _, p := range k.Params {
		s.Values[p.ID] = p.Default
	}
	for name, v := range values {
		if _, i := k.Param(name); i < 0 {
			panic(fmt.Sprintf("a step of kind %s has no number %q", k.ID, name))
		}
		s.Values[name] = v
	}
	for range k.Paths {
		s.Paths = append(s.Paths, []Step{})
	}
	return s
}

// Validate checks that the step's kind is known and that it has each of its
// numbers, in its range, and no other.
func (s *Step) Validate() error {
	k := KindOf(s.Kind)
	if k == nil {
		return fmt.Errorf("there is no step of kind %q", s.Kind)
	}
	if s.ID == "" || len(s.Values) != len(k.Params) {
		return fmt.Errorf("a %s must have each of its numbers and no other", k.Label)
	}
	for i := range k.Params {
		p := &k.Params[i]
		v, ok := s.Values[p.ID]
		if !ok {
			return fmt.Errorf("a %s lacks its %s", k.Label, p.ID)
		}
		if err := p.Check(v); err != nil {
			return err
		}
	}
	if len(s.Paths) != k.Paths {
		return fmt.Errorf("a %s has %d paths", k.Label, k.Paths)
	}
	return nil
}

// Lift is about by how much the step makes soft sounds louder, dB.
func (s *Step) Lift() float64 {
	v := s.Values
	switch s.Kind {
	case driveKind.ID:
		gain := DriveGain(v["amount_percent"])
		return 20*math.Log10(gain*driveLevel(dsp.Curve(v["curve"]), gain)) + v["level_db"]
	case clipKind.ID, limitKind.ID:
		return v["gain_db"]
	case equalizerKind.ID:
		most := 0.0
		for i := range equalizerBands {
			most = max(most, v[fmt.Sprintf("band%d.gain_db", i+1)])
		}
		return most
	case transientKind.ID:
		return max(v["attack_db"], v["sustain_db"])
	case compressorKind.ID:
		return v["gain_db"] + lifts(v["up_ratio"])
	case bandsKind.ID:
		return max(v["low_gain_db"], max(v["mid_gain_db"], v["high_gain_db"])) + lifts(v["up_ratio"])
	}
	return 0
}

func lifts(ratio float64) float64 {
	if ratio > 1 {
		return mostLift
	}
	return 0
}

// list is a step's numbers in order of its kind.
func (s *Step) list(k *Kind) []float64 {
	out := make([]float64, len(k.Params))
	for i := range k.Params {
		out[i] = s.Values[k.Params[i].ID]
	}
	return out
}

// countedIn is the choice of a unit, which takes another number for the same thing.
const countedIn = "Counted in"

// hz is a corner or centre; db an amount in dB; ms a time.
func hz(id, label string, low, high, value float64) param.Param {
	return param.Param{ID: id, Label: label, Unit: "Hz", Min: low, Max: high, Default: value, Scale: param.Log}
}

func db(id, label string, low, high, value float64) param.Param {
	return param.Param{ID: id, Label: label, Unit: "dB", Min: low, Max: high, Default: value, Scale: param.DB}
}

func ms(id, label string, low, high, value float64) param.Param {
	p := param.Param{ID: id, Label: label, Unit: "ms", Min: low, Max: high, Default: value, Scale: param.Log}
	if low <= 0 {
		p.Scale = param.Linear
	}
	return p
}

func percent(id, label string, low, high, value float64) param.Param {
	return param.Param{ID: id, Label: label, Unit: "%", Min: low, Max: high, Default: value, Scale: param.Linear}
}

func ratio(id, label string, low, high, value float64) param.Param {
	return param.Param{ID: id, Label: label, Unit: ": 1", Min: low, Max: high, Default: value, Scale: param.Log}
}

// step is a whole number.
func step(id, label string, low, high, value float64) param.Param {
	return param.Param{ID: id, Label: label, Min: low, Max: high, Default: value, Scale: param.Steps}
}

// gainOf is a level in dB as a factor.
func gainOf(db float64) float64 { return math.Exp(db * (math.Ln10 / 20)) }

// as gives a number another default.
func as(p param.Param, value float64) param.Param {
	p.Default = value
	return p
}

// named is a number of a band: its id and label begin with the band's.
func named(id, label string, params ...param.Param) []param.Param {
	out := slices.Clone(params)
	for i := range out {
		out[i].ID, out[i].Label = id+"."+out[i].ID, label+" "+out[i].Label
	}
	return out
}

// ramp is a value that glides, perhaps after it has waited.
type ramp struct {
	now, goal, step float64
	left            int
	wait            int
}

// to sets where it goes and how many frames that takes.
func (r *ramp) to(goal float64, frames int) {
	if goal == r.goal && (r.left > 0 || r.now == goal) {
		return
	}
	r.goal, r.left = goal, frames
	if frames == 0 {
		r.now = goal
		return
	}
	r.step = (goal - r.now) / float64(frames)
}

func (r *ramp) next() float64 {
	if r.wait > 0 {
		r.wait--
		return r.now
	}
	if r.left > 0 {
		if r.left--; r.left == 0 {
			r.now = r.goal
		} else {
			r.now += r.step
		}
	}
	return r.now
}

// skip goes on by so many frames.
func (r *ramp) skip(frames int) {
	for ; frames > 0 && r.left > 0; frames-- {
		r.next()
	}
}

// times multiplies a channel by the value on its way.
func (r *ramp) times(x []float64) {
	i := 0
	for ; i < len(x) && r.left > 0; i++ {
		x[i] *= r.next()
	}
	if now := r.now; now != 1 {
		for ; i < len(x); i++ {
			x[i] *= now
		}
	}
}

// both multiplies both channels.
func (r *ramp) both(b Block) {
	if b.Right != nil {
		was := *r
		was.times(b.Right)
	}
	r.times(b.Left)
}

// end ends a glide where it goes.
func (r *ramp) end() { r.now, r.left, r.wait = r.goal, 0, 0 }
