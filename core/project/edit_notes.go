package project

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/groove"
	"jubrak/core/music"
)

// Edits of notes: the pitches of a lane.
var noteEdits = map[string]Edit{"hit.transpose": TransposeHits{}, "lane.follow": FollowLane{}, "lane.roots": FollowRoots{}}

// TransposeHits moves the pitch of hits by steps of the project's key, or by octaves.
type TransposeHits struct {
	Hits []HitRef `json:"hits"`
	// Degrees of the scale; without a key they are semitones.
	Degrees int `json:"degrees"`
	// Octaves are added to that.
	Octaves int `json:"octaves,omitempty"`
}

func (e TransposeHits) apply(d *Document, _ Env) ([]string, error) {
	refs := unique(e.Hits)
	hits, err := d.findAll(refs)
	if err != nil {
		return nil, err
	}
	scale, err := music.ParseKey(d.Key)
	keyless := err != nil
	row := groove.HitParams.Find("semitones")
	for i, h := range hits {
		base := d.RootOf(refs[i].Voice)
		note := int(math.Round(float64(base) + h.Semitones))
		cents := float64(base) + h.Semitones - float64(note)
		to := note + e.Degrees
		if !keyless {
			to = scale.Transpose(note, e.Degrees)
		}
		to += 12 * e.Octaves
		v := float64(to-base) + cents
		if v < row.Min || v > row.Max {
			return nil, fmt.Errorf("a hit reaches three octaves either way of its voice's own pitch")
		}
		h.Semitones = v
	}
	return nil, nil
}

func (e TransposeHits) name(_, _ *Document) string {
	return fmt.Sprintf("%s transposed", count(len(e.Hits), "hit"))
}

// RootOf is the MIDI note nearest to a voice's own pitch: where it settles, or the root of
// its recording; 36 where neither is known.
func (d *Document) RootOf(voice string) int {
	if v := d.Kit.Voice(voice); v != nil {
		if hz := v.RootHz(); hz > 0 {
			return int(math.Round(music.NoteOf(hz)))
		}
	}
	return 36
}

// FollowLane puts a note on a lane wherever another voice strikes.
type FollowLane struct {
	Voice string `json:"voice"`
	// Follows is the voice whose hits are followed.
	Follows string `json:"follows"`
	// Length is that of each note, ticks; 0 lets each last until the next.
	Length int `json:"length_ticks,omitempty"`
}

func (e FollowLane) apply(d *Document, _ Env) ([]string, error) {
	if e.Voice == e.Follows {
		return nil, fmt.Errorf("a lane follows another one")
	}
	if _, _, err := d.laneOf(e.Follows); err != nil {
		return nil, err
	}
	i, l, err := d.laneOf(e.Voice)
	if err != nil {
		return nil, err
	}
	from := d.Groove.Lane(e.Follows)
	pitch := pitches(l.Hits)
	l.Steps, l.Grid = from.Steps, from.Grid
	out := []groove.Hit{}
	for _, h := range from.Hits {
		if len(out) > 0 && out[len(out)-1].Tick == h.Tick {
			continue
		}
		out = append(out, groove.Hit{Tick: h.Tick, Velocity: h.Velocity, Nudge: h.Nudge, Semitones: pitch(h.Tick), Length: e.Length})
	}
	for j := range out {
		out[j].ID = fmt.Sprintf("h%d", j+1)
		if e.Length == 0 {
			next := d.Groove.LaneTicks(i)
			if j+1 < len(out) {
				next = out[j+1].Tick
			}
			out[j].Length, out[j].Cut = next-out[j].Tick, true
			if d.Kit.Voice(e.Voice).Legato && (j+1 < len(out) || out[0].Tick == 0) {
				out[j].Length += overlap
			}
		}
	}
	l.Hits = out
	return nil, nil
}

// overlap is how much longer a note lasts where the voice plays legato, ticks, so that
// the next one finds it sounding and glides from it.
const overlap = music.PPQ / 8

