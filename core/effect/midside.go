package effect

import "jubrak/core/param"

// channelsID is the parameter of kinds that can act on the mid or the side alone.
const channelsID = "channels"

// What of a stereo sound an effect acts on.
const (
	onStereo = iota
	onMid
	onSide
)

func channelsParam() param.Param {
	return hint(param.Choice(channelsID, "", "Channels", "stereo", "mid", "side"), "Acts on left and right, on what both have in common, or on what differs")
}

// midSide lets an effect that is alike act on the mid or the side of a sound; the other is
// held back by what the effect is late.
type midSide struct {
	part  int
	other Delay
	memo  *[2][MaxBlock]float64 `state:"-"` // scratch of a block
}

func newMidSide() midSide { return midSide{memo: new([2][MaxBlock]float64)} }

func (m *midSide) tune(part, latency int) {
	m.part = part
	m.other.Set(latency)
}

func (m *midSide) run(of Processor, b Block, key []float64) {
	if m.part == onStereo || m.part == onMid && b.Right == nil {
		of.Process(b, key)
		return
	}
	if b.Right == nil { // one channel has no side
		m.other.Run(b)
		return
	}
	mid, side := m.memo[0][:b.Frames()], m.memo[1][:b.Frames()]
	for i, l := range b.Left {
		mid[i], side[i] = (l+b.Right[i])/2, (l-b.Right[i])/2
	}
	on, rest := mid, side
	if m.part == onSide {
		on, rest = side, mid
	}
	of.Process(Block{Left: on}, key)
	m.other.Run(Block{Left: rest})
	for i := range b.Left {
		b.Left[i], b.Right[i] = mid[i]+side[i], mid[i]-side[i]
	}
}
