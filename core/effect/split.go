package effect

import "jubrak/core/param"

var _ = register(Kind{
	ID: "split", Label: "Two-band split", Group: Routing, Order: 2, Hint: "Lows and highs with a chain each", Rows: true,
	Paths: []string{"Lows", "Highs"}, Picture: Spectrum, Linear: true,
	Params: []param.Param{
		param.Hertz("low_hz", "Crossover", 40, 12000, 200),
		param.Decibels("low_db", "Lows", -60, 12, 0), param.Decibels("high_db", "Highs", -60, 12, 0),
	},
	Words: func(s Said) [2]string { return [2]string{"two-band split", "at " + s.Hertz("low_hz")} },
	make: func(rate float64) Tuned {
		return newSplit(rate, []string{"low_hz"}, []string{"low_db", "high_db"})
	},
})

var _ = register(Kind{
	ID: "split3", Label: "Three-band split", Group: Routing, Order: 3, Hint: "Lows, mids and highs with a chain each", Rows: true,
	Paths: []string{"Lows", "Mids", "Highs"}, Picture: Spectrum, Linear: true,
	Params: []param.Param{
		param.Hertz("low_hz", "Low crossover", 40, 2000, 160), param.Hertz("high_hz", "High crossover", 500, 16000, 3200),
		param.Decibels("low_db", "Lows", -60, 12, 0), param.Decibels("mid_db", "Mids", -60, 12, 0), param.Decibels("high_db", "Highs", -60, 12, 0),
	},
	Words: func(s Said) [2]string {
		return [2]string{"three-band split", s.Hertz("low_hz") + ", " + s.Hertz("high_hz")}
	},
	make: func(rate float64) Tuned {
		return newSplit(rate, []string{"low_hz", "high_hz"}, []string{"low_db", "mid_db", "high_db"})
	},
})

// Split divides a sound by frequency into two or three paths with chains of their own,
// each held back so that they meet. Left alone they add up flat.
type Split struct {
	rate float64
	// The parameters that say where it divides and how loud its paths are.
	atIDs, levelIDs []string `state:"shared"`
	at              []crossing
	paths           []*Rack
	level           []ramp
	late            []Delay
	band            [][2][MaxBlock]float64
	bands           []Block
}

// newSplit divides at parameters; others are the levels of its paths.
func newSplit(rate float64, at, levels []string) *Split {
	paths := len(levels)
	s := &Split{rate: rate, atIDs: at, levelIDs: levels, at: make([]crossing, paths-1), level: make([]ramp, paths), late: make([]Delay, paths), band: make([][2][MaxBlock]float64, paths), bands: make([]Block, paths)}
	for range paths {
		s.paths = append(s.paths, emptyRack(rate))
	}
	return s
}

func (s *Split) racks() []*Rack { return s.paths }

// Tune takes the parameters of its kind.
func (s *Split) Tune(v Values, glide int) {
	for i, id := range s.atIDs {
		s.at[i].to(v.Get(id), s.rate, glide)
	}
	latest := s.Latency()
	for i := range s.level {
		s.level[i].to(gainOf(v.Get(s.levelIDs[i])), glide)
		s.late[i].Set(latest - s.paths[i].Latency())
	}
}

// Process is run without keys and at rest.
func (s *Split) Process(b Block, _ []float64) { s.run(b, nil, Clock{}) }

func (s *Split) run(b Block, keys Keys, c Clock) {
	for i := range s.bands {
		s.bands[i] = within(&s.band[i], b)
	}
	divide(b, s.at, s.bands)
	b.Clear()
	for i, band := range s.bands {
		s.paths[i].Run(band, keys, c, false)
		s.late[i].Run(band)
		s.level[i].both(band)
		for k := range b.Left {
			b.Left[k] += band.Left[k]
			b.Right[k] += band.Right[k]
		}
	}
}

// Latency is that of the latest path.
func (s *Split) Latency() int {
	n := 0
	for _, p := range s.paths {
		n = max(n, p.Latency())
	}
	return n
}

// Tail is what the lowest crossover rings and the longest path.
func (s *Split) Tail() int {
	n := 0
	for _, p := range s.paths {
		n = max(n, p.Tail())
	}
	return n + int(8/s.at[0].hz*s.rate)
}

// Reset forgets the past.
func (s *Split) Reset() {
	for i := range s.at {
		s.at[i].reset()
	}
	for i := range s.paths {
		s.paths[i].Reset()
		s.level[i].end()
		s.late[i].Reset()
	}
}
