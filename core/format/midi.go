package format

import (
	"cmp"
	"encoding/binary"
	"fmt"
	"io"
	"math"
	"slices"
	"sort"

	"jubrak/core/music"
)

// Performance is what a Standard MIDI File holds that matters here: notes,
// tempo changes, meters and markers. Ticks are in the file's own division.
type Performance struct {
	PPQ   int
	Tempo []MIDITempo
	Meter music.Meter
	// Meters are changes of the meter after the first; read, they are left out.
	Meters []MIDIMeter
	// Markers name places.
	Markers []MIDIMarker
	Notes   []MIDINote
	// Tracks are the names of tracks, where notes are written on several.
	Tracks []string
	// End is where the tracks end, if that is later than the last note.
	End int
}

// MIDITempo is a tempo change: Micros microseconds per quarter note.
type MIDITempo struct {
	Tick   int
	Micros int
}

// MIDIMeter is a change of the meter.
type MIDIMeter struct {
	Tick  int
	Meter music.Meter
}

// MIDIMarker names a place.
type MIDIMarker struct {
	Tick int
	Name string
}

// MIDINote is a note with its start and length in ticks, channel 0..15.
type MIDINote struct {
	Tick, Length           int
	Channel, Key, Velocity int
	// Track is which of the performance's it is written on; read, all are on the
	// first.
	Track int
}

// Seconds is the time of a tick under the file's tempo changes.
func (p *Performance) Seconds(tick int) float64 {
	at, last, micros := 0.0, 0, 500000
	for _, t := range p.Tempo {
		if t.Tick >= tick {
			break
		}
		at += float64(t.Tick-last) * float64(micros) / 1e6 / float64(p.PPQ)
		last, micros = t.Tick, t.Micros
	}
	return at + float64(tick-last)*float64(micros)/1e6/float64(p.PPQ)
}

const (
	maxMIDINotes = 200000
	mostMarkers  = 10000
)

// ReadMIDI reads formats 0 and 1 of Standard MIDI Files 1.0 with metrical
// division: notes of all channels, tempo and the first time signature. A
// note without an end is given a sixteenth.
func ReadMIDI(r io.Reader) (*Performance, error) {
	data, err := readAll(r, 16<<20)
	if err != nil {
		return nil, err
	}
	if len(data) == 0 {
		return nil, fail(CodeEmpty, "The file is empty.")
	}
	if len(data) < 14 || string(data[:4]) != "MThd" {
		return nil, fail(CodeUnknown, "This is not a MIDI file.")
	}
	kind := binary.BigEndian.Uint16(data[8:])
	division := int(binary.BigEndian.Uint16(data[12:]))
	if kind > 1 {
		return nil, fail(CodeUnusable, "MIDI files of format %d cannot be read; save it as format 0 or 1.", kind)
	}
	if division == 0 || division >= 0x8000 {
		return nil, fail(CodeUnusable, "The MIDI file counts time in film frames or not at all; save it with ticks per quarter note.")
	}
	p := &Performance{PPQ: division, Meter: music.Meter{Beats: 4, Unit: 4}}
	at := 8 + int(binary.BigEndian.Uint32(data[4:]))
	for tracks := 0; at+8 <= len(data) && at > 0; {
		size := int(binary.BigEndian.Uint32(data[at+4:]))
		if size < 0 || size > len(data)-at-8 {
			return nil, fail(CodeTruncated, "The MIDI file is cut short.")
		}
		if string(data[at:at+4]) == "MTrk" {
			if err := p.track(data[at+8 : at+8+size]); err != nil {
				return nil, err
			}
			tracks++
		}
		at += 8 + size
	}
	sort.SliceStable(p.Tempo, func(a, b int) bool { return p.Tempo[a].Tick < p.Tempo[b].Tick })
	sort.SliceStable(p.Notes, func(a, b int) bool { return p.Notes[a].Tick < p.Notes[b].Tick })
	if len(p.Notes) == 0 {
		return nil, fail(CodeEmpty, "The MIDI file holds no notes.")
	}
	last := 0
	for _, n := range p.Notes {
		last = max(last, n.Tick+n.Length)
	}
	if p.End <= last || p.End/p.PPQ > MaxPerformanceBeats || p.Seconds(p.End) > MaxPerformanceSeconds {
		p.End = 0 // it says nothing more; nor do tracks that end in the far distance
	}
	return p, p.check()
}

// Limits of a performance: whoever reads one may make a list of its beats and
// a buffer of its length.
const (
	MaxPerformanceSeconds = 3600
	MaxPerformanceBeats   = 36000
)

