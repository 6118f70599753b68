package transcribe

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/sound"
)

// repeatedly is a pattern of sixteenths, again and again, at 100 BPM from half a
// second on, beginning from its step from; x is loud, o soft.
func repeatedly(seconds float64, from int, rows map[sound.Family]string) (hits []Hit) {
	for k := from; ; k++ {
		at := 0.5 + float64(k-from)*0.15
		if at > seconds {
			return hits
		}
		for _, f := range sound.Families {
			if row := rows[f]; row != "" && row[k%len(row)] != '.' {
				velocity := 100
				if row[k%len(row)] == 'o' {
					velocity = 60
				}
				hits = append(hits, Hit{Time: at, Family: f, Velocity: velocity, Confidence: 1})
			}
		}
	}
}

func TestBeatsOfABar(t *testing.T) {
	eighths := func(beats int) string { return strings.Repeat("x.o.", beats) }
	for _, c := range []struct {
		name    string
		perBar  int
		from    int // step at which it begins
		barOne  float64
		seconds float64
		rows    map[sound.Family]string
	}{
		{"three", 3, 0, 0.5, 20, map[sound.Family]string{sound.Kick: "x...........", sound.Snare: "....x...x...", sound.HatClosed: eighths(3)}},
		{"three, with a pickup of two beats", 3, 4, 1.7, 20, map[sound.Family]string{sound.Kick: "x...........", sound.Snare: "....x...x...", sound.HatClosed: eighths(3)}},
		{"three, in patterns of two bars", 3, 0, 0.5, 25, map[sound.Family]string{sound.Kick: "x.........o.x.......o...", sound.Snare: "........x...........x...", sound.HatClosed: eighths(3)}},
		{"five", 5, 0, 0.5, 30, map[sound.Family]string{sound.Kick: "x...........x.......", sound.Snare: "........x.......x...", sound.HatClosed: eighths(5)}},
		{"four", 4, 0, 0.5, 30, map[sound.Family]string{sound.Kick: "x.......x.......", sound.Snare: "....x.......x...", sound.HatClosed: eighths(4)}},
		{"four, with a shaker in threes against it", 4, 0, 0.5, 30, map[sound.Family]string{sound.Kick: "x.....x...x.....", sound.Snare: "....x.......x...", sound.HatClosed: eighths(4), sound.Shaker: "x..o..x..o.."}},
		{"four on the floor returns after every beat", 4, 0, 0.5, 30, map[sound.Family]string{sound.Kick: "x...", sound.HatOpen: "..x."}},
		{"too short to say", 4, 0, 0.5, 7, map[sound.Family]string{sound.Kick: "x...........", sound.Snare: "....x...x...", sound.HatClosed: eighths(3)}},
	} {
		t.Run(c.name, func(t *testing.T) {
			g, ok := findGrid(repeatedly(c.seconds, c.from, c.rows), c.seconds+1)
			require.True(t, ok)
			assert.InDelta(t, 100, g.BPM(), 0.5)
			assert.Equal(t, c.perBar, g.PerBar)
			if c.perBar != 4 {
				at := g.Position(c.barOne) / float64(c.perBar)
				assert.InDelta(t, at, float64(int(at+0.5)), 0.05, "bar one")
			}
		})
	}
}
