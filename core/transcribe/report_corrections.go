package transcribe

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
)

// Correction is one thing that a person set right about what was heard. It
// is kept apart from Raw, so it survives a new analysis and can be undone.
type Correction struct {
	// Kind says what is set right and which fields it reads:
	//
	//	halve, double      the tempo
	//	tempo              Value BPM, kept as it is
	//	tapped             Value BPM: the beat nearest to it that fits the hits
	//	bar_one            Beats: bar one comes later by that many beats
	//	bar_one_at         Time: the beat nearest to it starts bar one
	//	meter              Text: 2/4 3/4 4/4 5/4 6/8 7/8 12/8
	//	grid               Text: straight or triplet
	//	beat               Beats, Time: that beat, counted from 0, falls there
	//	leave_out          Time to Until: not counted in feel and pattern
	//	take_in            Time: the part left out there counts again
	//	add                Time, Family, Velocity: a hit
	//	delete             Hit
	//	refile             Hit, Family
	//	refile_row         Text, Family: all hits of the family Text names
	//	move               Hit, Time
	//	weigh              Hit, Velocity
	//	map                Key, Family: every hit of that MIDI key
	Kind     string       `json:"kind"`
	Beats    int          `json:"beats,omitempty"`
	Hit      string       `json:"hit,omitempty"`
	Time     float64      `json:"time_s,omitempty"`
	Until    float64      `json:"until_s,omitempty"`
	Family   sound.Family `json:"family,omitempty"`
	Velocity int          `json:"velocity,omitempty"`
	Value    float64      `json:"value,omitempty"`
	Text     string       `json:"text,omitempty"`
	Key      int          `json:"key,omitempty"`
}

// setsBeat reports whether a person has said with it where the beat is.
func (c *Correction) setsBeat() bool {
	return slices.Contains([]string{"halve", "double", "tempo", "tapped", "beat"}, c.Kind)
}

// setsBar reports whether a person has said with it where bars begin.
func (c *Correction) setsBar() bool {
	return slices.Contains([]string{"bar_one", "bar_one_at"}, c.Kind)
}

// MinBPM and MaxBPM are the tempi that a reference may be given.
const (
	MinBPM = 30
	MaxBPM = 300
)

// Meters on offer for a reference.
var Meters = []string{"2/4", "3/4", "4/4", "5/4", "6/8", "7/8", "12/8"}

// Validate checks the correction by itself.
func (c *Correction) Validate() error {
	inFile := func(t float64) bool { return t >= 0 && t < 36000 }
	switch c.Kind {
	case "halve", "double", "delete":
		return nil
	case "tempo", "tapped":
		if !(c.Value >= MinBPM && c.Value <= MaxBPM) {
			return fmt.Errorf("a tempo lies between %d and %d BPM", MinBPM, MaxBPM)
		}
	case "bar_one":
		if c.Beats < -16 || c.Beats > 16 {
			return fmt.Errorf("bar one moves by at most 16 beats at once")
		}
	case "meter":
		if !slices.Contains(Meters, c.Text) {
			return fmt.Errorf("the meter must be one of %v", Meters)
		}
	case "grid":
		if c.Text != "straight" && c.Text != "triplet" {
			return fmt.Errorf("the grid is straight or triplet")
		}
	case "beat":
		if c.Beats < 0 || !inFile(c.Time) {
			return fmt.Errorf("a beat needs its number and a time in the file")
		}
	case "leave_out":
		if !inFile(c.Time) || !inFile(c.Until) || c.Until <= c.Time {
			return fmt.Errorf("a part to leave out needs a beginning and a later end")
		}
	case "take_in", "bar_one_at", "move":
		if !inFile(c.Time) {
			return fmt.Errorf("the time lies outside the file")
		}
	case "weigh":
		if c.Velocity < 1 || c.Velocity > 127 {
			return fmt.Errorf("a velocity lies between 1 and 127")
		}
	case "add":
		if !inFile(c.Time) || c.Velocity < 1 || c.Velocity > 127 || !c.Family.Known() {
			return fmt.Errorf("a hit needs a time, a known family and a velocity of 1 to 127")
		}
	case "map":
		if c.Key < 0 || c.Key > 127 || !c.Family.Known() {
			return fmt.Errorf("a mapping needs a MIDI key of 0 to 127 and a known family")
		}
	case "refile_row":
		if !c.Family.Known() || !sound.Family(c.Text).Known() {
			return fmt.Errorf("a row goes from one known family to another")
		}
	case "refile":
		if !c.Family.Known() {
			return fmt.Errorf("unknown family %q", c.Family)
		}
	default:
		return fmt.Errorf("unknown correction %q", c.Kind)
	}
	return nil
}

