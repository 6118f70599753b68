package arrange

import (
	"fmt"
	"unicode/utf8"

	"jubrak/core/param"
)

// MaxBackings is the most backings of a piece.
const MaxBackings = 16

// Backing is a recording that is heard behind the drums: a loop, a stem, a song; or a
// stand-in for what is not there yet.
type Backing struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Blob is the recording; empty for a stand-in.
	Blob string `json:"blob"`
	// At is the tick of the piece at which it begins.
	At int `json:"at"`
	// From and To bound what is heard of the recording, s; To 0 is its end.
	From float64 `json:"from_s"`
	To   float64 `json:"to_s"`
	// Rounds is how often it is played, one after another.
	Rounds int `json:"rounds"`
	// FadeIn and FadeOut are s.
	FadeIn  float64 `json:"fade_in_s"`
	FadeOut float64 `json:"fade_out_s"`
	Level   float64 `json:"level_db"`
	Mute    bool    `json:"mute"`
	// Tempo is the recording's own, BPM, and FirstBeat where a bar of it begins, s; 0 where
	// none was found.
	Tempo     float64 `json:"tempo_bpm"`
	FirstBeat float64 `json:"first_beat_s"`
	// Fit is how it comes to the tempo of the piece.
	Fit Fit `json:"fit"`
	// Pitch is in semitones, beside what a tape does.
	Pitch float64 `json:"pitch_st"`
	// Drumless takes its own drums out.
	Drumless bool `json:"drumless"`
	// Duck is by how much the drums turn it down, dB, and DuckBy the voice that does; empty
	// is all.
	Duck   float64 `json:"duck_db"`
	DuckBy string  `json:"duck_by"`
	// StandIn is what a stand-in plays.
	StandIn *StandIn `json:"stand_in,omitempty"`
}

// Fit is how a backing comes to the tempo of the piece.
type Fit string

// The fits: at its own speed, stretched with its pitch kept, or faster as a tape is.
const (
	OwnSpeed  Fit = "own"
	Stretched Fit = "stretched"
	AsTape    Fit = "tape"
)

// StandIn is what a stand-in plays: a synthesized voice that speaks a rhythm, and a plain
// melody, bass and chords, so that room can be judged with nobody there. Levels are dB;
// one at or below -60 is silent.
type StandIn struct {
	// Voice is its level; Density how many syllables a beat, Note its pitch as MIDI note.
	Voice   float64 `json:"voice_db"`
	Density float64 `json:"density"`
	Note    float64 `json:"note"`
	Melody  float64 `json:"melody_db"`
	Bass    float64 `json:"bass_db"`
	Chords  float64 `json:"chords_db"`
	// Progression are the chords, as in "Fm | Db Ab | Eb"; bars part at "|" and go round.
	Progression string `json:"progression"`
	Seed        int    `json:"seed"`
}

