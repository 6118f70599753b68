package effect

// Delay holds both channels back by whole frames. Another length is faded to over some
// ms, so that nothing clicks; nothing is held where the length is 0 from the
// beginning.
type Delay struct {
	past    [2][]float64 // a ring, of a length that is a power of two
	at      int
	frames  int // how far back it shall read
	to      int // how far it reads, or fades to: a fade is ended before the next begins
	was     int // how far it has read, while it fades
	fade    int // frames of the fade to go
	wait    int // frames until it begins, as what it goes to must be there
	written int // since it was at rest, up to the ring's length
	still   int // frames of silence that went in last
}

// delayFade is how long a change of length fades, frames.
const delayFade = 720

// eased goes from 0 to 1 without a corner at either end.
func eased(t float64) float64 { return t * t * (3 - 2*t) }

// NewDelay holds back by so many frames.
func NewDelay(frames int) Delay {
	d := Delay{frames: frames, to: frames}
	d.grow(frames)
	return d
}

func (d *Delay) grow(frames int) {
	if frames == 0 || frames < len(d.past[0]) {
		return
	}
	n := 256
	for n <= frames {
		n *= 2
	}
	for c := range d.past {
		ring := make([]float64, n)
		for i := 1; i <= min(len(d.past[c]), d.written); i++ {
			ring[n-i] = d.past[c][(d.at-i)&(len(d.past[c])-1)]
		}
		d.past[c] = ring
	}
	d.at = 0
}

// Set changes the length; it allocates where it grows.
func (d *Delay) Set(frames int) {
	if frames == d.frames {
		return
	}
	d.grow(frames)
	d.frames = frames
	if d.fade == 0 {
		d.begin()
	}
}

// begin fades to the length that it shall have.
func (d *Delay) begin() {
	d.was, d.to, d.fade, d.wait = d.to, d.frames, delayFade, max(d.frames-d.written, 0)
}

// Jump changes the length at once: for what has not sounded yet.
func (d *Delay) Jump(frames int) {
	d.grow(frames)
	d.frames, d.to, d.fade, d.wait = frames, frames, 0, 0
}

// fades reports whether it is on its way to another length.
func (d *Delay) fades() bool { return d.fade > 0 || d.to != d.frames }

// Frames is the length.
func (d *Delay) Frames() int { return d.frames }

// Run delays a block.
func (d *Delay) Run(b Block) {
	if len(d.past[0]) == 0 || d.frames == 0 && d.fade == 0 && d.written == 0 {
		return
	}
	for at := 0; at < b.Frames(); {
		if d.fade == 0 && d.to != d.frames {
			d.begin()
		}
		n := b.Frames() - at
		if d.fade > 0 {
			n = min(n, d.wait+d.fade)
		}
		d.run(b.Part(at, at+n))
		at += n
	}
}

// run delays frames within which no fade begins.
func (d *Delay) run(b Block) {
	mask := len(d.past[0]) - 1
	fade, wait, at := d.fade, d.wait, d.at
	for c, x := range [2][]float64{b.Left, b.Right} {
		past := d.past[c]
		if x == nil {
			continue
		}
		fade, wait, at = d.fade, d.wait, d.at
		for i, v := range x {
			past[at] = v
			y := past[(at-d.to)&mask]
			if fade > 0 {
				y += (past[(at-d.was)&mask] - y) * eased(float64(fade)/delayFade)
				if wait > 0 {
					wait--
				} else {
					fade--
				}
			}
			x[i] = y
			at = (at + 1) & mask
		}
	}
	d.fade, d.wait, d.at = fade, wait, at
	d.written = min(d.written+b.Frames(), len(d.past[0]))
}

// Hold is Run for a block that is silent or not; it reports whether what comes out is
// silent, too.
func (d *Delay) Hold(b Block, silent bool) bool {
	d.Run(b)
	if !silent {
		d.still = 0
		return false
	}
	d.still = min(d.still+b.Frames(), len(d.past[0])+MaxBlock)
	return d.still >= max(d.frames, d.to, d.was)+b.Frames()
}

// Reset forgets the past.
func (d *Delay) Reset() {
	for c := range d.past {
		clear(d.past[c])
	}
	d.to, d.at, d.fade, d.wait, d.written, d.still = d.frames, 0, 0, 0, 0, 0
}