// correct applies one correction; index names a hit that it adds.
func (a *Analysis) correct(grid *groove.BeatGrid, c Correction, index int) {
	switch c.Kind {
	case "delete", "refile", "move", "weigh":
		a.correctHit(c)
	case "add":
		a.Hits = append(a.Hits, Hit{ID: fmt.Sprintf("c%d", index+1), Time: c.Time, Family: c.Family, Velocity: c.Velocity, Confidence: 1})
	case "refile_row":
		a.refile(func(h *Hit) bool { return h.Family == sound.Family(c.Text) }, c.Family)
	case "map":
		for i := range a.Hits {
			if k := a.Hits[i].Key; k != nil && *k == c.Key {
				a.Hits[i].Family = c.Family
			}
		}
	case "leave_out":
		a.LeftOut = append(a.LeftOut, Region{c.Time, c.Until})
	case "take_in":
		a.LeftOut = slices.DeleteFunc(a.LeftOut, func(r Region) bool { return c.Time >= r.From && c.Time <= r.To })
	case "grid":
		a.Steps = 4
		if c.Text == "triplet" {
			a.Steps = 3
		}
	default:
		if grid != nil {
			a.correctGrid(grid, c)
		}
	}
}

// refile files hits after another family. One that is heard where that family
// has a hit already is the same stroke, heard twice, and goes.
func (a *Analysis) refile(which func(*Hit) bool, f sound.Family) {
	var already []float64
	for i := range a.Hits {
		if h := &a.Hits[i]; h.Family == f && !which(h) {
			already = append(already, h.Time)
		}
	}
	a.Hits = slices.DeleteFunc(a.Hits, func(h Hit) bool {
		return h.Key == nil && h.Family != f && which(&h) && slices.ContainsFunc(already, func(t float64) bool { return math.Abs(h.Time-t) < samePlace })
	})
	for i := range a.Hits {
		if h := &a.Hits[i]; which(h) {
			h.Family, h.Unnamed = f, false
		}
	}
}

func (a *Analysis) correctHit(c Correction) {
	i := slices.IndexFunc(a.Hits, func(h Hit) bool { return h.ID == c.Hit })
	if i < 0 {
		return // a better listener no longer hears it
	}
	h := &a.Hits[i]
	h.Confidence = 1 // a person has looked at it
	switch c.Kind {
	case "delete":
		a.Hits = slices.Delete(a.Hits, i, i+1)
	case "refile":
		a.refile(func(h *Hit) bool { return h.ID == c.Hit }, c.Family)
	case "move":
		h.Time, h.Covered = c.Time, false
	case "weigh":
		h.Velocity = c.Velocity
	}
}

func (a *Analysis) correctGrid(grid *groove.BeatGrid, c Correction) {
	switch c.Kind {
	case "double":
		doubleBeats(grid)
	case "halve":
		if len(grid.Beats) >= 4 {
			halveBeats(grid)
		}
	case "tempo":
		a.retempo(grid, 60/c.Value*4/float64(a.Unit))
	case "tapped":
		a.retempo(grid, a.fitted(60/c.Value*4/float64(a.Unit), grid.Seconds(0)))
	case "bar_one":
		grid.Downbeat = wrap(grid.Downbeat+c.Beats, grid.PerBar)
	case "bar_one_at":
		beat := int(math.Round(grid.Position(c.Time))) + grid.Downbeat
		grid.Downbeat = wrap(beat, grid.PerBar)
	case "meter":
		a.setMeter(grid, c.Text)
	case "beat":
		if c.Beats < len(grid.Beats) {
			moveBeat(grid.Beats, c.Beats, c.Time)
		}
	}
}

