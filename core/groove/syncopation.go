package groove

import "jubrak/core/music"

// MetricWeights are the weights of the steps of a bar, 0 for its first and one less for
// each level below (Longuet-Higgins & Lee, The rhythmic interpretation of monophonic
// music, Music Perception 1, 1984): a bar of four quarters in sixteenths weighs 0 −4 −3
// −4 −2 −4 −3 −4 −1 −4 −3 −4 −2 −4 −3 −4. Beats of a bar that is not divided by two are
// alike.
func MetricWeights(m music.Meter, stepsPerBeat int) []int {
	out := make([]int, m.Beats*stepsPerBeat)
	// How many levels there are between the bar and its beats, and the beat and its steps.
	beatLevels, n := 0, m.Beats
	for n%2 == 0 {
		beatLevels, n = beatLevels+1, n/2
	}
	if n > 1 {
		beatLevels++ // a level of threes, or of what else is left
	}
	for i := range out {
		out[i] = weight(i, m.Beats, stepsPerBeat, beatLevels)
	}
	return out
}

func weight(i, beats, steps, beatLevels int) int {
	if i == 0 {
		return 0
	}
	if i%steps == 0 { // on a beat
		level, b, n := beatLevels, i/steps, beats
		span := 1
		for n%2 == 0 && b%(span*2) == 0 {
			span, n, level = span*2, n/2, level-1
		}
		return -max(level, 1)
	}
	// Between beats: one level for each halving of the beat, threes at once.
	level, within, length := 0, i%steps, steps
	for {
		level++
		part := 2
		if length%2 != 0 {
			part = length
		}
		length /= part
		if within%length == 0 {
			return -(beatLevels + level)
		}
		within %= length
	}
}

// Syncopation sums, over a bar that repeats, the syncopations of its notes: of each note
// that a rest follows which weighs more, by how much more (Longuet-Higgins & Lee 1984).
// A rest lasts to the next note, and the heaviest step of it counts.
func Syncopation(struck []bool, weights []int) int {
	n, sum := len(struck), 0
	for i := range n {
		if !struck[i] {
			continue
		}
		heaviest, rest := -1<<30, false
		for j := 1; j < n; j++ {
			k := (i + j) % n
			if struck[k] {
				break
			}
			rest = true
			heaviest = max(heaviest, weights[k])
		}
		if rest && heaviest > weights[i] {
			sum += heaviest - weights[i]
		}
	}
	return sum
}

// Syncopated is how syncopated each lane is, by voice: the mean over the bars of its
// first pass, on sixteenths.
func (g *Groove) Syncopated() map[string]float64 {
	steps := 16 / g.Meter.Unit
	if steps < 1 {
		return map[string]float64{}
	}
	weights := MetricWeights(g.Meter, steps)
	bar := g.Meter.BarTicks()
	out := map[string]float64{}
	for i := range g.Lanes {
		l := &g.Lanes[i]
		bars := (g.LaneTicks(i) + bar - 1) / bar
		if len(l.Hits) == 0 || bars == 0 {
			continue
		}
		list := make([][]bool, bars)
		for b := range list {
			list[b] = make([]bool, len(weights))
		}
		for _, h := range l.Hits {
			if h.Tick%(music.PPQ/4) == 0 && h.struckEver() {
				list[h.Tick/bar][h.Tick%bar/(music.PPQ/4)] = true
			}
		}
		for _, b := range list {
			out[l.Voice] += float64(Syncopation(b, weights)) / float64(bars)
		}
	}
	return out
}

// struckEver reports whether a hit is not dropped.
func (h *Hit) struckEver() bool { return h.Of == 0 || h.Times > 0 }
