package service

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"jubrak/app/store"
	"jubrak/core/engine"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/measure"
	"jubrak/core/preset"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// Kinds of things in the library.
const (
	librarySound = "sound"
	libraryKit   = "kit"
	libraryCurve = "curve"
)

// LibrarySound is a sound of the library.
type LibrarySound struct {
	ID     string        `json:"id"`
	Name   string        `json:"name"`
	Family sound.Family  `json:"family"`
	Tags   []string      `json:"tags"`
	Layers []sound.Layer `json:"layers"`
	Facts  preset.Facts  `json:"facts"`
	// Own reports that the user saved it.
	Own bool `json:"own"`
}

// LibraryKit is a kit of the library.
type LibraryKit struct {
	ID     string        `json:"id"`
	Name   string        `json:"name"`
	Tags   []string      `json:"tags"`
	Voices []sound.Voice `json:"voices"`
	Own    bool          `json:"own"`
}

// LibraryCurve is a curve of the library.
type LibraryCurve struct {
	ID    string      `json:"id"`
	Curve sound.Curve `json:"curve"`
	Own   bool        `json:"own"`
}

// Library is the library of sounds: those that the user saved, then those that ship.
type Library struct {
	Sounds []LibrarySound `json:"sounds"`
	Kits   []LibraryKit   `json:"kits"`
	Curves []LibraryCurve `json:"curves"`
}

// curves that ship, by what they are for.
var curves = []LibraryCurve{
	shipped("fall", "Quick fall", sound.MS, -1, 0, 0, 1, 0.6, 120, 0, 0),
	shipped("spike", "Double spike", sound.MS, -1, 0, 0, 1, 0, 5, 0.3, 0, 11, 0.8, 0.3, 60, 0, 0),
	shipped("swell", "Swell", sound.MS, -1, 0, 0, 0, -0.5, 180, 1, 0.4, 420, 0, 0),
	shipped("sixteenths", "Sixteenths", sound.Beats, 0, 4, 0, 0.3, 0.5, 0.05, 1, 0.4, 0.25, 0.3, 0),
	shipped("quarter", "Quarter, ducked", sound.Beats, -1, 0, 0, 0, -0.4, 0.75, 1, 0, 1, 1, 0),
	shipped("claps", "Uneven claps", sound.MS, -1, 0, 0, 1, 0.7, 8, 0.35, -0.4, 10, 1, 0.7, 21, 0.35, -0.4, 23, 1, 0.4, 200, 0, 0),
}

func shipped(id, name string, unit sound.Unit, round int, lasts float64, points ...float64) LibraryCurve {
	c := sound.Curve{ID: id, Name: name, Unit: unit, Round: round, Lasts: lasts}
	for i := 0; i < len(points); i += 3 {
		c.Points = append(c.Points, sound.CurvePoint{At: points[i], Value: points[i+1], Bend: points[i+2]})
	}
	return LibraryCurve{ID: id, Curve: c}
}

// Library lists the library.
func (s *Service) Library() (*Library, error) {
	out := &Library{Sounds: []LibrarySound{}, Kits: []LibraryKit{}, Curves: []LibraryCurve{}}
	if err := own(s.Store, librarySound, &out.Sounds); err != nil {
		return nil, err
	}
	if err := own(s.Store, libraryKit, &out.Kits); err != nil {
		return nil, err
	}
	if err := own(s.Store, libraryCurve, &out.Curves); err != nil {
		return nil, err
	}
	for _, of := range preset.Sounds() {
		facts, _ := preset.Known(of.ID)
		out.Sounds = append(out.Sounds, LibrarySound{ID: of.ID, Name: of.Name, Family: of.Family, Tags: of.Tags, Layers: of.Layers, Facts: facts})
	}
	for _, k := range preset.Kits() {
		out.Kits = append(out.Kits, LibraryKit{ID: k.ID, Name: k.Name, Tags: k.Tags, Voices: k.Voices})
	}
	out.Curves = append(out.Curves, curves...)
	return out, nil
}

