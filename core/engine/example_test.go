package engine_test

import (
	"context"
	"fmt"

	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
)

func fourOnTheFloor() engine.Song {
	s := engine.Song{Kit: sound.DefaultKit(), Tempo: music.Steady(120)}
	s.Groove = groove.Groove{Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1}
	kick := s.Groove.EnsureLane("kick")
	for beat := range 4 {
		kick.Hits = append(kick.Hits, groove.Hit{ID: kick.NewHitID(), Tick: beat * music.PPQ, Velocity: 110})
	}
	return s
}

// A loop that fits itself, and its stems, which add up to it.
func ExampleRender() {
	out, err := engine.Render(context.Background(), fourOnTheFloor(), engine.Bounce{Rate: engine.Rate, Seamless: true, Stems: true})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("%.1f s, %d stems\n", out.Mix.Seconds(), len(out.Stems))
	// Output: 2.0 s, 5 stems
}

// The live path: an edited song is made ready beside the engine and swapped in
// between two blocks.
func ExampleEngine_Swap() {
	song := fourOnTheFloor()
	playing := engine.Prepare(song, engine.Rate, nil)
	e := engine.New(engine.Rate)
	e.Swap(playing)
	e.Play(0)
	var left, right [256]float64
	e.Process(left[:], right[:])

	song.Tempo = music.Steady(90)
	e.Swap(engine.Prepare(song, engine.Rate, playing))
	e.Process(left[:], right[:])
	fmt.Println(e.Playing(), left[0] != 0)
	// Output: true true
}
