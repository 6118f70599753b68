package groove

import (
	"fmt"
	"math"

	"jubrak/core/dsp"
	"jubrak/core/music"
)

// Hit is one thing that is struck: a stroke, or a flam or a roll, which are one hit
// until they are opened. What a plain hit does not have is left out of its JSON.
type Hit struct {
	ID string `json:"id"`
	// Tick is its place on the straight grid.
	Tick     int     `json:"tick"`
	Velocity int     `json:"velocity"`
	Nudge    float64 `json:"nudge_ms"`
	// Semitones are above the voice's own pitch; fractions are cents.
	Semitones float64 `json:"semitones"`
	// Length is how long it sounds, ticks; 0 lets it ring. With Cut it is stopped
	// there, else it dies away towards it. Of a roll it is how long that goes on.
	Length int  `json:"length_ticks,omitempty"`
	Cut    bool `json:"cut,omitempty"`
	// Glide is how long the pitch then takes to that of the next hit of a voice of
	// one note at a time, ms.
	Glide float64 `json:"glide_ms,omitempty"`
	// Fall is how far above its pitch it begins, semitones, and FallTime how long it
	// takes to get there, ms.
	Fall     float64 `json:"fall_st,omitempty"`
	FallTime float64 `json:"fall_ms,omitempty"`
	// Times of Of passes it is struck; 0 of 0 is always.
	Times int `json:"times,omitempty"`
	Of    int `json:"of,omitempty"`
	// Sound is the voice whose sound is struck in place of the lane's own; empty for
	// that.
	Sound string `json:"sound,omitempty"`
	// Reverse plays it backwards, so that it ends at its place. It begins Length, or
	// a beat, before.
	Reverse bool `json:"reverse,omitempty"`
	// Still is how much of the voice's scatter in time does not move this hit, percent.
	Still float64 `json:"still_percent,omitempty"`
	Flam  Flam    `json:"flam,omitzero"`
	Roll  Even    `json:"roll,omitzero"`
}

// Flam is strokes just before the main one, softer; none where Strokes is 0.
type Flam struct {
	Strokes int     `json:"strokes,omitempty"`
	Spacing float64 `json:"spacing_ms,omitempty"`
	Level   float64 `json:"level_db,omitempty"`
}

// Even is a roll: strokes that divide the length of their hit. Where PerBeat is not 0
// there are so many to a beat, else Strokes in all; none where both are 0.
type Even struct {
	Strokes int `json:"strokes,omitempty"`
	PerBeat int `json:"per_beat,omitempty"`
	// VelocityTo and PitchTo are those of its last stroke; 0 velocity is the first's.
	VelocityTo int     `json:"velocity_to,omitempty"`
	PitchTo    float64 `json:"pitch_to_st,omitempty"`
	// Spacing is the last distance between strokes over the first, in percent: 100
	// or 0 is even, less speeds up.
	Spacing float64 `json:"spacing_percent,omitempty"`
}

// MaxStrokes is the most strokes of a roll.
const MaxStrokes = 128

// Strokes is how many strokes a hit's roll has, at most MaxStrokes; 1 without one.
func (h *Hit) Strokes() int { return min(h.AskedStrokes(), MaxStrokes) }

// AskedStrokes is how many strokes its length and its number to a beat ask for, at
// least 1; where they are more than MaxStrokes the roll has those.
func (h *Hit) AskedStrokes() int {
	n := h.Roll.Strokes
	if h.Roll.PerBeat > 0 {
		n = int(math.Round(float64(h.Roll.PerBeat) * float64(h.rollTicks()) / music.PPQ))
	}
	return max(n, 1)
}

// Rolls reports whether the hit is a roll.
func (h *Hit) Rolls() bool { return h.Roll.Strokes > 1 || h.Roll.PerBeat > 0 }

// rollTicks is how long a roll goes on; a beat where no length is set.
func (h *Hit) rollTicks() int {
	if h.Length > 0 {
		return h.Length
	}
	return music.PPQ
}

// Stroke is one stroke of a hit: how many ticks after the hit's place, how much louder
// or softer (a factor of velocity) and higher than its first.
type Stroke struct {
	Ticks     int
	Early     float64 // ms before its place
	Velocity  float64
	Semitones float64
}

// Opened are the strokes of a hit in order, at least one. Of a roll of n strokes over
// a length L with a last distance r times the first, the distances are a geometric
// series that adds up to L: stroke k lies at L·(1 − q^k)/(1 − q^n), q^(n−1) = r.
// Grace notes of a flam come first. Their level is a velocity by the usual 40 dB per
// tenfold of velocity.
func (h *Hit) Opened(dst []Stroke) []Stroke {
	for k := h.Flam.Strokes; k > 0; k-- {
		dst = append(dst, Stroke{0, float64(k) * h.Flam.Spacing, math.Pow(10, h.Flam.Level/40), 0})
	}
	n := 1
	if h.Rolls() {
		n = h.Strokes()
	}
	q := 1.0
	if h.Roll.Spacing > 0 && n > 1 {
		q = math.Pow(h.Roll.Spacing/100, 1/float64(n-1))
	}
	last := 1.0
	if h.Roll.VelocityTo > 0 {
		last = float64(h.Roll.VelocityTo) / float64(h.Velocity)
	}
	for k := range n {
		part := float64(k) / float64(n)
		if math.Abs(q-1) > 1e-9 {
			part = (1 - math.Pow(q, float64(k))) / (1 - math.Pow(q, float64(n)))
		}
		way := 0.0
		if n > 1 {
			way = float64(k) / float64(n-1)
		}
		s := Stroke{Velocity: 1 + (last-1)*way, Semitones: h.Roll.PitchTo * way}
		if k > 0 {
			s.Ticks = int(math.Round(part * float64(h.rollTicks())))
		}
		dst = append(dst, s)
	}
	return dst
}

// plain reports whether a hit is one stroke.
func (h *Hit) plain() bool { return h.Flam.Strokes == 0 && !h.Rolls() }

// reach is how many ticks after its place its last stroke may come.
func (h *Hit) reach() int {
	if !h.Rolls() {
		return 0
	}
	return h.rollTicks()
}

// struck reports whether a hit sounds on a pass. Of each Of passes, in a row, it does on
// Times, which by lot: key names the lot.
func (h *Hit) struck(key uint64, pass int) bool {
	if h.Of <= 0 || h.Times >= h.Of {
		return true
	}
	group := floorDiv(pass, h.Of)
	mine := dsp.Key(key, 13, uint64(group), uint64(pass-group*h.Of))
	before := 0 // passes of the group whose lot is drawn first
	for i := range h.Of {
		lot := dsp.Key(key, 13, uint64(group), uint64(i))
		if lot < mine || lot == mine && i < pass-group*h.Of {
			before++
		}
	}
	return before < h.Times
}

// validate checks what the table of numbers cannot.
func (h *Hit) validate(voices func(string) bool) error {
	if h.Times > h.Of {
		return fmt.Errorf("it cannot be struck %d of %d times", h.Times, h.Of)
	}
	if h.Sound != "" && !voices(h.Sound) {
		return fmt.Errorf("there is no voice %q to strike", h.Sound)
	}
	return nil
}
