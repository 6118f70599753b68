package fit

import (
	"context"
	"fmt"
	"maps"
	"math"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/measure"
)

// ChainFit is a chain that brings one sound to another's balance, crest and space by a few
// broad effects.
type ChainFit struct {
	Effects []effect.Effect `json:"effects"`
	// Does says what each effect does, in their order.
	Does   []string      `json:"does"`
	Before ChainMeasures `json:"before"`
	After  ChainMeasures `json:"after"`
}

// ChainMeasures are how far a sound lies from the reference.
type ChainMeasures struct {
	// Balance is the mean difference of third octaves, dB, both as loud; Crest and Space
	// how much more of them it has: peak over RMS, dB, and loud over quiet moments, dB.
	Balance float64 `json:"balance_db"`
	Crest   float64 `json:"crest_db"`
	Space   float64 `json:"space_db"`
}

// Differences that are left as they are (common practice: what is hardly heard).
const (
	nearBalance = 0.7
	nearCrest   = 0.5
	nearSpace   = 2.0
	chainTurns  = 4
	mostBand    = 12.0 // dB that a band moves: more is another sound, not another balance
)

// Chain finds effects that bring a sound to a reference.
func Chain(ctx context.Context, mine, reference *audio.Buffer) (*ChainFit, error) {
	ref := chainSound(reference)
	x := chainSound(mine)
	if ref.Peak() < 1e-4 || x.Peak() < 1e-4 {
		return nil, ErrSilent
	}
	c := &chainSearch{mine: x, ref: ref, equalizer: effect.New("fit-eq", effect.KindOf("equalizer"), equalizerStart)}
	out := &ChainFit{Before: c.against(x)}
	least := math.Inf(1)
	for range chainTurns {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		c.balance()
		c.dynamics()
		c.saturate()
		c.space()
		for range 2 {
			c.balance()
			effects := c.effects()
			m := c.against(c.through(effects))
			if off := m.Balance + math.Abs(m.Crest) + 0.2*math.Max(m.Space, 0); off < least {
				least, out.After, out.Does, out.Effects = off, m, c.moves(), nil
				for i := range effects {
					out.Effects = append(out.Effects, copiedEffect(&effects[i]))
				}
			}
		}
		if out.After.Balance < nearBalance && math.Abs(out.After.Crest) < nearCrest && out.After.Space < nearSpace {
			break
		}
	}
	return out, nil
}

// chainSound is a sound at the rate that chains are compared at, in mono.
func chainSound(b *audio.Buffer) *audio.Buffer {
	x := b.Resample(measure.DistanceRate).Mono()
	out := audio.New(measure.DistanceRate, 1, len(x))
	for i, v := range x {
		out.Channels[0][i] = float32(v)
	}
	return out
}

type chainSearch struct {
	mine, ref *audio.Buffer
	equalizer effect.Effect
	shaper    *effect.Effect // of dynamics
	drive     *effect.Effect
	reverb    *effect.Effect
	decay     float64 // of the reverb, ms
}

// equalizerStart is eight bells an octave and a third apart.
var equalizerStart = func() values {
	v := values{}
	for i := range 8 {
		id := fmt.Sprintf("band%d.", i+1)
		v[id+"shape"], v[id+"hz"], v[id+"q"] = 1, 45*math.Pow(12000.0/45, float64(i)/7), 1.0
	}
	return v
}()

func (c *chainSearch) effects() (out []effect.Effect) {
	for _, s := range []*effect.Effect{&c.equalizer, c.shaper, c.drive, c.reverb} {
		if s != nil {
			out = append(out, *s)
		}
	}
	return out
}

// through renders my sound through effects.
func (c *chainSearch) through(effects []effect.Effect) *audio.Buffer {
	chain, _ := effect.NewChain(effects, measure.DistanceRate)
	late := chain.Latency()
	out := audio.New(measure.DistanceRate, 1, c.mine.Frames())
	var block [effect.MaxBlock]float64
	for at := 0; at < c.mine.Frames()+late; at += effect.MaxBlock {
		n := min(effect.MaxBlock, c.mine.Frames()+late-at)
		left, right := block[:n], make([]float64, n)
		for i := range left {
			left[i] = 0
			if at+i < c.mine.Frames() {
				left[i] = float64(c.mine.Channels[0][at+i])
			}
			right[i] = left[i]
		}
		chain.Process(effect.Block{Left: left, Right: right}, nil)
		for i := range left {
			if j := at + i - late; j >= 0 && j < out.Frames() {
				out.Channels[0][j] = float32((left[i] + right[i]) / 2)
			}
		}
	}
	return out
}

