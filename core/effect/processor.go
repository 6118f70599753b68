// Package effect holds the processors of sound: each changes a block in place,
// keeps what it remembers inside, and says how late it is and how long it rings.
package effect

// MaxBlock is the most frames of a block.
const MaxBlock = 512

// Block is what a processor changes: left and right of equal length, at most
// MaxBlock frames, full scale at 1. Right is nil where there is one channel.
type Block struct{ Left, Right []float64 }

// Frames is the length of a block.
func (b Block) Frames() int { return len(b.Left) }

// Part is the frames from to to of a block, in the same memory.
func (b Block) Part(from, to int) Block {
	out := Block{Left: b.Left[from:to]}
	if b.Right != nil {
		out.Right = b.Right[from:to]
	}
	return out
}

// add adds another block of the same length and channels.
func (b Block) add(o Block) {
	for i, x := range o.Left {
		b.Left[i] += x
	}
	for i, x := range o.Right {
		b.Right[i] += x
	}
}

// Clear makes a block silent.
func (b Block) Clear() {
	clear(b.Left)
	clear(b.Right)
}

// Processor is one effect of a chain.
//
// Process changes the next block in place. Blocks of any length up to MaxBlock
// may follow each other, and how a sound is cut into blocks does not change it.
// key is the signal that steers the processor where it is steered by another
// one, of the block's length, else nil. Process allocates nothing, and the zero
// block is valid, too: silence in gives silence, or what still rings.
//
// Latency is by how many frames the sound comes out later than it went in. Tail
// is how many frames after the last sound something may still be heard, beyond
// the latency. Both may change only with the processor's numbers.
//
// Reset forgets the past, as if nothing had been played.
type Processor interface {
	Process(b Block, key []float64)
	Latency() int
	Tail() int
	Reset()
}

// Runner runs a processor and lets it sleep: once silence has gone in for as long
// as it takes and rings, it is no longer called and what comes out is silence,
// until sound comes in again. Then it starts from rest.
type Runner struct {
	Processor Processor
	quiet     int // frames of silence that went in
	asleep    bool
}

// Run processes a block that is silent or not, and reports whether it is silent
// now.
func (s *Runner) Run(b Block, key []float64, silent bool) bool {
	if !silent {
		if s.asleep {
			s.Processor.Reset()
		}
		s.quiet, s.asleep = 0, false
		s.Processor.Process(b, key)
		return false
	}
	if s.asleep || s.quiet >= s.Processor.Latency()+s.Processor.Tail() {
		s.asleep = true
		return true
	}
	s.quiet += b.Frames()
	s.Processor.Process(b, key)
	return false
}

// Continue goes on from where the effect was that this one takes the place of.
func (s *Runner) Continue(was *Runner) { s.quiet, s.asleep = was.quiet, was.asleep }
