package transcribe

import (
	"fmt"
	"slices"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/sound"
)

// noteRolls keeps the rolls that are not left out.
func (a *Analysis) noteRolls(found []groove.Roll) {
	for _, r := range found {
		first, last := &a.Hits[r.Hits[0]], &a.Hits[r.Hits[len(r.Hits)-1]]
		if a.leftOut(first.Time) || a.leftOut(last.Time) {
			continue
		}
		roll := Roll{Family: first.Family, PerQuarter: r.PerBeat * a.Unit / 4, From: first.Time, To: last.Time}
		var slopes []float64
		for k, i := range r.Hits {
			roll.Hits = append(roll.Hits, a.Hits[i].ID)
			for m, j := range r.Hits[:k] {
				slopes = append(slopes, float64(a.Hits[i].Velocity-a.Hits[j].Velocity)/float64(k-m))
			}
		}
		slices.Sort(slopes)
		roll.Rise = slopes[len(slopes)/2] * float64(len(r.Hits)-1)
		a.Rolls = append(a.Rolls, roll)
	}
}

// rollName is the note value of a roll by its strokes to a quarter note.
func rollName(perQuarter int) string {
	switch perQuarter {
	case 6:
		return "sixteenth triplets"
	case 8:
		return "thirty-seconds"
	case 12:
		return "thirty-second triplets"
	case 16:
		return "sixty-fourths"
	}
	return fmt.Sprintf("%d to a quarter", perQuarter)
}

// ramp is a change of velocity over a roll that anyone hears.
const ramp = 12

// rollFact returns of a family's rolls, how fine they are, and whether they all
// get softer or louder.
func (a *Analysis) rollFact(f sound.Family) (fact Fact, ok bool) {
	fact = Fact{ID: "rolls", Family: f, Name: "Rolls"}
	n, up, down := 0, 0, 0
	var kinds []string
	for _, r := range a.Rolls {
		if r.Family != f {
			continue
		}
		n++
		fact.Count += len(r.Hits)
		if name := rollName(r.PerQuarter); !slices.Contains(kinds, name) {
			kinds = append(kinds, name)
		}
		switch {
		case r.Rise >= ramp:
			up++
		case r.Rise <= -ramp:
			down++
		}
	}
	if n == 0 {
		return fact, false
	}
	count := float64(n)
	fact.Value = &count
	fact.Text = fmt.Sprintf("%s has %s in %s", capital(familyNames[f]), plural(n, "roll"), strings.Join(kinds, " and "))
	switch n {
	case up:
		fact.Text += ", rising"
	case down:
		fact.Text += ", falling"
	}
	fact.Text += "."
	return fact, true
}

// flamFact returns of the flams of a family that is played so; of others grace
// notes are left without a word.
func (a *Analysis) flamFact(f sound.Family) (fact Fact, ok bool) {
	fact = Fact{ID: "flams", Family: f, Name: "Flams"}
	if f != sound.Snare && f != sound.Tom && f != sound.Rim && f != sound.Conga {
		return fact, false
	}
	mains := map[[2]int]bool{} // bar and step
	for _, h := range a.Counted() {
		if h.Family == f && h.Grace {
			mains[[2]int{*h.Bar, *h.Step}] = true
			fact.Count++
		}
	}
	if len(mains) == 0 {
		return fact, false
	}
	count := float64(len(mains))
	fact.Value = &count
	fact.Text = fmt.Sprintf("%s has %s.", capital(familyNames[f]), plural(len(mains), "flam"))
	return fact, true
}
