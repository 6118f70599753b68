package project

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"

	"jubrak/core/effect"
	"jubrak/core/sound"
)

// object is a JSON object of an older document.
type object = map[string]any

// upgrades turn a document of a schema into one of the next.
var upgrades = map[int]func(object) error{
	1: layersInVoices,
	2: effectsInRecipes,
	3: variationsBesideTheGroove,
	4: voicesAreRows,
	5: ratedAsTheTradeDoes,
	6: targetsOfVoices,
	7: oneSectionOf,
	8: fieldNames,
}

// upgrade turns the JSON of a document of an older schema into that of Schema.
func upgrade(data []byte, schema int) ([]byte, error) {
	if schema == Schema {
		return data, nil
	}
	var d object
	reader := json.NewDecoder(bytes.NewReader(data))
	reader.UseNumber() // seeds are longer than a float64
	if err := reader.Decode(&d); err != nil {
		return nil, fmt.Errorf("this is not a Jubrak project: %w", err)
	}
	for ; schema < Schema; schema++ {
		if err := upgrades[schema](d); err != nil {
			return nil, fmt.Errorf("the project of schema %d cannot be brought up to date: %w", schema, err)
		}
		d["schema"] = schema + 1
	}
	return json.Marshal(d)
}

// layersInVoices brings schema 1 to 2: a voice's recipe becomes its first layer,
// muted where the drum was off; a layer's sound becomes a recording in it, whose
// left-out start was a negative delay; a voice's gain is called its level.
func layersInVoices(d object) error {
	kit, _ := d["kit"].(object)
	voices, _ := kit["voices"].([]any)
	for i, each := range voices {
		v, ok := each.(object)
		if !ok {
			return fmt.Errorf("voice %d is not an object", i+1)
		}
		v["level_db"] = v["gain_db"]
		if name, _ := v["name"].(string); name == "" {
			v["name"] = fmt.Sprintf("Voice %d", i+1)
		}
		if r, ok := v["recipe"].(object); ok {
			r["cut"] = object{"low_hz": r["low_cut_hz"]}
			drop(r, "low_cut_hz")
		}
		drum := object{
			"id": "drum", "name": "Drum", "level_db": 0, "pan": 0, "pitch_st": 0, "start_ms": 0, "low_cut_hz": 20, "high_cut_hz": 20000,
			"above_hz": 20, "below_hz": 20000, "velocity_from": 1, "velocity_to": 127, "velocity_fade": 0,
			"flip": false, "mute": v["synth_off"], "recipe": v["recipe"], "recording": nil,
		}
		layers := []any{drum}
		old, _ := v["layers"].([]any)
		for j, each := range old {
			l, ok := each.(object)
			if !ok {
				return fmt.Errorf("layer %d of voice %d is not an object", j+1, i+1)
			}
			start, skip, err := splitDelay(l["delay_ms"])
			if err != nil {
				return err
			}
			l["pan"], l["start_ms"], l["recipe"] = 0, start, nil
			l["above_hz"], l["below_hz"] = 20, 20000
			l["velocity_from"], l["velocity_to"], l["velocity_fade"] = 1, 127, 0
			l["recording"] = object{"blob": l["blob"], "skip_ms": skip, "decay_ms": l["decay_ms"], "fade_in_ms": 0, "fade_out_ms": 0, "reverse": false}
			drop(l, "blob", "delay_ms", "decay_ms")
			layers = append(layers, l)
		}
		v["layers"] = layers
		drop(v, "gain_db", "recipe", "synth_off")
	}
	return nil
}

// splitDelay is a delay in ms as how much later and how much left out.
func splitDelay(v any) (start, skip float64, err error) {
	n, ok := v.(json.Number)
	if !ok {
		return 0, 0, nil
	}
	delay, err := n.Float64()
	return max(delay, 0), max(-delay, 0), err
}

// recipe2 is a recipe of schema 2.
type recipe2 struct {
	Body struct {
		Level  float64 `json:"level_db"`
		Start  float64 `json:"start_hz"`
		End    float64 `json:"end_hz"`
		Fall   float64 `json:"fall_ms"`
		Attack float64 `json:"attack_ms"`
		Decay  float64 `json:"decay_ms"`
	} `json:"body"`
	Noise struct {
		Level  float64 `json:"level_db"`
		Colour float64 `json:"colour_hz"`
		Width  float64 `json:"width_oct"`
		Decay  float64 `json:"decay_ms"`
	} `json:"noise"`
	Metal struct {
		Level float64 `json:"level_db"`
		Pitch float64 `json:"pitch_hz"`
		Decay float64 `json:"decay_ms"`
	} `json:"metal"`
	Snap struct {
		Level  float64 `json:"level_db"`
		Colour float64 `json:"colour_hz"`
		Decay  float64 `json:"decay_ms"`
	} `json:"snap"`
	Drive struct {
		Attack float64 `json:"attack_percent"`
		Body   float64 `json:"body_percent"`
		Fall   float64 `json:"fall_ms"`
	} `json:"drive"`
	Cut struct {
		Low float64 `json:"low_hz"`
	} `json:"cut"`
}

