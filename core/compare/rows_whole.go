package compare

import (
	"fmt"
	"math"

	"jubrak/core/audio"
	"jubrak/core/measure"
	"jubrak/core/project"
)

// whole compares the whole of mine with the reference's, or with its drums where other
// things sound there, too.
func (c *Comparison) whole(d *project.Document, mine *Mine, a *Against) {
	w := a.wholeOf()
	put := func(id string, m, ref *float64, act Act, text string, edits ...project.Edit) {
		r := row(id, "", "")
		r.Mine, r.Reference, r.Within = m, ref, w.within
		c.add(r, act, text, edits...)
	}
	if a.Profile == nil || w.loudness != nil {
		text, edits := "", project.Edits{}
		if mine.Loudness != nil && w.loudness != nil {
			by := math.Round((*w.loudness-*mine.Loudness)*10) / 10
			text = fmt.Sprintf("Output %+.1f dB", by)
			out := levelRange(d.Mix.Out.Level + by)
			edits = append(edits, project.SetNumber{At: "out/level_db", Value: out})
			// What the output cannot take, the voices do.
			if rest := by - (out - d.Mix.Out.Level); math.Abs(rest) > 0.05 {
				for i := range d.Kit.Voices {
					v := &d.Kit.Voices[i]
					edits = append(edits, project.SetNumber{At: v.ID + "/level_db", Value: levelRange(v.Level + rest)})
				}
			}
		}
		put("loudness", mine.Loudness, w.loudness, ByEdits, text, edits...)
		put("true_peak", mine.TruePeak, w.truePeak, ByChain, "Effects on the output that bring its peaks to the reference's")
		put("crest", mine.Crest, w.crest, ByChain, "Effects on the output that bring its crest to the reference's")
	}
	if s := a.Analysis.Share; s != nil && !w.alone {
		r := row("rest", "", "")
		r.Reference, r.Within, r.Why = value(s.DB), confident*s.Error, "nothing but drums plays in mine"
		c.add(r, NoAct, "")
	}
	for _, reg := range measure.Regions {
		var theirs, own *float64
		if v, ok := w.balance[reg.Name]; ok {
			theirs = value(math.Max(v, regionLow))
		}
		if v, ok := mine.Balance[reg.Name]; ok {
			own = value(math.Max(v, regionLow))
		}
		if a.Profile != nil && theirs == nil {
			continue
		}
		text := ""
		if own != nil && theirs != nil {
			text = fmt.Sprintf("%+.1f dB from %.0f to %.0f Hz by an equalizer on the output", *theirs-*own, reg.From, reg.To)
		}
		put("balance_"+reg.Name, own, theirs, ByMeasure, text)
	}
}

// levelRange is a level in the range that rows have, dB, rounded as it is shown.
func levelRange(db float64) float64 { return math.Min(math.Max(math.Round(10*db)/10, -60), 12) }

// MatchGain is the linear gain that brings a reference of the given loudness
// to mine, for listening; within ±24 dB. 1 where either is unknown.
func MatchGain(mine, reference *float64) float64 {
	if mine == nil || reference == nil {
		return 1
	}
	return audio.Gain(math.Min(math.Max(*mine-*reference, -24), 24))
}
