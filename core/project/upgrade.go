package project

import (
	"bytes"
	"encoding/json"
	"fmt"
)

// object is a JSON object of an older document.
type object = map[string]any

// upgrades turn a document of a schema into one of the next.
var upgrades = map[int]func(object) error{
	1: layersInVoices,
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

func drop(o object, fields ...string) {
	for _, f := range fields {
		delete(o, f)
	}
}
