package service

import (
	"context"
	"fmt"
	"strconv"

	"jubrak/core/audio"
	"jubrak/core/isolate"
	"jubrak/core/measure"
	"jubrak/core/project"
	"jubrak/core/slice"
)

// target is what a voice is built towards, measured; nil where it has none, and while its
// drums are still worked out.
func (s *Service) target(d *project.Document, voice string) (*TargetSound, error) {
	t := d.Target(voice)
	if t == nil {
		return nil, nil
	}
	ref := d.Reference(t.Reference)
	if ref == nil {
		return nil, nil
	}
	var b *audio.Buffer
	var found *isolate.Drum
	if t.Drum != nil {
		w, err := s.separate(ref)
		if err != nil {
			return nil, err
		}
		if _, ready, _ := w.result(); !ready {
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
	out := &TargetSound{Measures: *measure.Measure(b), Wave: *drawPeaks(b, &Peaks{From: 0, To: b.Seconds(), Points: [][2]float64{}}, 240)}
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
	Name     string           `json:"name"`
	Measures measure.Measures `json:"measures"`
	Wave     Peaks            `json:"wave"`
	// Known is up to when it is known, ms; null for a cut.
	Known *float64 `json:"known_ms"`
}

// known puts the facts of a drum in the place of measures of its sound: what is not known
// is not reported.
func (t *TargetSound) known(d *isolate.Drum) {
	value := func(m *isolate.Measure) *float64 {
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
	for name := range m.ThirdOctave {
		if hz, err := strconv.ParseFloat(name, 64); err == nil && knownAt(&d.Known, hz) < hiddenBand {
			delete(m.ThirdOctave, name)
		}
	}
	for name := range m.Balance {
		if d.Facts.Regions[name] == nil {
			delete(m.Balance, name)
		}
	}
	t.Known = &d.Known.To
}

// hiddenBand is how little of a band is known where it is hidden, 0..1.
const hiddenBand = 0.3
