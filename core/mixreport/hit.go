package mixreport

import (
	"context"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// hitMS is the longest hit that is measured.
const hitMS = 3000

// InRow is one hit of a voice through the effects of its row, before its level and pan.
// What follows the song's beats rather than the stroke is left out.
func InRow(ctx context.Context, d *project.Document, of *sound.Voice, samples sound.Samples, velocity int) (*audio.Buffer, error) {
	v := alone(of)
	v.Level, v.Pan = 0, 0
	v.To, v.Sends = "", []mixer.Send{}
	song := oneHit(d, v, samples, velocity)
	song.Mix = mixer.Desk{Shapes: d.Mix.Shapes}
	out, err := engine.Render(ctx, song, engine.Bounce{Rate: engine.Rate, Bars: 1, Stems: true})
	if err != nil {
		return nil, err
	}
	return out.Stems[0], nil
}

// Hit is one hit of a voice as it comes out of the mix with nothing beside it: through its
// row, its sends, its bus and the output; at most 3 s.
func Hit(ctx context.Context, d *project.Document, of *sound.Voice, samples sound.Samples, velocity int) (*audio.Buffer, error) {
	v := alone(of)
	if len(v.Chain) == 0 && len(v.Sends) == 0 && v.To == "" && len(d.Mix.Out.Chain) == 0 && v.Pan == 0 {
		s := d.Stroke()
		s.Velocity = velocity
		return synth.Shot(&v, samples, engine.Rate, s, hitMS), nil
	}
	out, err := engine.Render(ctx, oneHit(d, v, samples, velocity), engine.Bounce{Rate: engine.Rate, Bars: 1})
	if err != nil {
		return nil, err
	}
	return out.Mix.Slice(0, min(out.Mix.Frames(), hitMS*engine.Rate/1000)), nil
}

// alone is a voice without what others do to it and without what ducks it by the beats.
func alone(of *sound.Voice) sound.Voice {
	v := *of
	v.Mute, v.CutBy, v.Gate = false, nil, nil
	v.Chain = slices.DeleteFunc(effect.CloneChain(of.Chain), func(s effect.Effect) bool { return effect.KindOf(s.Kind).Shaped })
	return v
}

func oneHit(d *project.Document, v sound.Voice, samples sound.Samples, velocity int) engine.Song {
	g := groove.Groove{Name: v.Name, Bars: 1, Meter: music.Meter{Beats: 1, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1,
		Lanes: []groove.Lane{{Voice: v.ID, Hits: []groove.Hit{{ID: "h", Velocity: velocity}}}}}
	song := d.Song(samples)
	song.Kit, song.Groove, song.Tempo = sound.Kit{Voices: []sound.Voice{v}}, g, music.Steady(d.Tempo[0].BPM)
	return song
}
