package groove

import (
	"math"
	"slices"
	"sort"
)

// EnoughHits is the least number of hits that says anything about a step or
// a voice; below it a value is nil, "not enough to say".
const EnoughHits = 4

// Measured is the feel of a performance. A nil number could not be reported.
type Measured struct {
	// Grid is the note value of a step: 16 for sixteenths, 12 for eighth
	// triplets.
	Grid int `json:"grid"`
	// Pair is the note value whose pairs were taken to swing, 8 or 16.
	Pair int `json:"pair"`
	// Anchor is the voice whose on-beat hits define offset zero.
	Anchor   string                   `json:"anchor"`
	Swing    *float64                 `json:"swing_percent"`
	SwingErr *float64                 `json:"swing_stderr"`
	Voices   map[string]MeasuredVoice `json:"voices"`
	Drift    *MeasuredDrift           `json:"drift"`
	// OriginShift is what was subtracted from every offset so that the
	// anchor's on-beat hits average zero, ms.
	OriginShift float64 `json:"origin_shift_ms"`
}

// MeasuredVoice is the feel of one voice, with standard errors.
type MeasuredVoice struct {
	Lean    *float64 `json:"lean_ms"`
	LeanErr *float64 `json:"lean_stderr"`
	// Between is how much later, ms, than swing and lean say the voice plays on the
	// second steps of pairs: a voice that swings more or less than the others,
	// or leans on the first steps alone.
	Between    *float64 `json:"between_ms"`
	BetweenErr *float64 `json:"between_stderr"`
	// Scatter is the standard deviation of what swing, lean, contour and
	// drift leave over; Lag1 is its correlation from one hit to the next.
	Scatter *float64 `json:"scatter_ms"`
	Lag1    *float64 `json:"lag1"`
	// Count is the number of hits, Timed that of those whose time speaks for the
	// feel: all but the covered ones, grace notes and the strokes of rolls between
	// steps.
	Count int `json:"count"`
	Timed int `json:"timed"`
	// Contour, Accent and StepCount go by step of the bar. Accent is the mean
	// velocity of the step over the mean of the voice.
	Contour      []*float64 `json:"contour_ms"`
	Accent       []*float64 `json:"accent"`
	StepCount    []int      `json:"step_count"`
	VelocityMean float64    `json:"velocity_mean"`
	VelocitySD   float64    `json:"velocity_sd"`
}

// MeasuredDrift is lateness by bar that repeats every Bars bars.
type MeasuredDrift struct {
	Bars   int       `json:"bars"`
	Curve  []float64 `json:"curve_ms"`
	Voices []string  `json:"voices"`
}

// Frame is what Measure must know of the grid on which hits were placed.
type Frame struct {
	// Steps per beat, beats per bar, and the mean beat in seconds.
	Steps, PerBar int
	Beat          float64
	Pair          int
	// Anchor is preferred as the origin where it has on-beat hits.
	Anchor string
	// Loop is how many bars the hits are of a groove that goes round; 0 of a
	// performance that does not. A drift as long as the loop need not be seen twice.
	Loop int
}

// Measure decomposes the offsets of placed hits into swing, lean, contour,
// drift and scatter. What a roll strikes between steps, and grace notes, have
// none of these. Swing is least squares over the voices that agree about it
// (offset = lean(voice) + delay · shape(step)), refitted without outliers beyond
// 4 robust standard deviations; a lean is the mean of a voice's hits on the first
// steps of pairs; contour and drift are means of what is left. A voice without
// off-steps does not speak for swing; where none speaks, a voice that only plays
// off-steps has no lean.
func Measure(hits []Placed, f Frame) Measured {
	m := Measured{Grid: f.Steps * 4, Pair: f.Pair, Voices: map[string]MeasuredVoice{}}
	if len(hits) == 0 {
		return m
	}
	hits = slices.Clone(hits)
	sort.SliceStable(hits, func(a, b int) bool { return hits[a].Time < hits[b].Time })
	timed := slices.DeleteFunc(slices.Clone(hits), func(h Placed) bool { return h.Covered || !h.onStep() })
	m.Anchor, m.OriginShift = origin(timed, f)
	rows := make([]row, len(timed))
	for i, h := range timed {
		rows[i] = row{Placed: h}
		rows[i].Offset -= m.OriginShift
	}
	drift := findDrift(rows, voicesOf(timed), f, m.Anchor)
	m.Drift = drift.measured()
	fit := bestPair(rows, drift, &f)
	m.Pair = f.Pair
	pair := float64(PairTicks(f.Pair)) / 960 * f.Beat * 1000
	if fit.swingKnown {
		swing, err := 50+100*fit.delay/pair, 100*fit.delayErr/pair
		m.Swing, m.SwingErr = &swing, &err
	}
	for _, v := range voicesOf(hits) {
		m.Voices[v] = measureVoice(v, hits, rows, fit, drift, f)
	}
	return m
}

