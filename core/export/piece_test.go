package export

import (
	"bytes"
	"context"
	"encoding/binary"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/mixer"
	"jubrak/core/project"
)

// wholePiece is the rink's groove as four sections: plain, sped up by a ramp, in 7/8, and
// slowly.
func wholePiece(t *testing.T) *project.Document {
	d, _, err := rink(t, 2, true).Apply(project.Edits{
		project.SetSection{Section: "s1", Name: new("Doors"), Bars: new(3)},
		project.AddSection{Name: "Up", Bars: 17}, project.AddSection{Name: "Turn", Bars: 5}, project.AddSection{Name: "Last lap", Bars: 4},
		project.SetSection{Section: "s2", TempoTo: new(163.7)}, project.SetSection{Section: "s3", Meter: new("7/8")}, project.SetSection{Section: "s4", Tempo: new(71.3)},
		project.AddMarker{Name: "Here", At: 4 * 3840},
	}, nil)
	require.NoError(t, err)
	return d
}

// conductorOf reads the tempo, meter and marker events of a MIDI file by the letter of the
// standard (Standard MIDI Files 1.0, RP-001), apart from the reader of core/format: the
// seconds of each marker, and the bar lengths by tick.
func conductorOf(t *testing.T, file []byte) (markers map[string]float64, meters map[int][2]int) {
	require.Equal(t, "MThd", string(file[:4]))
	ppq := float64(binary.BigEndian.Uint16(file[12:]))
	size := binary.BigEndian.Uint32(file[18:])
	require.Equal(t, "MTrk", string(file[14:18]))
	b := file[22 : 22+size]
	markers, meters = map[string]float64{}, map[int][2]int{}
	tick, at, micros, last := 0, 0.0, 500000.0, 0
	variable := func() (v int) {
		for {
			c := b[0]
			b = b[1:]
			v = v<<7 | int(c&0x7F)
			if c < 0x80 {
				return v
			}
		}
	}
	for len(b) > 0 {
		tick += variable()
		require.Equal(t, byte(0xFF), b[0])
		kind := b[1]
		b = b[2:]
		n := variable()
		body := b[:n]
		b = b[n:]
		at += float64(tick-last) * micros / 1e6 / ppq
		last = tick
		switch kind {
		case 0x51:
			micros = float64(int(body[0])<<16 | int(body[1])<<8 | int(body[2]))
		case 0x58:
			meters[tick] = [2]int{int(body[0]), 1 << body[1]}
		case 0x06:
			markers[string(body)] = at
		}
	}
	return markers, meters
}

// At every marker a second reader finds the piece's time to half a tick.
func TestThePieceAsMIDI(t *testing.T) {
	d := wholePiece(t)
	for _, tape := range []float64{0, 3} {
		d.Arrangement.Speed.Semitones = tape
		file, err := PieceMIDI(d, Options{})
		require.NoError(t, err)
		var b bytes.Buffer
		require.NoError(t, file.Write(&b))
		markers, meters := conductorOf(t, b.Bytes())
		line := d.PieceLine()
		spans := line.Spans()
		speed := d.Arrangement.Speed.Tape()
		require.Len(t, markers, 5)
		for name, tick := range map[string]int{"Doors": 0, "Up": spans[1].From, "Turn": spans[2].From, "Last lap": spans[3].From, "Here": 4 * 3840} {
			half := 60 / 163.7 / 960 / 2 / speed // half a tick at the highest tempo
			assert.InDelta(t, line.Seconds(float64(tick))/speed, markers[name], half, name)
		}
		assert.Equal(t, map[int][2]int{0: {4, 4}, spans[2].From: {7, 8}, spans[3].From: {4, 4}}, meters)
	}
}

