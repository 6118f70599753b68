package workshop

import (
	"context"
	"fmt"

	"jubrak/core/audio"
	"jubrak/core/deliver"
	"jubrak/core/drums"
	"jubrak/core/format"
	"jubrak/core/listen"
	"jubrak/core/project"
	"jubrak/core/slice"
	"jubrak/core/sound"
	"jubrak/core/tone"
)

// SliceSound is a slice measured and drawn.
type SliceSound struct {
	Slice    slice.Slice   `json:"slice"`
	Measures tone.Measures `json:"measures"`
	Wave     Peaks         `json:"wave"`
}

// slicesPerFamily is how many are offered of each family.
const slicesPerFamily = 4

// recorded finds a reference with sound: its analysis and recording.
func (s *Workshop) recorded(ctx context.Context, id, refID string) (*project.Reference, *listen.Analysis, *audio.Buffer, error) {
	ref, err := s.reference(id, refID)
	if err != nil {
		return nil, nil, nil, err
	}
	a, err := s.Analysis(ctx, id, refID)
	if err != nil {
		return nil, nil, nil, err
	}
	b, err := s.sound(ref)
	if err == nil && b == nil {
		err = &Refusal{Code: "no_sound", Message: "This reference has no recording to cut."}
	}
	return ref, a, b, err
}

// Slices lists the cleanest hits of each family of a reference, measured.
func (s *Workshop) Slices(ctx context.Context, id, refID string) ([]SliceSound, error) {
	_, a, b, err := s.recorded(ctx, id, refID)
	if err != nil {
		return nil, err
	}
	found := slice.Find(a, slicesPerFamily)
	out := []SliceSound{}
	for _, f := range sound.Families {
		for _, one := range found[f] {
			out = append(out, sliceSound(b, one))
		}
	}
	return out, nil
}

func sliceSound(b *audio.Buffer, one slice.Slice) SliceSound {
	cut := slice.Cut(b, one)
	return SliceSound{one, *tone.Measure(cut), *drawPeaks(cut, &Peaks{From: 0, To: cut.Seconds(), Points: [][2]float64{}}, 240)}
}

// SliceFiles are the cleanest slices of each family as WAV files in a zip,
// numbered.
func (s *Workshop) SliceFiles(ctx context.Context, id, refID string, f format.SampleFormat) (deliver.File, error) {
	ref, a, b, err := s.recorded(ctx, id, refID)
	if err != nil {
		return deliver.File{}, err
	}
	var files []deliver.File
	found := slice.Find(a, slicesPerFamily)
	for _, family := range sound.Families {
		for i, one := range found[family] {
			files = append(files, deliver.WAV(fmt.Sprintf("%s-%s-%02d", deliver.FileName(ref.Name), family, i+1), slice.Cut(b, one), f))
		}
	}
	return deliver.Zip(deliver.FileName(ref.Name)+"-slices", files), nil
}

// target is what a voice is built towards, measured; nil where it has none, and while its
// drums are still worked out.
func (s *Workshop) target(d *project.Document, voice string) (*TargetSound, error) {
	t := d.Target(voice)
	if t == nil {
		return nil, nil
	}
	ref := d.Reference(t.Reference)
	if ref == nil {
		return nil, nil
	}
	var b *audio.Buffer
	var found *drums.Drum
	if t.Drum != nil {
		w, err := s.separate(ref)
		if err != nil {
			return nil, err
		}
		select {
		case <-w.ready:
		default:
			return nil, nil
		}
		if found, b, err = s.drum(context.Background(), ref, *t.Drum); err != nil {
			return nil, nil // its strokes were changed: the voice has no target for now
		}
	} else {
		whole, err := s.sound(ref)
		if whole == nil || err != nil {
			return nil, err
		}
		b = slice.Cut(whole, *t.Slice)
	}
	out := &TargetSound{Measures: *tone.Measure(b), Wave: *drawPeaks(b, &Peaks{From: 0, To: b.Seconds(), Points: [][2]float64{}}, 240)}
	if found != nil {
		out.Name = ref.Name + ", " + drumName(ref, found.Family, found.Group)
		out.known(found)
	} else {
		out.Name = fmt.Sprintf("%s, %.2f s", ref.Name, t.Slice.From)
	}
	return out, nil
}

// TargetSound is what a voice is built towards, measured and drawn.
type TargetSound struct {
	Name     string        `json:"name"`
	Measures tone.Measures `json:"measures"`
	Wave     Peaks         `json:"wave"`
	// Known is up to when it is known, ms; null for a cut.
	Known *float64 `json:"known_ms"`
}

// known puts the facts of a drum in the place of measures of its sound: what is not known
// is not told.
func (t *TargetSound) known(d *drums.Drum) {
	value := func(m *drums.Measure) *float64 {
		if m == nil {
			return nil
		}
		return &m.Value
	}
	m := &t.Measures
	m.Fundamental, m.Decay, m.Snap, m.Attack, m.Centroid, m.Settles = value(d.Facts.Fundamental), value(d.Facts.Decay), value(d.Facts.Snap), value(d.Facts.Attack), value(d.Facts.Brightness), value(d.Facts.Settles)
	if m.Fundamental == nil {
		m.Note, m.Cents, m.PitchCurve = nil, nil, [][2]float64{}
	}
	t.Known = &d.Known.To
}
