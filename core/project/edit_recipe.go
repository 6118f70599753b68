package project

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"jubrak/core/sound"
)

// Edits of a synthesized layer: its curves and what modulates its parameters.
var recipeEdits = map[string]Edit{
	"curve.add": AddCurve{}, "curve.draw": DrawCurve{}, "curve.set": SetCurve{}, "curve.remove": RemoveCurve{},
	"modulation.set": SetModulation{}, "modulation.remove": RemoveModulation{}, "recipe.set": SetRecipe{}, "wave.draw": DrawWave{}, "sample.set": SetSample{},
}

// recipeOf finds a recipe to be changed.
func (d *Document) recipeOf(voice, layer string) (*sound.Recipe, error) {
	_, l, err := d.layerOf(voice, layer)
	if err != nil {
		return nil, err
	}
	if l.Recipe == nil {
		return nil, fmt.Errorf("%s is not synthesized", l.Name)
	}
	return l.Recipe, nil
}

func (d *Document) curveName(voice, layer, curve string) string {
	name := d.layerName(voice, layer)
	if v := d.Kit.Voice(voice); v != nil && v.Layer(layer) != nil && v.Layer(layer).Recipe != nil {
		if c := v.Layer(layer).Recipe.Curve(curve); c != nil {
			return name + ", " + c.Name
		}
	}
	return name + ", a curve"
}

// free is an id of a kind that no effect or curve of the recipe has.
func free(r *sound.Recipe, kind string) string {
	for n := 1; ; n++ {
		if id := fmt.Sprintf("%s%d", kind, n); r.Effect(id) == nil && r.Curve(id) == nil {
			return id
		}
	}
}

// AddCurve adds a curve, which moves nothing yet.
type AddCurve struct {
	Voice string `json:"voice"`
	Layer string `json:"layer"`
	// Curve is what is added; without an id and a name it is given them.
	Curve sound.Curve `json:"curve"`
}

func (e AddCurve) apply(d *Document, _ Env) ([]string, error) {
	r, err := d.recipeOf(e.Voice, e.Layer)
	if err != nil {
		return nil, err
	}
	c := e.Curve
	if c.ID == "" || r.Curve(c.ID) != nil {
		c.ID = free(r, "curve")
	}
	if c.Name == "" {
		c.Name = fmt.Sprintf("Curve %d", len(r.Curves)+1)
	}
	r.Curves = append(r.Curves, c)
	return nil, nil
}

func (e AddCurve) name(before, _ *Document) string {
	return before.layerName(e.Voice, e.Layer) + ": curve added"
}

// DrawCurve gives a pitch or a level a curve that does what it does now, to be bent
// from there: of body.end_hz the fall of the body, of a part's level_db its attack,
// hold and decay. Any other number gets a curve that falls to it.
type DrawCurve struct {
	Voice string `json:"voice"`
	Layer string `json:"layer"`
	// At is the number, within the recipe.
	At string `json:"at"`
}

func (e DrawCurve) apply(d *Document, _ Env) ([]string, error) {
	r, err := d.recipeOf(e.Voice, e.Layer)
	if err != nil {
		return nil, err
	}
	n, ok := r.Number(e.At)
	if !ok || !n.Param.Continuous() {
		return nil, fmt.Errorf("there is no number at %q that can be moved", e.At)
	}
	if r.DrivenBy(e.At) != nil {
		return nil, fmt.Errorf("%s follows a curve already", n.Label)
	}
	c, from, to := drawnAs(r, e.At, n)
	c.ID, c.Unit, c.Round = free(r, "curve"), sound.MS, -1
	c.Name = curveTitle(e.At, n)
	r.Curves = append(r.Curves, c)
	r.Modulations = append(r.Modulations, sound.Modulation{By: c.ID, At: e.At, From: from, To: to})
	return nil, nil
}

func curveTitle(at string, n sound.Number) string {
	switch at {
	case "body.end_hz":
		return "Pitch"
	}
	part := partLabel(n.Part)
	return strings.ToUpper(part[:1]) + part[1:] + " " + lower(n.Label)
}