// One after another the sections are the piece.
func TestSectionsAddUpToThePiece(t *testing.T) {
	d := wholePiece(t)
	whole, err := Piece(context.Background(), d, nil, Options{})
	require.NoError(t, err)
	parts, err := Sections(context.Background(), d, nil, Options{})
	require.NoError(t, err)
	require.Len(t, parts, 4)
	at := 0
	for _, p := range parts {
		for i, x := range p.B.Channels[0] {
			require.Equal(t, whole[0].B.Channels[0][at+i], x)
		}
		at += p.B.Frames()
	}
	assert.Equal(t, whole[0].B.Frames(), at)
	assert.InDelta(t, d.PieceLine().Seconds(3*3840), parts[0].B.Seconds(), 1.0/engine.Rate)
	one, err := Section(context.Background(), d, nil, "turn", Options{})
	require.NoError(t, err)
	assert.Equal(t, parts[2].B.Channels, one[0].B.Channels)
	_, err = Section(context.Background(), d, nil, "Chorus", Options{})
	assert.ErrorContains(t, err, "Doors, Up, Turn, Last lap")
}

// The stems of the rows are the piece together, with what is drawn in them.
func TestStemsOfThePiece(t *testing.T) {
	d, _, err := wholePiece(t).Apply(project.Edits{
		project.Automate{Section: "s2", At: "kick/level_db", Points: []mixer.AutomationPoint{{Bar: 0, Value: -30}, {Bar: 17, Value: 0}}},
		project.AddDropout{At: 2 * 3840, Length: 3840, Keeps: []string{"hat"}},
	}, nil)
	require.NoError(t, err)
	whole, err := Piece(context.Background(), d, nil, Options{})
	require.NoError(t, err)
	stems, err := PieceStems(context.Background(), d, nil, Options{})
	require.NoError(t, err)
	for i, want := range whole[0].B.Channels[0] {
		sum := 0.0
		for _, s := range stems {
			if i < len(s.B.Channels[0]) {
				sum += float64(s.B.Channels[0][i])
			}
		}
		if math.Abs(sum-float64(want)) > 1e-5 {
			t.Fatalf("at %d the stems are %g, the piece %g", i, sum, want)
		}
	}
}

func TestWithVariation(t *testing.T) {
	d, _, err := rink(t, 2, false).Apply(project.Edits{project.AddVariation{Name: "busy"}, project.AddHit{Voice: "kick", Tick: 700}}, nil)
	require.NoError(t, err)
	a, err := WithVariation(d, "A")
	require.NoError(t, err)
	assert.NotEqual(t, d.Groove.Lanes, a.Groove.Lanes)
	b, err := WithVariation(a, "Busy")
	require.NoError(t, err)
	assert.Equal(t, d.Groove.Lanes, b.Groove.Lanes)
	_, err = WithVariation(d, "Q")
	assert.ErrorContains(t, err, "there are A, B")
}

// A file that is written as it is rendered is the piece that is rendered whole, at the
// tape's speed, too.
func TestThePieceAsAFile(t *testing.T) {
	d := wholePiece(t)
	was := inMemory
	defer func() { inMemory = was }()
	for _, tape := range []float64{0, -2} {
		inMemory = 0 // in two passes, as a long one is
		if tape == 0 {
			inMemory = was
		}
		d.Arrangement.Speed.Semitones = tape
		whole, err := Piece(context.Background(), d, nil, Options{})
		require.NoError(t, err)
		var b bytes.Buffer
		require.NoError(t, PieceFile(context.Background(), d, nil, nil, Options{Format: format.WAV32F}).Write(&b))
		back, err := format.Decode(b.Bytes())
		require.NoError(t, err)
		require.InDelta(t, whole[0].B.Frames(), back.Frames(), 2048)
		for i, x := range back.Channels[0][:min(back.Frames(), whole[0].B.Frames())-100] {
			if math.Abs(float64(x-whole[0].B.Channels[0][i])) > 1e-5 {
				t.Fatalf("at %d of %d, tape %g: %g, whole %g", i, back.Frames(), tape, x, whole[0].B.Channels[0][i])
			}
		}
	}
}
