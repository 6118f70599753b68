package transcribe

import (
	"math"

	"jubrak/core/transcribe/drumnet"
)

// company is which families are struck together in a file. A low thump that
// every snare has is the snare's; a kick is struck alone too.
type company struct {
	struck      [drumnet.Classes]float64                  // moments of each family
	with        [drumnet.Classes][drumnet.Classes]float64 // strokes of the second to be expected at those of the first
	all, single [drumnet.Classes]float64                  // strokes to be expected, and those where nothing else is heard
}

func newCompany(heard []drumnet.Heard) *company {
	c := &company{}
	for i := range heard {
		odds := &heard[i].Odds
		var p [drumnet.Classes]float64
		heardHere := 0
		for k := range odds {
			p[k] = 1 / (1 + math.Exp(-odds[k]))
			if odds[k] > 0 {
				heardHere++
			}
		}
		for k := range odds {
			c.all[k] += p[k]
			if heardHere == 0 || heardHere == 1 && odds[k] > 0 {
				c.single[k] += p[k]
			}
			if odds[k] > 0 {
				c.struck[k]++
				for j := range odds {
					c.with[k][j] += p[j]
				}
			}
		}
	}
	return c
}

// rates fills in how often a family is struck where another is, how often that one
// is, and how often each comes alone.
func (c *company) rates(k, other int, to []float64) {
	to[0], to[1] = c.together(other, k), math.Log2(1+c.struck[other])/5
	to[2], to[3] = c.alone(k), c.alone(other)
}

// together is how often k is struck where j is, 0..1.
func (c *company) together(j, k int) float64 { return c.with[j][k] / math.Max(c.struck[j], 1) }

// alone is the share of a family's strokes that come alone, 0..1.
func (c *company) alone(k int) float64 { return c.single[k] / math.Max(c.all[k], 0.01) }