// own reads the saved items of a kind; what cannot be read is left out.
func own[T any](st *store.Store, kind string, to *[]T) error {
	items, err := st.Items(kind)
	for _, i := range items {
		var v T
		data, bad := project.UpgradeSaved(i.Data, i.Schema)
		if bad == nil && json.Unmarshal(data, &v) == nil {
			*to = append(*to, v)
		}
	}
	return err
}

func (s *Service) putItem(id, kind string, v any) error {
	data, err := json.Marshal(v)
	if err != nil {
		return err
	}
	return s.Store.PutItem(id, kind, project.Schema, data)
}

// named checks the name of something to be saved.
func named(name string) (string, error) {
	name = strings.TrimSpace(name)
	if name == "" || len([]rune(name)) > sound.MaxName {
		return "", &Refusal{Code: "invalid", Message: fmt.Sprintf("A name has 1 to %d characters.", sound.MaxName)}
	}
	return name, nil
}

// SaveSound keeps a voice's sound in the library. Layers, where they are given, are
// kept in place of the voice's.
func (s *Service) SaveSound(id, voice, name string, tags []string, layers []sound.Layer) (*LibrarySound, error) {
	name, err := named(name)
	if err != nil {
		return nil, err
	}
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	v := st.Document.Kit.Voice(voice)
	if v == nil {
		return nil, store.ErrNotFound
	}
	of := *v
	if len(layers) > 0 {
		of.Layers = layers
	}
	if err := (&sound.Kit{Voices: []sound.Voice{of}}).Validate(); err != nil {
		return nil, &Refusal{Code: "invalid", Message: Sentence(err)}
	}
	out := &LibrarySound{ID: NewID(), Name: name, Family: of.Family, Tags: append([]string{}, tags...), Layers: of.Layers, Own: true}
	out.Facts = preset.Measure(&of, s.samples(&st.Document))
	return out, s.putItem(out.ID, librarySound, out)
}

// SaveKit keeps a project's kit in the library.
func (s *Service) SaveKit(id, name string) (*LibraryKit, error) {
	name, err := named(name)
	if err != nil {
		return nil, err
	}
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	out := &LibraryKit{ID: NewID(), Name: name, Tags: []string{}, Voices: st.Document.Kit.Voices, Own: true}
	return out, s.putItem(out.ID, libraryKit, out)
}

// SaveCurve keeps a curve in the library.
func (s *Service) SaveCurve(c sound.Curve) (*LibraryCurve, error) {
	if err := c.Validate(); err != nil {
		return nil, &Refusal{Code: "invalid", Message: Sentence(err)}
	}
	out := &LibraryCurve{ID: NewID(), Curve: c, Own: true}
	return out, s.putItem(out.ID, libraryCurve, out)
}

// Attempt is a state of a voice's sound that was kept to be heard against others.
type Attempt struct {
	ID     string        `json:"id"`
	Name   string        `json:"name"`
	Layers []sound.Layer `json:"layers"`
	// Loudness is that of its loudest 100 ms, LUFS.
	Loudness float64 `json:"lufs"`
}

// Attempts are those of a voice, the oldest first, and how loud it is now.
type Attempts struct {
	Attempts []Attempt `json:"attempts"`
	Now      float64   `json:"now_lufs"`
}

func attemptsOf(id, voice string) string { return "attempt/" + id + "/" + voice }

// Attempts lists the kept states of a voice's sound.
func (s *Service) Attempts(id, voice string) (*Attempts, error) {
	v, samples, stroke, err := s.voiceOf(id, voice)
	if err != nil {
		return nil, err
	}
	out := &Attempts{Attempts: []Attempt{}, Now: loudnessOf(v, samples, stroke)}
	err = own(s.Store, attemptsOf(id, voice), &out.Attempts)
	slices.Reverse(out.Attempts)
	return out, err
}

