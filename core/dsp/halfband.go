package dsp

// Half-band filters of two paths of allpass sections (Regalia, Mitra &
// Vaidyanathan 1988, Proc. IEEE 76:19; Valenzuela & Constantinides 1983). They double
// and halve a rate in blocks. Each section's last output is the next one's last
// input, so a path of n sections remembers n+1 values.

// path2 is two sections in a row.
type path2 struct{ s0, s1, s2 float64 }

// up writes what comes out to every second place of out.
func (p *path2) up(x, out []float64, a, b float64) {
	s0, s1, s2 := p.s0, p.s1, p.s2
	out = out[:2*len(x)-1]
	for i, v := range x {
		y := a*(v-s1) + s0
		z := b*(y-s2) + s1
		s0, s1, s2 = v, y, z
		out[2*i] = z
	}
	p.s0, p.s1, p.s2 = s0, s1, s2
}

// down takes every second sample of x and adds half of what comes out to out.
func (p *path2) down(x, out []float64, a, b float64) {
	s0, s1, s2 := p.s0, p.s1, p.s2
	x = x[:2*len(out)-1]
	for i := range out {
		v := x[2*i]
		y := a*(v-s1) + s0
		z := b*(y-s2) + s1
		s0, s1, s2 = v, y, z
		out[i] += 0.5 * z
	}
	p.s0, p.s1, p.s2 = s0, s1, s2
}

// path6 is six sections in a row.
type path6 struct{ s [7]float64 }

func (p *path6) up(x, out []float64, c *[6]float64) {
	s0, s1, s2, s3, s4, s5, s6 := p.s[0], p.s[1], p.s[2], p.s[3], p.s[4], p.s[5], p.s[6]
	c1, c2, c3, c4, c5, c6 := c[0], c[1], c[2], c[3], c[4], c[5]
	out = out[:2*len(x)-1]
	for i, v := range x {
		y1 := c1*(v-s1) + s0
		y2 := c2*(y1-s2) + s1
		y3 := c3*(y2-s3) + s2
		y4 := c4*(y3-s4) + s3
		y5 := c5*(y4-s5) + s4
		y6 := c6*(y5-s6) + s5
		s0, s1, s2, s3, s4, s5, s6 = v, y1, y2, y3, y4, y5, y6
		out[2*i] = y6
	}
	p.s = [7]float64{s0, s1, s2, s3, s4, s5, s6}
}

func (p *path6) down(x, out []float64, c *[6]float64) {
	s0, s1, s2, s3, s4, s5, s6 := p.s[0], p.s[1], p.s[2], p.s[3], p.s[4], p.s[5], p.s[6]
	c1, c2, c3, c4, c5, c6 := c[0], c[1], c[2], c[3], c[4], c[5]
	x = x[:2*len(out)-1]
	for i := range out {
		v := x[2*i]
		y1 := c1*(v-s1) + s0
		y2 := c2*(y1-s2) + s1
		y3 := c3*(y2-s3) + s2
		y4 := c4*(y3-s4) + s3
		y5 := c5*(y4-s5) + s4
		y6 := c6*(y5-s6) + s5
		s0, s1, s2, s3, s4, s5, s6 = v, y1, y2, y3, y4, y5, y6
		out[i] += 0.5 * y6
	}
	p.s = [7]float64{s0, s1, s2, s3, s4, s5, s6}
}

// quick is flat to 0.22 and at least 68 dB down from 0.30 of the doubled rate.
var quickEven, quickOdd = [2]float64{0.07986642623635751, 0.5453536510711322}, [2]float64{0.28382934487410993, 0.8344118914807379}

// wide is for rates that are far above what is heard: flat to 0.15 and at least
// 100 dB down from 0.35 of the doubled rate.
var wideEven, wideOdd = func() (even, odd [2]float64) {
	for i := range 4 {
		[2]*[2]float64{&even, &odd}[i%2][i/2] = halfbandCoefficient(i, 4, 0.2)
	}
	return even, odd
}()

// steep is flat to 0.245 and at least 100 dB down from 0.255, so that what lies just
// above half the rate does not fold back.
var (
	steepEven = [6]float64{0.036681502163648017, 0.27463175937945411, 0.56109896978791948, 0.769741833862266, 0.8922608180038789, 0.962094548378084}
	steepOdd  = [6]float64{0.13654762463195771, 0.42313861743656667, 0.6775400499741616, 0.839889624849638, 0.9315419599631839, 0.9878163707328971}
)

// band2 and band6 are the two paths of a half-band filter.
type band2 struct{ even, odd path2 }

type band6 struct{ even, odd path6 }

// up doubles the rate: out is twice as long as x.
func (h *band2) up(x, out []float64, even, odd *[2]float64) {
	h.even.up(x, out, even[0], even[1])
	h.odd.up(x, out[1:], odd[0], odd[1])
}

// down halves it: x is twice as long as out.
func (h *band2) down(x, out []float64, even, odd *[2]float64) {
	clear(out)
	h.even.down(x[1:], out, even[0], even[1])
	h.odd.down(x, out, odd[0], odd[1])
}

func (h *band6) up(x, out []float64, even, odd *[6]float64) {
	h.even.up(x, out, even)
	h.odd.up(x, out[1:], odd)
}

func (h *band6) down(x, out []float64, even, odd *[6]float64) {
	clear(out)
	h.even.down(x[1:], out, even)
	h.odd.down(x, out, odd)
}