type row struct {
	Placed
	shape float64
}

func (p *Placed) bar(f Frame) int { return floorDiv(p.Step, f.Steps*f.PerBar) }

func floorDiv(a, b int) int { return int(math.Floor(float64(a) / float64(b))) }

func voicesOf(hits []Placed) []string {
	var out []string
	for i := range hits {
		out = append(out, hits[i].Voice)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// origin picks the anchor and the mean offset of its hits on beats: the
// preferred voice when it has enough of them, else the voice with most.
func origin(hits []Placed, f Frame) (anchor string, shift float64) {
	sums, counts := map[string]float64{}, map[string]int{}
	for _, h := range hits {
		if h.Step%f.Steps == 0 {
			sums[h.Voice] += h.Offset
			counts[h.Voice]++
		}
	}
	anchor = f.Anchor
	if counts[anchor] < EnoughHits {
		for v, n := range counts {
			if n > counts[anchor] || (n == counts[anchor] && v < anchor) {
				anchor = v
			}
		}
	}
	if counts[anchor] == 0 {
		return "", 0
	}
	return anchor, sums[anchor] / float64(counts[anchor])
}

func measureVoice(voice string, hits []Placed, rows []row, fit fitted, drift *foundDrift, f Frame) MeasuredVoice {
	steps := f.Steps * f.PerBar
	v := MeasuredVoice{Contour: make([]*float64, steps), Accent: make([]*float64, steps), StepCount: make([]int, steps)}
	hits = slices.DeleteFunc(slices.Clone(hits), func(h Placed) bool { return h.Voice != voice })
	v.strength(hits, f, steps)
	var mine []*row
	for i := range rows {
		if rows[i].Voice == voice {
			mine = append(mine, &rows[i])
		}
	}
	v.Timed = len(mine)
	lean, known := fit.lean[voice]
	if !known || v.Timed < EnoughHits {
		return v
	}
	leanErr := fit.leanErr[voice]
	v.Lean, v.LeanErr = &lean, &leanErr
	if ms, stderr, ok := fit.between(voice); ok && fit.swingKnown {
		v.Between, v.BetweenErr = &ms, &stderr
	}
	offsets, counts := make([]float64, steps), make([]float64, steps)
	for _, r := range mine {
		s := r.Step - r.bar(f)*steps
		offsets[s] += fit.residual(r, drift, f)
		counts[s]++
	}
	used := 0
	for s, n := range counts {
		if n >= EnoughHits {
			used++
			c := offsets[s] / n
			v.Contour[s] = &c
		}
	}
	v.scatter(mine, fit, drift, f, steps, used)
	return v
}

// strength fills in what velocities show.
func (v *MeasuredVoice) strength(hits []Placed, f Frame, steps int) {
	velocities := make([]float64, steps)
	v.Count = len(hits)
	for _, h := range hits {
		v.VelocityMean += float64(h.Velocity) / float64(v.Count)
		if h.onStep() {
			s := h.Step - h.bar(f)*steps
			v.StepCount[s]++
			velocities[s] += float64(h.Velocity)
		}
	}
	for _, h := range hits {
		d := float64(h.Velocity) - v.VelocityMean
		v.VelocitySD += d * d
	}
	v.VelocitySD = math.Sqrt(v.VelocitySD / math.Max(float64(v.Count-1), 1))
	if v.Count < EnoughHits {
		return
	}
	for s, n := range v.StepCount {
		if n >= EnoughHits {
			a := velocities[s] / float64(n) / v.VelocityMean
			v.Accent[s] = &a
		}
	}
}

// scatter fills Scatter and Lag1 from what the contour leaves.
func (v *MeasuredVoice) scatter(mine []*row, fit fitted, drift *foundDrift, f Frame, steps, used int) {
	rest := make([]float64, 0, len(mine))
	for _, r := range mine {
		e := fit.residual(r, drift, f)
		if c := v.Contour[r.Step-r.bar(f)*steps]; c != nil {
			e -= *c
		}
		rest = append(rest, e)
	}
	free := len(rest) - max(used, 1)
	if free < EnoughHits {
		return
	}
	var sum, lag float64
	for i, e := range rest {
		sum += e * e
		if i > 0 {
			lag += e * rest[i-1]
		}
	}
	sd := math.Sqrt(sum / float64(free))
	v.Scatter = &sd
	if sum > 1e-9 {
		r := lag / sum
		v.Lag1 = &r
	}
}
