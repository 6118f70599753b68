package project

import (
	"fmt"
	"slices"
	"strings"

	"jubrak/core/arrange"
	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/param"
	"jubrak/core/sound"
)

// Every number of a document has an address:
//
//	tempo/bpm
//	groove/feel/swing_percent                     the feel
//	groove/feel/snare/lean_ms                     a voice's part of it
//	kick/level_db                                 a voice
//	kick/layers/drum/level_db                     a layer
//	kick/gate.hold_ms                             a voice's gate
//	kick/layers/drum/body.decay_ms                a recipe in it
//	kick/layers/drum/effects/drive1/amount_percent  an effect of the recipe
//	kick/layers/drum/attack.length_ms             a borrowed attack
//	kick/layers/wet/rumble.decay_ms               a rumble
//	kick/layers/l2/recording.skip_ms              a recording in it
//	kick/chain/eq1/band3.gain_db                  an effect of the voice's chain
//	kick/sends/room/level_db                      a send to a bus
//	bus:drums/level_db                            a bus
//	bus:drums/chain/comp1/ratio                   an effect of its chain
//	out/level_db, out/chain/clip1/gain_db         the output
//	backing/b1/level_db                           a backing of the arrangement, or its stand-in
//
// Ids stay when things are renamed.

// reserved are the first parts of addresses that no voice may have as its id.
var reserved = []string{"tempo", "groove", "bus", "out", "backing"}

// Number is a number of a document: what it is, what it is called in full, and
// its value.
type Number struct {
	param.Param
	// Of names what has the number, for people: "Kick, body".
	Of    string
	Value float64
	set   func(float64) error
}

// tempoParams is the table of a tempo map's numbers.
var tempoParams = param.Table[music.TempoMap]{
	param.Number(param.Param{ID: "bpm", Label: "Tempo", Unit: "BPM", Min: music.MinBPM, Max: music.MaxBPM, Default: 100, Scale: param.Linear}, func(m *music.TempoMap) *float64 { return &(*m)[0].BPM }),
}

// Tables are the parameters of everything that has numbers, in order of the
// screen, by what has them.
type Tables struct {
	Tempo     []param.Param `json:"tempo"`
	Feel      []param.Param `json:"feel"`
	VoiceFeel []param.Param `json:"voice_feel"`
	Hit       []param.Param `json:"hit"`
	Voice     []param.Param `json:"voice"`
	Layer     []param.Param `json:"layer"`
	Recipe    []param.Param `json:"recipe"`
	Recording []param.Param `json:"recording"`
	Attack    []param.Param `json:"attack"`
	Rumble    []param.Param `json:"rumble"`
	Gate      []param.Param `json:"gate"`
	Bus       []param.Param `json:"bus"`
	Send      []param.Param `json:"send"`
	Output    []param.Param `json:"output"`
	Backing   []param.Param `json:"backing"`
	StandIn   []param.Param `json:"stand_in"`
}

// AllTables are the tables of this program.
func AllTables() Tables {
	return Tables{
		tempoParams.Params(), groove.FeelParams.Params(), groove.VoiceFeelParams.Params(), groove.HitParams.Params(),
		sound.VoiceParams.Params(), sound.LayerParams.Params(), sound.Params.Params(), sound.RecordingParams.Params(),
		sound.AttackParams.Params(), sound.RumbleParams.Params(), sound.GateParams.Params(),
		mixer.BusParams.Params(), mixer.SendParams.Params(), mixer.OutputParams.Params(),
		arrange.BackingParams.Params(), arrange.StandInParams.Params(),
	}
}

// Number finds the number at an address.
func (d *Document) Number(address string) (*Number, error) { return d.number(address, false) }

