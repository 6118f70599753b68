package groove

import (
	"math"
	"sort"
)

// BeatGrid is where the beats of a performance fall, as heard: times in
// seconds of consecutive beats, at least two, rising. Bar one starts at beat
// Downbeat; each bar has PerBar beats. Beats before Downbeat belong to
// negative bars.
type BeatGrid struct {
	Beats    []float64 `json:"beats_s"`
	Downbeat int       `json:"downbeat"`
	PerBar   int       `json:"beats_per_bar"`
}

// SteadyGrid is a grid of n beats from start seconds at bpm beats per minute.
func SteadyGrid(start, bpm float64, n, perBar int) BeatGrid {
	g := BeatGrid{Beats: make([]float64, max(n, 2)), PerBar: perBar}
	for i := range g.Beats {
		g.Beats[i] = start + float64(i)*60/bpm
	}
	return g
}

// Position is the place of a time in beats from bar one, fractions included.
// Beyond the ends the nearest beat length goes on.
func (b *BeatGrid) Position(seconds float64) float64 {
	n := len(b.Beats)
	i := sort.SearchFloat64s(b.Beats, seconds) - 1
	i = min(max(i, 0), n-2)
	return float64(i-b.Downbeat) + (seconds-b.Beats[i])/(b.Beats[i+1]-b.Beats[i])
}

// Seconds is the inverse of Position.
func (b *BeatGrid) Seconds(beat float64) float64 {
	x := beat + float64(b.Downbeat)
	i := min(max(int(math.Floor(x)), 0), len(b.Beats)-2)
	return b.Beats[i] + (x-float64(i))*(b.Beats[i+1]-b.Beats[i])
}

// BeatSeconds is the length of the beat around a position.
func (b *BeatGrid) BeatSeconds(beat float64) float64 {
	i := min(max(int(math.Floor(beat))+b.Downbeat, 0), len(b.Beats)-2)
	return b.Beats[i+1] - b.Beats[i]
}

// BPM is the mean tempo in beats per minute.
func (b *BeatGrid) BPM() float64 {
	n := len(b.Beats)
	return 60 * float64(n-1) / (b.Beats[n-1] - b.Beats[0])
}
