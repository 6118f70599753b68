package transcribe_test

import (
	"context"
	"fmt"

	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/preset"
	"jubrak/core/sound"
	"jubrak/core/synth"
	"jubrak/core/transcribe"
)

// A recording is heard and reported: kicks on the beats and a snare on two and four.
func ExampleAnalyze() {
	b := audio.New(engine.Rate, 1, 4*engine.Rate)
	put := func(of sound.Family, at float64) {
		for _, s := range preset.Sounds() {
			if s.Family != of {
				continue
			}
			v := sound.NewVoice("v", "V", of)
			v.Layers = s.Layers
			shot := synth.Shot(&v, nil, engine.Rate, synth.Stroke{Velocity: 110, Seed: 1, BeatMS: 500}, 600)
			for i, x := range shot.Mono() {
				if k := int(at*engine.Rate) + i; k < b.Frames() {
					b.Channels[0][k] += float32(x) * 0.4
				}
			}
			return
		}
	}
	for beat := range 8 {
		put(sound.Kick, float64(beat)*0.5)
		if beat%2 == 1 {
			put(sound.Snare, float64(beat)*0.5)
		}
	}
	raw, err := transcribe.Analyze(context.Background(), b, func(string, float64) {})
	if err != nil {
		fmt.Println(err)
		return
	}
	a := transcribe.Finish(raw, nil)
	fmt.Printf("%.0f BPM, all hits heard: %v\n", raw.Grid.BPM(), len(a.Hits) >= 12)
	// Output:
	// 120 BPM, all hits heard: true
}
