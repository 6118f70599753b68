package mixreport

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/measure"
	"jubrak/core/project"
)

// Picture is what an effect does to its own row's sound, over a third of a second from its
// hardest hit on.
type Picture struct {
	Effect string `json:"effect"`
	// Words say it in two short lines.
	Words [2]string `json:"words"`
	// Shows is what there is to see.
	Shows effect.Picture `json:"shows"`
	// Before and After are levels over time, peaks of equal parts, linear.
	Before []float64 `json:"before"`
	After  []float64 `json:"after"`
	// Taken is by how much the effect turns each of those parts, dB, where there is sound.
	Taken []float64 `json:"taken_db"`
	// Hz, SpectrumBefore and SpectrumAfter are third octaves, dB below full scale.
	Hz             []float64 `json:"hz"`
	SpectrumBefore []float64 `json:"spectrum_before_db"`
	SpectrumAfter  []float64 `json:"spectrum_after_db"`
	// Response is what an effect that does the same to all sounds does to each frequency, Hz
	// and dB; empty where it depends on the sound.
	Response [][2]float64 `json:"response"`
	// Transfer is what comes out over what goes in, from -1 to 1, of a slow full wave.
	Transfer [][2]float64 `json:"transfer"`
	// Changed is how much louder the part becomes, K-weighted, LU.
	Changed float64 `json:"changed_lu"`
	// Most is what is taken at most, dB.
	Most float64 `json:"most_db"`
}

// parts is of how many parts a level over time has.
const parts = 110

func picture(s *effect.Effect, d *project.Document, before, after []float64) Picture {
	kind := effect.KindOf(s.Kind)
	p := Picture{Effect: s.ID, Shows: kind.Picture, Transfer: [][2]float64{}, Response: [][2]float64{}, Hz: []float64{}, SpectrumBefore: []float64{}, SpectrumAfter: []float64{}}
	late := min(latencyOf(s), len(after))
	p.Before, p.After = envelope(before), envelope(shifted(after, late))
	p.Taken = make([]float64, len(p.Before))
	for i, x := range p.Before {
		if kind.Reduces && x > 1e-4 && p.After[i] > 1e-6 {
			p.Taken[i] = math.Max(20*math.Log10(p.After[i]/x), -60)
		}
		p.Most = math.Min(p.Most, p.Taken[i])
	}
	p.Hz, p.SpectrumBefore = thirds(before)
	_, p.SpectrumAfter = thirds(after)
	if p.Hz == nil || p.SpectrumAfter == nil {
		p.Hz, p.SpectrumBefore, p.SpectrumAfter = []float64{}, []float64{}, []float64{}
	}
	if kind.Linear {
		p.Response = responseOf(s)
	}
	if p.Shows == effect.Transfer {
		p.Transfer = transfer(s)
	}
	p.Changed = loud(after) - loud(before)
	if math.IsNaN(p.Changed) || math.Abs(p.Changed) > 100 {
		p.Changed = 0
	}
	p.Words = Words(s, d, &p)
	return p
}

// responseOf is an effect's gain at frequencies of equal ratio, 20 Hz to 20 kHz.
func responseOf(s *effect.Effect) [][2]float64 {
	one := s.Clone()
	one.Off, one.Paths = false, nil
	for range effect.KindOf(s.Kind).Paths {
		one.Paths = append(one.Paths, []effect.Effect{})
	}
	gain := gainOf([]effect.Effect{one})
	const points = 97
	out := make([][2]float64, points)
	for i := range out {
		hz := 20 * math.Pow(1000, float64(i)/(points-1))
		out[i] = [2]float64{hz, math.Max(gain(hz), -90)}
	}
	return out
}

// latencyOf is by how many frames an effect is late.
func latencyOf(s *effect.Effect) int {
	return effect.NewRack([]effect.Effect{*s}, engine.Rate, effect.Context{}).Latency()
}

func shifted(x []float64, by int) []float64 {
	out := make([]float64, len(x))
	copy(out, x[by:])
	return out
}

// envelope is the peak of each of so many parts.
func envelope(x []float64) []float64 {
	out := make([]float64, parts)
	for i, v := range x {
		k := min(i*parts/max(len(x), 1), parts-1)
		out[k] = math.Max(out[k], math.Abs(v))
	}
	return out
}

// thirds are third octaves in dB below full scale; nil for silence.
func thirds(x []float64) (hz, db []float64) {
	energy := 0.0
	for _, v := range x {
		energy += v * v
	}
	if energy < 1e-9 {
		return nil, nil
	}
	hz, db = measure.NewMeanSpectrum(x, engine.Rate).ThirdOctaves()
	whole := 10 * math.Log10(energy/float64(len(x)))
	for i := range db {
		db[i] = math.Max(db[i]+whole, -120)
	}
	return hz, db
}

func loud(x []float64) float64 {
	b := audio.New(engine.Rate, 1, len(x))
	for i, v := range x {
		b.Channels[0][i] = float32(v)
	}
	return measure.Loudest(b, windowMS/1000.0)
}

// transfer is what an effect makes of one slow wave of full scale, from its lowest to its
// highest point.
func transfer(s *effect.Effect) [][2]float64 {
	const frames = 4800 // ten waves a second
	one := s.Clone()
	one.Off = false
	if k := effect.KindOf(s.Kind); k.Keyed {
		one.Key = ""
	}
	for _, id := range effect.KindOf(s.Kind).Steady {
		one.Values[id] = 0
	}
	r := effect.NewRack([]effect.Effect{one}, engine.Rate, effect.Context{})
	late := r.Latency()
	in, out := make([]float64, 3*frames+effect.MaxBlock), make([]float64, 0, 3*frames+effect.MaxBlock)
	for i := range in {
		in[i] = -math.Cos(2 * math.Pi * float64(i) / frames)
	}
	var left, right [effect.MaxBlock]float64
	for at := 0; at+effect.MaxBlock <= len(in); at += effect.MaxBlock {
		copy(left[:], in[at:at+effect.MaxBlock])
		copy(right[:], in[at:at+effect.MaxBlock])
		r.Run(effect.Block{Left: left[:], Right: right[:]}, nil, effect.Clock{}, false)
		out = append(out, left[:]...)
	}
	var points [][2]float64
	for k := range 49 {
		i := frames + k*frames/2/48
		if i+late < len(out) {
			points = append(points, [2]float64{in[i], math.Min(math.Max(out[i+late], -2), 2)})
		}
	}
	return points
}