// check refuses a performance that goes on for longer than one can.
func (p *Performance) check() error {
	last := 0
	for _, n := range p.Notes {
		last = max(last, n.Tick+n.Length)
	}
	if s := p.Seconds(last); s > MaxPerformanceSeconds || last/p.PPQ > MaxPerformanceBeats {
		return fail(CodeTooLong, "The last note of the MIDI file lies at %s, beat %d; a performance of at most %d minutes and %d beats can be read. Is a note far behind the others?", clock(s), last/p.PPQ+1, MaxPerformanceSeconds/60, MaxPerformanceBeats)
	}
	return nil
}

// clock writes seconds as hours, minutes and seconds.
func clock(seconds float64) string {
	s := int(seconds)
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}

// track reads one MTrk chunk.
func (p *Performance) track(b []byte) error {
	damaged := fail(CodeDamaged, "The MIDI file is damaged: a track ends inside an event.")
	open := map[int][]int{} // channel·128 + key -> indices of sounding notes
	tick, status := 0, byte(0)
	meterSet := false
	for len(b) > 0 {
		delta, n := readVarLen(b)
		if n == 0 || len(b) == n {
			return damaged
		}
		if tick += delta; tick > math.MaxInt32 {
			return fail(CodeDamaged, "The MIDI file is damaged: it is longer than can be.")
		}
		b = b[n:]
		if b[0] >= 0x80 {
			status, b = b[0], b[1:]
		}
		switch {
		case status == 0xFF || status == 0xF0 || status == 0xF7:
			kind := byte(0)
			if status == 0xFF {
				if len(b) == 0 {
					return damaged
				}
				kind, b = b[0], b[1:]
			}
			size, n := readVarLen(b)
			if n == 0 || size > len(b)-n {
				return damaged
			}
			body := b[n : n+size]
			b = b[n+size:]
			switch {
			case status == 0xFF && kind == 0x2F:
				p.End = max(p.End, tick)
				return nil
			case status == 0xFF && kind == 0x06 && len(p.Markers) < mostMarkers:
				p.Markers = append(p.Markers, MIDIMarker{tick, string(body)})
			case status == 0xFF && kind == 0x51 && size == 3:
				micros := int(body[0])<<16 | int(body[1])<<8 | int(body[2])
				if micros > 0 {
					p.Tempo = append(p.Tempo, MIDITempo{Tick: tick, Micros: micros})
				}
			case status == 0xFF && kind == 0x58 && size >= 2 && !meterSet && body[1] <= 4:
				m := music.Meter{Beats: int(body[0]), Unit: 1 << body[1]}
				if m.Validate() == nil {
					p.Meter, meterSet = m, true
				}
			}
			status = 0
		case status >= 0x80 && status < 0xF0:
			size := 2
			if status>>4 == 0xC || status>>4 == 0xD {
				size = 1
			}
			if len(b) < size {
				return damaged
			}
			if size == 2 {
				p.note(open, status, int(b[0]&0x7F), int(b[1]&0x7F), tick)
			}
			if len(p.Notes) > maxMIDINotes {
				return fail(CodeTooLong, "The MIDI file holds more than %d notes.", maxMIDINotes)
			}
			b = b[size:]
		default:
			return damaged
		}
	}
	return nil
}

// note takes a note on or off.
func (p *Performance) note(open map[int][]int, status byte, key, velocity, tick int) {
	id := int(status&0xF)<<7 | key
	switch {
	case status>>4 == 9 && velocity > 0:
		open[id] = append(open[id], len(p.Notes))
		p.Notes = append(p.Notes, MIDINote{Tick: tick, Length: p.PPQ / 4, Channel: int(status & 0xF), Key: key, Velocity: velocity})
	case status>>4 == 8 || status>>4 == 9:
		if on := open[id]; len(on) > 0 {
			p.Notes[on[0]].Length = tick - p.Notes[on[0]].Tick
			open[id] = on[1:]
		}
	}
}

// readVarLen reads a variable-length quantity of at most four bytes; n is 0
// where there is none.
func readVarLen(b []byte) (value, n int) {
	for n < len(b) && n < 4 {
		value = value<<7 | int(b[n]&0x7F)
		n++
		if b[n-1] < 0x80 {
			return value, n
		}
	}
	return 0, 0
}

// appendVarLen writes a variable-length quantity, 0 to 0x0FFFFFFF.
func appendVarLen(b []byte, v int) []byte {
	for shift := 21; shift > 0; shift -= 7 {
		if v >= 1<<shift {
			b = append(b, byte(v>>shift)&0x7F|0x80)
		}
	}
	return append(b, byte(v&0x7F))
}