// BackingParams is the table of a backing's numbers, StandInParams of a stand-in's.
var (
	BackingParams = param.Table[Backing]{
		param.Number(param.Param{ID: "level_db", Label: "Level", Unit: "dB", Min: -60, Max: 12, Default: 0, Scale: param.DB}, func(b *Backing) *float64 { return &b.Level }),
		param.Number(param.Param{ID: "from_s", Label: "From", Unit: "s", Min: 0, Max: 4 * 3600, Scale: param.Linear}, func(b *Backing) *float64 { return &b.From }),
		param.Number(param.Param{ID: "to_s", Label: "To", Unit: "s", Min: 0, Max: 4 * 3600, Scale: param.Linear}, func(b *Backing) *float64 { return &b.To }),
		param.Number(param.Param{ID: "fade_in_s", Label: "Fade in", Unit: "s", Min: 0, Max: 60, Scale: param.Linear}, func(b *Backing) *float64 { return &b.FadeIn }),
		param.Number(param.Param{ID: "fade_out_s", Label: "Fade out", Unit: "s", Min: 0, Max: 60, Scale: param.Linear}, func(b *Backing) *float64 { return &b.FadeOut }),
		param.Number(param.Param{ID: "tempo_bpm", Label: "Its tempo", Unit: "BPM", Min: 0, Max: 400, Scale: param.Linear}, func(b *Backing) *float64 { return &b.Tempo }),
		param.Number(param.Param{ID: "first_beat_s", Label: "First beat", Unit: "s", Min: 0, Max: 4 * 3600, Scale: param.Linear}, func(b *Backing) *float64 { return &b.FirstBeat }),
		param.Number(param.Param{ID: "pitch_st", Label: "Pitch", Unit: "st", Min: -24, Max: 24, Scale: param.Linear}, func(b *Backing) *float64 { return &b.Pitch }),
		param.Number(param.Param{ID: "duck_db", Label: "Ducked by", Unit: "dB", Min: 0, Max: 36, Scale: param.Linear}, func(b *Backing) *float64 { return &b.Duck }),
		param.Whole(param.Param{ID: "rounds", Label: "Rounds", Min: 1, Max: 500, Default: 1}, func(b *Backing) *int { return &b.Rounds }),
		param.Flag("mute", "Mute", func(b *Backing) *bool { return &b.Mute }),
		param.Flag("drumless", "Without its drums", func(b *Backing) *bool { return &b.Drumless }),
	}
	StandInParams = param.Table[StandIn]{
		param.Number(param.Param{ID: "voice_db", Label: "Voice", Unit: "dB", Min: -60, Max: 6, Default: -12, Scale: param.DB}, func(s *StandIn) *float64 { return &s.Voice }),
		param.Number(param.Param{ID: "density", Label: "Syllables a beat", Min: 0.25, Max: 4, Default: 1.5, Scale: param.Linear}, func(s *StandIn) *float64 { return &s.Density }),
		param.Number(param.Param{ID: "note", Label: "Pitch of the voice", Min: 36, Max: 84, Default: 55, Scale: param.Linear}, func(s *StandIn) *float64 { return &s.Note }),
		param.Number(param.Param{ID: "melody_db", Label: "Melody", Unit: "dB", Min: -60, Max: 6, Default: -60, Scale: param.DB}, func(s *StandIn) *float64 { return &s.Melody }),
		param.Number(param.Param{ID: "bass_db", Label: "Bass", Unit: "dB", Min: -60, Max: 6, Default: -60, Scale: param.DB}, func(s *StandIn) *float64 { return &s.Bass }),
		param.Number(param.Param{ID: "chords_db", Label: "Chords", Unit: "dB", Min: -60, Max: 6, Default: -18, Scale: param.DB}, func(s *StandIn) *float64 { return &s.Chords }),
		param.Whole(param.Param{ID: "seed", Label: "Draw", Min: 1, Max: 9999, Default: 1}, func(s *StandIn) *int { return &s.Seed }),
	}
)

// NewBacking is a recording as it comes in.
func NewBacking(id, name, blob string) Backing {
	return Backing{ID: id, Name: name, Blob: blob, Rounds: 1, Fit: OwnSpeed, FadeIn: 0.005, FadeOut: 0.005}
}

// NewStandIn is a stand-in with its usual numbers.
func NewStandIn(id, progression string) Backing {
	s := &StandIn{Progression: progression}
	for _, row := range StandInParams {
		_ = row.Set(s, row.Default)
	}
	b := NewBacking(id, "Stand-in", "")
	b.StandIn = s
	return b
}

// Validate checks a backing's numbers.
func (b *Backing) Validate() error {
	n := utf8.RuneCountInString(b.Name)
	if b.ID == "" || n == 0 || n > MaxName {
		return fmt.Errorf("a backing needs a name of 1 to %d letters", MaxName)
	}
	if (b.Blob == "") != (b.StandIn != nil) {
		return fmt.Errorf("backing %q has neither a recording nor a stand-in; remove it", b.Name)
	}
	if err := BackingParams.Validate(b); err != nil {
		return fmt.Errorf("backing %q: %w", b.Name, err)
	}
	if b.StandIn != nil {
		if err := StandInParams.Validate(b.StandIn); err != nil {
			return fmt.Errorf("backing %q: %w", b.Name, err)
		}
		if len(b.StandIn.Progression) > 1000 {
			return fmt.Errorf("backing %q: its chords are too long", b.Name)
		}
	}
	if b.At < 0 || b.At > 1<<30 {
		return fmt.Errorf("backing %q begins inside the piece", b.Name)
	}
	if b.To != 0 && b.To <= b.From {
		return fmt.Errorf("backing %q: what is heard of it ends behind where it begins", b.Name)
	}
	if b.Fit != OwnSpeed && b.Fit != Stretched && b.Fit != AsTape {
		return fmt.Errorf("backing %q cannot be fitted as %q", b.Name, b.Fit)
	}
	if b.Fit != OwnSpeed && b.Tempo == 0 {
		return fmt.Errorf("the tempo of %q is not known; type it, then it can be fitted", b.Name)
	}
	return nil
}

// Backing finds a backing by id, or nil.
func (a *Arrangement) Backing(id string) *Backing {
	for i := range a.Backings {
		if a.Backings[i].ID == id {
			return &a.Backings[i]
		}
	}
	return nil
}
