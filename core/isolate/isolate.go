// Package isolate takes the drums of a recording out of it, each by itself: a one-shot put
// together from all strokes of a row, and what is known of it.
//
// Strokes are aligned, brought to one level, and combined in time and frequency: what they
// have in common is the drum, what differs from stroke to stroke is its own noise or
// something else. All drums are explained together: what one row explains is taken off
// before the next is estimated, in turn, a few times.
package isolate

import (
	"context"
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Version is that of what Find makes; kept results of another are made anew.
const Version = 2

const (
	// rate is that at which drums are taken out, Hz.
	rate = 48000
	// lead is how much before its stroke a drum begins, samples.
	lead = 480
	// Lead is the same in seconds.
	Lead = lead / float64(rate)
	// analysisSize is that of frames, samples: 21 ms.
	analysisSize = 1024
	// FrameSeconds is from frame to frame of a map of what is known.
	FrameSeconds = float64(analysisSize/4) / rate
	// mostStrokes is how many of a row's strokes are combined, the best.
	mostStrokes = 32
	// rounds is how often all rows are estimated in turn.
	rounds = 3
	// longestPart is how much of a recording is worked on, samples: of a longer one the
	// part with most strokes.
	longestPart = 40 * rate
)

// Choices are what the user has said of a reference's drums.
type Choices struct {
	// LeftOut are ids of strokes that are not used.
	LeftOut []string `json:"left_out"`
	// Rows say, by family, of how many drums a row is made: 1 or 2; others are found.
	Rows map[sound.Family]int `json:"rows"`
}

// Stroke is one stroke of a row.
type Stroke struct {
	Hit string `json:"hit"`
	// Time is where it begins, seconds.
	Time float64 `json:"time_s"`
	// Level is against the drum, dB.
	Level float64 `json:"level_db"`
	// Match is how alike it is to the drum, 0..1.
	Match float64 `json:"match"`
	// Used is whether the drum is made of it; Out whether the user left it out.
	Used bool `json:"used"`
	Out  bool `json:"out"`
}

// Drum is one drum of a recording, by itself.
type Drum struct {
	Family sound.Family `json:"family"`
	// Group is 0 where the row is one drum, else which of its drums this is, from 1.
	Group int `json:"group"`
	// Sound is one loud stroke as it is there, at 48 kHz; it begins Lead before the stroke.
	Sound *audio.Buffer `json:"-"`
	// Dry is the same without the room, as far as that can be estimated; nil where it
	// cannot.
	Dry     *audio.Buffer `json:"-"`
	Strokes []Stroke      `json:"strokes"`
	Known   Known         `json:"known"`
	Facts   Facts         `json:"facts"`
	// Room is how sure the room is that Dry is without, 0..1.
	Room float64 `json:"room_sure"`
	// Soft is what soft strokes are like; nil where there are not enough.
	Soft *Soft `json:"soft"`
	// Words are sentences about what is known and what is not.
	Words []string `json:"words"`
}

// Find takes the drums out of a recording whose strokes are known. report is reported how much
// is done, 0..1. The order is that of sound.Families.
func Find(ctx context.Context, b *audio.Buffer, hits []transcribe.Hit, choices Choices, report func(done float64)) ([]Drum, error) {
	rows := rowsOf(hits, choices)
	part := partOf(rows, int(b.Seconds()*rate))
	rows, elsewhere := struckIn(rows, part)
	worked := b.Slice(part[0]/rate*b.Rate, part[1]/rate*b.Rate+part[1]%rate*b.Rate/rate)
	x, side := sides(worked.Resample(rate))
	for _, r := range rows {
		for i := range r.strokes {
			r.strokes[i].move(-float64(part[0]))
		}
		r.inside(len(x))
	}
	a := newAligner()
	for _, r := range rows {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		a.align(x, r)
	}
	report(0.15)
	t := newTransform(analysisSize)
	rest := slices.Clone(x)
	for round := range rounds {
		for i := 0; i < len(rows); i++ {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			r := rows[i]
			if other := r.update(t, rest, round); other != nil {
				rows = slices.Insert(rows, i+1, other)
			}
			report(0.15 + 0.7*(float64(round)+float64(i+1)/float64(len(rows)))/rounds)
		}
	}
	out := finish(t, rows, rest, side)
	for _, r := range elsewhere { // seldom struck: with all that sounds beside them
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		x, side := r.excerpts(b)
		a.align(x, r)
		r.estimate(t, x)
		r.wave = t.inverse(r.common(), r.length)
		out = append(out, finish(t, []*row{r}, x, side)...)
	}
	slices.SortStableFunc(out, func(a, b Drum) int {
		return slices.Index(sound.Families, a.Family) - slices.Index(sound.Families, b.Family)
	})
	balance(out)
	if err := against(ctx, worked, float64(part[0]/rate), out); err != nil {
		return nil, err
	}
	report(1)
	return out, ctx.Err()
}

// update estimates a row anew and takes what it explains off the rest. It returns a second
// drum, where the row turns out to be two.
func (r *row) update(t *transform, rest []float32, round int) (other *row) {
	was := *r
	r.estimate(t, rest)
	if was.wave != nil {
		was.add(rest, 1)
		was.expect(t, -1)
	}
	if round == 1 { // when the others are explained
		if other = r.divide(t, rest); other != nil {
			r.same, r.own = nil, nil
			r.estimate(t, rest)
		}
	}
	r.wave = t.inverse(r.common(), r.length)
	clear(r.wave[:lead-quietLead])
	if round > 0 {
		r.weigh(t, rest)
	}
	r.add(rest, -1)
	r.expect(t, 1)
	return other
}

// quietLead is how much before its stroke a drum may sound, samples: 3 ms.
const quietLead = 144

// sides are the middle and, where there is one, the side of a recording.
func sides(b *audio.Buffer) (mid, side []float32) {
	mid = make([]float32, b.Frames())
	for i, v := range b.Mono() {
		mid[i] = float32(v)
	}
	if len(b.Channels) != 2 {
		return mid, nil
	}
	side = make([]float32, len(mid))
	var sum, all float64
	for i := range side {
		side[i] = (b.Channels[0][i] - b.Channels[1][i]) / 2
		sum += float64(side[i]) * float64(side[i])
		all += float64(mid[i]) * float64(mid[i])
	}
	if sum < 1e-5*all {
		return mid, nil
	}
	return mid, side
}

// partOf is the part of a recording that is worked on: where most strokes are, those of
// rows that are seldom struck counting more.
func partOf(rows []*row, frames int) [2]int {
	if frames <= longestPart {
		return [2]int{0, frames}
	}
	const step = 10 * rate
	best, most := 0, -1.0
	for from := 0; from+longestPart <= frames+step; from += step {
		score := 0.0
		for _, r := range rows {
			n := 0.0
			for _, s := range r.strokes {
				if s.place >= float64(from) && s.place < float64(from+longestPart-rate) {
					n++
				}
			}
			score += math.Sqrt(math.Min(n, mostStrokes)) + math.Min(n, 4)
		}
		if score > most {
			best, most = from, score
		}
	}
	return [2]int{best, min(best+longestPart, frames)}
}

// finish puts the drums together.
func finish(t *transform, rows []*row, rest, side []float32) []Drum {
	var out []Drum
	for _, r := range rows {
		r.levels(t)
	}
	room := roomOf(rows)
	for _, r := range rows {
		middle := t.inverse(r.shaped(t, nil), r.length)
		clear(middle[:lead-quietLead])
		d := Drum{Family: r.family, Group: r.group, Known: r.known(t), Strokes: r.list()}
		d.Sound = &audio.Buffer{Rate: rate, Channels: [][]float32{middle}}
		if side != nil {
			d.Sound = stereo(middle, r.side(t, side))
		}
		if gains, sure := room.off(r); gains != nil {
			dry := t.inverse(r.shaped(t, gains), r.length)
			clear(dry[:lead-quietLead])
			d.Dry, d.Room = &audio.Buffer{Rate: rate, Channels: [][]float32{dry}}, sure
		}
		d.Facts = r.measure(t, d.Sound)
		d.Soft = r.soft(t, rest)
		d.Words = d.words(r.count)
		out = append(out, d)
	}
	return out
}

// struckIn parts rows into those that are struck often enough in a part of the recording and
// those that are not.
func struckIn(rows []*row, part [2]int) (in, out []*row) {
	for _, r := range rows {
		n := 0
		for _, s := range r.strokes {
			if s.place >= float64(part[0]) && s.place < float64(part[1]) {
				n++
			}
		}
		if n < min(leastInPart, len(r.strokes)) {
			out = append(out, r)
		} else {
			in = append(in, r)
		}
	}
	return in, out
}

// excerpts are the row's best strokes, each with some room, one after the other: the strokes
// are moved there.
func (r *row) excerpts(b *audio.Buffer) (mid, side []float32) {
	r.field = &field{} // that of other rows has other places
	r.inside(int(b.Seconds() * rate))
	ahead, room := b.Rate/10, (r.length+rate/10)*b.Rate/rate
	cut := &audio.Buffer{Rate: b.Rate, Channels: make([][]float32, len(b.Channels))}
	scale := float64(rate) / float64(b.Rate)
	for i := range r.strokes {
		s := &r.strokes[i]
		if !s.used {
			s.move(-nowhere)
			continue
		}
		from := int(s.place/scale) - ahead
		s.move(float64(cut.Frames()-from) * scale)
		for c := range cut.Channels {
			for j := from; j < from+ahead+room; j++ {
				v := float32(0)
				if j >= 0 && j < b.Frames() {
					v = b.Channels[c][j]
				}
				cut.Channels[c] = append(cut.Channels[c], v)
			}
		}
	}
	return sides(cut.Resample(rate))
}

// nowhere is before all that is worked on, samples.
const nowhere = 1e9

// leastInPart is how many strokes of a row the part that is worked on must have.
const leastInPart = 4

// balance measures the level of all strokes of each drum against all drums.
func balance(out []Drum) {
	var all float64
	for i := range out {
		all += out[i].energy()
	}
	for i := range out {
		out[i].Facts.Level = &Measure{Value: round1(10 * math.Log10(out[i].energy()/math.Max(all, 1e-20)+1e-12)), Within: round1(math.Max(out[i].Known.typical(), 0.1))}
	}
}

func stereo(mid, side []float32) *audio.Buffer {
	b := audio.New(rate, 2, len(mid))
	for i := range mid {
		b.Channels[0][i], b.Channels[1][i] = mid[i]+side[i], mid[i]-side[i]
	}
	return b
}

// energy is that of all strokes of the drum.
func (d *Drum) energy() (sum float64) {
	one := 0.0
	for _, ch := range d.Sound.Channels {
		for _, v := range ch {
			one += float64(v) * float64(v) / float64(len(d.Sound.Channels))
		}
	}
	return one * d.struck()
}

// struck is how much all its strokes have of the energy of one of 0 dB.
func (d *Drum) struck() (sum float64) {
	for _, s := range d.Strokes {
		sum += math.Pow(10, s.Level/10)
	}
	return sum
}
