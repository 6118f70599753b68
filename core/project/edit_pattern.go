package project

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/groove"
	"jubrak/core/music"
)

// Edits of whole lanes and of the pattern as a whole.
var patternEdits = map[string]Edit{
	"lane.grid": SetLane{}, "lane.shift": ShiftLane{}, "lane.fill": FillLane{}, "lane.spread": SpreadLane{},
	"groove.times": TimesGroove{}, "groove.repeat": RepeatBars{}, "groove.name": NameGroove{}, "groove.meter": SetMeter{},
	"hit.stretch": StretchHits{}, "hit.accent": TouchHits{}, "hit.sound": SoundHits{}, "hit.open": OpenHits{},
}

// NameGroove gives the groove another name.
type NameGroove struct {
	// Name has 1 to 80 letters.
	Name string `json:"name"`
}

func (e NameGroove) apply(d *Document, _ Env) ([]string, error) {
	if e.Name == "" || len([]rune(e.Name)) > 80 {
		return nil, fmt.Errorf("a groove's name has 1 to 80 letters")
	}
	d.Groove.Name = e.Name
	return nil, nil
}

func (e NameGroove) name(_, after *Document) string { return "Groove named " + after.Groove.Name }

// SetMeter changes the meter. Hits beyond the new end go.
type SetMeter struct {
	Meter music.Meter `json:"meter"`
}

func (e SetMeter) apply(d *Document, _ Env) ([]string, error) {
	if err := e.Meter.Validate(); err != nil {
		return nil, err
	}
	d.Groove.Meter = e.Meter
	return SetBars{d.Groove.Bars}.apply(d, nil)
}

func (e SetMeter) name(_, after *Document) string {
	return fmt.Sprintf("Meter %d/%d", after.Groove.Meter.Beats, after.Groove.Meter.Unit)
}

// SetLane gives a lane a grid and a length of its own. Hits beyond its end go.
type SetLane struct {
	Voice string `json:"voice"`
	// Grid is steps per quarter note; 0 is the groove's.
	Grid int `json:"grid"`
	// Steps is its length in steps of its grid; 0 is the groove's.
	Steps int `json:"steps"`
}

func (e SetLane) apply(d *Document, _ Env) ([]string, error) {
	i, l, err := d.laneOf(e.Voice)
	if err != nil {
		return nil, err
	}
	if e.Grid != 0 && !slices.Contains(groove.Grids, e.Grid) {
		return nil, fmt.Errorf("grid %d is not one of %v steps per quarter note", e.Grid, groove.Grids)
	}
	if e.Steps < 0 || e.Steps > 1024 {
		return nil, fmt.Errorf("a lane has at most 1024 steps")
	}
	l.Grid, l.Steps = e.Grid, e.Steps
	end := d.Groove.LaneTicks(i)
	remove(l, func(h groove.Hit) bool { return h.Tick >= end })
	return nil, nil
}

func (e SetLane) name(before, _ *Document) string {
	switch {
	case e.Steps > 0:
		return fmt.Sprintf("%s: repeats after %s", before.nameOf(e.Voice), count(e.Steps, "step"))
	case e.Grid > 0:
		return fmt.Sprintf("%s: grid of %d steps a beat", before.nameOf(e.Voice), e.Grid)
	}
	return before.nameOf(e.Voice) + ": as long and as fine as the groove"
}

// laneOf finds or adds a voice's lane in a draft.
func (d *Document) laneOf(voice string) (int, *groove.Lane, error) {
	if d.Kit.Voice(voice) == nil {
		return 0, nil, noVoice(voice)
	}
	d.Groove.EnsureLane(voice)
	i := slices.IndexFunc(d.Groove.Lanes, func(l groove.Lane) bool { return l.Voice == voice })
	return i, &d.Groove.Lanes[i], nil
}

// ShiftLane moves all hits of a lane round by steps: what leaves at one end comes in at
// the other.
type ShiftLane struct {
	Voice string `json:"voice"`
	// Steps is by how many of its grid; negative is earlier.
	Steps int `json:"steps"`
}

