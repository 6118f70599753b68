package service

import (
	"maps"
	"math"
	"slices"

	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/compare"
	"jubrak/core/export"
	"jubrak/core/groove"
	"jubrak/core/measure"
	"jubrak/core/preset"
	"jubrak/core/project"
)

// VoiceSound is a voice rendered, measured and drawn.
type VoiceSound struct {
	Measures measure.Measures `json:"measures"`
	// Span is the length of the charts in ms.
	Span float64 `json:"span_ms"`
	Wave Peaks   `json:"wave"`
	// Target is what the voice is built towards, or null.
	Target *TargetSound `json:"target"`
	// Layers are drawn in the order of the voice's.
	Layers []LayerSound `json:"layers"`
	// Together is how they add up.
	Together compare.Together `json:"together"`
	// Jobs are what each layer is for; none where there is one layer.
	Jobs []compare.Job `json:"jobs"`
	// Outside says what does not measure as the voice's family usually does; empty
	// where all does.
	Outside string `json:"outside_family"`
	// BeatMS is how long a beat lasts at the project's tempo.
	BeatMS float64 `json:"beat_ms"`
	// Next are the shortest times from one of the voice's hits to the next, ms, and
	// how loud the sound still is there against its peak, dB.
	Next []NextHit `json:"next"`
}

// NextHit is where the next hit of a voice comes after one.
type NextHit struct {
	MS   float64 `json:"ms"`
	Tail float64 `json:"tail_db"`
}

// VoiceSound renders one hit of a voice and takes its tone. The velocity is
// 110, so that small differences of taste in velocity do not show. Zoom is how much
// longer than usual its start is drawn, 1 to 16.
func (s *Service) VoiceSound(id, voice string, zoom int) (*VoiceSound, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	v := st.Document.Kit.Voice(voice)
	if v == nil {
		return nil, store.ErrNotFound
	}
	samples := s.samples(&st.Document)
	stroke := st.Document.Stroke()
	b := export.Shot(v, samples, stroke)
	out := &VoiceSound{Measures: *measure.Measure(b)}
	out.Span = span(b) / float64(min(max(zoom, 1), 16))
	out.Wave = *drawPeaks(b, &Peaks{From: 0, To: out.Span / 1000, Points: [][2]float64{}}, 700)
	out.Layers = layerSounds(v, samples, stroke, out.Span)
	out.Together = *compare.AddUp(v, samples)
	out.BeatMS = stroke.BeatMS
	out.Jobs = compare.Jobs(v, samples, stroke)
	_, out.Outside = preset.InFamily(v.Family, preset.Facts{Fundamental: out.Measures.Fundamental, Decay: out.Measures.Decay, Brightness: out.Measures.Centroid, Attack: out.Measures.Attack})
	out.Next = nextHits(&st.Document, voice, b)
	out.Target, err = s.target(&st.Document, voice)
	return out, err
}

// nextHits are the two shortest times from a hit of a voice's lane to the next, with
// what is left of the sound there.
func nextHits(d *project.Document, voice string, b *audio.Buffer) []NextHit {
	out := []NextHit{}
	place := slices.IndexFunc(d.Groove.Lanes, func(l groove.Lane) bool { return l.Voice == voice })
	if place < 0 || b.Peak() == 0 {
		return out
	}
	falls := groove.NewLine(&d.Groove, d.Tempo, 0).Falls(place)
	line := groove.NewLine(&d.Groove, d.Tempo, 0)
	times := make([]float64, 0, len(falls)+1)
	for i := range falls {
		times = append(times, line.Seconds(float64(d.Groove.Lanes[place].Hits[falls[i].Hit].Tick))+falls[i].Offset/1000)
	}
	slices.Sort(times)
	if len(times) > 0 {
		times = append(times, times[0]+line.Seconds(float64(d.Groove.LaneTicks(place))))
	}
	gaps := map[float64]bool{}
	for i := 1; i < len(times); i++ {
		if gap := math.Round((times[i] - times[i-1]) * 1000); gap > 5 {
			gaps[gap] = true
		}
	}
	sorted := slices.Sorted(maps.Keys(gaps))
	mono := b.Mono()
	for i, ms := range sorted {
		if i > 0 && ms < 1.2*out[0].MS || len(out) == 2 {
			continue
		}
		out = append(out, NextHit{ms, levelAt(mono, int(ms/1000*float64(b.Rate)), b.Rate)})
	}
	return out
}

// levelAt is the level of 10 ms up to a frame against the peak, dB, at least -90.
func levelAt(x []float64, at, rate int) float64 {
	var peak, sum float64
	for _, v := range x {
		peak = math.Max(peak, math.Abs(v))
	}
	n := rate / 100
	for i := max(at-n, 0); i < min(at, len(x)); i++ {
		sum = math.Max(sum, math.Abs(x[i]))
	}
	return math.Max(20*math.Log10(sum/peak+1e-9), -90)
}

// span chooses a round length for the charts: until the sound is 48 dB down.
func span(b *audio.Buffer) float64 {
	x := b.Channels[0]
	limit := float32(b.Peak() * 0.004)
	end := len(x)
	for end > 1 && x[end-1] < limit && x[end-1] > -limit {
		end--
	}
	ms := float64(end) / float64(b.Rate) * 1000
	for _, round := range []float64{50, 100, 150, 200, 300, 400, 500, 600, 800, 1000, 1500, 2000, 3000, 4000} {
		if ms <= round {
			return round
		}
	}
	return math.Ceil(ms/1000) * 1000
}
