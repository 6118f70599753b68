package project

import (
	"encoding/json"
	"fmt"
	"slices"

	"jubrak/core/groove"
)

// A document is kept in parts, so that an edit writes only what it changed: the
// hits of each lane, by its voice, and the rest.

// Rest is the JSON of all but the hits of the lanes.
func (d *Document) Rest() ([]byte, error) {
	out := *d
	out.Groove.Lanes = slices.Clone(d.Groove.Lanes)
	for i := range out.Groove.Lanes {
		out.Groove.Lanes[i].Hits = nil
	}
	return json.Marshal(&out)
}

// ChangedLanes are the voices whose hits differ from those in before; all where
// before is nil.
func (d *Document) ChangedLanes(before *Document) []string {
	var out []string
	for i := range d.Groove.Lanes {
		l := &d.Groove.Lanes[i]
		if before != nil {
			if b := before.Groove.Lane(l.Voice); b != nil && l.SameHits(b) {
				continue
			}
		}
		out = append(out, l.Voice)
	}
	return out
}

// Parts are the hits of lanes as JSON, by voice.
func (d *Document) Parts(voices []string) (map[string][]byte, error) {
	out := map[string][]byte{}
	for _, v := range voices {
		data, err := json.Marshal(d.Groove.Lane(v).Hits)
		if err != nil {
			return nil, err
		}
		out[v] = data
	}
	return out, nil
}

// Join reads a document from its rest and parts, or from a whole one. Parts of
// lanes that are no more are left out.
func Join(rest []byte, parts map[string][]byte) (*Document, error) {
	d, err := decode(rest)
	if err != nil {
		return nil, err
	}
	for i := range d.Groove.Lanes {
		l := &d.Groove.Lanes[i]
		if l.Hits != nil {
			continue
		}
		data, ok := parts[l.Voice]
		if !ok {
			return nil, fmt.Errorf("the hits of the lane %q are missing", l.Voice)
		}
		l.Hits = []groove.Hit{}
		if err := json.Unmarshal(data, &l.Hits); err != nil {
			return nil, fmt.Errorf("the hits of the lane %q cannot be read: %w", l.Voice, err)
		}
	}
	d.tidy()
	return d, d.Validate()
}
