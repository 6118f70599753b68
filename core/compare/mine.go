package compare

import (
	"context"
	"math"

	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/measure"
	"jubrak/core/mixreport"
	"jubrak/core/music"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Mine is what is measured of a project for a comparison.
type Mine struct {
	Feel     groove.Measured
	Density  map[sound.Family]float64
	Loudness *float64
	TruePeak *float64
	Crest    *float64
	Balance  map[string]float64
	// Tones is one hit of the first voice of each family that sounds, through its row, its
	// bus and the output.
	Tones map[sound.Family]*measure.Measures
	// Surfaces are the same with brightness and flatness of what is not far below
	// (measure.Surface), as they are compared with a reference's drums.
	Surfaces map[sound.Family]*measure.Measures
	// Shots are the same hits.
	Shots map[sound.Family]*audio.Buffer
	// Buses are measured by their ids.
	Buses map[string]*BusMeasures
	// Levels are those of all hits of a family against all drums, dB.
	Levels map[sound.Family]float64
}

// mostBars and mostEvents bound what is measured of a project whose lanes
// meet again only much later, or whose steps are full.
const (
	mostBars   = 64
	mostEvents = 100000
	mostTime   = 240 // seconds of render
)

// MeasureMine measures the project's own hits over at least eight bars and
// its real render over one cycle, with the sounds of its layers; of a cycle
// longer than 64 bars or four minutes, so much.
func MeasureMine(ctx context.Context, d *project.Document, samples sound.Samples) (*Mine, error) {
	m := &Mine{}
	return m, m.Measure(ctx, d, samples)
}

// Measure is MeasureMine into m, which may hold what was measured before.
func (m *Mine) Measure(ctx context.Context, d *project.Document, samples sound.Samples) error {
	m.MeasureFeel(d)
	if err := m.MeasureWhole(ctx, d, samples); err != nil {
		return err
	}
	return m.MeasureTones(ctx, d, samples)
}

// barsOf is how many bars of a project are measured.
func barsOf(d *project.Document, line *groove.Line) int {
	g := &d.Groove
	return max(min(g.BarsOf(g.CycleTicks()), mostBars, int(line.Ticks(mostTime))/g.Meter.BarTicks()), 1)
}

// MeasureFeel measures where hits fall and how hard they are.
func (m *Mine) MeasureFeel(d *project.Document) {
	m.Feel, m.Density = Feel(d), map[sound.Family]float64{}
	g := &d.Groove
	line := groove.NewLine(g, d.Tempo, 0)
	events, heard := measured(line, g, barsOf(d, line))
	beats := float64(heard*g.Meter.BarTicks()) / music.PPQ
	for _, e := range events {
		if v := d.Kit.Voice(g.Lanes[e.Lane].Voice); v != nil && !v.Mute {
			m.Density[v.Family] += 1 / beats
		}
	}
}

// MeasureWhole renders the project and measures all of it.
func (m *Mine) MeasureWhole(ctx context.Context, d *project.Document, samples sound.Samples) error {
	g := &d.Groove
	bars := barsOf(d, groove.NewLine(g, d.Tempo, 0))
	bounce := engine.Bounce{Rate: engine.Rate, Seamless: true, Stems: true}
	if bars*g.Meter.BarTicks() < g.CycleTicks() {
		bounce.Bars = bars
	}
	out, err := engine.Render(ctx, d.Song(samples), bounce)
	if err != nil {
		return err
	}
	m.Balance = measure.Balance(out.Mix.Mono(), out.Mix.Rate)
	m.Loudness, m.TruePeak, m.Crest = nil, nil, nil
	if l, ok := measure.Integrated(out.Mix); ok {
		m.Loudness = &l
		m.TruePeak, m.Crest = value(measure.TruePeak(out.Mix)), value(audio.DB(out.Mix.Peak()/measure.RMS(out.Mix)))
	}
	m.level(d, out.Stems)
	m.buses(d, out)
	return nil
}

// level measures how loud each family is against all.
func (m *Mine) level(d *project.Document, stems []*audio.Buffer) {
	m.Levels = map[sound.Family]float64{}
	sums, all := map[sound.Family]float64{}, 0.0
	for i := range min(len(stems), len(d.Kit.Voices)) {
		rms := measure.RMS(stems[i])
		sums[d.Kit.Voices[i].Family] += rms * rms * float64(stems[i].Frames())
		all += rms * rms * float64(stems[i].Frames())
	}
	for f, v := range sums {
		if v > 1e-9 {
			m.Levels[f] = 10 * math.Log10(v/all)
		}
	}
}

// MeasureTones measures one hit of the first voice of each family that sounds. What sounds as
// it did when m was measured last is not measured again.
func (m *Mine) MeasureTones(ctx context.Context, d *project.Document, samples sound.Samples) error {
	was := *m
	m.Tones, m.Surfaces, m.Shots = map[sound.Family]*measure.Measures{}, map[sound.Family]*measure.Measures{}, map[sound.Family]*audio.Buffer{}
	for _, f := range sound.Families {
		v := Voice(d, f)
		if v == nil {
			continue
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		b, err := mixreport.Hit(ctx, d, v, samples, d.Stroke().Velocity)
		if err != nil {
			return err
		}
		switch {
		case b.Peak() <= 1e-6:
		case b.Equal(was.Shots[f]):
			m.Tones[f], m.Surfaces[f], m.Shots[f] = was.Tones[f], was.Surfaces[f], was.Shots[f]
		default:
			m.Tones[f], m.Shots[f] = measure.Measure(b), b
			m.Surfaces[f] = surface(m.Tones[f], b)
		}
	}
	return nil
}

// surface are measures with brightness and flatness of what is not far below, and the crest
// of the first 200 ms.
func surface(m *measure.Measures, b *audio.Buffer) *measure.Measures {
	out := *m
	out.Centroid, out.Flatness = measure.Surface(b)
	out.Crest = crestOf(b)
	return &out
}

// Voice is the first voice of a family that is not muted, or nil: what stands for the
// family in a comparison. One that plays stands before one that does not.
func Voice(d *project.Document, f sound.Family) *sound.Voice {
	var first *sound.Voice
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		if v.Family != f || v.Mute {
			continue
		}
		if l := d.Groove.Lane(v.ID); l != nil && len(l.Hits) > 0 {
			return v
		}
		if first == nil {
			first = v
		}
	}
	return first
}

// Feel measures the groove's own hits, by family, over at least eight bars
// with their scatter, in the same way as a reference is measured: hits between
// steps, as in rolls, speak for strength alone.
func Feel(d *project.Document) groove.Measured {
	g := &d.Groove
	steps := max(g.Grid, 1)
	cycle := g.BarsOf(g.CycleTicks())
	bars := min((8+cycle-1)/cycle*cycle, mostBars)
	line := groove.NewLine(g, d.Tempo, 0)
	events, bars := measured(line, g, bars)
	var placed []groove.Placed
	for _, e := range events {
		if v := d.Kit.Voice(g.Lanes[e.Lane].Voice); v != nil {
			placed = append(placed, groove.Placed{
				Heard: groove.Heard{Voice: string(v.Family), Velocity: e.Velocity, Time: e.Time},
				Step:  e.Tick / g.StepTicks(), Within: e.Tick % g.StepTicks(), Offset: e.Offset,
				Grace: e.Stroke < g.Lanes[e.Lane].Hits[e.Hit].Flam.Strokes,
			})
		}
	}
	ticks := bars * g.Meter.BarTicks()
	quarter := line.Seconds(float64(ticks)) / (float64(ticks) / music.PPQ)
	return groove.Measure(placed, groove.Frame{
		Steps: steps, PerBar: max(g.Meter.BarTicks()/music.PPQ, 1), Beat: quarter, Pair: g.Feel.Pair, Anchor: string(sound.Kick),
	})
}

// measured are the events of the first bars, and how many bars these are: fewer
// than asked for where the groove is very dense.
func measured(line *groove.Line, g *groove.Groove, bars int) (events []groove.Event, of int) {
	bar := g.Meter.BarTicks()
	for of < bars && (of == 0 || len(events) < mostEvents) {
		events = line.Events(of*bar, (of+1)*bar, events)
		of++
	}
	return events, of
}
