package sound

import "fmt"

// Layer is a recorded sound that a voice strikes together with its
// synthesized drum: a slice of a reference, or a one-shot of one's own.
type Layer struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Blob names the sound, a file kept beside the project.
	Blob  string  `json:"blob"`
	Level float64 `json:"level_db"`
	// Pitch in semitones changes the speed of reading.
	Pitch float64 `json:"pitch_st"`
	// Delay moves the layer later against the other parts, ms; a negative one
	// leaves out as much of its start.
	Delay float64 `json:"delay_ms"`
	// Decay lets the layer fall by 60 dB in so many ms; 0 leaves it as it is.
	Decay float64 `json:"decay_ms"`
	// LowCut and HighCut are corners in Hz; at their ends they do nothing.
	LowCut  float64 `json:"low_cut_hz"`
	HighCut float64 `json:"high_cut_hz"`
	// Flip turns the polarity over.
	Flip bool `json:"flip"`
	Mute bool `json:"mute"`
}

// MaxLayers is the most layers of a voice, MaxLayerSeconds the longest sound.
const (
	MaxLayers       = 4
	MaxLayerSeconds = 12
)

// NewLayer is a layer as it comes: the sound itself.
func NewLayer(id, name, blob string) Layer {
	return Layer{ID: id, Name: name, Blob: blob, LowCut: 20, HighCut: 20000}
}

// LayerParam is a number of a layer that the user may set.
type LayerParam struct {
	ID    string  `json:"id"`
	Name  string  `json:"name"`
	Unit  string  `json:"unit"`
	Min   float64 `json:"min"`
	Max   float64 `json:"max"`
	Reset float64 `json:"reset"`
	field func(*Layer) *float64
}

// LayerParams lists what may be set, in order of the screen.
var LayerParams = []LayerParam{
	{"level_db", "Level", "dB", -48, 12, 0, func(l *Layer) *float64 { return &l.Level }},
	{"pitch_st", "Pitch", "st", -24, 24, 0, func(l *Layer) *float64 { return &l.Pitch }},
	{"delay_ms", "Delay", "ms", -50, 100, 0, func(l *Layer) *float64 { return &l.Delay }},
	{"decay_ms", "Decay", "ms", 0, 4000, 0, func(l *Layer) *float64 { return &l.Decay }},
	{"low_cut_hz", "Low cut", "Hz", 20, 8000, 20, func(l *Layer) *float64 { return &l.LowCut }},
	{"high_cut_hz", "High cut", "Hz", 200, 20000, 20000, func(l *Layer) *float64 { return &l.HighCut }},
}

// Set changes a parameter by its id; values beyond its range stop at the end.
func (l *Layer) Set(param string, value float64) error {
	for _, p := range LayerParams {
		if p.ID == param {
			*p.field(l) = min(max(value, p.Min), p.Max)
			return nil
		}
	}
	return fmt.Errorf("a layer has no parameter %q", param)
}

// Validate checks that the layer names a sound and that its numbers are
// within their ranges.
func (l *Layer) Validate() error {
	if l.ID == "" || l.Blob == "" {
		return fmt.Errorf("layer %q has lost its sound", l.Name)
	}
	for _, p := range LayerParams {
		if v := *p.field(l); !(v >= p.Min && v <= p.Max) {
			return fmt.Errorf("layer %q: %s must lie between %g and %g %s", l.Name, p.Name, p.Min, p.Max, p.Unit)
		}
	}
	return nil
}

// Sample is the sound of a layer, mono.
type Sample struct {
	Rate int
	X    []float32
}

// Samples are the sounds of layers by blob. A layer whose sound is not there
// is silent.
type Samples map[string]*Sample
