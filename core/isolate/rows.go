package isolate

import (
	"math"
	"slices"
	"sort"

	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// stroke is one hit of a row.
type stroke struct {
	hit   string
	place float64 // of its beginning, samples in what is worked on
	from  float64 // where that place 0 is in the recording, samples
	gain  float64 // against the row's drum
	match float64 // how alike it is to the drum, 0..1
	next  float64 // the place of whatever is struck next
	used  bool
	out   bool // left out by the user
}

// row is a drum of the reference while it is taken out.
type row struct {
	family  sound.Family
	group   int
	drums   int // of how many drums it is made, as the user says; 0 is not said
	strokes []stroke
	length  int       // of the drum, samples
	wave    []float32 // what all strokes have in common
	count   int       // strokes that are combined
	field   *field    // the power that all rows add without a phase

	// By frame and bin: what strokes have in common, how much chance adds to it, the power
	// of the drum's own noise, and of what else sounds at a stroke of gain 1.
	same   [][]complex128
	chance [][]float64
	own    [][]float64
	around [][]float64

	bands   [][2]int    // of bins
	level   [][]float64 // power by frame and band, as far as is known
	sure    [][]float64 // its uncertainty, dB
	claimed [][]float64 // the uncertainty that is reported, dB: at least that
}

// longest is how much of a drum is kept, seconds (common practice: what rings longer is
// rarely struck with that much room).
func longest(f sound.Family) float64 {
	switch f {
	case sound.HatClosed, sound.Rim, sound.Shaker, sound.Clap, sound.Cowbell, sound.Perc:
		return 0.4
	case sound.HatOpen, sound.Ride, sound.Tom, sound.Conga, sound.Tambourine:
		return 0.8
	case sound.Crash, sound.Bass808:
		return 1.5
	}
	return 0.6
}

// rowsOf files hits by family.
func rowsOf(hits []transcribe.Hit, choices Choices) []*row {
	by := map[sound.Family]*row{}
	var rows []*row
	shared := &field{}
	for i, h := range hits {
		r := by[h.Family]
		if r == nil {
			r = &row{family: h.Family, length: lead + int(longest(h.Family)*rate), field: shared, drums: choices.Rows[h.Family]}
			by[h.Family] = r
			rows = append(rows, r)
		}
		next := math.Inf(1)
		for _, o := range hits[i+1:] {
			if o.Time > h.Time+0.02 {
				next = o.Time*rate - 48
				break
			}
		}
		v := math.Max(float64(h.Velocity), 4) / 112
		r.strokes = append(r.strokes, stroke{hit: h.ID, place: h.Time * rate, gain: v * v, next: next, out: slices.Contains(choices.LeftOut, h.ID)})
	}
	sort.SliceStable(rows, func(a, b int) bool {
		return slices.Index(sound.Families, rows[a].family) < slices.Index(sound.Families, rows[b].family)
	})
	return rows
}

// inside leaves the likeliest strokes of the part that is worked on in use: loud ones, with
// room, alike.
func (r *row) inside(frames int) {
	score := func(s *stroke) float64 {
		return (0.2 + math.Max(s.match, 0)) * math.Sqrt(s.gain) * math.Min(0.3+(s.next-s.place)/rate, 0.6)
	}
	var order []int
	for i := range r.strokes {
		s := &r.strokes[i]
		s.used = false
		if !s.out && s.place >= 0 && s.place < float64(frames) {
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(i, j int) int { return -compare(score(&r.strokes[i]), score(&r.strokes[j])) })
	for _, i := range order[:min(len(order), mostStrokes)] {
		r.strokes[i].used = true
	}
}

// inUse are the indices of the strokes that are combined.
func (r *row) inUse() (use []int) {
	for i := range r.strokes {
		if r.strokes[i].used {
			use = append(use, i)
		}
	}
	return use
}

// gap is how soon a stroke of the row is usually followed by another, samples.
func (r *row) gap() float64 {
	var gaps []float64
	for i := 1; i < len(r.strokes); i++ {
		before, s := &r.strokes[i-1], &r.strokes[i]
		gaps = append(gaps, s.place+s.from-before.place-before.from)
	}
	if len(gaps) == 0 {
		return math.MaxInt32
	}
	slices.Sort(gaps)
	return gaps[len(gaps)*3/10]
}

// move goes to another place in what is worked on; the stroke's own in the recording stays.
func (s *stroke) move(by float64) {
	s.place, s.next, s.from = s.place+by, s.next+by, s.from-by
}

// list is the strokes at their times in the recording.
func (r *row) list() []Stroke {
	out := make([]Stroke, 0, len(r.strokes))
	for _, s := range r.strokes {
		out = append(out, Stroke{
			Hit: s.hit, Time: (s.place + s.from) / rate, Level: round1(20 * math.Log10(s.gain)),
			Match: math.Round(100*math.Min(math.Max(s.match, 0), 1)) / 100, Used: s.used, Out: s.out,
		})
	}
	return out
}

func compare(a, b float64) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

func round1(v float64) float64 { return math.Round(v*10) / 10 }