// drawnAs is the curve that does what a number does now, and its ends.
func drawnAs(r *sound.Recipe, at string, n sound.Number) (c sound.Curve, from, to float64) {
	now := n.Get(r)
	switch at {
	case "body.end_hz":
		from, to = math.Max(r.Body.Start, r.Body.End*1.01), r.Body.End
		// In octaves the fall is e^(-3t/fall), of which 5 % is left after it.
		c.Points = []sound.CurvePoint{{At: 0, Value: 1, Bend: 3.0 / 7}, {At: r.Body.Fall, Value: 0.05, Bend: 0.2}, {At: 2 * r.Body.Fall, Value: 0}}
		if r.Body.Start < r.Body.End { // it rises
			from, to = r.Body.End, r.Body.Start
			c.Points = []sound.CurvePoint{{At: 0, Value: 0, Bend: 3.0 / 7}, {At: r.Body.Fall, Value: 0.95, Bend: 0.2}, {At: 2 * r.Body.Fall, Value: 1}}
		}
		return c, from, to
	case "body.level_db":
		return levelCurve(r.Body.Level, r.Body.Attack, r.Body.Hold, r.Body.Decay)
	case "sub.level_db":
		return levelCurve(r.Sub.Level, r.Sub.Attack, r.Sub.Hold, r.Sub.Decay)
	case "noise.level_db":
		return levelCurve(r.Noise.Level, r.Noise.Attack, r.Noise.Hold, r.Noise.Decay)
	case "metal.level_db":
		return levelCurve(r.Metal.Level, 0, r.Metal.Hold, r.Metal.Decay)
	case "ring.level_db":
		return levelCurve(r.Ring.Level, 0, 0, r.Ring.Decay)
	case "snap.level_db":
		return levelCurve(r.Snap.Level, 0, 0, r.Snap.Decay)
	}
	c.Points = []sound.CurvePoint{{At: 0, Value: 1, Bend: 0.45}, {At: 120, Value: 0}}
	return c, n.Between(now, n.Max, 0.4), now
}

// levelCurve is an attack, a hold and a decay as a curve from silence to a level:
// in dB a decay is straight.
func levelCurve(level, attack, hold, decay float64) (c sound.Curve, from, to float64) {
	from, to = math.Max(level, sound.Silent+12), sound.Silent
	at := 0.0
	if attack > 1 {
		c.Points = append(c.Points, sound.CurvePoint{At: 0, Value: 0, Bend: 0.6})
		at = attack
	}
	c.Points = append(c.Points, sound.CurvePoint{At: at, Value: 1})
	if hold > 0 {
		at += hold
		c.Points = append(c.Points, sound.CurvePoint{At: at, Value: 1})
	}
	c.Points = append(c.Points, sound.CurvePoint{At: at + decay*(from-to)/60, Value: 0})
	return c, from, to
}

func (e DrawCurve) name(before, _ *Document) string {
	return before.layerName(e.Voice, e.Layer) + ": drawn as a curve"
}

// SetCurve changes a curve: its name, its points, whether it goes round.
type SetCurve struct {
	Voice string      `json:"voice"`
	Layer string      `json:"layer"`
	Curve sound.Curve `json:"curve"`
}

func (e SetCurve) apply(d *Document, _ Env) ([]string, error) {
	r, err := d.recipeOf(e.Voice, e.Layer)
	if err != nil {
		return nil, err
	}
	c := r.Curve(e.Curve.ID)
	if c == nil {
		return nil, fmt.Errorf("the curve is no longer there")
	}
	*c = e.Curve
	return nil, nil
}

func (e SetCurve) name(before, _ *Document) string {
	return before.curveName(e.Voice, e.Layer, e.Curve.ID) + " bent"
}

// RemoveCurve takes a curve away; what followed it stays where the curve ended.
type RemoveCurve struct {
	Voice string `json:"voice"`
	Layer string `json:"layer"`
	// Curve is its id.
	Curve string `json:"curve"`
}

func (e RemoveCurve) apply(d *Document, _ Env) ([]string, error) {
	r, err := d.recipeOf(e.Voice, e.Layer)
	if err != nil {
		return nil, err
	}
	r.Modulations = slices.DeleteFunc(r.Modulations, func(m sound.Modulation) bool { return m.By == e.Curve })
	r.Curves = slices.DeleteFunc(r.Curves, func(c sound.Curve) bool { return c.ID == e.Curve })
	return nil, nil
}

func (e RemoveCurve) name(before, _ *Document) string {
	return before.curveName(e.Voice, e.Layer, e.Curve) + " removed"
}

// SetModulation lets a curve, velocity, note or chance move a number, in place of what
// moved it by the same.
type SetModulation struct {
	Voice      string           `json:"voice"`
	Layer      string           `json:"layer"`
	Modulation sound.Modulation `json:"modulation"`
}

