package mix

import "jubrak/core/param"

var parallelKind = forks(1, kind("parallel", "Parallel", func(rate float64) Tuned { return &Parallel{path: emptyRack(rate)} },
	percent("amount_percent", "Mixed in", 0, 100, 15),
	percent("dry_percent", "Sound itself", 0, 100, 100),
))

// forks is a kind of rows that holds chains of its own.
func forks(paths int, k Kind) Kind {
	k.Rows, k.Paths = true, paths
	return k
}

// Parallel mixes a copy that goes through a chain of its own to the sound, which is held
// back by what the copy is late.
type Parallel struct {
	path        *Rack
	amount, dry ramp
	late        Delay
	copied      [2][MaxBlock]float64
}

func (p *Parallel) racks() []*Rack { return []*Rack{p.path} }

// Tune takes how much of the copy and of the sound itself is heard.
func (p *Parallel) Tune(v []float64, glide int) {
	p.amount.to(v[0]/100, glide)
	p.dry.to(v[1]/100, glide)
	p.late.Set(p.path.Latency())
}

// Process is run without keys and at rest.
func (p *Parallel) Process(b Block, _ []float64) { p.run(b, nil, Clock{}) }

func (p *Parallel) run(b Block, keys Keys, c Clock) {
	wet := within(&p.copied, b)
	copy(wet.Left, b.Left)
	copy(wet.Right, b.Right)
	p.path.Run(wet, keys, c, false)
	p.late.Run(b)
	for i := range b.Left {
		amount, dry := p.amount.next(), p.dry.next()
		b.Left[i] = b.Left[i]*dry + wet.Left[i]*amount
		b.Right[i] = b.Right[i]*dry + wet.Right[i]*amount
	}
}

// Latency is the chain's.
func (p *Parallel) Latency() int { return p.path.Latency() }

// Tail is the chain's.
func (p *Parallel) Tail() int { return p.path.Tail() }

// Reset forgets the past.
func (p *Parallel) Reset() {
	p.amount.end()
	p.dry.end()
	p.late.Reset()
	p.path.Reset()
}

var (
	splitKind = forks(2, kind("split", "Split in two", func(rate float64) Tuned { return newSplit(rate, 2) },
		hz("low_hz", "Divides at", 40, 12000, 200), db("low_db", "Lows", -60, 12, 0), db("high_db", "Highs", -60, 12, 0)))
	split3Kind = forks(3, kind("split3", "Split in three", func(rate float64) Tuned { return newSplit(rate, 3) },
		[]param.Param{hz("low_hz", "Lows below", 40, 2000, 160), hz("high_hz", "Highs above", 500, 16000, 3200),
			db("low_db", "Lows", -60, 12, 0), db("mid_db", "Mids", -60, 12, 0), db("high_db", "Highs", -60, 12, 0)}...))
)

// Split divides a sound by frequency into two or three paths with chains of their own,
// each held back so that they meet. Left alone they add up flat.
type Split struct {
	rate  float64
	at    []crossing
	paths []*Rack
	level []ramp
	late  []Delay
	band  [][2][MaxBlock]float64
	bands []Block
}

func newSplit(rate float64, paths int) *Split {
	s := &Split{rate: rate, at: make([]crossing, paths-1), level: make([]ramp, paths), late: make([]Delay, paths), band: make([][2][MaxBlock]float64, paths), bands: make([]Block, paths)}
	for range paths {
		s.paths = append(s.paths, emptyRack(rate))
	}
	return s
}

func (s *Split) racks() []*Rack { return s.paths }

// Tune takes where it divides and how loud the paths are.
func (s *Split) Tune(v []float64, glide int) {
	for i := range s.at {
		s.at[i].to(v[i], s.rate, glide)
	}
	latest := s.Latency()
	for i := range s.level {
		s.level[i].to(gainOf(v[len(s.at)+i]), glide)
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