func (e ShiftLane) apply(d *Document, _ Env) ([]string, error) {
	i, l, err := d.laneOf(e.Voice)
	if err != nil {
		return nil, err
	}
	length := d.Groove.LaneTicks(i)
	own(l)
	for j := range l.Hits {
		t := (l.Hits[j].Tick + e.Steps%1024*d.Groove.LaneStep(i)) % length
		l.Hits[j].Tick = (t + length) % length
	}
	l.Sort()
	return nil, nil
}

func (e ShiftLane) name(before, _ *Document) string {
	way := "later"
	n := e.Steps
	if n < 0 {
		way, n = "earlier", -n
	}
	return fmt.Sprintf("%s: %s %s", before.nameOf(e.Voice), count(n, "step"), way)
}

// FillLane puts a hit on every nth step of a lane, in place of what was there.
type FillLane struct {
	Voice string `json:"voice"`
	// Every is 1 for each step, 2 for every second, and so on.
	Every int `json:"every"`
	// From is the first step, counted from 0.
	From int `json:"from"`
	// Velocity is 1 to 127; 0 stands for 100.
	Velocity int `json:"velocity,omitempty"`
}

func (e FillLane) apply(d *Document, _ Env) ([]string, error) {
	i, l, err := d.laneOf(e.Voice)
	if err != nil {
		return nil, err
	}
	n := (d.Groove.LaneTicks(i) + d.Groove.LaneStep(i) - 1) / d.Groove.LaneStep(i)
	if e.Every < 1 || e.Every > n || e.From < 0 || e.From >= n {
		return nil, fmt.Errorf("this lane has %s: fill every 1 to %d of them, from step 1 to %d", count(n, "step"), n, n)
	}
	var steps []int
	for s := e.From; s < n; s += e.Every {
		steps = append(steps, s)
	}
	l.Hits = onSteps(steps, d.Groove.LaneStep(i), e.Velocity)
	return nil, nil
}

func onSteps(steps []int, ticks, velocity int) []groove.Hit {
	if velocity == 0 {
		velocity = 100
	}
	out := []groove.Hit{}
	for n, s := range steps {
		out = append(out, groove.Hit{ID: fmt.Sprintf("h%d", n+1), Tick: s * ticks, Velocity: velocity})
	}
	return out
}

func (e FillLane) name(before, _ *Document) string {
	return fmt.Sprintf("%s: on every %s", before.nameOf(e.Voice), ordinal(e.Every, "step"))
}

func ordinal(n int, what string) string {
	switch n {
	case 1:
		return what
	case 2:
		return "2nd " + what
	case 3:
		return "3rd " + what
	}
	return fmt.Sprintf("%dth %s", n, what)
}

// SpreadLane spreads strokes as evenly as can be over so many steps, again and again
// along the lane (Bjorklund's algorithm; Toussaint, The Euclidean algorithm generates
// traditional musical rhythms, 2005).
type SpreadLane struct {
	Voice string `json:"voice"`
	// Strokes is how many fall on the steps.
	Strokes int `json:"strokes"`
	// Steps is over how many steps they are spread.
	Steps int `json:"steps"`
	// Rotate is how many steps later the first falls.
	Rotate int `json:"rotate"`
	// Velocity is 1 to 127; 0 stands for 100.
	Velocity int `json:"velocity,omitempty"`
}

func (e SpreadLane) apply(d *Document, _ Env) ([]string, error) {
	i, l, err := d.laneOf(e.Voice)
	if err != nil {
		return nil, err
	}
	if e.Steps < 1 || e.Steps > 1024 || e.Strokes < 0 || e.Strokes > e.Steps {
		return nil, fmt.Errorf("at most as many strokes as steps are spread, over at most 1024 steps")
	}
	on := groove.Spread(e.Strokes, e.Steps)
	var steps []int
	for s := 0; s*d.Groove.LaneStep(i) < d.Groove.LaneTicks(i); s++ {
		if on[(((s-e.Rotate)%e.Steps)+e.Steps)%e.Steps] {
			steps = append(steps, s)
		}
	}
	l.Hits = onSteps(steps, d.Groove.LaneStep(i), e.Velocity)
	return nil, nil
}

func (e SpreadLane) name(before, _ *Document) string {
	return fmt.Sprintf("%s: %d spread over %s", before.nameOf(e.Voice), e.Strokes, count(e.Steps, "step"))
}

