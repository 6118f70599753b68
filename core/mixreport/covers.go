package mixreport

import (
	"math"
	"slices"

	"jubrak/core/engine"
	"jubrak/core/measure"
	"jubrak/core/project"
)

// Cover is a voice that is louder than another one where that one has its own weight,
// while it strikes.
type Cover struct {
	// Covers is the louder voice, Covered the other one.
	Covers  string `json:"covers"`
	Covered string `json:"covered"`
	// From and To bound the band, Hz.
	From float64 `json:"from_hz"`
	To   float64 `json:"to_hz"`
	// By is how much louder it is there, dB.
	By float64 `json:"by_db"`
	// Cut is what helps: a bell at Hz by so many dB, in the louder voice.
	Cut Bell `json:"cut"`
}

// Bell is one band of an equalizer.
type Bell struct {
	Hz   float64 `json:"hz"`
	Gain float64 `json:"gain_db"`
	Q    float64 `json:"q"`
}

// What counts as covered, in dB.
const (
	weightDown = 8.0 // what lies so far below the fullest third octave is still its own weight
	coveredBy  = 3.0 // the least that is reported
	deepestCut = 6.0
	mostCovers = 6
)

// striking is over how many frames from a hit on a voice is listened to: while its
// attack and body are heard.
const striking = 9600

// covers are the pairs of voices that cover each other, the most covered first.
func covers(d *project.Document, t *taken) []Cover {
	n := len(d.Kit.Voices)
	hits, mono := make([][]int, n), make([][]float64, n)
	for i := range n {
		mono[i] = t.rows[i].Mono()
		hits[i] = strikes(mono[i])
	}
	out := []Cover{}
	for b := range n {
		if len(hits[b]) == 0 || d.Kit.Voices[b].Mute {
			continue
		}
		hz, own := during(mono[b], hits[b])
		if own == nil {
			continue
		}
		top := slices.Max(around(own))
		for a := range n {
			if a == b || d.Kit.Voices[a].Mute {
				continue
			}
			_, over := during(mono[a], hits[b])
			if over == nil {
				continue
			}
			if c, ok := worst(hz, own, over, top); ok {
				c.Covers, c.Covered = d.Kit.Voices[a].ID, d.Kit.Voices[b].ID
				out = append(out, c)
			}
		}
	}
	slices.SortFunc(out, func(x, y Cover) int { return int(math.Round((y.By - x.By) * 1000)) })
	return out[:min(len(out), mostCovers)]
}

// around is the energy of each third octave with its neighbours, dB: as wide as the ear
// hears one thing hide another, and no tone counts for less because it lies near the edge
// of its band.
func around(db []float64) []float64 {
	out := make([]float64, len(db))
	for i := range db {
		sum := 0.0
		for k := max(i-1, 0); k <= min(i+1, len(db)-1); k++ {
			sum += math.Pow(10, db[k]/10)
		}
		out[i] = 10 * math.Log10(sum)
	}
	return out
}

// worst is the band of neighbouring third octaves in which over lies above own most.
func worst(hz, own, over []float64, top float64) (c Cover, found bool) {
	own, over = around(own), around(over)
	at := -1
	for i := range hz {
		if own[i] > top-weightDown && over[i]-own[i] > coveredBy && (at < 0 || over[i]-own[i] > over[at]-own[at]) {
			at = i
		}
	}
	if at < 0 {
		return c, false
	}
	from, to := at, at
	is := func(i int) bool {
		return i >= 0 && i < len(hz) && own[i] > top-weightDown && over[i]-own[i] > coveredBy
	}
	for is(from - 1) {
		from--
	}
	for is(to + 1) {
		to++
	}
	third := math.Pow(10, 0.05)
	c.From, c.To, c.By = hz[from]/third, hz[to]*third, over[at]-own[at]
	c.Cut = Bell{Hz: math.Sqrt(c.From * c.To), Gain: -math.Min(math.Max(c.By/2, 2), deepestCut), Q: math.Min(math.Max(math.Sqrt(c.From*c.To)/(c.To-c.From), 0.5), 6)}
	return c, true
}

// during are the third octaves of a row while another one strikes, dB below full scale.
func during(x []float64, hits []int) (hz, db []float64) {
	var part []float64
	for _, at := range hits[:min(len(hits), 8)] {
		part = append(part, x[at:min(at+striking, len(x))]...)
	}
	energy := 0.0
	for _, v := range part {
		energy += v * v
	}
	if energy/float64(max(len(part), 1)) < 1e-9 {
		return nil, nil
	}
	hz, db = measure.NewMeanSpectrum(part, engine.Rate).ThirdOctaves()
	for i := range db {
		db[i] += 10 * math.Log10(energy/float64(len(part)))
	}
	return hz, db
}

// strikes are the frames at which a row rises well above where it was: its hits as they
// come out, whatever its chain makes of them.
func strikes(x []float64) (out []int) {
	const hop = 240
	peak := 0.0
	for _, v := range x {
		peak = math.Max(peak, math.Abs(v))
	}
	if peak < 1e-4 {
		return nil
	}
	slow, last := 0.0, -striking
	for at := 0; at+hop <= len(x); at += hop {
		m := 0.0
		for _, v := range x[at : at+hop] {
			m = math.Max(m, math.Abs(v))
		}
		if m > 0.2*peak && m > 2*slow && at-last >= striking/2 {
			out = append(out, at)
			last = at
		}
		slow = math.Max(m, slow*0.9)
	}
	return out
}
