package workshop

import (
	"math"

	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/deliver"
	"jubrak/core/match"
	"jubrak/core/tone"
)

// VoiceSound is a voice rendered, measured and drawn.
type VoiceSound struct {
	Measures tone.Measures `json:"measures"`
	// Span is the length of the charts in ms.
	Span float64 `json:"span_ms"`
	Wave Peaks   `json:"wave"`
	// Target is the slice that the voice is built towards, or null.
	Target *SliceSound `json:"target"`
	// Layers are drawn in the order of the voice's.
	Layers []LayerSound `json:"layers"`
	// Together is how they add up.
	Together match.Together `json:"together"`
}

// VoiceSound renders one hit of a voice and takes its tone. The velocity is
// 110, so that small differences of taste in velocity do not show.
func (s *Workshop) VoiceSound(id, voice string) (*VoiceSound, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	v := st.Document.Kit.Voice(voice)
	if v == nil {
		return nil, store.ErrNotFound
	}
	samples := s.samples(&st.Document)
	b := deliver.Shot(v, samples)
	out := &VoiceSound{Measures: *tone.Measure(b)}
	out.Span = span(b)
	out.Wave = *drawPeaks(b, &Peaks{From: 0, To: out.Span / 1000, Points: [][2]float64{}}, 700)
	out.Layers = layerSounds(v, samples, out.Span)
	out.Together = *match.AddUp(v, samples)
	out.Target, err = s.target(&st.Document, v.Family)
	return out, err
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