// TimesGroove stretches the whole pattern: 2 is half the time, twice as long; 0.5 is
// double time. Lengths of hits and of lanes go along.
type TimesGroove struct {
	// Times is 0.5 or 2.
	Times float64 `json:"times"`
}

func (e TimesGroove) apply(d *Document, _ Env) ([]string, error) {
	g := &d.Groove
	if e.Times != 0.5 && e.Times != 2 {
		return nil, fmt.Errorf("a pattern is stretched to twice or to half its length")
	}
	bars := float64(g.Bars) * e.Times
	if bars < 1 || bars != float64(int(bars)) || bars > groove.MaxBars {
		return nil, fmt.Errorf("%s cannot be stretched so: a groove has 1 to %d whole bars", count(g.Bars, "bar"), groove.MaxBars)
	}
	g.Bars = int(bars)
	lost := 0
	for i := range g.Lanes {
		l := &g.Lanes[i]
		own(l)
		taken := map[int]bool{}
		for j := range l.Hits {
			h := &l.Hits[j]
			h.Tick = int(float64(h.Tick) * e.Times)
			h.Length = int(float64(h.Length) * e.Times)
		}
		l.Hits = slices.DeleteFunc(l.Hits, func(h groove.Hit) bool {
			again := taken[h.Tick] && h.Sound == ""
			taken[h.Tick] = true
			if again {
				lost++
			}
			return again
		})
		if l.Steps > 0 {
			l.Steps = max(int(float64(l.Steps)*e.Times), 1)
			end := g.LaneTicks(i)
			remove(l, func(h groove.Hit) bool { return h.Tick >= end })
		}
	}
	if lost > 0 {
		return []string{fmt.Sprintf("%s fell together and were left out.", count(lost, "hit"))}, nil
	}
	return nil, nil
}

func (e TimesGroove) name(_, _ *Document) string {
	if e.Times < 1 {
		return "Pattern in double time"
	}
	return "Pattern in half time"
}

// RepeatBars plays some bars more than once: what follows moves back, and the groove
// grows. Lanes with a length of their own stay as they are.
type RepeatBars struct {
	// From is the first bar, counted from 1.
	From int `json:"from"`
	// Bars is how many bars.
	Bars int `json:"bars"`
	// Times is how often they are played in all, 2 or more.
	Times int `json:"times"`
}

func (e RepeatBars) apply(d *Document, _ Env) ([]string, error) {
	g := &d.Groove
	if e.From < 1 || e.Bars < 1 || e.From+e.Bars-1 > g.Bars || e.Times < 2 {
		return nil, fmt.Errorf("bars of the groove are repeated two times or more")
	}
	if g.Bars+e.Bars*(e.Times-1) > groove.MaxBars {
		return nil, fmt.Errorf("a groove has at most %d bars", groove.MaxBars)
	}
	bar := g.Meter.BarTicks()
	from, to := (e.From-1)*bar, (e.From-1+e.Bars)*bar
	more := e.Bars * bar * (e.Times - 1)
	g.Bars += e.Bars * (e.Times - 1)
	for i := range g.Lanes {
		l := &g.Lanes[i]
		if l.Steps > 0 {
			continue
		}
		var copies []groove.Hit
		own(l)
		for j := range l.Hits {
			h := &l.Hits[j]
			switch {
			case h.Tick >= to:
				h.Tick += more
			case h.Tick >= from:
				for n := 1; n < e.Times; n++ {
					again := *h
					again.Tick += n * e.Bars * bar
					copies = append(copies, again)
				}
			}
		}
		for _, h := range copies {
			h.ID = l.NewHitID()
			l.Hits = append(l.Hits, h)
		}
		l.Sort()
	}
	return nil, nil
}

func (e RepeatBars) name(_, _ *Document) string {
	if e.Bars == 1 {
		return fmt.Sprintf("Bar %d played %d times", e.From, e.Times)
	}
	return fmt.Sprintf("Bars %d to %d played %d times", e.From, e.From+e.Bars-1, e.Times)
}

// StretchHits moves hits away from the first of them, or closer.
type StretchHits struct {
	Hits []HitRef `json:"hits"`
	// Percent of their distances; 100 leaves them.
	Percent float64 `json:"percent"`
}