func (e SetModulation) apply(d *Document, _ Env) ([]string, error) {
	r, err := d.recipeOf(e.Voice, e.Layer)
	if err != nil {
		return nil, err
	}
	for i := range r.Modulations {
		m := &r.Modulations[i]
		if m.At == e.Modulation.At && (m.By == e.Modulation.By || m.Curve() && e.Modulation.Curve()) {
			*m = e.Modulation
			return nil, nil
		}
	}
	r.Modulations = append(r.Modulations, e.Modulation)
	return nil, nil
}

func (e SetModulation) name(before, after *Document) string {
	name := before.layerName(e.Voice, e.Layer)
	if v := after.Kit.Voice(e.Voice); v != nil && v.Layer(e.Layer) != nil {
		if n, ok := v.Layer(e.Layer).Recipe.Number(e.Modulation.At); ok {
			return fmt.Sprintf("%s: %s modulated by %s", name, lower(n.Label), sourceName(v.Layer(e.Layer).Recipe, e.Modulation.By))
		}
	}
	return name + ": a parameter modulated"
}

func sourceName(r *sound.Recipe, by string) string {
	if c := r.Curve(by); c != nil {
		return c.Name
	}
	return by
}

// RemoveModulation lets a number be again.
type RemoveModulation struct {
	Voice string `json:"voice"`
	Layer string `json:"layer"`
	// By is a curve, "velocity", "note" or "chance", At the number within the recipe.
	By string `json:"by"`
	// At is the number, within the recipe.
	At string `json:"at"`
}

func (e RemoveModulation) apply(d *Document, _ Env) ([]string, error) {
	r, err := d.recipeOf(e.Voice, e.Layer)
	if err != nil {
		return nil, err
	}
	r.Modulations = slices.DeleteFunc(r.Modulations, func(m sound.Modulation) bool { return m.By == e.By && m.At == e.At })
	return nil, nil
}

func (e RemoveModulation) name(before, _ *Document) string {
	return before.layerName(e.Voice, e.Layer) + ": modulation removed"
}

// SetRecipe puts recipe changed in the place of a layer's.
type SetRecipe struct {
	Voice  string       `json:"voice"`
	Layer  string       `json:"layer"`
	Recipe sound.Recipe `json:"recipe"`
	// Title says where it comes from, for the history.
	Title string `json:"title,omitempty"`
}

func (e SetRecipe) apply(d *Document, _ Env) ([]string, error) {
	r, err := d.recipeOf(e.Voice, e.Layer)
	if err != nil {
		return nil, err
	}
	*r = e.Recipe
	r.Own()
	return nil, nil
}

func (e SetRecipe) name(before, _ *Document) string {
	if e.Title != "" {
		return fmt.Sprintf("%s: %s", before.layerName(e.Voice, e.Layer), e.Title)
	}
	return before.layerName(e.Voice, e.Layer) + ": recipe changed"
}

// DrawWave draws the body's wave.
type DrawWave struct {
	Voice string `json:"voice"`
	Layer string `json:"layer"`
	// Cycle is one period, from -1 to 1, at most 256 values.
	Cycle []float64 `json:"cycle"`
}

func (e DrawWave) apply(d *Document, _ Env) ([]string, error) {
	r, err := d.recipeOf(e.Voice, e.Layer)
	if err != nil {
		return nil, err
	}
	r.Body.Cycle = slices.Clone(e.Cycle)
	r.Body.Wave = sound.DrawnWave
	return nil, nil
}

func (e DrawWave) name(before, _ *Document) string {
	return before.layerName(e.Voice, e.Layer) + ": wave drawn"
}

// SetSample makes a snap or a noise of a recorded sound.
type SetSample struct {
	Voice string `json:"voice"`
	Layer string `json:"layer"`
	// Part is "snap" or "noise".
	Part string `json:"part"`
	// Blob names the sound, a file kept beside the project.
	Blob string `json:"blob"`
}

func (e SetSample) apply(d *Document, _ Env) ([]string, error) {
	r, err := d.recipeOf(e.Voice, e.Layer)
	if err != nil {
		return nil, err
	}
	switch e.Part {
	case "snap":
		r.Snap.Sample, r.Snap.Kind = e.Blob, sound.SnapFromSample
	case "noise":
		r.Noise.Sample, r.Noise.Kind = e.Blob, sound.NoiseFromSample
	default:
		return nil, fmt.Errorf("a snap or a noise may be made of a recorded sound")
	}
	return nil, nil
}

func (e SetSample) name(before, _ *Document) string {
	return fmt.Sprintf("%s: %s made of a recorded sound", before.layerName(e.Voice, e.Layer), e.Part)
}
