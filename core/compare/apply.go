package compare

import (
	"context"
	"math"
	"slices"
	"strings"

	"jubrak/core/audio"
	"jubrak/core/fit"
	"jubrak/core/mixreport"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Applied is what came of closing some rows.
type Applied struct {
	// Edits are one change of the history.
	Edits project.Edits `json:"-"`
	Rows  []AppliedRow  `json:"rows"`
	// Before and After are how many rows lie outside.
	Before int `json:"before"`
	After  int `json:"after"`
}

// AppliedRow is a row that was to be closed: by how much it should change and did, in the
// unit of its differences.
type AppliedRow struct {
	Row
	Wanted float64  `json:"wanted"`
	Got    *float64 `json:"got"`
}

// phase is columns that are closed together, and what must be measured again then.
type phase struct {
	columns           []string
	feel, tone, whole bool
}

// phases are closed one after another, each measured before the next: what comes first
// moves what comes later.
var phases = []phase{
	{[]string{"tempo", "hits", "density", "syncopation"}, true, false, false},
	{[]string{"swing", "drift"}, true, false, false},
	{[]string{"velocity", "lean", "scatter"}, true, false, false},
	{[]string{"accents", "steps", "pair"}, true, false, false},
	{[]string{"fundamental", "settles", "decay", "attack"}, false, true, false},
	{[]string{"region_sub", "region_low", "region_low_mid", "region_presence", "region_air"}, false, true, false},
	{[]string{"brightness", "snap", "noisiness", "hit_crest", "width"}, false, true, false},
	{[]string{"level"}, false, false, true},
	{[]string{"bus_crest"}, false, false, true},
	{[]string{"bus_sub", "bus_low", "bus_low_mid", "bus_presence", "bus_air"}, false, false, true},
	{[]string{"bus_level"}, false, false, true},
	{[]string{"crest", "true_peak"}, false, false, true},
	{[]string{"balance_sub", "balance_low", "balance_low_mid", "balance_presence", "balance_air"}, false, false, true},
	{[]string{"loudness"}, false, false, true},
}

// rounds is how often all phases are gone through at most: what is closed late may open
// what was closed early.
const rounds = 2

// Apply closes rows of a comparison by their ids; empty are all that lie outside. What was
// done is measured on the render. A context that ends stops it; what is done then is kept.
func (k *Closer) Apply(ctx context.Context, d *project.Document, a *Against, ids []string, report func(done float64, what string)) (*Applied, error) {
	mine, err := MeasureMine(ctx, d, k.Samples)
	if err != nil {
		return nil, err
	}
	k.Plain = a.Profile != nil
	first := Compare(d, mine, a)
	out := &Applied{Edits: project.Edits{}, Rows: []AppliedRow{}, Before: first.Outside}
	asked := func(r *Row) bool { return len(ids) == 0 || slices.Contains(ids, r.ID) }
	cur, c := d, first
	stale := false // the whole and the tones, which are measured when they are needed
	for round := range rounds {
		left := false
		for n := range phases {
			p := &phases[n]
			report((float64(round)+float64(n)/float64(len(phases)))/rounds, column(p.columns[0]).Label)
			if stale && !p.feel {
				if err := mine.MeasureWhole(ctx, cur, k.Samples); err != nil {
					return nil, err
				}
				stale, c = false, Compare(cur, mine, a)
			}
			edits, next := k.phase(ctx, cur, c, a, p.columns, asked, round)
			if len(edits) == 0 {
				continue
			}
			left = true
			out.Edits, cur = append(out.Edits, edits...), next
			if stale, err = p.again(ctx, mine, cur, k.Samples); err != nil {
				return nil, err
			}
			c = Compare(cur, mine, a)
		}
		if !left || ctx.Err() != nil {
			break
		}
	}
	if stale {
		if err := mine.MeasureWhole(ctx, cur, k.Samples); err != nil {
			return nil, err
		}
		c = Compare(cur, mine, a)
	}
	for i := range first.Rows {
		r := &first.Rows[i]
		if !asked(r) || r.Inside == nil || *r.Inside {
			continue
		}
		row := AppliedRow{Row: *r, Wanted: -*r.Difference}
		if after := c.Row(r.ID); after != nil && after.Difference != nil {
			row.Got = value(*after.Difference - *r.Difference)
			row.Row = *after
		} else if after == nil { // what was compared is gone, and so is the difference
			row.Got, row.Inside = value(row.Wanted), new(true)
		}
		out.Rows = append(out.Rows, row)
	}
	out.After = c.Outside
	return out, ctx.Err()
}

// Row finds a row by its id, or nil.
func (c *Comparison) Row(id string) *Row {
	for i := range c.Rows {
		if c.Rows[i].ID == id {
			return &c.Rows[i]
		}
	}
	return nil
}

// again measures what a phase has changed; whether the whole is left to be measured later.
func (p *phase) again(ctx context.Context, mine *Mine, d *project.Document, samples sound.Samples) (stale bool, err error) {
	switch {
	case p.feel:
		mine.MeasureFeel(d)
		return true, nil
	case p.tone:
		return true, mine.MeasureTones(ctx, d, samples)
	}
	if err := mine.MeasureWhole(ctx, d, samples); err != nil {
		return false, err
	}
	return false, mine.MeasureTones(ctx, d, samples)
}

// phase closes the rows of some columns that lie outside; edits that cannot be made are
// left out.
func (k *Closer) phase(ctx context.Context, d *project.Document, c *Comparison, a *Against, columns []string, asked func(*Row) bool, round int) (all project.Edits, next *project.Document) {
	next = d
	done := map[string]bool{}
	for _, id := range columns {
		for i := range c.Rows {
			r := &c.Rows[i]
			if r.Column != id || !asked(r) || r.Inside == nil || *r.Inside || ctx.Err() != nil {
				continue
			}
			var edits project.Edits
			switch r.Act {
			case ByEdits:
				if id == "hits" || id == "density" || id == "syncopation" { // all three by the same edits
					if done["hits."+r.Voice] {
						continue
					}
					done["hits."+r.Voice] = true
				}
				edits = r.Edits
				if id == "level" {
					if done["level"] {
						continue
					}
					done["level"] = true
					edits = c.levels(next, asked)
				}
			case ByMeasure:
				regions := c.regionsOf(r, asked)
				if len(regions) == 0 {
					edits, _, _ = k.Close(ctx, next, r)
				} else if !done["regions."+r.Voice] {
					done["regions."+r.Voice] = true
					edits, _ = k.CloseRegions(ctx, next, regions)
				}
			case ByChain:
				if done["chain."+r.Voice] || round > 0 {
					continue
				}
				done["chain."+r.Voice] = true
				edits = k.chain(ctx, next, a, r.Voice)
			}
			if len(edits) == 0 || r.Act == ByMeasure && next.Kit.Voice(r.Voice) != nil && !k.nearer(ctx, next, c, r, edits) {
				continue
			}
			if after, _, err := next.Apply(edits, k.Env); err == nil {
				all, next = append(all, edits...), after
			}
		}
	}
	return all, next
}

// levels bring the levels of all families that are asked for to the reference's at once:
// each moved by what it lacks, all shares are right together. One alone moves against the
// others as they are.
func (c *Comparison) levels(d *project.Document, asked func(*Row) bool) (out project.Edits) {
	var rows []*Row
	for i := range c.Rows {
		if r := &c.Rows[i]; r.Column == "level" && asked(r) && r.Difference != nil {
			rows = append(rows, r)
		}
	}
	if len(rows) == 1 {
		return rows[0].Edits
	}
	for _, r := range rows {
		for i := range d.Kit.Voices {
			if v := &d.Kit.Voices[i]; v.Family == r.Family {
				out = append(out, project.SetNumber{At: v.ID + "/level_db", Value: levelRange(v.Level - *r.Difference)})
			}
		}
	}
	return out
}

// mostSevere is as much as one row counts: one that cannot be closed is not to outweigh the
// others.
const mostSevere = 4.0

// nearer is whether edits bring a voice's tone as a whole nearer to the reference.
func (k *Closer) nearer(ctx context.Context, d *project.Document, c *Comparison, r *Row, edits project.Edits) bool {
	off := func(edits project.Edits) float64 {
		all := Row{Voice: r.Voice} // of no column: all is measured
		m, err := k.tone(ctx, d, &all, edits)
		if err != nil || m == nil {
			return math.Inf(1)
		}
		sum := 0.0
		for i := range c.Rows {
			o := c.Rows[i]
			if o.Voice != r.Voice || o.Reference == nil || column(o.Column).Group != ToneGroup && regionOf(o.Column) < 0 {
				continue
			}
			if o.Mine = valueOf(o.Column, m); o.Mine == nil || zero(&o) {
				sum += mostSevere
				continue
			}
			sum += math.Min(math.Abs(difference(&o))/(o.Tolerance+o.Within), mostSevere)
		}
		return sum
	}
	return off(edits) < off(nil)-0.05
}

// regionsOf are the rows of regions of the same voice as a row that is one, where they are
// known and asked for: also those inside, which are to stay so.
func (c *Comparison) regionsOf(r *Row, asked func(*Row) bool) (out []*Row) {
	if regionOf(r.Column) < 0 {
		return nil
	}
	for i := range c.Rows {
		if o := &c.Rows[i]; o.Voice == r.Voice && regionOf(o.Column) >= 0 && asked(o) && o.Inside != nil {
			out = append(out, o)
		}
	}
	return out
}

// chainBars and chainSeconds are how much of mine and of the reference a chain is fitted to.
const (
	chainBars    = 2
	chainSeconds = 3.0
)

// chain fits effects on a bus, or on the output, to the reference's drums.
func (k *Closer) chain(ctx context.Context, d *project.Document, a *Against, bus string) project.Edits {
	at := project.OutRow
	if bus != "" {
		at, a = bus, a.ofFamilies(d, strings.TrimPrefix(bus, "bus:"))
	}
	mine, err := mixreport.Sound(ctx, d, k.Samples, at, chainBars, false)
	if err != nil {
		return nil
	}
	short := func(b *audio.Buffer) *audio.Buffer {
		return b.Slice(0, min(b.Frames(), int(chainSeconds*float64(b.Rate))))
	}
	got, err := fit.Chain(ctx, short(mine), short(a.Struck()))
	if err != nil || off(&got.After) >= off(&got.Before) {
		return nil
	}
	return project.Edits{project.SetChain{Row: at, Effects: got.Effects, Append: true, Title: "towards the reference"}}
}

func off(m *fit.ChainMeasures) float64 { return m.Balance + math.Abs(m.Crest) }
