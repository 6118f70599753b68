package mix

var bandsKind = kind("bands", "Three-band compressor", func(rate float64) Tuned { return newBands(rate) },
	hz("low_hz", "Lows below", 40, 1000, 160),
	hz("high_hz", "Highs above", 1000, 16000, 3200),
	db("threshold_db", "Threshold", -60, 0, -24),
	ratio("ratio", "Ratio", 1, 30, 4),
	db("up_threshold_db", "Lifts below", -80, 0, -40),
	ratio("up_ratio", "Lift", 1, 4, 2),
	ms("attack_ms", "Attack", 0.1, 200, 5),
	ms("release_ms", "Release", 5, 2000, 100),
	db("low_gain_db", "Lows", -24, 24, 0),
	db("mid_gain_db", "Mids", -24, 24, 0),
	db("high_gain_db", "Highs", -24, 24, 0),
)

// Bands compresses three bands apart, down and up. The bands are those of
// crossovers of fourth order (Linkwitz & Riley 1976, J. Audio Eng. Soc. 24:2); left
// alone they add up flat.
type Bands struct {
	rate  float64
	split [2]crossing
	each  [3]Compressor
	band  [3][2][MaxBlock]float64
}

func newBands(rate float64) *Bands {
	b := &Bands{rate: rate}
	for i := range b.each {
		b.each[i].rate = rate
	}
	return b
}

// Tune takes the numbers of its kind.
func (b *Bands) Tune(v []float64, glide int) {
	for i, hz := range v[:2] {
		b.split[i].to(hz, b.rate, glide)
	}
	for i := range b.each {
		numbers := [9]float64{0, v[2], v[3], 6, v[4], v[5], v[6], v[7], v[8+i]}
		b.each[i].Tune(numbers[:], glide)
	}
}

func (b *Bands) at(c Clock) {
	for i := range b.each {
		b.each[i].at(c)
	}
}

// Process compresses.
func (b *Bands) Process(block Block, key []float64) {
	var bands [3]Block
	for k := range bands {
		bands[k] = within(&b.band[k], block)
	}
	divide(block, b.split[:], bands[:])
	for k := range bands {
		b.each[k].Process(bands[k], key)
	}
	for c, x := range [2][]float64{block.Left, block.Right} {
		for i := range x {
			x[i] = b.band[0][c][i] + b.band[1][c][i] + b.band[2][c][i]
		}
	}
}

// Latency is 0.
func (b *Bands) Latency() int { return 0 }

// Tail is what the lower crossover rings.
func (b *Bands) Tail() int { return int(8 / b.split[0].hz * b.rate) }

// Reset forgets the past.
func (b *Bands) Reset() {
	for i := range b.split {
		b.split[i].reset()
	}
	for i := range b.each {
		b.each[i].Reset()
	}
}
