package state

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

type step interface{ next() int }

type counter struct{ n int }

func (c *counter) next() int { c.n++; return c.n }

type doubler struct {
	n    int
	past []int
}

func (d *doubler) next() int {
	d.past = append(d.past, d.n)
	d.n = 2*d.n%1001 + len(d.past)%3
	return d.n
}

type system struct {
	steps  []step
	line   [8]float64
	ring   []float64
	at     int
	deeper *system
	named  map[string]*counter
	listed map[int][]counter
	table  []int `state:"shared"`
	naps   *napper
	own    *counter
	same   *counter // the same as own
}

func newSystem(depth int) *system {
	s := &system{steps: []step{&counter{}, &doubler{n: 3}}, ring: make([]float64, 16), named: map[string]*counter{"a": {}}, listed: map[int][]counter{1: {{}, {}}}, table: []int{1, 2, 3}, own: &counter{}, naps: &napper{}}
	s.same = s.own
	if depth > 0 {
		s.deeper = newSystem(depth - 1)
	}
	return s
}

func (s *system) run() string {
	out := ""
	for _, st := range s.steps {
		out += fmt.Sprint(st.next(), " ")
	}
	s.at = (s.at + 1) % len(s.ring)
	s.ring[s.at] += float64(s.at) + s.line[0]
	s.line[s.at%8]++
	out += fmt.Sprint(s.ring[s.at], s.named["a"].next(), s.listed[1][1].next(), s.own.next(), s.same.next(), s.naps.next(), len(s.table), "\n")
	if s.deeper != nil {
		out += s.deeper.run()
	}
	return out
}

// napper counts for a while and rests.
type napper struct{ left, n int }

func (n *napper) next() int {
	if n.left > 0 {
		n.n++
		n.left--
		return n.n
	}
	return 0
}

func (n *napper) Resting() bool { return n.left == 0 }
func (n *napper) Rest()         { n.left = 0 }

// exchange replaces parts as an edit does.
func (s *system) exchange(how int) {
	*s.naps = napper{left: how % 7}
	switch how % 5 {
	case 0:
		s.steps = append([]step{&doubler{n: how}}, s.steps...)
	case 1:
		s.steps = s.steps[:1]
	case 2:
		s.ring = make([]float64, 5+how%7)
		s.at = 0
	case 3:
		s.deeper = newSystem(how % 3)
	case 4:
		s.own = &counter{n: how}
	}
}

// Whatever ran and was exchanged in between, what is put back goes on as it did.
func TestPutBackGoesOnTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := newSystem(rapid.IntRange(0, 2).Draw(t, "depth"))
		k := NewKeeper(s)
		var kept [3]Kept
		var want [3]string
		run := func() string {
			out := ""
			for range 12 {
				out += s.run()
			}
			return out
		}
		for range rapid.IntRange(0, 8).Draw(t, "before") {
			s.run()
		}
		for i := range kept {
			k.Keep(&kept[i])
			want[i] = run()
			k.PutBack(&kept[i])
			for range rapid.IntRange(0, 5).Draw(t, "on") {
				s.run()
			}
			s.exchange(rapid.IntRange(0, 50).Draw(t, "exchange"))
		}
		run()
		for _, i := range []int{2, 0, 1, 2, 0} {
			k.PutBack(&kept[i])
			require.Equal(t, want[i], run(), "state %d", i)
		}
	})
}

func TestKeepingAllocatesNothingTwice(t *testing.T) {
	s := newSystem(2)
	k, kept := NewKeeper(s), Kept{}
	assert.True(t, kept.Empty())
	k.Keep(&kept)
	assert.False(t, kept.Empty())
	assert.Zero(t, testing.AllocsPerRun(20, func() {
		s.ring[0]++
		k.Keep(&kept)
		k.PutBack(&kept)
	}))
	assert.Greater(t, k.Size(), 3*16*8)
}

// What nobody writes to is not kept.
func TestSharedIsLeftAlone(t *testing.T) {
	s := newSystem(0)
	k, kept := NewKeeper(s), Kept{}
	k.Keep(&kept)
	s.table[0], s.ring[0] = 9, 9
	k.PutBack(&kept)
	assert.Equal(t, 9, s.table[0])
	assert.Zero(t, s.ring[0])
}
