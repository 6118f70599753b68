package service

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/audition"
	"jubrak/core/compare"
	"jubrak/core/engine"
	"jubrak/core/isolate"
	"jubrak/core/measure"
	"jubrak/core/mixreport"
	"jubrak/core/project"
)

// BlindAsk asks for a blind test of mine against the active reference's drums, or against
// another groove of the project.
type BlindAsk struct {
	// Variation is the other groove; empty is the reference.
	Variation string `json:"variation"`
	// Rounds is how many are judged, 4 to 32.
	Rounds int `json:"rounds"`
	// FromBar is the first bar that is heard, from 0.
	FromBar int `json:"from_bar"`
}

// BlindGame is a blind test under way: A and B stand for the two in hidden order, X is one
// of them. Study plays them.
type BlindGame struct {
	ID string `json:"id"`
	// Pair names the two.
	Pair     string  `json:"pair"`
	Bars     int     `json:"bars"`
	Rounds   int     `json:"rounds"`
	Answered int     `json:"answered"`
	Right    int     `json:"right"`
	Odds     float64 `json:"odds"`
	// Was is whether the last answer was right; nil before the first.
	Was *bool `json:"was"`
}

// BlindResult is a blind test that was ended.
type BlindResult struct {
	// At is when it ended (RFC 3339).
	At       string `json:"at"`
	Pair     string `json:"pair"`
	Answered int    `json:"answered"`
	Right    int    `json:"right"`
	// Odds are how likely a guess is right so often (binomial).
	Odds float64 `json:"odds"`
}

// blindPlay is a game with its sounds and the order that is hidden.
type blindPlay struct {
	mu      sync.Mutex
	game    BlindGame
	project string
	// sounds are the two, as loud as each other; firstIsA and x are drawn anew each round.
	sounds   [2]*audio.Buffer
	firstIsA bool
	xIsA     bool
	kept     bool
}

// The bounds of a blind test.
const (
	fewestRounds = 4
	mostRounds   = 32
	blindBars    = 2
	blindFade    = 0.01 // seconds
	mostResults  = 50
)

func (g *blindPlay) draw() { g.firstIsA, g.xIsA = rand.IntN(2) == 0, rand.IntN(2) == 0 }

// Blind begins a blind test: renders both over the same bars and matches their loudness.
func (s *Service) Blind(ctx context.Context, id string, ask BlindAsk) (*BlindGame, error) {
	if ask.Rounds < fewestRounds || ask.Rounds > mostRounds {
		return nil, &Refusal{Code: "invalid", Message: fmt.Sprintf("A blind test has %d to %d rounds.", fewestRounds, mostRounds)}
	}
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	d := &st.Document
	bars := min(blindBars, d.Groove.Bars)
	from := max(min(ask.FromBar, d.Groove.Bars-bars), 0)
	mine, err := s.barsOf(ctx, d, from, bars)
	if err != nil {
		return nil, err
	}
	g := &blindPlay{project: id}
	var other *audio.Buffer
	var name string
	if ask.Variation != "" {
		groove := d.GrooveOf(ask.Variation)
		if groove == nil || ask.Variation == d.Variation {
			return nil, &Refusal{Code: "invalid", Message: "Choose another groove of the project to hear against this one."}
		}
		o := *d
		o.Groove = *groove
		name = groove.Name
		other, err = s.barsOf(ctx, &o, min(from, max(groove.Bars-bars, 0)), min(bars, groove.Bars))
	} else {
		other, name, err = s.barsOfReference(ctx, d, from, bars)
	}
	if err != nil {
		return nil, err
	}
	mine, other = twoSides(mine), twoSides(other) // as they are heard: a single side counts half
	a, first := measure.Integrated(mine)
	b, second := measure.Integrated(other)
	if !first || !second {
		return nil, &Refusal{Code: "no_sound", Message: "One of the two is silent in these bars. Choose other bars."}
	}
	// The louder one is turned down: nothing clips.
	for i, x := range []*audio.Buffer{mine, other} {
		gain := float32(audio.Gain(min(a, b) - []float64{a, b}[i]))
		for _, ch := range x.Channels {
			for k := range ch {
				ch[k] *= gain
			}
		}
	}
	g.sounds = [2]*audio.Buffer{mine, other}
	g.game = BlindGame{ID: NewID(), Pair: "Mine and " + name, Bars: bars, Rounds: ask.Rounds, Odds: 1}
	g.draw()
	s.blinds.put(g.game.ID, g)
	out := g.game
	return &out, nil
}

// barsOf is what a project plays over some bars.
func (s *Service) barsOf(ctx context.Context, d *project.Document, from, bars int) (*audio.Buffer, error) {
	b, err := mixreport.Sound(ctx, d, s.samples(d), project.OutRow, from+bars, true)
	if err != nil {
		return nil, tooLong(err)
	}
	bar := int(float64(d.Groove.Meter.BarTicks()) / 960 * 60 / d.Tempo[0].BPM * engine.Rate)
	return faded(b.Slice(min(from*bar, b.Frames()), min((from+bars)*bar, b.Frames())).Clone()), nil
}