// thirds are a sound's third octaves against its whole, dB.
func thirds(b *audio.Buffer) (hz, db []float64) {
	return measure.NewMeanSpectrum(b.Mono(), b.Rate).ThirdOctaves()
}

// loudThird is how far below the fullest third octave of the reference a band still counts.
const loudThird = 40.0

// differences are by how much the reference is above a sound, third octave by third octave,
// both as loud; weight is 0 where the reference has nothing.
func (c *chainSearch) differences(b *audio.Buffer) (hz, db, weight []float64) {
	hz, mine := thirds(b)
	_, ref := thirds(c.ref)
	top := math.Inf(-1)
	for _, v := range ref {
		top = math.Max(top, v)
	}
	db, weight = make([]float64, len(hz)), make([]float64, len(hz))
	for i := range hz {
		if i < len(mine) && ref[i] > top-loudThird && hz[i] < 17000 {
			db[i], weight[i] = ref[i]-math.Max(mine[i], top-loudThird-20), 1
		}
	}
	level := medianOf(db, weight)
	for i := range db {
		db[i] -= level
	}
	return hz, db, weight
}

func (c *chainSearch) against(b *audio.Buffer) ChainMeasures {
	_, db, weight := c.differences(b)
	sum, n := 0.0, 0.0
	for i, w := range weight {
		sum, n = sum+w*math.Abs(db[i]), n+w
	}
	two := func(v float64) float64 { return math.Round(100*v) / 100 }
	return ChainMeasures{two(sum / math.Max(n, 1)), two(crest(b) - crest(c.ref)), two(depth(b) - depth(c.ref))}
}

func crest(b *audio.Buffer) float64 {
	return audio.DB(b.Peak() / math.Max(measure.RMS(b), 1e-9))
}

// depth is how far the quiet moments of a sound lie below its loud ones, dB: the 30 and 90 %
// quantiles of its level in frames of 10 ms. A room makes it less.
func depth(b *audio.Buffer) float64 {
	const frame = measure.DistanceRate / 100
	var levels []float64
	x := b.Channels[0]
	for at := 0; at+frame <= len(x); at += frame {
		e := 1e-9
		for _, v := range x[at : at+frame] {
			e += float64(v) * float64(v)
		}
		levels = append(levels, math.Max(10*math.Log10(e), -60))
	}
	return quantile(levels, 0.9) - quantile(levels, 0.3)
}

func quantile(v []float64, q float64) float64 {
	if len(v) == 0 {
		return 0
	}
	s := sorted(v)
	return s[int(q*float64(len(s)-1))]
}

// balance moves the equalizer's bands by least squares.
func (c *chainSearch) balance() {
	hz, db, weight := c.differences(c.through(c.effects()))
	var rows [][]float64
	var want, sure []float64
	for i := range hz {
		if weight[i] == 0 {
			continue
		}
		row := make([]float64, 8)
		for k := range row {
			id := fmt.Sprintf("band%d.", k+1)
			row[k] = bell(hz[i], c.equalizer.Values[id+"hz"], c.equalizer.Values[id+"q"])
		}
		rows, want, sure = append(rows, row), append(want, db[i]), append(sure, 1)
	}
	if len(rows) == 0 {
		return
	}
	gains := leastSquares(rows, want, sure, 0.15)
	for k := range 8 {
		id := fmt.Sprintf("band%d.gain_db", k+1)
		c.equalizer.Values[id] = math.Round(10*math.Min(math.Max(c.equalizer.Values[id]+0.8*gains[k], -mostBand), mostBand)) / 10
	}
}