// effectsInRecipes brings schema 2 to 3: a recipe's fixed drive and low cut become
// steps, the drive's fall a curve, and the stick that a harder hit had more of a
// move by velocity. Voices, layers and recordings have numbers that they had not.
func effectsInRecipes(d object) error {
	kit, _ := d["kit"].(object)
	voices, _ := kit["voices"].([]any)
	for i, each := range voices {
		v, ok := each.(object)
		if !ok {
			return fmt.Errorf("voice %d is not an object", i+1)
		}
		fill(v, object{"release_ms": 4, "touch_percent": 100, "glide_ms": 0, "legato": false, "gate": nil})
		layers, _ := v["layers"].([]any)
		for j, each := range layers {
			l, ok := each.(object)
			if !ok {
				return fmt.Errorf("layer %d of voice %d is not an object", j+1, i+1)
			}
			fill(l, object{"solo": false, "turn": 0, "turn_every": 2, "turn_chance_percent": 50, "attack": nil, "rumble": nil})
			if r, ok := l["recording"].(object); ok {
				fill(r, object{
					"length_ms": 0, "gain_db": 0, "root_hz": 0, "keep_length": false, "gate": false, "gate_threshold_db": -36, "gate_hysteresis_db": 4,
					"gate_floor_db": -90, "gate_attack_ms": 0.5, "gate_hold_ms": 20, "gate_release_ms": 40, "gate_ahead_ms": 2,
				})
			}
			if l["recipe"] == nil {
				continue
			}
			text, err := json.Marshal(l["recipe"])
			if err != nil {
				return err
			}
			var r recipe2
			if err := json.Unmarshal(text, &r); err != nil {
				return err
			}
			l["recipe"] = r.today()
		}
	}
	return nil
}

func (r *recipe2) today() sound.Recipe {
	out := sound.Blank()
	out.Body.Level, out.Body.Start, out.Body.End, out.Body.Fall = r.Body.Level, r.Body.Start, r.Body.End, r.Body.Fall
	out.Body.Attack, out.Body.Decay = r.Body.Attack, r.Body.Decay
	out.Noise.Level, out.Noise.Colour, out.Noise.Width, out.Noise.Decay = r.Noise.Level, r.Noise.Colour, r.Noise.Width, r.Noise.Decay
	out.Metal.Level, out.Metal.Pitch, out.Metal.Decay = r.Metal.Level, r.Metal.Pitch, r.Metal.Decay
	out.Snap.Level, out.Snap.Colour, out.Snap.Decay = r.Snap.Level, r.Snap.Colour, r.Snap.Decay
	if r.Drive.Attack > 0 || r.Drive.Body > 0 {
		out = out.FallingDrive(r.Drive.Attack, r.Drive.Body, r.Drive.Fall)
	}
	if r.Cut.Low > 10 {
		out = out.LowCut(max(r.Cut.Low, 20))
	}
	if r.Snap.Level > sound.Silent {
		out = out.By(sound.ByVelocity, "snap.level_db", -8, 0)
	}
	return out
}

// fill adds fields that are not there.
func fill(o, fields object) {
	for k, v := range fields {
		if _, ok := o[k]; !ok {
			o[k] = v
		}
	}
}

func drop(o object, fields ...string) {
	for _, f := range fields {
		delete(o, f)
	}
}

// variationsBesideTheGroove brings schema 3 to 4: the groove becomes the first of the
// project's variations. Hits of schema 3 are plain ones of schema 4.
func variationsBesideTheGroove(d object) error {
	d["variations"], d["variation"] = []any{object{"id": "a", "name": ""}}, "a"
	return nil
}

// voicesAreRows brings schema 4 to 5: each voice has a chain, none yet, and goes to the
// output; there are no buses.
func voicesAreRows(d object) error {
	kit, _ := d["kit"].(object)
	voices, _ := kit["voices"].([]any)
	for i, each := range voices {
		v, ok := each.(object)
		if !ok {
			return fmt.Errorf("voice %d is not an object", i+1)
		}
		fill(v, object{"chain": []any{}, "to": "", "sends": []any{}})
	}
	d["mix"] = object{"buses": []any{}, "out": object{"level_db": 0, "chain": []any{}}, "shapes": []any{}, "moves": []any{}}
	return nil
}