func (e StretchHits) apply(d *Document, _ Env) ([]string, error) {
	if !(e.Percent > 0 && e.Percent <= 800) {
		return nil, fmt.Errorf("hits are stretched to at most 800 %%")
	}
	hits, err := d.findAll(e.Hits)
	if err != nil || len(hits) == 0 {
		return nil, err
	}
	first := hits[0].Tick
	for _, h := range hits {
		first = min(first, h.Tick)
	}
	for i, h := range hits {
		lane := slices.IndexFunc(d.Groove.Lanes, func(l groove.Lane) bool { return l.Voice == unique(e.Hits)[i].Voice })
		h.Tick = first + int(float64(h.Tick-first)*e.Percent/100+0.5)
		if h.Length > 0 {
			h.Length = max(int(float64(h.Length)*e.Percent/100+0.5), 1)
		}
		if h.Tick >= d.Groove.LaneTicks(lane) {
			return nil, fmt.Errorf("a hit would leave its lane; stretch less")
		}
	}
	for i := range d.Groove.Lanes {
		d.Groove.Lanes[i].Sort()
	}
	return nil, d.noDoubles()
}

func (e StretchHits) name(_, _ *Document) string {
	return fmt.Sprintf("%s stretched to %s %%", count(len(e.Hits), "hit"), amount(e.Percent, ""))
}

// noDoubles refuses two hits of a lane in one place with the same sound.
func (d *Document) noDoubles() error {
	for i := range d.Groove.Lanes {
		hits := d.Groove.Lanes[i].Hits
		for j := 1; j < len(hits); j++ {
			if samePlace(&hits[j-1], &hits[j]) {
				return fmt.Errorf("two of the hits would land in one place; move them apart first")
			}
		}
	}
	return nil
}

// Velocities of what is done in one stroke (common practice: ghosts at about a third,
// accents near the top).
const (
	ghostVelocity  = 40
	plainVelocity  = 100
	accentVelocity = 122
)

// TouchHits makes hits ghosts, accents or plain ones, or drops them without losing
// them.
type TouchHits struct {
	Hits []HitRef `json:"hits"`
	// As is ghost, accent, plain or drop; dropped again, a hit plays again.
	As string `json:"as"`
}

func (e TouchHits) apply(d *Document, _ Env) ([]string, error) {
	hits, err := d.findAll(e.Hits)
	if err != nil {
		return nil, err
	}
	to := map[string]int{"ghost": ghostVelocity, "plain": plainVelocity, "accent": accentVelocity}
	if e.As != "drop" && to[e.As] == 0 {
		return nil, fmt.Errorf("a hit is made a ghost, an accent, plain or dropped, not %q", e.As)
	}
	back := len(hits) > 0 && hits[0].Of > 0 && hits[0].Times == 0
	for _, h := range hits {
		switch {
		case e.As != "drop":
			h.Velocity = to[e.As]
		case back:
			h.Times, h.Of = 0, 0
		default:
			h.Times, h.Of = 0, 1
		}
	}
	return nil, nil
}

func (e TouchHits) name(_, _ *Document) string {
	words := map[string]string{"ghost": "made ghosts", "accent": "accented", "plain": "made plain", "drop": "dropped or back"}
	return fmt.Sprintf("%s %s", count(len(e.Hits), "hit"), words[e.As])
}

// SoundHits lets hits strike another voice's sound and stay where they are.
type SoundHits struct {
	Hits []HitRef `json:"hits"`
	// Sound is the voice; empty for the lane's own.
	Sound string `json:"sound"`
	// Every is 1 for all of the hits, 2 for every second one of each lane, and so on.
	Every int `json:"every,omitempty"`
}

func (e SoundHits) apply(d *Document, _ Env) ([]string, error) {
	if e.Sound != "" && d.Kit.Voice(e.Sound) == nil {
		return nil, noVoice(e.Sound)
	}
	refs := unique(e.Hits)
	hits, err := d.findAll(refs)
	if err != nil {
		return nil, err
	}
	if e.Sound != "" {
		d.Groove.EnsureLane(e.Sound) // a sound is a voice with a lane
		if hits, err = d.findAll(refs); err != nil {
			return nil, err
		}
	}
	order := make([]int, len(hits))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return hits[a].Tick - hits[b].Tick })
	seen := map[string]int{}
	for _, i := range order {
		seen[refs[i].Voice]++
		if seen[refs[i].Voice]%max(e.Every, 1) != 0 {
			continue
		}
		hits[i].Sound = e.Sound
		if e.Sound == refs[i].Voice {
			hits[i].Sound = ""
		}
	}
	return nil, d.noDoubles()
}

