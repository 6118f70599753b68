package workshop

import (
	"bytes"
	"context"
	"fmt"
	"log/slog"
	"maps"
	"math"

	"jubrak/core/audio"
	"jubrak/core/format"
	"jubrak/core/project"
	"jubrak/core/slice"
	"jubrak/core/sound"
	"jubrak/core/tone"
)

// NewLayer asks for a layer made of a slice of a reference.
type NewLayer struct {
	Base  int         `json:"base"`
	Voice string      `json:"voice"`
	Slice slice.Slice `json:"slice"`
}

// LayerFromSlice cuts a slice of a reference and strikes it with a voice.
func (s *Workshop) LayerFromSlice(ctx context.Context, id, refID string, n NewLayer) (*State, error) {
	ref, _, b, err := s.recorded(ctx, id, refID)
	if err != nil {
		return nil, err
	}
	if !(n.Slice.From >= 0 && n.Slice.To > n.Slice.From && n.Slice.To <= b.Seconds()+0.01) {
		return nil, &Refusal{Code: "edit_refused", Message: "The slice has no place in the recording."}
	}
	name := fmt.Sprintf("%s, %.2f s", ref.Name, n.Slice.From)
	return s.addLayer(id, n.Base, n.Voice, name, slice.Cut(b, n.Slice))
}

// LayerFromFile strikes a recorded one-shot with a voice.
func (s *Workshop) LayerFromFile(id string, base int, voice, fileName string, data []byte) (*State, error) {
	if format.Sniff(data) == format.MIDI {
		return nil, &Refusal{Code: "edit_refused", Message: "A layer is a recorded sound; this is a MIDI file."}
	}
	b, err := format.Decode(data)
	if err != nil {
		return nil, err
	}
	if b.Seconds() > sound.MaxLayerSeconds {
		return nil, &Refusal{Code: "edit_refused", Message: fmt.Sprintf("A layer lasts at most %d s; this file lasts %.0f s. Bring it as a reference and cut a slice of it.", sound.MaxLayerSeconds, b.Seconds())}
	}
	return s.addLayer(id, base, voice, displayName(fileName), b)
}

func (s *Workshop) addLayer(id string, base int, voice, name string, b *audio.Buffer) (*State, error) {
	mono := &audio.Buffer{Rate: b.Rate, Channels: [][]float32{oneSide(b)}}
	if mono.Peak() == 0 {
		return nil, &Refusal{Code: "edit_refused", Message: "This sound is silent."}
	}
	var wav bytes.Buffer
	if err := format.WriteWAV(&wav, mono, format.WAV32F); err != nil {
		return nil, err
	}
	defer s.naming()()
	blob, err := s.Store.PutBlob(wav.Bytes())
	if err != nil {
		return nil, err
	}
	l := sound.NewLayer(NewID(), name, blob)
	return s.Edit(id, base, []project.Edit{{Op: "layer.add", Voice: voice, Layer: &l}}, "")
}

// oneSide is the mean of the channels, or the first where they cancel.
func oneSide(b *audio.Buffer) []float32 {
	x := make([]float32, b.Frames())
	var sum float64
	for i, v := range b.Mono() {
		x[i] = float32(v)
		sum += v * v
	}
	if rms := math.Sqrt(sum / math.Max(float64(len(x)), 1)); len(b.Channels) > 1 && rms < 0.2*tone.RMS(b) {
		return b.Channels[0]
	}
	return x
}

// Samples are the sounds of a project's layers, read by the names of their
// blobs. One that is missing is left out, and its layer is silent.
func Samples(d *project.Document, read func(blob string) ([]byte, error)) sound.Samples {
	return samplesOf(d, func(blob string) *sound.Sample {
		data, err := read(blob)
		if err != nil {
			slog.Warn("a layer has lost its sound", "blob", blob, "error", err)
			return nil
		}
		b, err := format.Decode(data)
		if err != nil {
			slog.Warn("a layer's sound cannot be read", "blob", blob, "error", err)
			return nil
		}
		return &sound.Sample{Rate: b.Rate, X: b.Channels[0]}
	})
}

func samplesOf(d *project.Document, sample func(blob string) *sound.Sample) sound.Samples {
	out := sound.Samples{}
	for i := range d.Kit.Voices {
		for _, l := range d.Kit.Voices[i].Layers {
			if _, ok := out[l.Blob]; !ok {
				out[l.Blob] = sample(l.Blob)
			}
		}
	}
	return out
}

// samples are the sounds of a project's layers, each decoded once.
func (s *Workshop) samples(d *project.Document) sound.Samples {
	s.mu.Lock()
	known := make(sound.Samples, len(s.layer))
	maps.Copy(known, s.layer)
	s.mu.Unlock()
	missing := false
	out := samplesOf(d, func(blob string) *sound.Sample {
		one, ok := known[blob]
		missing = missing || !ok
		return one
	})
	if !missing {
		return out
	}
	out = Samples(d, s.Store.Blob)
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.layer) > 256 {
		clear(s.layer)
	}
	maps.Copy(s.layer, out)
	return out
}

// LayerSound is a layer drawn.
type LayerSound struct {
	ID   string  `json:"id"`
	Span float64 `json:"span_ms"`
	Wave Peaks   `json:"wave"`
}

func layerSounds(v *sound.Voice, samples sound.Samples) []LayerSound {
	out := []LayerSound{}
	for _, l := range v.Layers {
		if one := samples[l.Blob]; one != nil {
			b := &audio.Buffer{Rate: one.Rate, Channels: [][]float32{one.X}}
			out = append(out, LayerSound{l.ID, b.Seconds() * 1000, *drawPeaks(b, &Peaks{To: b.Seconds(), Points: [][2]float64{}}, 200)})
		}
	}
	return out
}