// ratedAsTheTradeDoes brings schema 5 to 6: wow and flutter are weighted, hiss is RMS. Steps
// turn their own numbers (see effect.Renewed); here follow the moves and the numbers of linked
// chains that name them.
func ratedAsTheTradeDoes(d object) error {
	renew(d)
	return nil
}

// targetsOfVoices brings schema 6 to 7: a target belongs to a voice, the first of its
// family; where there is none the target is nothing.
func targetsOfVoices(d object) error {
	kit, _ := d["kit"].(object)
	voices, _ := kit["voices"].([]any)
	targets, _ := d["targets"].([]any)
	kept := []any{}
	for _, each := range targets {
		t, ok := each.(object)
		if !ok {
			return fmt.Errorf("a target is not an object")
		}
		cut, _ := t["slice"].(object)
		for _, v := range voices {
			if v, ok := v.(object); ok && cut != nil && v["family"] == cut["family"] {
				t["voice"] = v["id"]
				kept = append(kept, t)
				break
			}
		}
	}
	d["targets"] = kept
	return nil
}

func renew(of any) {
	switch of := of.(type) {
	case []any:
		for _, each := range of {
			renew(each)
		}
	case object:
		if at, ok := of["at"].(string); ok {
			if is, name, ok := renewedAt(at); ok {
				of["at"] = name
				points, _ := of["points"].([]any)
				for _, each := range points {
					if p, ok := each.(object); ok {
						p["value"] = is(number(p["value"]))
					}
				}
			}
		}
		if own, ok := of["own"].(object); ok {
			for at, v := range own {
				if is, name, ok := renewedAt(at); ok {
					delete(own, at)
					own[name] = is(number(v))
				}
			}
		}
		for _, each := range of {
			renew(each)
		}
	}
}

// renewedAt is what the number at an address has become.
func renewedAt(at string) (is func(float64) float64, now string, ok bool) {
	i := strings.LastIndexByte(at, '/')
	r, ok := effect.Renewed[at[i+1:]]
	if !ok {
		return nil, "", false
	}
	return r.Now, at[:i+1] + r.ID, true
}

func number(v any) float64 {
	n, _ := v.(json.Number)
	f, _ := n.Float64()
	return f
}

// oneSectionOf brings schema 7 to 8: the groove becomes an arrangement of one section.
func oneSectionOf(d object) error {
	g, _ := d["groove"].(object)
	variation, _ := d["variation"].(string)
	d["arrangement"] = object{
		"sections": []any{object{"id": "s1", "name": "Loop", "variation": variation, "bars": g["bars"], "rests": []any{}, "placed": []any{}, "dropouts": []any{}, "automation": []any{}}},
		"orders":   []any{}, "markers": []any{}, "speed": object{}, "backings": []any{},
	}
	return nil
}

// fieldNames brings schema 8 to 9: what stands in a chain is an effect, what moves a number
// of a recipe a modulation, what is drawn over bars automation.
func fieldNames(d object) error {
	rename(d)
	return nil
}

func rename(of any) {
	switch of := of.(type) {
	case []any:
		for _, each := range of {
			rename(each)
		}
	case object:
		if list, ok := of["steps"].([]any); ok {
			of["effects"] = list
			delete(of, "steps")
		}
		if list, ok := of["moves"].([]any); ok {
			name := "modulations"
			if _, mix := of["buses"]; mix {
				name = "automation"
			}
			of[name] = list
			delete(of, "moves")
		}
		if at, ok := of["at"].(string); ok {
			of["at"] = addressNow(at)
		}
		for _, each := range of {
			rename(each)
		}
	}
}

// addressNow is the address of a parameter that had another one up to schema 8.
func addressNow(at string) string {
	if rest, ok := strings.CutPrefix(at, "steps/"); ok {
		return "effects/" + rest
	}
	return strings.Replace(at, "/steps/", "/effects/", 1)
}

// UpgradeSaved brings what was saved of a document of a schema (layers, voices, a chain, as
// JSON) up to Schema; 0 is any before 9. What is newer is refused.
func UpgradeSaved(data []byte, schema int) ([]byte, error) {
	if schema > Schema {
		return nil, fmt.Errorf("saved by a newer version of Jubrak (schema %d, this one reads up to %d)", schema, Schema)
	}
	if schema >= 9 {
		return data, nil
	}
	var of any
	reader := json.NewDecoder(bytes.NewReader(data))
	reader.UseNumber()
	if err := reader.Decode(&of); err != nil {
		return nil, err
	}
	rename(of)
	return json.Marshal(of)
}
