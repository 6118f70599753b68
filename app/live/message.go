package live

import (
	"jubrak/core/audition"
	"jubrak/core/engine"
	"jubrak/core/groove"
)

// Block is the number of frames sent in one message.
const Block = 256

// HeaderBytes is the length of a block's header, little endian: frames
// uint32, version of the document uint32, position in ticks float64, peak
// left and right float32 (linear), momentary loudness float32 (LUFS), flags
// uint32 (bit 0: playing; bit 1: a study plays, and the position is the part
// of its way, 0..1; bit 2: the safety limiter turns down what is heard; bit 3: the
// position is one of the arrangement), the first frame's place since the connection opened
// uint64, how far ahead of what is played a change is made float32 (ms), 4 bytes unused.
// Left samples as float32 follow, then right. A block whose place was sent before takes the
// place of what is not played yet.
const HeaderBytes = 48

// BlockBytes is the length of a block as it is sent. A message holds one or several, one
// behind the other.
const BlockBytes = HeaderBytes + 8*Block

// Message is what the browser sends.
type Message struct {
	// Type is play, stop, strike, source, study, loop, piece, leap, click, solo, hear, judge, system, band or played.
	Type     string  `json:"type"`
	Tick     float64 `json:"tick"`
	Voice    string  `json:"voice"`
	Velocity int     `json:"velocity"`
	Source   string  `json:"source"`
	// CountIn is how many bars of clicks come before what is played.
	CountIn int `json:"count_in"`
	// From and To bound the part that goes round, ticks; 0 and 0 is all.
	From int `json:"from"`
	To   int `json:"to"`
	// On and Per are the click: whether it sounds, and how many to a beat. Of a piece
	// message On is whether the arrangement plays in place of the groove.
	On  bool `json:"on"`
	Per int  `json:"per"`
	// Voices are those heard alone; none is all.
	Voices []string `json:"voices"`
	// Parts are the parts of the feel that are heard; null is all.
	Parts []groove.Part `json:"parts"`
	// Bypass is what is heard off, at the loudness that it has on; null is nothing.
	Bypass *engine.Bypass `json:"bypass"`
	// Row, Effect and Band name a band of an equalizer that is heard alone, counted from 0;
	// -1 lets all be heard.
	Row    string `json:"row"`
	Effect string `json:"effect"`
	Band   int    `json:"band"`
	// System is the speaker simulation, one of the engine's.
	System string `json:"system"`
	// Study says what is studied, in a study message.
	Study *audition.Settings `json:"study"`
	// Frames played since the connection opened, how often the browser ran dry,
	// and how many frames came too late to be heard since the message before, in a played
	// message.
	Frames int64 `json:"frames"`
	Dry    int   `json:"dry"`
	Late   int64 `json:"late"`
}
