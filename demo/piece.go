package demo

import (
	"jubrak/core/arrange"
	"jubrak/core/mixer"
	"jubrak/core/project"
)

const bar = 4 * 960 // ticks

// warmUpPiece arranges the warm-up laps: 48 bars in five sections, entries at odd bars, a
// kick that loses its lows before a bar of silence, and a hat that opens on the full floor.
func warmUpPiece() project.Edits {
	return project.Edits{
		project.SetSection{Section: "s1", Name: new("Doors"), Bars: new(8)},
		project.AddSection{Name: "Slow lap", Bars: 15},
		project.AddSection{Name: "Hold", Bars: 3},
		project.AddSection{Name: "Full floor", Bars: 16},
		project.AddSection{Name: "Last lap", Bars: 6},
		project.PaintRows{Voices: []string{"kick", "snare", "808"}, From: 0, To: 8 * bar},
		project.PaintRows{Voices: []string{"snare"}, From: 8 * bar, To: 9 * bar},
		project.PaintRows{Voices: []string{"open"}, From: 8 * bar, To: 19 * bar},
		project.PaintRows{Voices: []string{"snare", "open", "808"}, From: 23 * bar, To: 25 * bar},
		project.AddDropout{At: 25 * bar, Length: bar, Keeps: []string{}, Cuts: true},
		project.PaintRows{Voices: []string{"kick", "808"}, From: 45 * bar, To: 48 * bar},
		project.Automate{Section: "s2", At: "kick/layers/drum/low_cut_hz", Points: []mixer.AutomationPoint{{Bar: 10, Value: 20}, {Bar: 15, Value: 150}}},
		project.Automate{Section: "s3", At: "kick/layers/drum/low_cut_hz", Points: []mixer.AutomationPoint{{Bar: 0, Value: 150}, {Bar: 2, Value: 190}}},
		project.Automate{Section: "s4", At: "hat/layers/drum/noise.decay_ms", Points: []mixer.AutomationPoint{{Bar: 0, Value: 45}, {Bar: 16, Value: 160}}},
		project.PlaceFill{At: 33*bar + bar/2, Fill: "fill-hiphop-straight-1"},
		project.PlaceObject{Kind: arrange.Impact, Voice: "kick", At: 26 * bar},
		project.PlaceObject{Kind: arrange.Reverse, Voice: "open", At: 26 * bar, Length: bar / 2},
		project.AddMarker{Name: "Drop", At: 26 * bar},
	}
}
