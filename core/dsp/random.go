// Package dsp holds the small machines of sound: each type does one job,
// keeps its state inside, and works in place on samples without allocating.
package dsp

import "math"

// Mix64 is the finalizer of SplitMix64 (Steele, Lea & Flood 2014, "Fast
// splittable pseudorandom number generators"): a bijection that scatters
// neighbouring inputs over all 64 bits.
func Mix64(x uint64) uint64 {
	x += 0x9E3779B97F4A7C15
	x = (x ^ (x >> 30)) * 0xBF58476D1CE4E5B9
	x = (x ^ (x >> 27)) * 0x94D049BB133111EB
	return x ^ (x >> 31)
}

// Key folds parts into one seed, so that a random number can be named by
// what it belongs to (seed, voice, hit, repetition) and adding a hit does not
// change the others.
func Key(parts ...uint64) uint64 {
	var k uint64
	for _, p := range parts {
		k = Mix64(k ^ p)
	}
	return k
}

// KeyString folds a name into a seed part (FNV-1a).
func KeyString(s string) uint64 {
	h := uint64(14695981039346656037)
	for i := 0; i < len(s); i++ {
		h = (h ^ uint64(s[i])) * 1099511628211
	}
	return h
}

// Uniform turns a key into a number in [0, 1).
func Uniform(key uint64) float64 { return float64(Mix64(key)>>11) / (1 << 53) }

// Gauss turns a key into a draw from the standard normal distribution (Box &
// Muller 1958).
func Gauss(key uint64) float64 {
	u := 1 - Uniform(key)
	v := Uniform(key ^ 0xA5A5A5A5A5A5A5A5)
	return math.Sqrt(-2*math.Log(u)) * math.Cos(2*math.Pi*v)
}

// PinkOctaves is the number of rows summed by Pink: correlation reaches back
// over 2^(PinkOctaves-1) events.
const PinkOctaves = 12

// Pink is the n-th value of a long-range correlated (1/f) series of unit
// variance named by key: a sum of held random rows, one per octave (Voss &
// Clarke 1978, J. Acoust. Soc. Am. 63:258). Any n can be asked for alone.
func Pink(key uint64, n int) float64 {
	var sum float64
	for k := 0; k < PinkOctaves; k++ {
		// Rows change at staggered moments so that no instant renews them all.
		held := (n + (1<<k)/3) >> k
		sum += Gauss(Key(key, uint64(k), uint64(held)))
	}
	return sum / math.Sqrt(PinkOctaves)
}

// Noise is a stream of white noise in -1..1 (xorshift64*, Vigna 2016).
type Noise struct{ state uint64 }

// NewNoise starts a stream; equal seeds give equal streams.
func NewNoise(seed uint64) Noise { return Noise{state: Mix64(seed) | 1} }

// Next returns the next sample.
func (n *Noise) Next() float64 {
	n.state ^= n.state >> 12
	n.state ^= n.state << 25
	n.state ^= n.state >> 27
	return float64(int64(n.state*2685821657736338717)) / (1 << 63)
}

// Run fills a block with noise.
func (n *Noise) Run(x []float64) {
	for i := range x {
		x[i] = n.Next()
	}
}