// KeepAttempt keeps a voice's sound as it is now.
func (s *Service) KeepAttempt(id, voice, name string) (*Attempts, error) {
	v, samples, stroke, err := s.voiceOf(id, voice)
	if err != nil {
		return nil, err
	}
	have, err := s.Attempts(id, voice)
	if err != nil {
		return nil, err
	}
	if strings.TrimSpace(name) == "" {
		name = fmt.Sprintf("Attempt %d", len(have.Attempts)+1)
	}
	a := Attempt{ID: NewID(), Name: strings.TrimSpace(name), Layers: v.Layers, Loudness: loudnessOf(v, samples, stroke)}
	if err := s.putItem(a.ID, attemptsOf(id, voice), a); err != nil {
		return nil, err
	}
	return s.Attempts(id, voice)
}

func (s *Service) voiceOf(id, voice string) (*sound.Voice, sound.Samples, synth.Stroke, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, nil, synth.Stroke{}, err
	}
	v := st.Document.Kit.Voice(voice)
	if v == nil {
		return nil, nil, synth.Stroke{}, store.ErrNotFound
	}
	return v, s.samples(&st.Document), st.Document.Stroke(), nil
}

func loudnessOf(v *sound.Voice, samples sound.Samples, stroke synth.Stroke) float64 {
	return math.Round(10*measure.Loudest(synth.Shot(v, samples, engine.Rate, stroke, 1500), 0.1)) / 10
}

// Loudness is how loud a voice strikes now, and how loud it would with other layers:
// its loudest 100 ms, LUFS.
type Loudness struct {
	Now  float64 `json:"now_lufs"`
	Then float64 `json:"then_lufs"`
}

// LoudnessWith measures a voice as it is and with other layers.
func (s *Service) LoudnessWith(id, voice string, layers []sound.Layer) (*Loudness, error) {
	v, samples, stroke, err := s.voiceOf(id, voice)
	if err != nil {
		return nil, err
	}
	with := *v
	with.Layers = layers
	if err := (&sound.Kit{Voices: []sound.Voice{with}}).Validate(); err != nil {
		return nil, &Refusal{Code: "invalid", Message: Sentence(err)}
	}
	return &Loudness{loudnessOf(v, samples, stroke), loudnessOf(&with, samples, stroke)}, nil
}

// Near returns how unlike each sound of the library is to a voice's, dB, by id: of those
// that differ from it as asked. toTarget is how unlike they are to what the voice is built
// towards, a drum of a reference by itself for instance.
func (s *Service) Near(ctx context.Context, id, voice string, than preset.Than, toTarget bool) (map[string]float64, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	v := st.Document.Kit.Voice(voice)
	if v == nil {
		return nil, store.ErrNotFound
	}
	shot := export.Shot(v, s.samples(&st.Document), st.Document.Stroke())
	print, m := measure.PrintOf(shot), measure.Measure(shot)
	if toTarget {
		t, _, err := s.fitTarget(ctx, &st.Document, v, &FitAsk{})
		if err != nil {
			return nil, err
		}
		print = measure.PrintOf(t.Sound)
	}
	library, err := s.Library()
	if err != nil {
		return nil, err
	}
	out := map[string]float64{}
	for i := range library.Sounds {
		if !than.Holds(library.Sounds[i].Facts, m.Fundamental, m.Decay, m.Centroid) {
			continue
		}
		out[library.Sounds[i].ID] = math.Round(10*print.Distance(library.Sounds[i].Facts.Print)) / 10
	}
	return out, nil
}

// VaryAsk asks for variants of a voice's layer.
type VaryAsk struct {
	Layer string `json:"layer"`
	Count int    `json:"count"`
	// Percent is how far they go.
	Percent float64 `json:"percent"`
	// Groups are of "pitch", "time", "colour", "level".
	Groups []string `json:"groups"`
	Seed   int64    `json:"seed"`
}

