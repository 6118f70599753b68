package export

import (
	"context"
	"math"

	"jubrak/core/engine"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Level is how loud a set of files comes out.
type Level struct {
	// Peak is the highest sample of all, dBFS; null where all is silent.
	Peak *float64 `json:"peak_dbfs"`
	// Over counts the samples beyond full scale; files of whole numbers cut
	// them off.
	Over int `json:"over_samples"`
	// File is the one with the peak, without its ending.
	File string `json:"file"`
}

// Above is how far the peak lies above full scale, dB; 0 if it does not.
func (l *Level) Above() float64 {
	if l.Peak == nil {
		return 0
	}
	return max(*l.Peak, 0)
}

// LevelOf measures parts.
func LevelOf(parts []Part) Level {
	var l Level
	most := float32(0)
	for _, p := range parts {
		for _, ch := range p.B.Channels {
			for _, x := range ch {
				if x = max(x, -x); x > most {
					most, l.File = x, p.Name
				}
				if x > 1 {
					l.Over++
				}
			}
		}
	}
	if most > 0 {
		db := 20 * math.Log10(float64(most))
		l.Peak = &db
	}
	return l
}

// Levels are those of everything that may be handed over as sound.
type Levels struct {
	Loop     Level `json:"loop"`
	Stems    Level `json:"stems"`
	OneShots Level `json:"one_shots"`
	// Missing are layers that stay silent, as their sound is not there.
	Missing []project.LayerOf `json:"missing"`
}

// Measure renders a project as it would be handed over, at no change of level,
// and returns how loud each part comes out.
func Measure(ctx context.Context, d *project.Document, samples sound.Samples, o Options) (*Levels, error) {
	out, err := engine.Render(ctx, d.Song(samples), engine.Bounce{Rate: engine.Rate, Bars: o.Bars, Seamless: true, Stems: true})
	if err != nil {
		return nil, err
	}
	o.Gain = 0
	shots, err := OneShots(ctx, d, samples, o)
	if err != nil {
		return nil, err
	}
	return &Levels{
		Loop:     LevelOf([]Part{loopPart(d, out)}),
		Stems:    LevelOf(stemParts(d, out)),
		OneShots: LevelOf(shots),
		Missing:  d.LayersWithout(func(blob string) bool { return samples[blob] != nil }),
	}, nil
}
