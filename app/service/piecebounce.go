package service

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"jubrak/core/arrange"
	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// PieceBounce asks for a stretch of the arrangement as something of the project.
type PieceBounce struct {
	Base int `json:"base"`
	// From and To bound it, ticks of the piece.
	From int `json:"from"`
	To   int `json:"to"`
	// As is "sample", a voice that plays it whole; "slices", voices of its hits; or
	// "backing", behind the drums at its place.
	As string `json:"as"`
	// Name is what it is called; empty names its bars.
	Name string `json:"name"`
}

// mostBounced is the longest stretch that becomes a sample or slices, s.
const mostBounced = 60

// BouncePiece brings a stretch of the arrangement back into its project.
func (s *Service) BouncePiece(ctx context.Context, id string, ask PieceBounce) (*State, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	d := &st.Document
	line := d.PieceLine()
	from, to := max(ask.From, 0), min(ask.To, line.End())
	if to <= from {
		return nil, &Refusal{Code: "edit_refused", Message: "Choose a stretch of the arrangement first: drag on its bars."}
	}
	name := strings.TrimSpace(ask.Name)
	if name == "" {
		name = fmt.Sprintf("Bars %d to %d", line.Place(float64(from)).Bar+1, line.Place(float64(to-1)).Bar+1)
	}
	seconds := line.Straight(float64(to)) - line.Straight(float64(from))
	if ask.As != "backing" && seconds > mostBounced {
		return nil, &Refusal{Code: "edit_refused", Message: fmt.Sprintf("A sample is at most %d s long; this stretch lasts %.0f s. Make it a backing, or choose less.", mostBounced, seconds)}
	}
	b, err := s.pieceStretch(ctx, id, d, from, to)
	if err != nil {
		return nil, err
	}
	switch ask.As {
	case "sample":
		blob, release, err := s.keepSound(b)
		if err != nil {
			return nil, err
		}
		defer release()
		layer := sound.Recorded(NewID(), name, blob)
		return s.Edit(id, ask.Base, project.Edits{project.AddVoice{Family: sound.Perc, Name: name, Layers: []sound.Layer{layer}}}, "")
	case "slices":
		edits, release, err := s.hitsOf(ctx, d, b, name, PlaceNone)
		defer release()
		if err != nil {
			return nil, err
		}
		return s.Edit(id, ask.Base, edits, "")
	case "backing":
		blob, release, err := s.keepSound(b)
		if err != nil {
			return nil, err
		}
		defer release()
		back := arrange.NewBacking("b"+NewID(), backingName(name+"."), blob)
		back.At = from
		return s.Edit(id, ask.Base, project.Edits{project.AddBacking{Backing: back}}, "")
	}
	return nil, &Refusal{Code: "invalid", Message: "A stretch becomes a sample, slices or a backing."}
}

// errThere ends a render that has what is wanted.
var errThere = errors.New("the stretch is there")

// pieceStretch is the sound of a stretch of the arrangement, drums alone, at their own
// speed.
func (s *Service) pieceStretch(ctx context.Context, id string, d *project.Document, from, to int) (*audio.Buffer, error) {
	line := d.PieceLine()
	first, last := int(line.Straight(float64(from))*engine.Rate), int(line.Straight(float64(to))*engine.Rate)
	out := audio.New(engine.Rate, 2, 0)
	at := 0
	err := engine.NewStream(s.PieceSong(id, d), engine.Bounce{Rate: engine.Rate}).Each(ctx, func(left, right []float64) error {
		for i := range left {
			if at >= first && at < last {
				out.Channels[0] = append(out.Channels[0], float32(left[i]))
				out.Channels[1] = append(out.Channels[1], float32(right[i]))
			}
			at++
		}
		if at >= last {
			return errThere
		}
		return nil
	})
	if err != nil && !errors.Is(err, errThere) {
		return nil, err
	}
	return out, nil
}
