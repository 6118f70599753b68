package service

import (
	"errors"
	"log/slog"
	"time"

	"jubrak/app/store"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Summary is a project in the list.
type Summary struct {
	ID      string  `json:"id"`
	Name    string  `json:"name"`
	Version int     `json:"version"`
	Updated string  `json:"updated"` // RFC 3339
	Tempo   float64 `json:"tempo_bpm"`
	Meter   string  `json:"meter"`
	Bars    int     `json:"bars"`
	// Rows are the lanes that have hits, over the first bars of the groove.
	Rows []SummaryRow `json:"rows"`
	// Reference is the name of the active one, or empty.
	Reference string `json:"reference"`
	// Outside and Reported are the rows of the comparison that are outside their
	// tolerance, and all that can be known; null until this version was
	// compared.
	Outside    *int `json:"outside"`
	Measurable *int `json:"measurable"`
	// Size is what the project takes on the disk, bytes: its history and its
	// sounds, also those that others name too.
	Size int64 `json:"size_bytes"`
	// Problem says why the project cannot be opened; empty where it can.
	Problem string `json:"problem"`
}

// SummaryRow is a lane in small.
type SummaryRow struct {
	Family sound.Family `json:"family"`
	// Hits are places from 0 to 1 and velocities.
	Hits [][2]float64 `json:"hits"`
}

// summaryBars is how much of a groove the list shows.
const summaryBars = 4

// Projects lists all projects, the latest changed first.
func (s *Service) Projects() ([]Summary, error) {
	rows, err := s.Store.Projects()
	if err != nil {
		return nil, err
	}
	judged, err := s.Store.Distances()
	if err != nil {
		return nil, err
	}
	out := []Summary{}
	for _, r := range rows {
		one, err := s.summary(&r)
		if errors.Is(err, store.ErrNotFound) && !s.Store.Has(r.ID) {
			continue // deleted in the meantime
		}
		if err != nil { // the others are still to be opened
			slog.Error("a project cannot be read", "project", r.ID, "error", err)
			one = Summary{ID: r.ID, Name: r.Name, Version: r.Version, Updated: r.UpdatedAt.UTC().Format(time.RFC3339), Rows: []SummaryRow{},
				Problem: "This project cannot be read from the data folder: " + Sentence(err)}
		}
		if j, ok := judged[r.ID]; ok && j.Version == r.Version && one.Reference != "" {
			one.Outside, one.Measurable = &j.Outside, &j.Measurable
		}
		out = append(out, one)
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.listed) > 2*len(out)+8 {
		clear(s.listed)
	}
	for _, one := range out {
		s.listed[one.ID] = one
	}
	return out, nil
}

// summary reads what the list returns of a project, unless it knows it already.
func (s *Service) summary(r *store.Project) (Summary, error) {
	s.mu.Lock()
	known, ok := s.listed[r.ID]
	s.mu.Unlock()
	if ok && known.Version == r.Version {
		known.Outside, known.Measurable = nil, nil
		return known, nil
	}
	c, err := s.Store.Load(r.ID)
	if err != nil {
		return Summary{}, err
	}
	size, err := s.Store.ProjectSize(r.ID)
	if err != nil {
		return Summary{}, err
	}
	updated := c.UpdatedAt.UTC().Format("2006-01-02T15:04:05Z")
	d, err := documentOf(c)
	if err != nil {
		return Summary{ID: r.ID, Name: r.Name, Version: c.Version, Updated: updated, Rows: []SummaryRow{}, Size: size, Problem: err.Error()}, nil
	}
	out := Summary{
		ID: r.ID, Name: d.Name, Version: c.Version, Updated: updated, Size: size,
		Tempo: d.Tempo[0].BPM, Meter: d.Groove.Meter.String(), Bars: d.Groove.Bars, Rows: smallRows(d),
	}
	if ref := d.Reference(d.Active); ref != nil {
		out.Reference = ref.Name
	}
	return out, nil
}

func smallRows(d *project.Document) []SummaryRow {
	out := []SummaryRow{}
	end := min(d.Groove.Bars, summaryBars) * d.Groove.Meter.BarTicks()
	for i := range d.Kit.Voices {
		l := d.Groove.Lane(d.Kit.Voices[i].ID)
		if l == nil {
			continue
		}
		row := SummaryRow{Family: d.Kit.Voices[i].Family, Hits: [][2]float64{}}
		for _, h := range l.Hits {
			if h.Tick < end && len(row.Hits) < 512 {
				row.Hits = append(row.Hits, [2]float64{float64(h.Tick) / float64(end), float64(h.Velocity)})
			}
		}
		if len(row.Hits) > 0 {
			out = append(out, row)
		}
	}
	return out
}
