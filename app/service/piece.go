package service

import (
	"jubrak/core/music"
	"jubrak/core/project"
)

// PieceFacts are what an arrangement comes to in time.
type PieceFacts struct {
	Spans []PieceSpan `json:"spans"`
	// Bars are where the bars begin, in order, and behind the last the end.
	Bars []BarPlace `json:"bars"`
	// Seconds is how long it lasts, at the speed of the tape.
	Seconds float64 `json:"seconds"`
	// Drawn are the numbers that are drawn anywhere, over a section or over the loop.
	Drawn []project.DrawableNumber `json:"drawn"`
}

// Drawable are the numbers that may be drawn over a section.
func (s *Service) Drawable(id string) ([]project.DrawableNumber, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	return st.Document.Drawable(), nil
}

// PieceSpan is where a section lies.
type PieceSpan struct {
	Section  string      `json:"section"`
	From     int         `json:"from"` // ticks
	To       int         `json:"to"`
	FirstBar int         `json:"first_bar"` // from 0
	Meter    music.Meter `json:"meter"`
	// FromBPM and ToBPM are the tempo at its beginning and end.
	FromBPM float64 `json:"from_bpm"`
	ToBPM   float64 `json:"to_bpm"`
}

// BarPlace is where a bar begins.
type BarPlace struct {
	Tick    int     `json:"tick"`
	Seconds float64 `json:"seconds"`
}

// Piece are the facts of a project's arrangement.
func (s *Service) Piece(id string) (*PieceFacts, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	d := &st.Document
	line := d.PieceLine()
	tape := d.Arrangement.Speed.Tape()
	tempo := line.Tempo()
	out := &PieceFacts{Spans: []PieceSpan{}, Bars: []BarPlace{}, Drawn: d.Drawn()}
	put := func(tick int) {
		out.Bars = append(out.Bars, BarPlace{tick, line.Seconds(float64(tick)) / tape})
	}
	for i, span := range line.Spans() {
		out.Spans = append(out.Spans, PieceSpan{
			Section: d.Arrangement.Sections[i].ID, From: span.From, To: span.To, FirstBar: span.FirstBar, Meter: span.Meter,
			FromBPM: tempo.BPM(float64(span.From)) * tape, ToBPM: tempo.BPM(float64(span.To)-1e-6) * tape,
		})
		for tick := span.From; tick < span.To; tick += span.Meter.BarTicks() {
			put(tick)
		}
	}
	put(line.End())
	out.Seconds = line.Seconds(float64(line.End())) / tape
	return out, nil
}

// PieceHits are what is struck in a stretch of an arrangement, by row.
type PieceHits struct {
	// Merged is whether hits that lie close are reported as one, because there are many.
	Merged bool      `json:"merged"`
	Rows   []RowHits `json:"rows"`
}

// RowHits are the hits of a row: each a tick and a velocity, one after another.
type RowHits struct {
	Voice string `json:"voice"`
	Hits  []int  `json:"hits"`
}

// mostOfAll is from how many hits on those of a row that lie closer than a step of the
// answer's grid are reported as one.
const mostOfAll = 12000

// PieceHits are the hits between two ticks of a project's arrangement.
func (s *Service) PieceHits(id string, from, to int) (*PieceHits, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	d := &st.Document
	line := d.PieceLine()
	events := line.Events(max(from, 0), min(to, line.End()), nil)
	step := 1
	if len(events) > mostOfAll {
		step = max((to-from)/1500, 1)
	}
	out := &PieceHits{Merged: step > 1, Rows: []RowHits{}}
	at := map[string]int{}
	for i := range d.Kit.Voices {
		at[d.Kit.Voices[i].ID] = i
		out.Rows = append(out.Rows, RowHits{d.Kit.Voices[i].ID, []int{}})
	}
	for _, e := range events {
		row, ok := at[line.Grooves()[e.Part].Lanes[e.Lane].Voice]
		if !ok {
			continue
		}
		list := &out.Rows[row].Hits
		if n := len(*list); n > 0 && step > 1 && e.Tick/step == (*list)[n-2]/step {
			(*list)[n-1] = max((*list)[n-1], e.Velocity)
			continue
		}
		*list = append(*list, e.Tick, e.Velocity)
	}
	return out, nil
}
