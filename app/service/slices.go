package service

import (
	"context"
	"fmt"

	"jubrak/core/audio"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/measure"
	"jubrak/core/project"
	"jubrak/core/slice"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// SliceSound is a slice measured and drawn.
type SliceSound struct {
	Slice    slice.Slice      `json:"slice"`
	Measures measure.Measures `json:"measures"`
	Wave     Peaks            `json:"wave"`
}

// slicesPerFamily is how many are offered of each family.
const slicesPerFamily = 4

// recorded finds a reference with sound: its analysis and recording.
func (s *Service) recorded(ctx context.Context, id, refID string) (*project.Reference, *transcribe.Analysis, *audio.Buffer, error) {
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
func (s *Service) Slices(ctx context.Context, id, refID string) ([]SliceSound, error) {
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
	return SliceSound{one, *measure.Measure(cut), *drawPeaks(cut, &Peaks{From: 0, To: cut.Seconds(), Points: [][2]float64{}}, 240)}
}

// SliceFiles are the cleanest slices of each family as WAV files in a zip,
// numbered.
func (s *Service) SliceFiles(ctx context.Context, id, refID string, f format.SampleFormat) (export.File, error) {
	ref, a, b, err := s.recorded(ctx, id, refID)
	if err != nil {
		return export.File{}, err
	}
	var files []export.File
	found := slice.Find(a, slicesPerFamily)
	for _, family := range sound.Families {
		for i, one := range found[family] {
			files = append(files, export.WAV(fmt.Sprintf("%s-%s-%02d", export.FileName(ref.Name), family, i+1), slice.Cut(b, one), f))
		}
	}
	return export.Zip(export.FileName(ref.Name)+"-slices", files), nil
}
