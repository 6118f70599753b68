package service

import (
	"bytes"
	"context"
	"fmt"
	"log/slog"
	"maps"
	"math"
	"slices"
	"strings"

	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/measure"
	"jubrak/core/project"
	"jubrak/core/slice"
	"jubrak/core/sound"
	"jubrak/core/synth"
	"jubrak/core/transcribe"
)

// NewLayer asks for a layer made of a slice of a reference.
type NewLayer struct {
	Base  int         `json:"base"`
	Voice string      `json:"voice"`
	Slice slice.Slice `json:"slice"`
}

// LayerFromSlice cuts a slice of a reference and strikes it with a voice.
func (s *Service) LayerFromSlice(ctx context.Context, id, refID string, n NewLayer) (*State, error) {
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
func (s *Service) LayerFromFile(id string, base int, voice, fileName string, data []byte) (*State, error) {
	if format.Sniff(data) == format.MIDI {
		return nil, &Refusal{Code: "edit_refused", Message: "A one-shot is a recorded sound; this is a MIDI file."}
	}
	b, err := format.Decode(data)
	if err != nil {
		return nil, err
	}
	if b.Seconds() > sound.MaxLayerSeconds {
		return nil, &Refusal{Code: "edit_refused", Message: fmt.Sprintf("A one-shot lasts at most %d s; this file lasts %.0f s. Bring it as a reference and cut a slice of it.", sound.MaxLayerSeconds, b.Seconds())}
	}
	return s.addLayer(id, base, voice, displayName(fileName), b)
}

// EffectRecording gives an effect of a row's chain a recording of the user's, such as an
// impulse response.
func (s *Service) EffectRecording(id string, base int, row, effectID, fileName string, data []byte) (*State, error) {
	if format.Sniff(data) == format.MIDI {
		return nil, &Refusal{Code: "edit_refused", Message: "An impulse response is a recorded sound; this is a MIDI file. Nothing was changed."}
	}
	b, err := format.Decode(data)
	if err != nil {
		return nil, err
	}
	if b.Seconds() > sound.MaxLayerSeconds {
		return nil, &Refusal{Code: "edit_refused", Message: fmt.Sprintf("An impulse response lasts at most %d s; this file lasts %.0f s. Nothing was changed; cut it shorter.", sound.MaxLayerSeconds, b.Seconds())}
	}
	blob, release, err := s.keepSound(b)
	if err != nil {
		return nil, err
	}
	defer release()
	return s.Edit(id, base, project.Edits{project.SetEffectRecording{Chain: project.InRow(row), Effect: effectID, Recording: &effect.Recording{Blob: blob, Name: displayName(fileName)}}}, "")
}

// Borrowed asks for the start of another voice's sound as a layer's attack.
type Borrowed struct {
	Base  int    `json:"base"`
	Layer string `json:"layer"`
	// From is the voice whose sound it is.
	From string `json:"from"`
}

// borrowedMS is how much of a sound is kept as an attack: the most that is heard of
// one.
const borrowedMS = 200

// BorrowAttack renders the start of a voice's sound and lets a layer begin with it.
func (s *Service) BorrowAttack(id, voice string, b Borrowed) (*State, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	from := st.Document.Kit.Voice(b.From)
	if from == nil {
		return nil, store.ErrNotFound
	}
	// As loud as it is at full velocity: the layer that begins with it follows touch itself.
	loud := *from
	loud.Touch, loud.TouchBend = 0, 0
	shot := synth.Shot(&loud, s.samples(&st.Document), engine.Rate, st.Document.Stroke(), borrowedMS)
	blob, release, err := s.keepSound(shot)
	if err != nil {
		return nil, err
	}
	defer release()
	return s.Edit(id, b.Base, project.Edits{project.SetAttack{Voice: voice, Layer: b.Layer, Blob: blob}}, "")
}

// Tidy asks for a recording to be trimmed and brought to a level.
type Tidy struct {
	Base  int    `json:"base"`
	Layer string `json:"layer"`
}

const (
	tidyBefore = 2    // ms kept before the onset
	tidyFloor  = 60   // dB below the peak at which the end is cut
	tidyPeak   = -1.0 // dBFS to which the peak is brought
)

// TidyLayer trims the silence before and after a recording, brings its peak to just
// below full scale and notes its pitch where it has one. It is one step that can be
// undone; the sound itself stays as it is.
func (s *Service) TidyLayer(id, voice string, ask Tidy) (*State, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	v := st.Document.Kit.Voice(voice)
	if v == nil || v.Layer(ask.Layer) == nil || v.Layer(ask.Layer).Recording == nil {
		return nil, store.ErrNotFound
	}
	one := s.samples(&st.Document)[v.Layer(ask.Layer).Blob()]
	if one == nil {
		return nil, &Refusal{Code: "edit_refused", Message: "The sound of this layer is missing."}
	}
	b := &audio.Buffer{Rate: one.Rate, Channels: one.X}
	x, peak := b.Mono(), b.Peak()
	if peak == 0 {
		return nil, &Refusal{Code: "edit_refused", Message: "This sound is silent."}
	}
	perMS := float64(b.Rate) / 1000
	from := math.Max(float64(measure.Onset(x, b.Rate))/perMS-tidyBefore, 0)
	limit, end := peak*audio.Gain(-tidyFloor), len(x)
	for end > 1 && math.Abs(x[end-1]) < limit {
		end--
	}
	length := math.Ceil(float64(end)/perMS - from + 5)
	at := func(number string, value float64) project.SetNumber {
		return project.SetNumber{At: project.LayerAddress(voice, ask.Layer, "recording."+number), Value: value}
	}
	root := 0.0
	if m := measure.Measure(b); m.Fundamental != nil {
		root = *m.Fundamental
	}
	return s.Edit(id, ask.Base, project.Edits{
		at("skip_ms", from), at("length_ms", length), at("fade_out_ms", 5), at("gain_db", tidyPeak-audio.DB(peak)), at("root_hz", root),
	}, "")
}

// SliceLayer asks for a recorded loop to be cut into its hits.
type SliceLayer struct {
	Base  int    `json:"base"`
	Layer string `json:"layer"`
	// Place writes all its hits on the lanes of the new voices: "pattern" on the grid,
	// "timing" as far from it as they fell; empty leaves the lanes empty.
	Place Placing `json:"place,omitempty"`
}

// Placing says whether and how the hits of a loop that is cut come onto lanes.
type Placing string

// The ways of placing.
const (
	PlaceNone    Placing = ""
	PlacePattern Placing = "pattern"
	PlaceTiming  Placing = "timing"
)

// slicesInTurn is how many hits of a family a voice gets, to be struck in turns.
const slicesInTurn = sound.MaxLayers

// SliceLayer listens to the recording of a layer, as it is shaped, and adds a voice for
// each family heard in it, with its cleanest hits as layers that take turns. The layer
// itself stays. It is one change that can be undone.
func (s *Service) SliceLayer(ctx context.Context, id, voice string, ask SliceLayer) (*State, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	v := st.Document.Kit.Voice(voice)
	if v == nil || v.Layer(ask.Layer) == nil || v.Layer(ask.Layer).Recording == nil {
		return nil, store.ErrNotFound
	}
	l := v.Layer(ask.Layer)
	one := s.samples(&st.Document)[l.Blob()]
	if one == nil {
		return nil, &Refusal{Code: "edit_refused", Message: "The sound of this layer is missing."}
	}
	b := &audio.Buffer{Rate: one.Rate, Channels: synth.Shaped(l.Recording, one)}
	edits, release, err := s.hitsOf(ctx, &st.Document, b, "", ask.Place)
	defer release()
	if err != nil {
		return nil, err
	}
	return s.Edit(id, ask.Base, edits, "")
}

// hitsOf listens to a loop and gives a voice for each family heard in it, its cleanest
// hits in turns, and puts all hits on their lanes where that is asked for; the sounds stay
// at least until they are released. The voices are called after a title where it is not
// empty.
func (s *Service) hitsOf(ctx context.Context, d *project.Document, b *audio.Buffer, title string, place Placing) (edits project.Edits, release func(), err error) {
	var releases []func()
	release = func() {
		for _, r := range releases {
			r()
		}
	}
	raw, err := transcribe.Analyze(ctx, b, func(string, float64) {})
	if err != nil {
		return nil, release, err
	}
	if place != PlaceNone && place != PlacePattern && place != PlaceTiming {
		return nil, release, &Refusal{Code: "invalid", Message: "Hits are placed as a pattern or with their timing."}
	}
	heard := transcribe.Finish(raw, nil)
	found := slice.Find(heard, slicesInTurn)
	var families []sound.Family
	for _, f := range sound.Families {
		var layers []sound.Layer
		for i, one := range found[f] {
			blob, free, err := s.keepSound(slice.Cut(b, one))
			if err != nil {
				continue // silence: nothing to strike
			}
			releases = append(releases, free)
			hit := sound.Recorded(NewID(), fmt.Sprintf("%s, hit %d", f.Label(), i+1), blob)
			hit.Turn = sound.InTurn
			layers = append(layers, hit)
		}
		if len(layers) > 0 {
			name := ""
			if title != "" {
				name = strings.TrimSpace(title + " " + strings.ToLower(f.Label()))
			}
			edits = append(edits, project.AddVoice{Family: f, Name: name, Layers: layers})
			families = append(families, f)
		}
	}
	if len(edits) < 1 || len(edits) == 1 && len(edits[0].(project.AddVoice).Layers) < 2 {
		return nil, release, &Refusal{Code: "edit_refused", Message: "Only one hit is heard in this recording: there is nothing to cut."}
	}
	if place == PlaceNone {
		return edits, release, nil
	}
	grown, _, err := d.Apply(edits, nil)
	if err != nil {
		return nil, release, &Refusal{Code: "edit_refused", Message: Sentence(err)}
	}
	voices := map[sound.Family]string{}
	for i, v := range grown.Kit.Voices[len(d.Kit.Voices):] {
		voices[families[i]] = v.ID
	}
	more, _ := grown.HitsHeard(heard, voices, place == PlaceTiming)
	return append(edits, more...), release, nil
}

// keepSound stores a sound as a blob that stays at least until it is released.
func (s *Service) keepSound(b *audio.Buffer) (blob string, release func(), err error) {
	kept := &audio.Buffer{Rate: b.Rate, Channels: b.Channels[:min(len(b.Channels), 2)]}
	if len(kept.Channels) == 2 && slices.Equal(kept.Channels[0], kept.Channels[1]) {
		kept.Channels = kept.Channels[:1]
	}
	if kept.Peak() == 0 {
		return "", nil, &Refusal{Code: "edit_refused", Message: "This sound is silent."}
	}
	var wav bytes.Buffer
	if err := format.WriteWAV(&wav, kept, format.WAV32F); err != nil {
		return "", nil, err
	}
	release = s.naming()
	blob, err = s.Store.PutBlob(wav.Bytes())
	if err != nil {
		release()
		return "", nil, err
	}
	return blob, release, nil
}

func (s *Service) addLayer(id string, base int, voice, name string, b *audio.Buffer) (*State, error) {
	blob, release, err := s.keepSound(b)
	if err != nil {
		return nil, err
	}
	defer release()
	l := sound.Recorded(NewID(), name, blob)
	return s.Edit(id, base, project.Edits{project.AddLayer{Voice: voice, Layer: l}}, "")
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
		b.Channels = b.Channels[:min(len(b.Channels), 2)]
		b = b.Resample(engine.Rate)
		return &sound.Sample{Rate: b.Rate, X: b.Channels}
	})
}

