package api

import (
	"encoding/json"
	"fmt"
	"strings"

	"jubrak/app/live"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// facts is a TypeScript file of what the screen must know before it is asked for: each
// fact stands in the core alone.
func facts() []byte {
	var b strings.Builder
	b.WriteString("// Facts of the core that the screen needs; made by `make generate`, not to be edited.\n")
	put := func(doc, name, typ string, value any) {
		text, err := json.Marshal(value)
		if err != nil {
			panic(err) // plain values
		}
		fmt.Fprintf(&b, "\n/** %s */\nexport const %s: %s = %s;\n", doc, name, typ, text)
	}
	put("Ticks of a quarter note.", "ppq", "number", music.PPQ)
	put("The exponent of a curve's way at full bend.", "bendiness", "number", sound.Bendiness)
	put("The most strokes of a roll.", "maxStrokes", "number", groove.MaxStrokes)
	put("Length of the header of a block of sound, bytes; see docs/live.md.", "headerBytes", "number", live.HeaderBytes)
	put("Frames of a block of sound.", "blockFrames", "number", live.Block)
	put("The most sound that is made ahead of what is played, frames, whole blocks.", "mostLead", "number", live.MostLead)
	put("Meters on offer.", "meters", "string[]", transcribe.Meters)
	put("Scales by what follows the root of a key: semitones above it.", "scales", "Record<string, number[]>", music.Modes())
	put("The family of each key of General MIDI's percussion map.", "percussion", "Record<number, string>", sound.Percussion())
	return []byte(b.String())
}

// blocks are blocks of sound as they are sent, each flag once, for the reader's test.
func blocks() []byte {
	type sent struct {
		Header live.Header `json:"header"`
		Left   []float32   `json:"left"`
		Right  []float32   `json:"right"`
		Bytes  []byte      `json:"bytes"`
	}
	out := []sent{}
	for _, h := range []live.Header{
		{Frames: 4, Version: 7, Position: 960.5, PeakLeft: 0.5, PeakRight: 0.25, Loudness: -18, Playing: true, Held: true, At: 1<<40 + 256, Reach: 20},
		{Frames: 2, Version: 1 << 20, Position: 0.75, Loudness: -100, Studying: true, At: 512},
		{Frames: 3, Position: -960, Playing: true, Piece: true, Reach: 12.5},
	} {
		s := sent{Header: h}
		for i := range h.Frames {
			s.Left = append(s.Left, float32(i+1)/8)
			s.Right = append(s.Right, -float32(i+1)/4)
		}
		s.Bytes = h.Bytes(s.Left, s.Right)
		out = append(out, s)
	}
	text, err := json.Marshal(out)
	if err != nil {
		panic(err) // plain values
	}
	return append(text, '\n')
}

// strokeCase is a hit and the strokes that it opens into.
type strokeCase struct {
	Hit     groove.Hit `json:"hit"`
	Strokes []stroke   `json:"strokes"`
}

type stroke struct {
	Ticks    int     `json:"ticks"`
	Early    float64 `json:"early"`
	Velocity float64 `json:"velocity"`
}

// strokes are hits with the strokes that the core opens them into: the screen draws them
// by its own arithmetic, which is held against these.
func strokes() []byte {
	var hits []groove.Hit
	hit := func(length int, roll groove.Even, flam groove.Flam) {
		hits = append(hits, groove.Hit{ID: "h", Velocity: 96, Length: length, Roll: roll, Flam: flam})
	}
	for n := range 4 {
		hit(0, groove.Even{}, groove.Flam{Strokes: n, Spacing: 17.5, Level: -9})
	}
	for _, length := range []int{0, 240, 480, 777, 1920, 8 * 960} {
		for _, r := range []groove.Even{{Strokes: 2}, {Strokes: 3}, {Strokes: 7}, {PerBeat: 4}, {PerBeat: 6}, {PerBeat: 32}, {PerBeat: 1}} {
			hit(length, r, groove.Flam{})
			r.VelocityTo, r.Spacing = 40, 60
			hit(length, r, groove.Flam{Strokes: 1, Spacing: 12, Level: -6})
			r.VelocityTo, r.Spacing = 127, 180
			hit(length, r, groove.Flam{})
		}
	}
	out := []strokeCase{}
	for _, h := range hits {
		c := strokeCase{Hit: h}
		for _, s := range h.Opened(nil) {
			c.Strokes = append(c.Strokes, stroke{s.Ticks, s.Early, s.Velocity * float64(h.Velocity)})
		}
		out = append(out, c)
	}
	text, err := json.Marshal(out)
	if err != nil {
		panic(err)
	}
	return append(text, '\n')
}

// infoFile is what the screen is given about parameters and families, for its tests.
func infoFile() []byte {
	data, err := json.Marshal(infoNow())
	if err != nil {
		panic(err) // plain values
	}
	return append(data, '\n')
}