func (e SoundHits) name(before, _ *Document) string {
	if e.Sound == "" {
		return count(len(e.Hits), "hit") + ": own sound"
	}
	return fmt.Sprintf("%s: sound of %s", count(len(e.Hits), "hit"), before.nameOf(e.Sound))
}

// OpenHits makes the strokes of flams and rolls hits of their own.
type OpenHits struct {
	Hits []HitRef `json:"hits"`
}

func (e OpenHits) apply(d *Document, _ Env) ([]string, error) {
	refs := unique(e.Hits)
	if _, err := d.findAll(refs); err != nil {
		return nil, err
	}
	opened, replaced := 0, 0
	for _, ref := range refs {
		lane, l, err := d.laneOf(ref.Voice)
		if err != nil {
			return nil, err
		}
		found := l.Find(ref.Hit)
		if found == nil {
			replaced++ // a stroke of one that was opened before it came to its place
			continue
		}
		h := *found
		if h.Flam.Strokes == 0 && !h.Rolls() {
			continue
		}
		opened++
		own(l)
		l.Hits = slices.DeleteFunc(l.Hits, func(o groove.Hit) bool { return o.ID == ref.Hit })
		for _, one := range d.strokesOf(lane, &h) {
			one.ID = l.NewHitID()
			l.Hits = slices.DeleteFunc(l.Hits, func(o groove.Hit) bool {
				same := samePlace(&o, &one)
				if same {
					replaced++
				}
				return same
			})
			l.Hits = append(l.Hits, one)
		}
		l.Sort()
	}
	if opened == 0 {
		return nil, fmt.Errorf("none of these hits is a flam or a roll")
	}
	if replaced > 0 {
		return []string{fmt.Sprintf("%s stood where a stroke of another one falls and made way for it.", count(replaced, "hit"))}, nil
	}
	return nil, nil
}

// strokesOf are the strokes of a hit as hits of their own, without ids. Each falls where
// it did: what the feel does at its own place is taken off its nudge.
func (d *Document) strokesOf(lane int, h *groove.Hit) []groove.Hit {
	end := d.Groove.LaneTicks(lane)
	voice := d.Groove.Lanes[lane].Voice
	plain := *h
	plain.Flam, plain.Roll = groove.Flam{}, groove.Even{}
	if h.Rolls() && !h.Cut {
		plain.Length = 0
	}
	g := d.Groove
	line := groove.NewLine(&g, d.Tempo, 0)
	ms := func(tick int) float64 { return line.Seconds(float64(tick)) * 1000 }
	feel := func(tick int) float64 { return d.feelAt(voice, tick) }
	late := feel(h.Tick) + h.Nudge
	var out []groove.Hit
	for _, s := range h.Opened(nil) {
		one := plain
		at := h.Tick + s.Ticks // perhaps beyond the ends of the lane
		if s.Early > 0 {
			at -= max(int(s.Early/1000*d.Tempo[0].BPM/60*music.PPQ+0.5), 1)
		} else if at >= end {
			continue
		}
		one.Tick = (at%end + end) % end
		one.Velocity = min(max(int(float64(h.Velocity)*s.Velocity+0.5), 1), 127)
		one.Semitones += s.Semitones
		falls := late - s.Early
		if s.Ticks > 0 {
			falls += line.SwingAt(lane, h.Tick+s.Ticks) - line.SwingAt(lane, h.Tick)
		}
		away := ms(h.Tick+s.Ticks) + falls - ms(at) // from the straight place it has now
		if nudge := away - feel(one.Tick); math.Abs(nudge) > 0.005 {
			one.Nudge = limit(round2(nudge), groove.MaxNudge)
		} else {
			one.Nudge = 0
		}
		out = append(out, one)
	}
	return out
}

func (e OpenHits) name(_, _ *Document) string { return "Opened into hits" }
