package export

import (
	"io"
	"math"
	"slices"

	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// midiPPQ is ticks per quarter note: micro-timing to within a third of a millisecond
// at 100 BPM.
const midiPPQ = 960

// MIDI is the groove's cycle, or a number of bars, as a Standard MIDI File on
// channel 10 with General MIDI percussion keys, or the user's; its micro-timing is in
// the ticks, and rolls and flams are played out. The file ends where its last bar does. It is the loop: a hit that
// falls before the first downbeat stands before the loop's end, as in the
// loop's sound file; with a pickup, in a bar of its own before the first.
func MIDI(d *project.Document, o Options) (File, error) {
	song := d.Song(nil)
	bounce := engine.Bounce{Bars: o.Bars}
	ticks, err := bounce.Ticks(&song)
	if err != nil {
		return File{}, err
	}
	p := performance(d, ticks, o)
	return File{Name: FileName(d.Name) + ".mid", Write: func(w io.Writer) error {
		return format.WriteMIDI(w, p, d.Name)
	}}, nil
}

func performance(d *project.Document, ticks int, o Options) *format.Performance {
	const fine = midiPPQ / music.PPQ
	line := groove.NewLine(&d.Groove, d.Tempo, ticks)
	p := &format.Performance{PPQ: midiPPQ, Meter: d.Groove.Meter, End: ticks * fine}
	var notes []format.MIDINote
	pitched := map[string]int{}
	if o.Notes {
		pitched = channels(d, &d.Groove)
	}
	if o.Tracks {
		for i := range d.Kit.Voices {
			p.Tracks = append(p.Tracks, d.Kit.Voices[i].Name)
		}
	}
	keys := d.Kit.Keys(o.Keys)
	first := 0
	for _, e := range line.Events(0, ticks, nil) {
		at := int(math.Round(line.Ticks(e.Time) * fine))
		if !o.Pickup {
			at = ((at % p.End) + p.End) % p.End
		}
		if n, ok := noteOf(d, &d.Groove, &e, at, keys, pitched, o); ok {
			first = min(first, at)
			notes = append(notes, n)
		}
	}
	shift := 0
	if first < 0 {
		bar := d.Groove.Meter.BarTicks() * fine
		shift = (-first + bar - 1) / bar * bar
		for i := range notes {
			notes[i].Tick += shift
		}
		p.End += shift
	}
	for _, t := range line.TempoChanges(ticks) {
		at := t.Tick * fine
		if at > 0 {
			at += shift
		}
		p.Tempo = append(p.Tempo, format.MIDITempo{Tick: at, Micros: int(math.Round(60e6 / t.BPM))})
	}
	p.Notes = notes
	p.Separate()
	return p
}

// noteOf is the note of an event at a tick of the file; ok is false where its voice is
// muted or gone.
func noteOf(d *project.Document, g *groove.Groove, e *groove.Event, at int, keys map[string]int, pitched map[string]int, o Options) (n format.MIDINote, ok bool) {
	h := &g.Lanes[e.Lane].Hits[e.Hit]
	id := g.Lanes[e.Lane].Voice
	if h.Sound != "" {
		id = h.Sound
	}
	v := d.Kit.Voice(id)
	if v == nil || v.Mute {
		return n, false
	}
	n = format.MIDINote{Tick: at, Length: midiPPQ / 8, Channel: 9, Key: keys[id], Velocity: e.Velocity}
	if h.Length > 0 && !h.Rolls() {
		n.Length = h.Length * midiPPQ / music.PPQ
	}
	if channel, ok := pitched[id]; ok {
		n.Channel, n.Key = channel, min(max(d.RootOf(id)+int(math.Round(e.Semitones)), 0), 127)
	}
	if o.Tracks {
		n.Track = slices.IndexFunc(d.Kit.Voices, func(k sound.Voice) bool { return k.ID == id })
	}
	return n, true
}

// channels are those of voices that have notes: 1 to 9, then 11 to 16.
func channels(d *project.Document, grooves ...*groove.Groove) map[string]int {
	out := map[string]int{}
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		struck, moves := false, false
		for _, g := range grooves {
			if l := g.Lane(v.ID); l != nil {
				struck = struck || len(l.Hits) > 0
				moves = moves || slices.ContainsFunc(l.Hits, func(h groove.Hit) bool { return h.Semitones != 0 || h.Roll.PitchTo != 0 })
			}
		}
		if !struck || !moves && v.Family != sound.Bass808 {
			continue
		}
		if n := len(out); n < 15 {
			if n >= 9 {
				n++
			}
			out[v.ID] = n
		}
	}
	return out
}