// dynamics brings the crest to the reference's: a quick compressor takes peaks off, a slow one
// or a transient shaper lets them stand out. What comes nearest stays.
func (c *chainSearch) dynamics() {
	if c.shaper == nil && math.Abs(crest(c.through(c.effects()))-crest(c.ref)) < nearCrest {
		return
	}
	kinds := []*effect.Effect{c.shaper}
	if c.shaper == nil {
		kinds = nil
		for _, times := range [][2]float64{{0.2, 60}, {12, 150}} {
			s := effect.New("fit-compressor", effect.KindOf("compressor"), values{"attack_ms": times[0], "release_ms": times[1], "ratio": 4, "knee_db": 6})
			kinds = append(kinds, &s)
		}
		s := effect.New("fit-transient", effect.KindOf("transient"), values{"attack_db": 0})
		kinds = append(kinds, &s)
	}
	var best effect.Effect
	least := math.Inf(1)
	for _, s := range kinds {
		id, places := "threshold_db", []float64{-3, -5, -7, -9, -11, -13, -15, -17, -19, -22, -25, -28, -32, -36, -40}
		if s.Kind == "transient" {
			id, places = "attack_db", []float64{-24, -18, -15, -12, -9, -6, -4, -2, 2, 4, 6, 8, 10, 12, 15, 18}
		}
		c.shaper = s
		for _, at := range places {
			s.Values[id] = at
			b := c.through(c.effects())
			if off := math.Abs(crest(b)-crest(c.ref)) + 0.2*math.Max(depth(b)-depth(c.ref), 0); off < least {
				least, best = off, copiedEffect(s)
			}
		}
	}
	c.shaper = &best
	if best.Kind != "compressor" {
		return
	}
	// What the compressor takes is made up.
	by := audio.DB(measure.RMS(c.mine)/math.Max(measure.RMS(c.through(c.effects())), 1e-9)) + best.Values["gain_db"]
	best.Values["gain_db"] = math.Round(10*math.Min(math.Max(by, -24), 24)) / 10
}

func copiedEffect(s *effect.Effect) effect.Effect {
	out := *s
	out.Values = maps.Clone(s.Values)
	return out
}

// saturate takes off what is left of peaks that stand out too far.
func (c *chainSearch) saturate() {
	if c.drive == nil {
		if c.shaper == nil || crest(c.through(c.effects()))-crest(c.ref) < nearCrest {
			return
		}
		s := effect.New("fit-drive", effect.KindOf("drive"), nil)
		c.drive = &s
	}
	best, least := 0.0, math.Inf(1)
	for _, at := range []float64{0, 3, 6, 9, 12, 16, 20, 25, 30, 36, 44, 55} {
		c.drive.Values["amount_percent"] = at
		if off := math.Abs(crest(c.through(c.effects())) - crest(c.ref)); off < least {
			least, best = off, at
		}
	}
	c.drive.Values["amount_percent"] = best
}

// space adds a room where the reference has one: its quiet moments are less quiet.
func (c *chainSearch) space() {
	off := depth(c.through(c.effects())) - depth(c.ref)
	if c.reverb == nil {
		if off < nearSpace {
			return
		}
		s := effect.New("fit-room", effect.KindOf("reverb"), values{"decay_ms": 450, "mix_percent": 0})
		c.reverb = &s
	}
	best, least := 0.0, math.Inf(1)
	for _, decay := range []float64{300, 600, 1000} {
		for _, at := range []float64{0, 2, 4, 7, 10, 14, 18, 23, 28, 34, 40} {
			c.reverb.Values["mix_percent"], c.reverb.Values["decay_ms"] = at, decay
			b := c.through(c.effects())
			if off := math.Abs(depth(b)-depth(c.ref)) + 0.3*math.Abs(crest(b)-crest(c.ref)); off < least {
				least, best, c.decay = off, at, decay
			}
		}
	}
	c.reverb.Values["mix_percent"], c.reverb.Values["decay_ms"] = best, c.decay
}

// moves say what each effect does.
func (c *chainSearch) moves() []string {
	var out []string
	text := ""
	for k := range 8 {
		id := fmt.Sprintf("band%d.", k+1)
		if g := c.equalizer.Values[id+"gain_db"]; math.Abs(g) >= nearBalance {
			if text != "" {
				text += ", "
			}
			text += fmt.Sprintf("%+.1f dB at %s Hz", g, hz(c.equalizer.Values[id+"hz"]))
		}
	}
	if text == "" {
		text = "nothing worth a move"
	}
	out = append(out, "Equalizer: "+text)
	if s := c.shaper; s != nil && s.Kind == "compressor" {
		out = append(out, fmt.Sprintf("Compressor: %.0f to 1 above %.1f dB", s.Values["ratio"], s.Values["threshold_db"]))
	}
	if s := c.shaper; s != nil && s.Kind == "transient" {
		out = append(out, fmt.Sprintf("Transient shaper: attack %+.1f dB", s.Values["attack_db"]))
	}
	if s := c.drive; s != nil {
		out = append(out, fmt.Sprintf("Drive: %.0f %%", s.Values["amount_percent"]))
	}
	if s := c.reverb; s != nil {
		out = append(out, fmt.Sprintf("Room: %.1f %% of %.0f ms", s.Values["mix_percent"], s.Values["decay_ms"]))
	}
	return out
}
