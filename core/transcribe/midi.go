package transcribe

import (
	"fmt"

	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/sound"
)

// FromPerformance takes a MIDI file as a reference: its notes are the hits,
// filed by General MIDI percussion key, and its tempo map is the grid. Where
// the file has notes on channel 10, only those count.
func FromPerformance(p *format.Performance) *Raw {
	raw := &Raw{Version: RawVersion, Kind: "midi", Confidence: 1, BarOne: 1, Unit: p.Meter.Unit, Hits: []Hit{}, Bands: []Band{}}
	drums := false
	for _, n := range p.Notes {
		drums = drums || n.Channel == 9
	}
	last := 0
	for _, n := range p.Notes {
		if drums && n.Channel != 9 {
			raw.OtherNotes++
			continue
		}
		last = max(last, n.Tick+n.Length)
		key := n.Key
		raw.Hits = append(raw.Hits, Hit{
			Key: &key,
			ID:  fmt.Sprintf("r%d", len(raw.Hits)+1), Time: p.Seconds(n.Tick), Confidence: 1,
			Family: sound.FamilyOfKey(n.Key), Velocity: n.Velocity,
		})
	}
	raw.Duration = p.Seconds(max(last, p.End))
	grid := groove.BeatGrid{PerBar: p.Meter.Beats}
	beat := float64(p.PPQ) * 4 / float64(p.Meter.Unit)
	for i := 0; i < 100000; i++ {
		tick := int(float64(i) * beat)
		grid.Beats = append(grid.Beats, p.Seconds(tick))
		if tick > last && i > 0 {
			break
		}
	}
	raw.Grid = &grid
	return raw
}
