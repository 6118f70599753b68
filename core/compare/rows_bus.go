package compare

import (
	"fmt"
	"math"

	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/isolate"
	"jubrak/core/measure"
	"jubrak/core/mixer"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// BusMeasures are what is measured of one bus of mine.
type BusMeasures struct {
	// Level is that of its voices against all, Crest its peak over RMS, dB.
	Level, Crest float64
	// Balance is by region, dB against the whole bus.
	Balance map[string]float64
}

// buses measures the buses of a render.
func (m *Mine) buses(d *project.Document, out *engine.Rendered) {
	m.Buses = map[string]*BusMeasures{}
	all := 0.0
	energy := func(b *audio.Buffer) float64 {
		rms := measure.RMS(b)
		return rms * rms * float64(b.Frames())
	}
	for i := range min(len(out.Stems), len(d.Kit.Voices)) {
		all += energy(out.Stems[i])
	}
	for i := range min(len(out.Buses), len(d.Mix.Buses)) {
		b := out.Buses[i]
		if e := energy(b); e > 1e-9 && all > 0 {
			m.Buses[d.Mix.Buses[i].ID] = &BusMeasures{Level: 10 * math.Log10(e/all), Crest: audio.DB(b.Peak() / measure.RMS(b)), Balance: measure.Balance(b.Mono(), b.Rate)}
		}
	}
}

// bus compares a bus with the reference's drums of the families that go through it.
func (c *Comparison) bus(d *project.Document, b *mixer.Bus, mine *Mine, a *Against) {
	families := map[sound.Family]bool{}
	for i := range d.Kit.Voices {
		if d.Kit.Voices[i].To == b.ID {
			families[d.Kit.Voices[i].Family] = true
		}
	}
	if len(families) == 0 || a.Profile != nil {
		return // a bus of sends alone has nothing in the reference to be like
	}
	theirs := &Against{}
	level := 0.0
	for i := range a.Drums {
		if x := &a.Drums[i]; families[x.Family] {
			theirs.Drums = append(theirs.Drums, *x)
			if x.Facts.Level != nil {
				level += math.Pow(10, x.Facts.Level.Value/10)
			}
		}
	}
	row1 := func(id string) Row {
		r := row(id, "", project.BusRow(b.ID))
		if mine.Buses[b.ID] == nil {
			r.Why = "it is silent"
		} else if len(theirs.Drums) == 0 {
			r.Why = "no drums of its families in the reference"
		}
		return r
	}
	got := mine.Buses[b.ID]
	var struck *audio.Buffer
	balance := map[string]float64{}
	if len(theirs.Drums) > 0 {
		struck = theirs.Struck()
		balance = measure.Balance(struck.Mono(), struck.Rate)
	}
	r := row1("bus_level")
	if got != nil && level > 0 {
		r.Mine, r.Reference, r.Within = &got.Level, value(10*math.Log10(level)), drumsAlone
		by := louder(got.Level, *r.Reference)
		c.add(r, ByEdits, fmt.Sprintf("Bus %+.1f dB", by), project.SetNumber{At: project.BusRow(b.ID) + "/level_db", Value: levelRange(b.Level + by)})
	} else {
		c.add(r, NoAct, "")
	}
	r = row1("bus_crest")
	if got != nil && struck != nil {
		r.Mine, r.Reference, r.Within = &got.Crest, value(audio.DB(struck.Peak()/measure.RMS(struck))), drumsAlone
	}
	c.add(r, ByChain, "Effects on the bus that bring its crest to the reference's")
	for _, reg := range measure.Regions {
		r := row1("bus_" + reg.Name)
		text := ""
		if v, ok := balance[reg.Name]; ok && got != nil {
			r.Mine, r.Reference, r.Within = value(math.Max(got.Balance[reg.Name], regionLow)), value(math.Max(v, regionLow)), drumsAlone
			text = fmt.Sprintf("%+.1f dB from %.0f to %.0f Hz by an equalizer on the bus", *r.Reference-*r.Mine, reg.From, reg.To)
		}
		c.add(r, ByMeasure, text)
	}
}

// ofFamilies is the reference with the drums alone that go through a bus of mine.
func (a *Against) ofFamilies(d *project.Document, bus string) *Against {
	out := &Against{Analysis: a.Analysis, Drums: []isolate.Drum{}}
	for i := range a.Drums {
		for k := range d.Kit.Voices {
			if d.Kit.Voices[k].To == bus && d.Kit.Voices[k].Family == a.Drums[i].Family {
				out.Drums = append(out.Drums, a.Drums[i])
				break
			}
		}
	}
	return out
}