// barsOfReference is what the drums of the active reference play over some bars.
func (s *Service) barsOfReference(ctx context.Context, d *project.Document, from, bars int) (*audio.Buffer, string, error) {
	ref := d.Reference(d.Active)
	if ref == nil || ref.Kind != "audio" {
		return nil, "", &Refusal{Code: "no_reference", Message: "There is no recording to hear it against: bring one in Reference, or choose another groove."}
	}
	a, err := s.finished(ctx, ref)
	if err != nil {
		return nil, "", err
	}
	if a.Grid == nil {
		return nil, "", &Refusal{Code: "no_beat", Message: "No beat was found in the reference, so its bars are not known. Set the beat in Reference."}
	}
	list, err := s.drumsOf(ctx, ref)
	if err != nil {
		return nil, "", err
	}
	b, err := s.sound(ref)
	if err != nil {
		return nil, "", err
	}
	from %= max(a.Bars, 1)
	at := func(bar int) float64 { return a.Grid.Seconds(float64(bar * a.Grid.PerBar)) }
	begin, end := at(from), at(from+bars)
	part := b.Slice(max(int(begin*float64(b.Rate)), 0), min(int(end*float64(b.Rate)), b.Frames()))
	struck, _, err := isolate.Split(ctx, part, begin, list)
	if err != nil {
		return nil, "", err
	}
	return faded(struck), "the drums of " + ref.Name, nil
}

// twoSides is a sound with both sides, alike where it has one.
func twoSides(b *audio.Buffer) *audio.Buffer {
	if len(b.Channels) == 1 {
		b.Channels = append(b.Channels, slices.Clone(b.Channels[0]))
	}
	return b
}

// faded goes round without a click.
func faded(b *audio.Buffer) *audio.Buffer {
	n := min(int(blindFade*float64(b.Rate)), b.Frames()/2)
	for _, ch := range b.Channels {
		for i := range n {
			ch[len(ch)-1-i] *= float32(i) / float32(n)
		}
	}
	return b
}

// blindSound is what is heard of a game: a, b or x.
func (s *Service) blindSound(ask *audition.Blind) (*audio.Buffer, error) {
	g := s.blinds.get(ask.Game)
	if g == nil {
		return nil, &Refusal{Code: "invalid", Message: "The blind test is over. Begin another one."}
	}
	g.mu.Lock()
	defer g.mu.Unlock()
	isA := ask.Side == "a" || ask.Side == "x" && g.xIsA
	if isA == g.firstIsA {
		return g.sounds[0], nil
	}
	return g.sounds[1], nil
}

// BlindAnswer is which of both X is said to be, or the end of the test.
type BlindAnswer struct {
	// X is "a" or "b"; "end" ends the test.
	X BlindSide `json:"x"`
}

// BlindSide is an answer.
type BlindSide string

// The answers.
const (
	SideA  BlindSide = "a"
	SideB  BlindSide = "b"
	SideNo BlindSide = "end"
)

// AnswerBlind judges a round; after the last, or at its end, the result is kept.
func (s *Service) AnswerBlind(game string, answer BlindAnswer) (*BlindGame, error) {
	g := s.blinds.get(game)
	if g == nil {
		return nil, store.ErrNotFound
	}
	g.mu.Lock()
	defer g.mu.Unlock()
	if answer.X != SideA && answer.X != SideB && answer.X != SideNo {
		return nil, &Refusal{Code: "invalid", Message: "X is a or b."}
	}
	if answer.X != SideNo && g.game.Answered < g.game.Rounds {
		right := (answer.X == SideA) == g.xIsA
		g.game.Answered++
		if right {
			g.game.Right++
		}
		g.game.Was, g.game.Odds = &right, mixreport.Odds(g.game.Right, g.game.Answered)
		g.draw()
	}
	over := answer.X == SideNo || g.game.Answered == g.game.Rounds
	if over && !g.kept && g.game.Answered > 0 {
		g.kept = true
		if err := s.keepBlind(g.project, BlindResult{time.Now().UTC().Format(time.RFC3339), g.game.Pair, g.game.Answered, g.game.Right, g.game.Odds}); err != nil {
			return nil, err
		}
	}
	out := g.game
	return &out, nil
}

func blindKey(project string) string { return "blind/" + project }

func (s *Service) keepBlind(project string, r BlindResult) error {
	list, err := s.BlindResults(project)
	if err != nil {
		return err
	}
	list = append([]BlindResult{r}, list...)
	data, err := json.Marshal(list[:min(len(list), mostResults)])
	if err != nil {
		return err
	}
	return s.Store.PutSetting(blindKey(project), data)
}

// BlindResults are the blind tests of a project, the newest first.
func (s *Service) BlindResults(project string) ([]BlindResult, error) {
	data, err := s.Store.Setting(blindKey(project))
	out := []BlindResult{}
	if err != nil || data == nil {
		return out, err
	}
	return out, json.Unmarshal(data, &out)
}

// hearBoth is one hit of mine and of the reference's drum of a family, each as loud, then
// both at a quarter of the speed.
func (s *Service) hearBoth(ctx context.Context, id string, ask *audition.Both) (*audio.Buffer, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	d := &st.Document
	v, ref := compare.Voice(d, ask.Family), d.Reference(d.Active)
	if v == nil || ref == nil {
		return nil, store.ErrNotFound
	}
	a, err := s.against(ctx, ref)
	if err != nil {
		return nil, err
	}
	drum := a.Drum(d, v)
	if drum == nil {
		return nil, &Refusal{Code: "invalid", Message: "The reference has no " + ask.Family.Label() + " to hear beside mine."}
	}
	mine, err := mixreport.Hit(ctx, d, v, s.samples(d), d.Stroke().Velocity)
	if err != nil {
		return nil, err
	}
	return audition.OneAfterOther(mine, compare.DrumSound(drum)), nil
}