// number is Number; with own, what holds the number is made d's own, a draft's,
// so that it may be set.
func (d *Document) number(address string, own bool) (*Number, error) {
	dir, id, ok := cutLast(address)
	part := strings.Split(dir, "/")
	var n *Number
	switch {
	case !ok:
	case dir == "tempo":
		n = numberOf(tempoParams, id, &d.Tempo, "Song")
		if n != nil {
			n.set = func(v float64) error { // a song that is given a tempo is steady
				v, err := tempoParams[0].Held(v)
				d.Tempo = music.Steady(v)
				return err
			}
		}
	case dir == "groove/feel":
		n = numberOf(groove.FeelParams, id, &d.Groove.Feel, "Feel")
	case len(part) == 3 && part[0] == "groove" && part[1] == "feel":
		n = d.voiceFeelNumber(part[2], id)
	case len(part) == 2 && part[0] == "backing":
		n = d.backingNumber(part[1], id)
	case dir == OutRow:
		n = numberOf(mixer.OutputParams, id, &d.Mix.Out, "Output")
	case len(part) == 1 && strings.HasPrefix(dir, busRow):
		if b := d.Mix.Bus(dir[len(busRow):]); b != nil {
			n = numberOf(mixer.BusParams, id, b, b.Name)
		}
	case len(part) == 3 && part[1] == "chain":
		n = d.chainNumber(part[0], part[2], id, own)
	case len(part) == 3 && part[1] == "sends":
		n = d.sendNumber(part[0], part[2], id, own)
	case len(part) == 1:
		if v := d.Kit.Voice(part[0]); v != nil {
			n = numberOf(sound.VoiceParams, id, v, v.Name)
			if n == nil && v.Gate != nil {
				if own {
					v.Gate = new(*v.Gate)
				}
				n = numberOf(sound.GateParams, id, v.Gate, v.Name+", gate")
			}
		}
	case len(part) == 3 && part[1] == "layers":
		n = d.layerNumber(part[0], part[2], id, own)
	case len(part) == 5 && part[1] == "layers" && part[3] == "effects":
		n = d.layerNumber(part[0], part[2], "effects/"+part[4]+"/"+id, own)
	}
	if n == nil {
		return nil, fmt.Errorf("there is no number at %q", address)
	}
	return n, nil
}

func cutLast(address string) (dir, id string, ok bool) {
	i := strings.LastIndexByte(address, '/')
	if i < 0 {
		return "", address, false
	}
	return address[:i], address[i+1:], true
}

func numberOf[T any](table param.Table[T], id string, of *T, name string) *Number {
	row := table.Find(id)
	if row == nil {
		return nil
	}
	return &Number{row.Param, name, row.Get(of), func(v float64) error { return row.Set(of, v) }}
}

func (d *Document) voiceFeelNumber(voice, id string) *Number {
	v := d.Kit.Voice(voice)
	if v == nil {
		return nil
	}
	feel := d.Groove.Feel.Voices[voice]
	n := numberOf(groove.VoiceFeelParams, id, &feel, v.Name)
	if n != nil {
		set := n.set
		n.set = func(x float64) error {
			err := set(x)
			d.Groove.Feel.Voices[voice] = feel
			return err
		}
	}
	return n
}

func (d *Document) layerNumber(voice, layer, id string, own bool) *Number {
	v := d.Kit.Voice(voice)
	if v == nil || v.Layer(layer) == nil {
		return nil
	}
	if own {
		ownLayer(v, layer)
	}
	l := v.Layer(layer)
	of := v.Name
	if len(v.Layers) > 1 {
		of += ", " + l.Name
	}
	found := l.Number(id)
	if found == nil {
		return nil
	}
	n := &Number{found.Param, of, found.Value, found.Set}
	if n.Part != "" && n.Part != "recording" {
		n.Of += ", " + partLabel(n.Part)
	}
	return n
}

// partLabel names a part of a layer for people.
func partLabel(part string) string {
	if k := effect.KindOf(part); k != nil {
		return lower(k.Label)
	}
	return part
}

// ownLayer makes a layer of a draft's voice its own, and so its voice's list.
func ownLayer(v *sound.Voice, id string) {
	v.Layers = slices.Clone(v.Layers)
	l := v.Layer(id)
	if l == nil {
		return
	}
	l.Own()
}

// LayerAddress is where the numbers of a layer are.
func LayerAddress(voice, layer, number string) string {
	return voice + "/layers/" + layer + "/" + number
}
