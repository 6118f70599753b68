// Package match judges a project against a reference: what differs, by how
// much, whether anyone would hear it, and what would close the gap.
package match

import (
	"context"
	"fmt"
	"math"
	"strings"

	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/listen"
	"jubrak/core/music"
	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/synth"
	"jubrak/core/tone"
)

// Row is one measure of the comparison. A nil number could not be told; then
// Inside is nil too and Why says why.
type Row struct {
	ID         string       `json:"id"`
	Measure    string       `json:"measure"`
	Family     sound.Family `json:"family,omitempty"`
	Unit       string       `json:"unit"`
	Mine       *float64     `json:"mine"`
	Reference  *float64     `json:"reference"`
	Difference *float64     `json:"difference"`
	Tolerance  float64      `json:"tolerance"`
	Inside     *bool        `json:"inside"`
	Why        string       `json:"why"`
	// Change says what would close the gap, and Edits does it; both are
	// empty where nothing needs or can be changed by one edit.
	Change string        `json:"change"`
	Edits  project.Edits `json:"edits"`
}

// Comparison is the whole judgement.
type Comparison struct {
	Rows    []Row `json:"rows"`
	Outside int   `json:"outside"`
	Told    int   `json:"told"`
	// profile widens tolerances where the reference is one.
	profile *profile.Profile
}

// Tolerances. Times: one displaced event in a series is just noticed at about
// 6 ms below 240 ms spacing (Friberg & Sundberg 1995). Level: about 1 dB,
// which is 6 % of velocity. Pitch: 20 cents at 50 Hz (common practice).
const (
	leanTolerance     = 6.0  // ms
	scatterTolerance  = 2.0  // ms
	tempoTolerance    = 0.5  // %
	velocityTolerance = 6.0  // of 127
	densityTolerance  = 0.25 // hits per beat
	pitchTolerance    = 20.0 // cents
	balanceTolerance  = 2.0  // dB
	loudnessTolerance = 1.0  // LU
)

