package live

import (
	"jubrak/core/audition"
	"jubrak/core/engine"
	"jubrak/core/groove"
)

// MessageType is what a message asks for.
type MessageType string

// The types of message.
const (
	Play   MessageType = "play"
	Stop   MessageType = "stop"
	Strike MessageType = "strike"
	Source MessageType = "source" // mine, the reference or both
	Study  MessageType = "study"  // close listening to a reference
	Loop   MessageType = "loop"   // the part that goes round
	Piece  MessageType = "piece"  // the arrangement, or the groove
	Leap   MessageType = "leap"
	Click  MessageType = "click"
	Solo   MessageType = "solo"
	Hear   MessageType = "hear" // parts of the feel
	Bypass MessageType = "bypass"
	System MessageType = "system" // the speaker simulation
	Band   MessageType = "band"
	Played MessageType = "played"
	Stream MessageType = "stream" // blocks come in the answer that has been opened
)

// Message is what the browser sends.
type Message struct {
	Type     MessageType `json:"type"`
	Tick     float64     `json:"tick"`
	Voice    string      `json:"voice"`
	Velocity int         `json:"velocity"`
	// Source is what is heard, in a source message.
	Source engine.Source `json:"source"`
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
	Parts []groove.FeelPart `json:"parts"`
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
