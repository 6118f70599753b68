package effect

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// multiband is a compressor of so many bands.
func multiband(bands int, values map[string]float64) *Rack {
	all := map[string]float64{"bands": float64(bands - fewestBands)}
	for id, v := range values {
		all[id] = v
	}
	return NewRack([]Effect{New("m", KindOf("multiband"), all)}, rate, Context{})
}

// gainAt is the gain of a tone through it, dB against the tone.
func gainAt(r *Rack, hz, gain float64) float64 {
	b := sine(hz, gain, rate)
	for i := 0; i < rate; i += 480 {
		r.Run(b.Part(i, i+480), nil, Clock{}, false)
	}
	energy := 0.0
	for _, v := range b.Left[rate/2:] {
		energy += v * v
	}
	return 10*math.Log10(energy/(rate/2)) - 20*math.Log10(gain/math.Sqrt2)
}

// Below all thresholds the bands add up flat (Linkwitz & Riley 1976), however many.
func TestMultibandAddsUpFlat(t *testing.T) {
	for bands := fewestBands; bands <= mostBands; bands++ {
		for _, hz := range []float64{40, 120, 300, 500, 1000, 2000, 4000, 6000, 9000, 15000} {
			assert.InDelta(t, 0, gainAt(multiband(bands, nil), hz, 0.003), 0.1, "%d bands, %g Hz", bands, hz)
		}
	}
}

// A band turns its own part down by its own curve, Giannoulis, Massberg & Reiss 2012, eq. 4:
// (T + (x−T)/R) − x above the knee, and leaves the others.
func TestEachBandHasItsOwnCurve(t *testing.T) {
	values := map[string]float64{"cross1_hz": 40, "cross2_hz": 100, "cross3_hz": 10000, "knee_db": 0, "attack_ms": 1, "release_ms": 1000}
	for i := range mostBands {
		values[fmt.Sprintf("part%d.threshold_db", i+1)], values[fmt.Sprintf("part%d.ratio", i+1)] = 0, 1
	}
	values["part3.threshold_db"], values["part3.ratio"], values["part3.gain_db"] = -26, 4, 3
	at := func(hz float64) float64 { return gainAt(multiband(6, values), hz, math.Pow(10, -6/20.0)) }
	assert.InDelta(t, -20+20.0/4+3, at(1000), 0.25)
	assert.InDelta(t, 0, at(30), 0.3)
	assert.InDelta(t, 0, at(18000), 0.3)
}

// Crossovers that are crossed over are held at the one before.
func TestCrossoversDoNotCross(t *testing.T) {
	assert.InDelta(t, 0, gainAt(multiband(4, map[string]float64{"cross1_hz": 3000, "cross2_hz": 100, "cross3_hz": 50}), 700, 0.003), 0.1)
}