func samplesOf(d *project.Document, sample func(blob string) *sound.Sample) sound.Samples {
	out := sound.Samples{}
	for i := range d.Kit.Voices {
		for _, l := range d.Kit.Voices[i].Layers {
			for _, blob := range l.Blobs() {
				if _, ok := out[blob]; !ok {
					out[blob] = sample(blob)
				}
			}
		}
	}
	for _, blob := range d.EffectBlobs() {
		if _, ok := out[blob]; !ok {
			out[blob] = sample(blob)
		}
	}
	return out
}

// samples are the sounds of a project's layers, each decoded once.
func (s *Service) samples(d *project.Document) sound.Samples {
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

// LayerSound is a layer drawn: of a recording its wave, of a recipe its curves.
type LayerSound struct {
	ID   string  `json:"id"`
	Span float64 `json:"span_ms"`
	Wave *Peaks  `json:"wave"`
	// Open is the wave of a gated recording before its gate, else null.
	Open   *Peaks        `json:"open"`
	Curves *synth.Curves `json:"curves"`
}

// layerSounds draws the layers of a voice whose sounds are there. Curves run
// over span ms.
func layerSounds(v *sound.Voice, samples sound.Samples, s synth.Stroke, span float64) []LayerSound {
	out := []LayerSound{}
	for i := range v.Layers {
		l := &v.Layers[i]
		if l.Recipe != nil {
			curves := synth.CurvesOf(l.Recipe, s, span, 240)
			out = append(out, LayerSound{ID: l.ID, Span: span, Curves: &curves})
		} else if one := samples[l.Blob()]; one != nil {
			draw := func(r *sound.Recording) (*Peaks, float64) {
				b := &audio.Buffer{Rate: one.Rate, Channels: synth.Shaped(r, one)}
				return drawPeaks(b, &Peaks{To: b.Seconds(), Points: [][2]float64{}}, 240), b.Seconds() * 1000
			}
			drawn := LayerSound{ID: l.ID}
			drawn.Wave, drawn.Span = draw(l.Recording)
			if l.Recording.Gate {
				open := *l.Recording
				open.Gate = false
				drawn.Open, _ = draw(&open)
			}
			out = append(out, drawn)
		}
	}
	return out
}
