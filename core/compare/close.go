package compare

import (
	"context"
	"fmt"
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/measure"
	"jubrak/core/mixreport"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Closer closes rows whose Act is ByMeasure: it moves numbers of the voice while it
// measures one hit through the mix, by secants, until the row lies well inside.
type Closer struct {
	Samples sound.Samples
	// Env is that of edits.
	Env project.Env
	// Plain is set against a profile, whose ranges are of plain measures.
	Plain bool
}

// Ids of effects that closing puts behind what a row has.
const (
	closingEqualizer = "match-eq"
	closingTransient = "match-transient"
	closingWidth     = "match-width"
)

const (
	closeTries = 7   // renders for one way
	wellInside = 0.3 // of the tolerance
)

// way is one number, or several that belong together, that moves a measure. x is 0 where
// nothing is moved.
type way struct {
	// slope is by how much the difference grows for a step of x, in the row's unit: where
	// the search begins.
	slope float64
	low   float64
	high  float64
	edits func(v *sound.Voice, x float64) project.Edits
}

// Close finds edits that close a row of a voice, and how far off it is then; no edits where
// none of its ways brings it nearer.
func (k *Closer) Close(ctx context.Context, d *project.Document, r *Row) (project.Edits, float64, error) {
	v := d.Kit.Voice(r.Voice)
	if v == nil || r.Reference == nil || r.Difference == nil {
		return nil, 0, nil
	}
	now, err := k.measure(ctx, d, r, nil)
	if err != nil || now == nil {
		return nil, 0, err
	}
	best, edits := math.Abs(*now), project.Edits(nil)
	for _, w := range waysOf(r) {
		e, off, err := k.secant(ctx, d, v, r, &w, *now)
		if err != nil {
			return nil, 0, err
		}
		if off < best-0.02*best {
			best, edits = off, e
		}
		if best <= r.Tolerance+r.Within {
			break
		}
	}
	return edits, best, nil
}

// secant moves one way until the difference is near 0.
func (k *Closer) secant(ctx context.Context, d *project.Document, v *sound.Voice, r *Row, w *way, f0 float64) (project.Edits, float64, error) {
	x0 := 0.0
	best, edits := math.Abs(f0), project.Edits(nil)
	x := -f0 / w.slope
	for range closeTries {
		x = math.Min(math.Max(x, w.low), w.high)
		if math.Abs(x-x0) < 1e-3*(w.high-w.low) {
			break
		}
		try := w.edits(v, x)
		if len(try) == 0 {
			break // nothing of this voice goes that way
		}
		f, err := k.measure(ctx, d, r, try)
		if err != nil {
			return nil, 0, err
		}
		if f == nil {
			break // it cannot be measured any more there
		}
		if math.Abs(*f) < best {
			best, edits = math.Abs(*f), try
		}
		if best <= wellInside*r.Tolerance || math.Abs(*f-f0) < 1e-6 {
			break
		}
		next := x - *f*(x-x0)/(*f-f0)
		// Where the measure jumps, half a step is safer than far beyond.
		if reach := 2 * math.Abs(x-x0); math.Abs(next-x) > reach {
			next = x + math.Copysign(reach, next-x)
		}
		x0, f0, x = x, *f, next
	}
	return edits, best, nil
}

// measure is the row's difference with edits made; nil where it cannot be measured.
func (k *Closer) measure(ctx context.Context, d *project.Document, r *Row, edits project.Edits) (*float64, error) {
	m, err := k.tone(ctx, d, r, edits)
	if m == nil || err != nil {
		return nil, err
	}
	of := *r
	if of.Mine = valueOf(r.Column, m); of.Mine == nil || zero(&of) {
		return nil, nil
	}
	return value(difference(&of)), nil
}

// ofSpectra are columns that spectra alone say.
var ofSpectra = []string{"brightness", "noisiness", "snap"}

// tone measures one hit of the row's voice with edits made; nil where they cannot be made
// or silence it.
func (k *Closer) tone(ctx context.Context, d *project.Document, r *Row, edits project.Edits) (*measure.Measures, error) {
	next, _, err := d.Apply(edits, k.Env)
	if err != nil {
		return nil, nil // beyond what is allowed
	}
	b, err := mixreport.Hit(ctx, next, next.Kit.Voice(r.Voice), k.Samples, next.Stroke().Velocity)
	if err != nil || b.Peak() < 1e-6 {
		return nil, err
	}
	if slices.Contains(ofSpectra, r.Column) || regionOf(r.Column) >= 0 {
		return k.colour(measure.MeasureSpectrum(b), b), nil
	}
	return k.colour(measure.Measure(b), b), nil
}

// CloseRegions closes the regions of one voice, or of the whole, together: by bells of one
// equalizer, each moved by what is still missing; no edits where that brings them no nearer.
func (k *Closer) CloseRegions(ctx context.Context, d *project.Document, rows []*Row) (project.Edits, error) {
	if rows[0].Voice == "" {
		return k.closeBalance(ctx, d, project.OutRow, d.Mix.Out.Chain, rows)
	}
	if d.Row(rows[0].Voice) != nil && d.Kit.Voice(rows[0].Voice) == nil {
		return k.closeBalance(ctx, d, rows[0].Voice, d.Row(rows[0].Voice).Chain, rows)
	}
	v := d.Kit.Voice(rows[0].Voice)
	if v == nil {
		return nil, nil
	}
	edits := func(gains []float64) project.Edits {
		return through(v.ID, v.Chain, closingEqualizer, "equalizer", func(values map[string]float64) { setRegions(values, gains) })
	}
	gains, err := regionGains(rows, func(gains []float64) (map[string]float64, error) {
		var tried project.Edits
		if gains != nil {
			tried = edits(gains)
		}
		m, err := k.tone(ctx, d, rows[0], tried)
		if m == nil || err != nil {
			return nil, err
		}
		return m.Balance, nil
	})
	if gains == nil || err != nil {
		return nil, err
	}
	return edits(gains), nil
}

// closeBars is how much of the whole is looked at.
const closeBars = 4

// closeBalance closes the regions of the whole, or of a bus, by an equalizer on its row.
func (k *Closer) closeBalance(ctx context.Context, d *project.Document, at string, has []effect.Effect, rows []*Row) (project.Edits, error) {
	b, err := mixreport.Sound(ctx, d, k.Samples, at, closeBars, true)
	if err != nil || b.Peak() < 1e-6 {
		return nil, err
	}
	kind := effect.KindOf("equalizer")
	gains, err := regionGains(rows, func(gains []float64) (map[string]float64, error) {
		x := b.Mono()
		if gains != nil {
			fx := effect.New(closingEqualizer, kind, neutral(kind.ID))
			setRegions(fx.Values, gains)
			chain, _ := effect.NewChain([]effect.Effect{fx}, float64(b.Rate))
			chain.Process(effect.Block{Left: x, Right: slices.Clone(x)}, nil)
		}
		return measure.Balance(x, b.Rate), ctx.Err()
	})
	if gains == nil || err != nil {
		return nil, err
	}
	return through(at, has, closingEqualizer, kind.ID, func(values map[string]float64) { setRegions(values, gains) }), nil
}

// colour are measures as they are compared.
func (k *Closer) colour(m *measure.Measures, b *audio.Buffer) *measure.Measures {
	if k.Plain {
		return m
	}
	return surface(m, b)
}

const (
	regionTries = 10
	regionShare = 0.8  // of what is missing, in one try
	mostRegion  = 12.0 // dB: more is another sound, not another balance
)

// regionGains finds the gains of regions that close rows; nil where none brings them nearer
// than nothing does. hear is called with nil first.
func regionGains(rows []*Row, hear func(gains []float64) (map[string]float64, error)) ([]float64, error) {
	var best []float64
	least := math.Inf(1)
	gains := make([]float64, len(measure.Regions))
	for try := range regionTries {
		var tried []float64
		if try > 0 {
			tried = slices.Clone(gains)
		}
		got, err := hear(tried)
		if err != nil || got == nil {
			return best, err
		}
		off := 0.0
		for _, r := range rows {
			i := regionOf(r.Column)
			db := math.Max(got[measure.Regions[i].Name], regionLow)
			off += math.Max(math.Abs(db-*r.Reference)-wellInside*r.Tolerance, 0)
			gains[i] = math.Min(math.Max(gains[i]+regionShare*(*r.Reference-db), -mostRegion), mostRegion)
		}
		if off < least-0.1 {
			least, best = off, tried
		}
		if off == 0 {
			break
		}
	}
	return best, nil
}

// setRegions turns bells in the middle of the regions up by gains.
func setRegions(values map[string]float64, gains []float64) {
	for i, reg := range measure.Regions {
		if gains[i] != 0 {
			setBand(values, 3+i, bandBell, math.Sqrt(reg.From*reg.To), gains[i])
		}
	}
}

// valueOf is the measure of a tone column.
func valueOf(column string, m *measure.Measures) *float64 {
	for _, k := range toneColumns {
		if k.id == column {
			return k.mine(m)
		}
	}
	if i := regionOf(column); i >= 0 {
		if x, ok := m.Balance[measure.Regions[i].Name]; ok {
			return value(math.Max(x, regionLow))
		}
	}
	return nil
}

// regionOf is which of measure.Regions a column is about, -1 where none.
func regionOf(column string) int {
	for i := range measure.Regions {
		if name := measure.Regions[i].Name; column == "region_"+name || column == "balance_"+name || column == "bus_"+name {
			return i
		}
	}
	return -1
}

// waysOf are the ways that move a row's measure, the plainest first.
func waysOf(r *Row) []way {
	switch r.Column {
	case "fundamental":
		return []way{{100, -24, 24, tuned}}
	case "settles":
		return []way{{70, -4, 4, scaledBy("body.fall_ms")}}
	case "decay":
		return []way{{70, -3, 3, lengthened}, {70, -3, 0, shortened}}
	case "attack":
		return []way{{1, -50, 50, addedTo("body.attack_ms", "noise.attack_ms")}, {1, 0, 50, fadedIn}, {-0.3, -24, 24, transient("attack_db")}}
	case "snap":
		return []way{{1, -30, 30, addedTo("snap.level_db", "noise.level_db")}, {1, -24, 24, transient("attack_db")}, {0.8, -18, 18, band(2, bandHighShelf, 2500)}}
	case "brightness":
		return []way{{5, -24, 24, band(1, bandTilt, math.Min(*r.Reference, 12000))}, {70, -4, 4, scaledBy("noise.colour_hz", "metal.pitch_hz")}}
	case "noisiness":
		return []way{{0.02, -30, 30, addedTo("noise.level_db")}, {0.02, -18, 18, band(2, bandHighShelf, 2500)}}
	case "hit_crest":
		return []way{{0.5, -24, 24, transient("attack_db")}, {-0.3, -24, 24, transient("sustain_db")}}
	case "width":
		return []way{{0.01, -100, 100, widened}}
	}
	return nil
}

// Shapes of a band of the equalizer (effect.Equalizer8).
const (
	bandBell      = 1.0
	bandHighShelf = 3.0
	bandTilt      = 7.0
)

// tuned moves all layers by semitones: recipes by their pitch, recordings by their speed.
func tuned(v *sound.Voice, x float64) (out project.Edits) {
	for i := range v.Layers {
		l := &v.Layers[i]
		to := math.Min(math.Max(l.Pitch+x, -24), 24)
		out = append(out, project.SetNumber{At: project.LayerAddress(v.ID, l.ID, "pitch_st"), Value: math.Round(to*1000) / 1000})
	}
	return out
}

// eachNumber are edits of numbers of all recipes of a voice that sound and that no curve
// drives.
func eachNumber(v *sound.Voice, ids []string, to func(now float64) float64) (out project.Edits) {
	for _, l := range v.Sounding() {
		if l.Recipe == nil {
			continue
		}
		for _, id := range ids {
			n, ok := l.Recipe.Number(id)
			if !ok || l.Recipe.DrivenBy(id) != nil || !sounding(l.Recipe, id) {
				continue
			}
			at := math.Min(math.Max(to(n.Get(l.Recipe)), n.Min), n.Max)
			out = append(out, project.SetNumber{At: project.LayerAddress(v.ID, l.ID, id), Value: at})
		}
	}
	return out
}

// sounding is whether the part of a number sounds.
func sounding(r *sound.Recipe, id string) bool {
	for i := range id {
		if id[i] == '.' {
			level, ok := r.Number(id[:i] + ".level_db")
			return !ok || level.Get(r) > sound.Silent || r.DrivenBy(id[:i]+".level_db") != nil
		}
	}
	return true
}

// scaledBy multiplies numbers of recipes by powers of 2.
func scaledBy(ids ...string) func(*sound.Voice, float64) project.Edits {
	return func(v *sound.Voice, x float64) project.Edits {
		return eachNumber(v, ids, func(now float64) float64 { return now * math.Exp2(x) })
	}
}

// addedTo adds to numbers of recipes.
func addedTo(ids ...string) func(*sound.Voice, float64) project.Edits {
	return func(v *sound.Voice, x float64) project.Edits {
		return eachNumber(v, ids, func(now float64) float64 { return now + x })
	}
}

// curveHead is how much of a level's curve stays as it is, ms: the attack.
const curveHead = 20.0

// lengthened makes what a recipe lets ring last longer by octaves: its decays, and the
// curves that move its levels.
func lengthened(v *sound.Voice, x float64) project.Edits {
	by := math.Exp2(x)
	out := eachNumber(v, []string{"body.decay_ms", "sub.decay_ms", "noise.decay_ms", "metal.decay_ms", "ring.decay_ms"}, func(now float64) float64 { return now * by })
	for _, l := range v.Sounding() {
		if l.Recipe == nil {
			continue
		}
		for i := range l.Recipe.Curves {
			c := l.Recipe.Curves[i]
			drives := slices.ContainsFunc(l.Recipe.Modulations, func(m sound.Modulation) bool {
				return m.By == c.ID && len(m.At) > 9 && m.At[len(m.At)-9:] == ".level_db"
			})
			if !drives || c.Unit != sound.MS || c.Round >= 0 {
				continue
			}
			c.Points = slices.Clone(c.Points)
			for k := range c.Points {
				if p := &c.Points[k]; p.At > curveHead {
					p.At = math.Min(curveHead+(p.At-curveHead)*by, sound.MaxCurveMS-float64(len(c.Points)-k))
				}
			}
			out = append(out, project.SetCurve{Voice: v.ID, Layer: l.ID, Curve: c})
		}
	}
	for _, l := range v.Sounding() { // a recording can be made longer by what made it shorter
		if l.Recording != nil && l.Recording.Decay > 0 {
			out = append(out, project.SetNumber{At: project.LayerAddress(v.ID, l.ID, "recording.decay_ms"), Value: math.Min(l.Recording.Decay*by, 4000)})
		}
	}
	return out
}

// shortened gives recordings an end: they fall by 60 dB in so much of their own length.
func shortened(v *sound.Voice, x float64) (out project.Edits) {
	for _, l := range v.Sounding() {
		if l.Recording != nil && x < 0 {
			out = append(out, project.SetNumber{At: project.LayerAddress(v.ID, l.ID, "recording.decay_ms"), Value: math.Round(1000 * math.Exp2(x))})
		}
	}
	return out
}

// fadedIn lets recordings come in over ms.
func fadedIn(v *sound.Voice, x float64) (out project.Edits) {
	for _, l := range v.Sounding() {
		if l.Recording != nil && x > 0 {
			out = append(out, project.SetNumber{At: project.LayerAddress(v.ID, l.ID, "recording.fade_in_ms"), Value: math.Round(100*(l.Recording.FadeIn+x)) / 100})
		}
	}
	return out
}

// neutral are values of an effect that does nothing yet.
func neutral(kind string) map[string]float64 {
	out := map[string]float64{}
	switch kind {
	case "equalizer":
		for i := range 8 {
			out[fmt.Sprintf("band%d.shape", i+1)] = 0
		}
	case "transient":
		out["attack_db"] = 0
	}
	return out
}

// through puts an effect behind what a row has, or changes the one that is there.
func through(row string, has []effect.Effect, id, kind string, set func(values map[string]float64)) project.Edits {
	chain := effect.CloneChain(has)
	fx := effect.Find(chain, id)
	if fx == nil {
		chain = append(chain, effect.New(id, effect.KindOf(kind), neutral(kind)))
		fx = &chain[len(chain)-1]
	}
	set(fx.Values)
	return project.Edits{project.SetChain{Row: row, Effects: chain, Title: "towards the reference"}}
}

// band turns one band of the equalizer up by dB.
func band(n int, shape, hz float64) func(*sound.Voice, float64) project.Edits {
	return func(v *sound.Voice, x float64) project.Edits {
		return through(v.ID, v.Chain, closingEqualizer, "equalizer", func(values map[string]float64) {
			setBand(values, n, shape, hz, x)
		})
	}
}

// setBand turns a band of an equalizer up by dB more than it is.
func setBand(values map[string]float64, n int, shape, hz, by float64) {
	id := fmt.Sprintf("band%d.", n)
	values[id+"shape"], values[id+"hz"], values[id+"q"] = shape, math.Round(hz), 0.7
	values[id+"gain_db"] = math.Min(math.Max(math.Round(10*(values[id+"gain_db"]+by))/10, -24), 24)
}

func transient(number string) func(*sound.Voice, float64) project.Edits {
	return func(v *sound.Voice, x float64) project.Edits {
		return through(v.ID, v.Chain, closingTransient, "transient", func(values map[string]float64) {
			values[number] = math.Min(math.Max(math.Round(10*(values[number]+x))/10, -24), 24)
		})
	}
}

// widened moves the sides: above 0 nearer together, below 0 apart.
func widened(v *sound.Voice, x float64) project.Edits {
	return through(v.ID, v.Chain, closingWidth, "width", func(values map[string]float64) {
		if x >= 0 {
			values["side_percent"] = math.Round(100 - x)
		} else {
			values["delay_ms"], values["detune_ct"], values["mix_percent"] = 9, 6, math.Round(-x)
		}
	})
}
