package effect

import "jubrak/core/param"

var _ = register(Kind{
	ID: "parallel", Label: "Parallel", Group: Routing, Order: 1, Hint: "A copy with its own chain", Rows: true, Mixed: 100,
	Paths: []string{"Copy"}, Picture: Levels,
	Params: []param.Param{
		param.Percent("amount_percent", "Wet level", 0, 100, 15),
		param.Percent("dry_percent", "Dry level", 0, 100, 100),
	},
	Words: func(s Said) [2]string { return [2]string{"parallel", s.Text("amount_percent") + " % wet"} },
	make:  func(rate float64) Tuned { return &Parallel{path: emptyRack(rate)} },
})

// Parallel mixes a copy that goes through a chain of its own to the sound, which is held
// back by what the copy is late.
type Parallel struct {
	path        *Rack
	amount, dry ramp
	late        Delay
	copied      [2][MaxBlock]float64
}

func (p *Parallel) racks() []*Rack { return []*Rack{p.path} }

// Tune takes the parameters of its kind.
func (p *Parallel) Tune(v Values, glide int) {
	p.amount.to(v.Get("amount_percent")/100, glide)
	p.dry.to(v.Get("dry_percent")/100, glide)
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