// setMeter changes beats per bar; between quarters and eighths the beats
// double or halve, so that the tempo of the quarter note stays.
func (a *Analysis) setMeter(grid *groove.BeatGrid, text string) {
	m, err := music.ParseMeter(text)
	if err != nil {
		return // was validated
	}
	if m.Unit == 8 && a.Unit == 4 {
		doubleBeats(grid)
	}
	if m.Unit == 4 && a.Unit == 8 && len(grid.Beats) >= 4 {
		halveBeats(grid)
	}
	grid.PerBar, a.Unit = m.Beats, m.Unit
	grid.Downbeat = wrap(grid.Downbeat, grid.PerBar)
}

// retempo lays a steady grid with a beat of so many seconds, with bar one where
// it was.
func (a *Analysis) retempo(grid *groove.BeatGrid, period float64) {
	one := grid.Seconds(0)
	before := int(math.Floor((one - grid.Beats[0] + 0.02) / period))
	count := before + int((a.Duration-one)/period) + 1
	*grid = groove.SteadyGrid(one-float64(before)*period, 60/period, max(count, 2), grid.PerBar)
	grid.Downbeat = wrap(before, grid.PerBar)
}

// fitted is the beat near period, in seconds, that fits the hits best, with a
// beat at one; the same where none is near.
func (a *Analysis) fitted(period, one float64) float64 {
	if len(a.Hits) < 4 {
		return period
	}
	hits := slices.Clone(a.Hits)
	sort.SliceStable(hits, func(i, j int) bool { return hits[i].Time < hits[j].Time })
	if p, _, _ := scan(period, 0.01, 40, hits); math.Abs(p/period-1) < 0.012 {
		if fit, _ := refine(p, one, hits); math.Abs(fit/period-1) < 0.012 {
			return fit
		}
	}
	return period
}

// moveBeat puts one beat at a time; the beats up to those next set by hand
// are not known here, so the move is shared: a beat d places away moves by
// 1 − d/8 of it.
func moveBeat(beats []float64, at int, seconds float64) {
	by := seconds - beats[at]
	moved := slices.Clone(beats)
	for i := range moved {
		if d := math.Abs(float64(i - at)); d < 8 {
			moved[i] += by * (1 - d/8)
		}
	}
	for i := 1; i < len(moved); i++ {
		if moved[i] < moved[i-1]+0.02 {
			return // beats stay in order
		}
	}
	copy(beats, moved)
}

func doubleBeats(g *groove.BeatGrid) {
	out := make([]float64, 0, 2*len(g.Beats))
	for i, b := range g.Beats {
		out = append(out, b)
		if i+1 < len(g.Beats) {
			out = append(out, (b+g.Beats[i+1])/2)
		}
	}
	g.Beats, g.Downbeat = out, 2*g.Downbeat
}

func halveBeats(g *groove.BeatGrid) {
	first := wrap(g.Downbeat, 2)
	var out []float64
	for i := first; i < len(g.Beats); i += 2 {
		out = append(out, g.Beats[i])
	}
	g.Beats, g.Downbeat = out, (g.Downbeat-first)/2
}

// Words says in a few words what was set right.
func (c *Correction) Words() string {
	switch c.Kind {
	case "halve":
		return "tempo halved"
	case "double":
		return "tempo doubled"
	case "tempo", "tapped":
		return fmt.Sprintf("tempo %g BPM", math.Round(c.Value*100)/100)
	case "bar_one", "bar_one_at":
		return "bar one moved"
	case "meter":
		return "meter " + c.Text
	case "grid":
		return c.Text + " grid"
	case "beat":
		return "a beat moved"
	case "leave_out":
		return "a part left out"
	case "take_in":
		return "a part taken in again"
	case "add":
		return "a hit added"
	case "delete":
		return "a hit deleted"
	case "refile":
		return "a hit filed as " + c.Family.Label()
	case "move":
		return "a hit moved"
	case "weigh":
		return fmt.Sprintf("velocity of a hit %d", c.Velocity)
	case "map":
		return fmt.Sprintf("key %d filed as %s", c.Key, c.Family.Label())
	}
	return c.Kind
}
