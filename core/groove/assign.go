package groove

import "math"

// Heard is one hit of a performance: when, on which row, how hard.
type Heard struct {
	Voice    string
	Time     float64 // seconds
	Velocity int     // 1..127
	// Covered is a hit whose time is not measured, only likely: it speaks for
	// strength, not for time.
	Covered bool
}

// Placed is a heard hit with its place on the grid.
type Placed struct {
	Heard
	// Step counts steps from bar one and may be negative before it.
	Step int
	// Within is by how many ticks, 960 to a beat, a stroke of a roll comes after
	// its step; 0 for what is struck on a step.
	Within int
	// Grace is a softer stroke just before another of its voice, on the way to
	// whose step it is: the first of a flam, or of a drag.
	Grace bool
	// Offset is how late the hit falls against the straight grid, ms.
	Offset float64
}

// Assign gives each hit its step on the straight grid of steps per beat,
// bearing in mind that swung hits lie far from it: it tries swings from 45
// to 75 % on eighths and sixteenths and takes the nearest step under the one
// that fits best, with a slight preference for less swing. Rolls are put on
// the finer places that they divide the beat into. It returns the hits in the
// order given, the rolls, and the pair (8 or 16) whose swing it assumed.
func Assign(hits []Heard, grid *BeatGrid, steps int) (placed []Placed, rolls []Roll, pair int) {
	swing, pair := Swing(hits, grid, steps)
	rolls = findRolls(hits, grid, steps, swing, pair)
	inRoll := make([]bool, len(hits))
	for _, r := range rolls {
		for _, i := range r.Hits {
			inRoll[i] = true
		}
	}
	var on []Heard
	for i, h := range hits {
		if !inRoll[i] {
			on = append(on, h)
		}
	}
	swing, pair = Swing(on, grid, steps)
	placed = make([]Placed, len(hits))
	put := func(i, step, within int) {
		beat := float64(step)/float64(steps) + float64(within)/960
		placed[i] = Placed{Heard: hits[i], Step: step, Within: within, Offset: (grid.Position(hits[i].Time) - beat) * grid.BeatSeconds(beat) * 1000}
	}
	for i, h := range hits {
		if !inRoll[i] {
			step, _ := NearestStep(grid.Position(h.Time), steps, swing, pair)
			put(i, step, 0)
		}
	}
	for _, r := range rolls {
		from := r.start(steps, swing, pair)
		for k, i := range r.Hits {
			tick := from + k*960/r.PerBeat
			step := floorDiv(tick*steps, 960)
			put(i, step, tick-step*960/steps)
		}
	}
	markGraces(placed)
	return placed, rolls, pair
}

// onStep reports whether a stroke is one of the grid's, not one between steps or on
// the way to one.
func (p *Placed) onStep() bool { return p.Within == 0 && !p.Grace }

// NearestStep finds the step (steps to a beat) whose swung place lies nearest to
// a position in beats, and the distance in beats.
func NearestStep(at float64, steps int, swing float64, pair int) (step int, distance float64) {
	base := int(math.Round(at * float64(steps)))
	distance = math.Inf(1)
	for s := base - 1; s <= base+1; s++ {
		if d := math.Abs(at - SwungBeat(s, steps, swing, pair)); d < distance {
			step, distance = s, d
		}
	}
	return step, distance
}

// SwungBeat is the place of a step in beats under a swing.
func SwungBeat(step, steps int, swing float64, pair int) float64 {
	tick := float64(step) * 960 / float64(steps)
	length := float64(PairTicks(pair)) / 960
	return float64(step)/float64(steps) + (swing/100-0.5)*length*SwingShape(tick, pair)
}

// Swing finds the swing, 45 to 75 %, and the pair, 8 or 16, under which the hits
// lie nearest to the steps of the grid.
func Swing(hits []Heard, grid *BeatGrid, steps int) (swing float64, pair int) {
	best := math.Inf(1)
	swing, pair = 50, 16
	if steps%2 != 0 {
		return swing, pair // triplet grids have no pairs to swing
	}
	at, weight := positions(hits, grid)
	for _, p := range []int{16, 8} {
		if p == 16 && steps < 4 {
			continue
		}
		for s := 45.0; s <= 75; s++ {
			cost := 0.0
			for i, x := range at {
				_, d := NearestStep(x, steps, s, p)
				cost += math.Min(d, 0.1) * weight[i]
			}
			cost /= float64(max(len(hits), 1))
			cost += 0.00012 * math.Abs(s-50)
			if p == 8 {
				cost += 0.0005
			}
			if cost < best-1e-12 {
				best, swing, pair = cost, s, p
			}
		}
	}
	return swing, pair
}

// Of more hits than manyHits it matters only how many lie where within two beats, after
// which every swing repeats; that is counted to within a quarter of a tick.
const (
	manyHits = 4096
	fineness = 4 * 960
)

// positions are where hits lie, in beats, and how many lie there.
func positions(hits []Heard, grid *BeatGrid) (at, weight []float64) {
	if len(hits) <= manyHits {
		for _, h := range hits {
			at, weight = append(at, grid.Position(h.Time)), append(weight, 1)
		}
		return at, weight
	}
	var count [2 * fineness]float64
	for _, h := range hits {
		place := int(math.Floor(grid.Position(h.Time)*fineness + 0.5))
		count[wrap(place, len(count))]++
	}
	for i, n := range count {
		if n > 0 {
			at, weight = append(at, float64(i)/fineness), append(weight, n)
		}
	}
	return at, weight
}