// pitches reports the pitch that a lane has at a place: that of the last note before.
func pitches(hits []groove.Hit) func(tick int) float64 {
	hits = slices.Clone(hits)
	return func(tick int) float64 {
		at := 0.0
		for _, h := range hits {
			if h.Tick > tick {
				break
			}
			at = h.Semitones
		}
		return at
	}
}

func (e FollowLane) name(before, _ *Document) string {
	return fmt.Sprintf("%s follows %s", before.nameOf(e.Voice), before.nameOf(e.Follows))
}

// Root is the bass note of a chord and how long it stands.
type Root struct {
	// At and Length are ticks.
	At     int `json:"at_ticks"`
	Length int `json:"length_ticks"`
	// Note is a MIDI note; only its place in the octave counts where Class is set.
	Note int `json:"note"`
}

// FollowRoots gives a lane the roots of chords: typed, or heard. Where the lane has
// notes they keep their places and take the root that stands there; an empty lane gets
// a note for each chord, as long as that stands.
type FollowRoots struct {
	Voice string `json:"voice"`
	// Chords are as written over bars: "Fm | Db Ab | Eb . . Fm". They repeat along the
	// lane.
	Chords string `json:"chords,omitempty"`
	// Roots are in place of chords where those were heard or read from a file.
	Roots []Root `json:"roots,omitempty"`
	// Lasts is after how many ticks Roots repeat.
	Lasts int `json:"lasts_ticks,omitempty"`
}

func (e FollowRoots) apply(d *Document, _ Env) ([]string, error) {
	i, l, err := d.laneOf(e.Voice)
	if err != nil {
		return nil, err
	}
	roots, lasts := e.Roots, e.Lasts
	if e.Chords != "" {
		beats := float64(d.Groove.Meter.BarTicks()) / music.PPQ
		chords, err := music.ParseChords(e.Chords, beats)
		if err != nil {
			return nil, err
		}
		roots, lasts = nil, 0
		for _, c := range chords {
			r := Root{int(math.Round(c.At * music.PPQ)), int(math.Round(c.Beats * music.PPQ)), c.Class}
			roots, lasts = append(roots, r), r.At+r.Length
		}
	}
	if len(roots) == 0 || lasts <= 0 {
		return nil, fmt.Errorf("no chords are given; write their roots over bars, such as Fm | Db | Ab | Eb")
	}
	base := d.RootOf(e.Voice)
	at := func(tick int) (Root, bool) {
		for _, r := range roots {
			if t := tick % lasts; t >= r.At && t < r.At+r.Length {
				return r, true
			}
		}
		return Root{}, false
	}
	length := d.Groove.LaneTicks(i)
	own(l)
	if len(l.Hits) > 0 {
		for j := range l.Hits {
			if r, ok := at(l.Hits[j].Tick); ok {
				l.Hits[j].Semitones = nearestClass(base, r.Note)
			}
		}
		return nil, nil
	}
	if (length+lasts-1)/lasts*len(roots) > 4096 {
		return nil, fmt.Errorf("these are too many notes for one lane; give fewer chords to a bar")
	}
	for start := 0; start < length; start += lasts {
		for _, r := range roots {
			if start+r.At >= length {
				continue
			}
			lasts := min(r.Length, length-start-r.At)
			if d.Kit.Voice(e.Voice).Legato {
				lasts += overlap
			}
			l.Hits = append(l.Hits, groove.Hit{ID: l.NewHitID(), Tick: start + r.At, Velocity: 110, Semitones: nearestClass(base, r.Note), Length: lasts, Cut: true})
		}
	}
	l.Sort()
	return nil, nil
}

// nearestClass is how far above a note, at most six semitones below, a class of pitch
// lies.
func nearestClass(base, class int) float64 {
	up := ((class-base)%12 + 12) % 12
	if up > 6 {
		up -= 12
	}
	return float64(up)
}

func (e FollowRoots) name(before, _ *Document) string {
	return before.nameOf(e.Voice) + " follows the chords"
}
