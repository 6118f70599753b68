package isolate

import (
	"fmt"
	"math"
)

// words say what is known of a drum and what is not.
func (d *Drum) words(used int) (out []string) {
	switch {
	case used == 0:
		return []string{"No stroke of it is used."}
	case used == 1:
		out = append(out, "One stroke: it is cut out as it is, with all that sounds beside it.")
	case d.Known.To == 0:
		out = append(out, "Always covered by something else: what you hear is mostly a guess.")
	default:
		out = append(out, fmt.Sprintf("Known to %.0f ms.", d.Known.To))
	}
	if used > 1 {
		if hidden := d.Known.hidden(); hidden != "" {
			out = append(out, hidden)
		}
	}
	return out
}

// hidden names the widest run of bands that sound but are not known, and from when on.
func (k *Known) hidden() string {
	type run struct{ from, to, frame int }
	best, most := run{}, 0
	at := run{}
	size := 0
	flush := func() {
		if size > most {
			best, most = at, size
		}
		size = 0
	}
	for n := 1; n+1 < len(k.Edges)-1; n++ {
		first, covered, all := -1, 0, 0
		for f := range k.Level {
			if !k.Sounds(f, n) {
				continue
			}
			all++
			if k.Error[f][n] >= SurelyKnown {
				covered++
				if first < 0 {
					first = f
				}
			}
		}
		if all < 3 || covered*2 < all {
			flush()
			continue
		}
		if size == 0 {
			at = run{n, n, first}
		}
		at.to, at.frame = n, min(at.frame, first)
		size += covered
	}
	flush()
	if most < 4 {
		return ""
	}
	when := "throughout"
	if ms := float64(best.frame) * k.Frame * 1000; ms > 15 {
		when = fmt.Sprintf("from %.0f ms on", ms)
	}
	return fmt.Sprintf("%s hidden by what else sounds, %s.", between(k.Edges[best.from], k.Edges[best.to+1]), when)
}

// between is a range of frequencies in words.
func between(from, to float64) string {
	number := func(hz float64) (string, string) {
		if hz >= 1000 {
			return fmt.Sprintf("%.1f", hz/1000), "kHz"
		}
		return fmt.Sprintf("%.0f", math.Round(hz/10)*10), "Hz"
	}
	low, unit := number(from)
	high, top := number(to)
	if unit == top {
		return fmt.Sprintf("%s to %s %s", low, high, top)
	}
	return fmt.Sprintf("%s %s to %s %s", low, unit, high, top)
}