// SoundVariant is a recipe like another one.
type SoundVariant struct {
	Recipe sound.Recipe `json:"recipe"`
	Facts  preset.Facts `json:"facts"`
	// Distance is how unlike the voice sounds with it, dB.
	Distance float64 `json:"distance_db"`
}

// MostVariants is how many are made at a time.
const MostVariants = 48

// Vary makes variants of a layer's recipe, each measured with the voice's other
// layers.
func (s *Service) Vary(id, voice string, ask VaryAsk) ([]SoundVariant, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	v := st.Document.Kit.Voice(voice)
	if v == nil || v.Layer(ask.Layer) == nil || v.Layer(ask.Layer).Recipe == nil {
		return nil, store.ErrNotFound
	}
	if ask.Count < 1 || ask.Count > MostVariants || !(ask.Percent >= 0 && ask.Percent <= 100) {
		return nil, &Refusal{Code: "invalid", Message: fmt.Sprintf("Ask for 1 to %d variants, 0 to 100 %% away.", MostVariants)}
	}
	samples := s.samples(&st.Document)
	was := measure.PrintOf(export.Shot(v, samples, st.Document.Stroke()))
	out := make([]SoundVariant, 0, ask.Count)
	for _, r := range preset.Vary(*v.Layer(ask.Layer).Recipe, ask.Count, ask.Percent, ask.Groups, uint64(ask.Seed)) {
		with := *v
		with.Layers = slices.Clone(v.Layers)
		with.Layer(ask.Layer).Recipe = &r
		facts := preset.Measure(&with, samples)
		out = append(out, SoundVariant{Recipe: r, Facts: facts, Distance: math.Round(10*was.Distance(facts.Print)) / 10})
	}
	return out, nil
}

// Numbered asks for sounds as numbered files.
type Numbered struct {
	// Set is what the files are called; their numbers go on from the last of the set.
	Set   string `json:"set"`
	Layer string `json:"layer"`
	// Recipes are what the voice's layer is in each file; none means as it is.
	Recipes []sound.Recipe `json:"recipes"`
}

// WriteNumbered writes a voice with each of some recipes as numbered WAV files in a
// zip, and returns the numbers.
func (s *Service) WriteNumbered(w io.Writer, id, voice string, ask Numbered) (first, last int, err error) {
	name, err := named(ask.Set)
	if err != nil {
		return 0, 0, err
	}
	st, err := s.Open(id)
	if err != nil {
		return 0, 0, err
	}
	v := st.Document.Kit.Voice(voice)
	if v == nil || len(ask.Recipes) == 0 || v.Layer(ask.Layer) == nil {
		return 0, 0, store.ErrNotFound
	}
	setting := "numbers/" + strings.ToLower(name)
	data, err := s.Store.Setting(setting)
	if err != nil {
		return 0, 0, err
	}
	last, _ = strconv.Atoi(string(data))
	first = last + 1
	samples := s.samples(&st.Document)
	z := zip.NewWriter(w)
	for i := range ask.Recipes {
		if err := ask.Recipes[i].Validate(); err != nil {
			return 0, 0, &Refusal{Code: "invalid", Message: Sentence(err)}
		}
		with := *v
		with.Layers = slices.Clone(v.Layers)
		with.Layer(ask.Layer).Recipe = &ask.Recipes[i]
		b := export.Shot(&with, samples, st.Document.Stroke())
		var wav bytes.Buffer
		if err := format.WriteWAV(&wav, b, format.WAV24); err != nil {
			return 0, 0, err
		}
		last++
		f, err := z.Create(fmt.Sprintf("%s-%03d.wav", export.FileName(name), last))
		if err == nil {
			_, err = f.Write(wav.Bytes())
		}
		if err != nil {
			return 0, 0, err
		}
	}
	if err := z.Close(); err != nil {
		return 0, 0, err
	}
	return first, last, s.Store.PutSetting(setting, []byte(strconv.Itoa(last)))
}