// Mine is what is measured of a project for a comparison.
type Mine struct {
	Feel     groove.Measured
	Density  map[sound.Family]float64
	Loudness *float64
	KickHz   *float64
	Balance  map[string]float64
	// Tones is one hit of the first voice of each family, where they are
	// asked for (MeasureTones).
	Tones map[sound.Family]*tone.Measures
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
// longer than 64 bars or four minutes, so much. pause, where it is not nil, is
// called again and again while it renders, and may hold it up.
func MeasureMine(ctx context.Context, d *project.Document, samples sound.Samples, pause func()) (*Mine, error) {
	m := &Mine{Density: map[sound.Family]float64{}, Feel: Feel(d)}
	g := &d.Groove
	line := groove.NewLine(g, d.Tempo, 0)
	bar := g.Meter.BarTicks()
	bars := max(min(g.BarsOf(g.CycleTicks()), mostBars, int(line.Ticks(mostTime))/bar), 1)
	events, heard := measured(line, g, bars)
	beats := float64(heard*bar) / music.PPQ
	for _, e := range events {
		if v := d.Kit.Voice(g.Lanes[e.Lane].Voice); v != nil && !v.Mute {
			m.Density[v.Family] += 1 / beats
		}
	}
	bounce := engine.Bounce{Rate: engine.Rate, Seamless: true, Pause: pause}
	if bars*bar < g.CycleTicks() {
		bounce.Bars = bars
	}
	out, err := engine.Render(ctx, d.Song(samples), bounce)
	if err != nil {
		return nil, err
	}
	m.Balance = tone.Balance(out.Mix.Mono(), out.Mix.Rate)
	if l, ok := tone.Integrated(out.Mix); ok {
		m.Loudness = &l
	}
	for i := range d.Kit.Voices {
		if v := &d.Kit.Voices[i]; v.Family == sound.Kick && m.KickHz == nil {
			shot := synth.Shot(v, samples, engine.Rate, d.Stroke(), 2000)
			if hz, ok := tone.Fundamental(shot.Mono(), engine.Rate, 25, 200); ok {
				m.KickHz = &hz
			}
		}
	}
	return m, nil
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

// Compare sets the rows of mine against a reference's analysis. Where the
// reference is a profile, p is it: its ranges count as tolerance.
func Compare(d *project.Document, mine *Mine, ref *listen.Analysis, p *profile.Profile) *Comparison {
	c := &Comparison{Rows: []Row{}, profile: p}
	c.tempo(d, ref)
	theirs := ref.Feel
	if theirs == nil {
		theirs = &groove.Measured{Voices: map[string]groove.MeasuredVoice{}}
	}
	c.swing(d, &mine.Feel, theirs)
	for _, f := range sound.Families {
		c.family(d, f, mine, theirs, ref)
	}
	c.kick(d, mine, ref)
	c.tones(d, mine)
	c.balance(mine, ref)
	c.loudness(d, mine, ref)
	for i := range c.Rows {
		if c.Rows[i].Inside != nil {
			c.Told++
			if !*c.Rows[i].Inside {
				c.Outside++
			}
		}
	}
	return c
}

// add fills in difference and judgement and offers the change where the row
// is outside.
func (c *Comparison) add(r Row, change string, edits ...project.Edit) {
	r.Edits = project.Edits{}
	change = minus.Replace(change)
	if c.profile != nil {
		r.Tolerance = math.Max(r.Tolerance, c.profile.Room(r.ID))
	}
	switch {
	case r.Mine != nil && r.Reference != nil:
		diff := *r.Mine - *r.Reference
		if r.Unit == "ct" {
			diff = 1200 * math.Log2(*r.Mine / *r.Reference)
		}
		inside := math.Abs(diff) <= r.Tolerance
		r.Difference, r.Inside = &diff, &inside
		if !inside {
			r.Change = change
			r.Edits = append(r.Edits, edits...)
		}
	case r.Why == "" && r.Mine == nil:
		r.Why = "not enough in mine to say"
	case r.Why == "":
		r.Why = "not enough in the reference to say"
	}
	c.Rows = append(c.Rows, r)
}

// minus writes negative amounts with the true sign.
var minus = strings.NewReplacer(" -", " −", "-0.0", "0.0")

func value(v float64) *float64 { return &v }

func (c *Comparison) tempo(d *project.Document, ref *listen.Analysis) {
	r := Row{ID: "tempo", Measure: "Tempo", Unit: "BPM", Mine: value(d.Tempo[0].BPM), Reference: ref.Tempo}
	var to float64
	if ref.Tempo != nil {
		r.Tolerance = *ref.Tempo * tempoTolerance / 100
		to = math.Round(*ref.Tempo*100) / 100
	}
	c.add(r, fmt.Sprintf("Set the tempo to %.2f BPM", to), project.SetNumber{At: "tempo/bpm", Value: to})
}

func (c *Comparison) swing(d *project.Document, mine, theirs *groove.Measured) {
	pair := 2 * 60 / d.Tempo[0].BPM * 4 / float64(d.Groove.Feel.Pair) * 1000
	r := Row{ID: "swing", Measure: "Swing", Unit: "%", Mine: mine.Swing, Reference: theirs.Swing, Tolerance: leanTolerance / pair * 100}
	edits := project.Edits{}
	text := ""
	if mine.Swing != nil && theirs.Swing != nil {
		if theirs.Pair != d.Groove.Feel.Pair {
			edits = append(edits, project.SetPair{Pair: theirs.Pair})
		}
		to := math.Min(math.Max(*theirs.Swing, 25), 75)
		text = fmt.Sprintf("Swing %.1f → %.1f %%", *mine.Swing, to)
		edits = append(edits, project.SetNumber{At: "groove/feel/swing_percent", Value: math.Round(to*100) / 100})
		if d.Groove.Feel.Strength < 100 {
			edits = append(edits, project.SetNumber{At: "groove/feel/strength_percent", Value: 100})
		}
	}
	c.add(r, text, edits...)
}

// family adds lean, scatter, velocity and density of one family.
func (c *Comparison) family(d *project.Document, f sound.Family, mine *Mine, theirs *groove.Measured, ref *listen.Analysis) {
	a, inMine := mine.Feel.Voices[string(f)]
	b, inTheirs := theirs.Voices[string(f)]
	if !inMine && !inTheirs {
		return
	}
	id, name := "", string(f)
	for i := range d.Kit.Voices {
		if d.Kit.Voices[i].Family == f {
			id = d.Kit.Voices[i].ID
			break
		}
	}
	why := ""
	if !inMine {
		why = "no hits of mine"
	} else if !inTheirs {
		why = "no hits in the reference"
	}
	now := d.Groove.Feel.Voices[id]
	row := func(measure, unit string, tolerance float64) Row {
		return Row{ID: measure + "." + name, Measure: measure, Family: f, Unit: unit, Tolerance: tolerance, Why: why}
	}
	lean := row("Lean", "ms", leanTolerance)
	lean.Mine, lean.Reference = a.Lean, b.Lean
	to, by := 0.0, 0.0
	if a.Lean != nil && b.Lean != nil {
		by = *b.Lean - *a.Lean
		to = math.Min(math.Max(now.Lean+by, -groove.MaxLean), groove.MaxLean)
	}
	c.add(lean, fmt.Sprintf("Lean %+.1f ms", by), project.SetNumber{At: "groove/feel/" + id + "/lean_ms", Value: math.Round(to*100) / 100})
	scatter := row("Scatter", "ms", scatterTolerance)
	scatter.Mine, scatter.Reference = a.Scatter, b.Scatter
	sd := 0.0
	if b.Scatter != nil {
		sd = math.Round(math.Min(*b.Scatter, groove.MaxScatter)*100) / 100
	}
	c.add(scatter, fmt.Sprintf("Scatter %.1f ms", sd), project.SetNumber{At: "groove/feel/" + id + "/scatter_ms", Value: sd})
	vel := row("Velocity", "", velocityTolerance)
	if inMine && inTheirs {
		vel.Mine, vel.Reference = value(a.VelocityMean), value(b.VelocityMean)
		delta := math.Round(d.VelocityRoom(id, b.VelocityMean-a.VelocityMean))
		c.add(vel, fmt.Sprintf("All hits %+.0f", delta), project.ChangeHits{Hits: hitsOf(d, id), Number: "velocity", By: delta})
	} else {
		c.add(vel, "")
	}
	density := row("Density", "/beat", densityTolerance)
	density.Why = ""
	density.Mine, density.Reference = value(mine.Density[f]), value(ref.Groove.Density[f])
	c.add(density, "Add or take away hits")
}

func hitsOf(d *project.Document, voice string) []project.HitRef {
	refs := []project.HitRef{}
	if l := d.Groove.Lane(voice); l != nil {
		for _, h := range l.Hits {
			refs = append(refs, project.HitRef{Voice: voice, Hit: h.ID})
		}
	}
	return refs
}

func (c *Comparison) kick(d *project.Document, mine *Mine, ref *listen.Analysis) {
	v := d.Kit.ForFamily(sound.Kick)
	if v == nil {
		return
	}
	r := Row{ID: "kick.pitch", Measure: "Kick fundamental", Family: sound.Kick, Unit: "ct", Mine: mine.KickHz, Reference: ref.KickHz, Tolerance: pitchTolerance}
	text, edits := "", project.Edits(nil)
	if mine.KickHz != nil && ref.KickHz != nil {
		ratio := *ref.KickHz / *mine.KickHz
		text = fmt.Sprintf("Fundamental %.1f → %.1f Hz", *mine.KickHz, *ref.KickHz)
		edits = scaled(v, "body.end_hz", "body.start_hz")(ratio)
	}
	c.add(r, text, edits...)
}

func (c *Comparison) balance(mine *Mine, ref *listen.Analysis) {
	regions := map[string]*float64{}
	if ref.Balance != nil {
		b := ref.Balance
		regions = map[string]*float64{"sub": &b.Sub, "low": &b.Low, "low_mid": &b.LowMid, "presence": &b.Presence, "air": &b.Air}
	}
	for _, region := range tone.Regions {
		r := Row{ID: "balance." + region.Name, Measure: "Balance " + regionNames[region.Name], Unit: "dB", Reference: regions[region.Name], Tolerance: balanceTolerance}
		if v, ok := mine.Balance[region.Name]; ok {
			r.Mine = &v
		}
		text := ""
		if r.Mine != nil && r.Reference != nil {
			by := *r.Reference - *r.Mine
			text = fmt.Sprintf("Change by %+.1f dB in %.0f-%.0f Hz", by, region.From, region.To)
		}
		c.add(r, text)
	}
}

var regionNames = map[string]string{"sub": "sub", "low": "low", "low_mid": "low mid", "presence": "presence", "air": "air"}

func (c *Comparison) loudness(d *project.Document, mine *Mine, ref *listen.Analysis) {
	r := Row{ID: "loudness", Measure: "Loudness", Unit: "LUFS", Mine: mine.Loudness, Reference: ref.Level.Integrated, Tolerance: loudnessTolerance}
	text, edits := "", project.Edits{}
	if r.Mine != nil && r.Reference != nil {
		by := math.Round((*r.Reference-*r.Mine)*10) / 10
		text = fmt.Sprintf("All voices %+.1f dB", by)
		for i := range d.Kit.Voices {
			edits = append(edits, project.ChangeNumber{At: d.Kit.Voices[i].ID + "/level_db", By: by})
		}
	}
	c.add(r, text, edits...)
}

// MatchGain is the linear gain that brings a reference of the given loudness
// to mine, for listening; within ±24 dB. 1 where either is unknown.
func MatchGain(mine, reference *float64) float64 {
	if mine == nil || reference == nil {
		return 1
	}
	return audio.Gain(math.Min(math.Max(*mine-*reference, -24), 24))
}
