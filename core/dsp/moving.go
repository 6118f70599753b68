package dsp

// Moving is a filter whose coefficients may go to others in a straight line, frame by
// frame. Between two stable filters all on the way are stable: what a1 and a2 may be is
// a triangle.
type Moving struct {
	Biquad
	to, by Biquad
	left   int // frames to go
}

// To goes to the coefficients of another filter in so many frames, or has them at once
// with 0. What is remembered goes on.
func (m *Moving) To(o Biquad, frames int) {
	m.left = frames
	if frames == 0 {
		m.Take(o)
		return
	}
	n := 1 / float64(frames)
	m.to = o
	m.by = Biquad{B0: (o.B0 - m.B0) * n, B1: (o.B1 - m.B1) * n, B2: (o.B2 - m.B2) * n, A1: (o.A1 - m.A1) * n, A2: (o.A2 - m.A2) * n}
}

// Next filters one sample.
func (m *Moving) Next(x float64) float64 {
	if m.left > 0 {
		if m.left--; m.left == 0 {
			m.Take(m.to)
		} else {
			m.B0, m.B1, m.B2, m.A1, m.A2 = m.B0+m.by.B0, m.B1+m.by.B1, m.B2+m.by.B2, m.A1+m.by.A1, m.A2+m.by.A2
		}
	}
	return m.Biquad.Next(x)
}

// Run filters a block in place.
func (m *Moving) Run(x []float64) {
	i := 0
	for ; i < len(x) && m.left > 0; i++ {
		x[i] = m.Next(x[i])
	}
	m.Biquad.Run(x[i:])
}

// Reset forgets the past and ends where the filter goes.
func (m *Moving) Reset() {
	if m.left > 0 {
		m.left = 0
		m.Take(m.to)
	}
	m.Biquad.Reset()
}

// RunRow filters a block in place with one filter after the other. Two at a time run in
// step, so that neither waits for itself.
func RunRow(x []float64, filters []*Moving) {
	for ; len(filters) >= 2 && filters[0].left == 0 && filters[1].left == 0; filters = filters[2:] {
		f, g := filters[0].Biquad, filters[1].Biquad
		for i, v := range x {
			y := f.B0*v + f.z1
			f.z1 = f.B1*v - f.A1*y + f.z2
			f.z2 = f.B2*v - f.A2*y
			u := g.B0*y + g.z1
			g.z1 = g.B1*y - g.A1*u + g.z2
			g.z2 = g.B2*y - g.A2*u
			x[i] = u
		}
		filters[0].Biquad, filters[1].Biquad = f, g
	}
	for _, f := range filters {
		f.Run(x)
	}
}

// RunPair filters two channels in place with two filters of the same coefficients.
func RunPair(f, g *Moving, x, y []float64) {
	if f.left > 0 || g.left > 0 {
		f.Run(x)
		g.Run(y)
		return
	}
	RunBoth(&f.Biquad, &g.Biquad, x, y)
}
