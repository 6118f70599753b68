package deliver

import (
	"io"
	"math"

	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/project"
)

// midiPPQ keeps micro-timing to about a tenth of a millisecond.
const midiPPQ = 3840

// MIDI is the groove's cycle, or a number of bars, as a Standard MIDI File on
// channel 10 with General MIDI percussion keys; its micro-timing is in the
// ticks. The file ends where its last bar does. It is the loop: a hit that
// falls before the first downbeat stands before the loop's end, as in the
// loop's sound file; with a pickup, in a bar of its own before the first.
func MIDI(d *project.Document, o Options) (File, error) {
	song := d.Song(nil)
	bounce := engine.Bounce{Bars: o.Bars}
	ticks, err := bounce.Ticks(&song)
	if err != nil {
		return File{}, err
	}
	p := performance(d, ticks, o.Pickup)
	return File{Name: FileName(d.Name) + ".mid", Write: func(w io.Writer) error {
		return format.WriteMIDI(w, p, d.Name)
	}}, nil
}

func performance(d *project.Document, ticks int, pickup bool) *format.Performance {
	const fine = midiPPQ / music.PPQ
	line := groove.NewLine(&d.Groove, d.Tempo, ticks)
	p := &format.Performance{PPQ: midiPPQ, Meter: d.Groove.Meter, End: ticks * fine}
	var notes []format.MIDINote
	first := 0
	for _, e := range line.Events(0, ticks, nil) {
		v := d.Kit.Voice(d.Groove.Lanes[e.Lane].Voice)
		if v == nil || v.Mute {
			continue
		}
		at := int(math.Round(line.Ticks(e.Time) * fine))
		if !pickup {
			at = ((at % p.End) + p.End) % p.End
		}
		first = min(first, at)
		notes = append(notes, format.MIDINote{Tick: at, Length: midiPPQ / 8, Channel: 9, Key: v.Family.Key(), Velocity: e.Velocity})
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