// Separate sorts the notes by time and ends each before the next of its key and
// channel, and before the end: readers pair a note's end with any of its key
// that sounds. Of two of one key at once the louder stays.
func (p *Performance) Separate() {
	slices.SortStableFunc(p.Notes, func(a, b MIDINote) int {
		return cmp.Or(a.Tick-b.Tick, a.Channel-b.Channel, a.Key-b.Key, b.Velocity-a.Velocity)
	})
	p.Notes = slices.CompactFunc(p.Notes, func(a, b MIDINote) bool {
		return a.Tick == b.Tick && a.Key == b.Key && a.Channel == b.Channel
	})
	next := map[[2]int]int{}
	for i := len(p.Notes) - 1; i >= 0; i-- {
		n := &p.Notes[i]
		limit, ok := next[[2]int{n.Channel, n.Key}]
		if !ok {
			limit = n.Tick + n.Length
			if p.End > n.Tick {
				limit = min(limit, p.End)
			}
		}
		n.Length = max(min(n.Length, limit-n.Tick), 1)
		next[[2]int{n.Channel, n.Key}] = n.Tick
	}
}

// WriteMIDI writes a format 1 file: a track of tempo and meter, then one of
// the notes, sorted by time. Both end where the performance does.
func WriteMIDI(w io.Writer, p *Performance, name string) error {
	conductor := p.conductor()
	tracks := []*midiTrack{conductor}
	if len(p.Tracks) == 0 {
		tracks = append(tracks, noteTrack(p.Notes, name))
	}
	for i, called := range p.Tracks {
		var own []MIDINote
		for _, n := range p.Notes {
			if n.Track == i {
				own = append(own, n)
			}
		}
		tracks = append(tracks, noteTrack(own, called))
	}
	out := append([]byte("MThd"), 0, 0, 0, 6, 0, 1)
	out = binary.BigEndian.AppendUint16(out, uint16(len(tracks)))
	out = binary.BigEndian.AppendUint16(out, uint16(p.PPQ))
	for _, t := range tracks {
		t.meta(max(t.last, p.End), 0x2F, nil)
		out = append(out, "MTrk"...)
		out = binary.BigEndian.AppendUint32(out, uint32(len(t.bytes)))
		out = append(out, t.bytes...)
	}
	_, err := w.Write(out)
	return err
}

// conductor is the track of tempos, meters and markers.
func (p *Performance) conductor() *midiTrack {
	type meta struct {
		tick, order int
		kind        byte
		body        []byte
	}
	var list []meta
	for _, t := range p.Tempo {
		list = append(list, meta{t.Tick, 0, 0x51, []byte{byte(t.Micros >> 16), byte(t.Micros >> 8), byte(t.Micros)}})
	}
	first := 0
	if len(p.Tempo) > 0 {
		first = p.Tempo[0].Tick
	}
	for _, m := range append([]MIDIMeter{{first, p.Meter}}, p.Meters...) {
		unit := byte(math.Round(math.Log2(float64(m.Meter.Unit))))
		list = append(list, meta{m.Tick, 1, 0x58, []byte{byte(m.Meter.Beats), unit, 24, 8}})
	}
	for _, m := range p.Markers {
		list = append(list, meta{m.Tick, 2, 0x06, []byte(m.Name)})
	}
	sort.SliceStable(list, func(a, b int) bool {
		return list[a].tick < list[b].tick || list[a].tick == list[b].tick && list[a].order < list[b].order
	})
	t := newTrack()
	for _, m := range list {
		t.meta(m.tick, m.kind, m.body)
	}
	return t
}

// noteTrack is a track of notes with its name.
func noteTrack(list []MIDINote, name string) *midiTrack {
	type edge struct {
		tick, order int
		bytes       [3]byte
	}
	var edges []edge
	for _, n := range list {
		edges = append(edges,
			edge{n.Tick, 1, [3]byte{0x90 | byte(n.Channel), byte(n.Key), byte(n.Velocity)}},
			edge{n.Tick + max(n.Length, 1), 0, [3]byte{0x80 | byte(n.Channel), byte(n.Key), 0}})
	}
	sort.SliceStable(edges, func(a, b int) bool {
		if edges[a].tick != edges[b].tick {
			return edges[a].tick < edges[b].tick
		}
		return edges[a].order < edges[b].order
	})
	t := newTrack()
	t.meta(0, 0x03, []byte(name))
	for _, e := range edges {
		t.event(e.tick, e.bytes[:]...)
	}
	return t
}

type midiTrack struct {
	bytes []byte
	last  int
}

func newTrack() *midiTrack { return &midiTrack{} }

func (t *midiTrack) event(tick int, body ...byte) {
	t.bytes = append(appendVarLen(t.bytes, tick-t.last), body...)
	t.last = tick
}

func (t *midiTrack) meta(tick int, kind byte, body []byte) {
	t.event(tick, append(appendVarLen([]byte{0xFF, kind}, len(body)), body...)...)
}
