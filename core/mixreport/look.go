// Package mixreport returns what a mix does: how loud its rows are and what they are made
// of, what each effect does to its own row's sound, and which rows cover which.
package mixreport

import (
	"context"
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/measure"
	"jubrak/core/mixer"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Look is what was measured of a project's mix over its first bars.
type Look struct {
	// Rows in the order of the mix: voices, buses, the output.
	Rows []RowLook `json:"rows"`
	// Covers are the pairs that cover each other most, at most 6.
	Covers []Cover `json:"covers"`
	// Systems are what each of the speaker simulations leaves.
	Systems []Heard `json:"systems"`
	// Headroom is how far the output's true peak lies below full scale, dB; less than 0
	// is beyond it.
	Headroom float64 `json:"headroom_db"`
	// Loudest is the voice whose loudest 400 ms are the loudest.
	Loudest string `json:"loudest"`
	// Latency is by how much the output is late, ms.
	Latency float64 `json:"latency_ms"`
	// Bars is over how many bars all this was taken.
	Bars int `json:"bars"`
}

// RowLook is what one row gives, after its level.
type RowLook struct {
	Row    string    `json:"row"`
	Levels RowLevels `json:"levels"`
	// Parts is its energy in the regions of tone against all of its own, dB, by name.
	Parts   map[string]float64 `json:"parts_db"`
	Effects []Picture          `json:"effects"`
}

// RowLevels are those of a row; null where it is silent.
type RowLevels struct {
	Peak       *float64 `json:"peak_dbfs"`
	TruePeak   *float64 `json:"true_peak_dbtp"`
	ShortTerm  *float64 `json:"short_term_lufs"`
	Integrated *float64 `json:"integrated_lufs"`
	Crest      *float64 `json:"crest_db"`
}

// most is the most that is looked at, seconds.
const most = 10.0

// At renders the first bars of a project, each voice, bus and the output apart.
func At(ctx context.Context, d *project.Document, samples sound.Samples) (*Look, error) {
	song := d.Song(samples)
	bars := barsOf(&song)
	taken, err := take(ctx, d, song, bars)
	if err != nil {
		return nil, err
	}
	out := &Look{Covers: []Cover{}, Bars: bars, Latency: float64(taken.latency) / engine.Rate * 1000}
	loudest := -1e9
	for i, name := range d.Rows() {
		if err := ctx.Err(); err != nil {
			return nil, err // nobody waits for it any more
		}
		b := taken.rows[i]
		r := RowLook{Row: name, Levels: levels(b), Parts: measure.Balance(b.Mono(), b.Rate), Effects: taken.pictures(d, name)}
		if d.Kit.Voice(name) != nil && r.Levels.Peak != nil {
			if l := measure.Loudest(b, 0.4); l > loudest {
				loudest, out.Loudest = l, name
			}
		}
		out.Rows = append(out.Rows, r)
	}
	if out.Headroom, err = headroom(ctx, song); err != nil {
		return nil, err
	}
	out.Covers, out.Systems = covers(d, taken), heard(d, taken)
	return out, nil
}

// headroom is how far the true peak of what export makes lies below full scale, dB: of
// the whole loop, what rings over its end in its start. A cycle that is longer than a
// file can be counts for as many bars as the groove has.
func headroom(ctx context.Context, song engine.Song) (float64, error) {
	b := engine.Bounce{Rate: engine.Rate, Seamless: true}
	if _, err := b.Ticks(&song); err != nil {
		b.Bars = song.Groove.Bars
	}
	r, err := engine.Render(ctx, song, b)
	if err != nil || r.Mix.Peak() == 0 {
		return 0, err
	}
	return -measure.TruePeak(r.Mix), nil
}

// barsOf is how many bars of a song are looked at: those that the longest time holds.
func barsOf(song *engine.Song) int {
	line := groove.NewLine(&song.Groove, song.Tempo, 0)
	bars := min(song.Groove.Bars, 8)
	for bars > 1 && line.Seconds(float64(bars*song.Groove.Meter.BarTicks())) > most {
		bars--
	}
	return bars
}

func levels(b *audio.Buffer) (l RowLevels) {
	peak := b.Peak()
	if peak < 1e-5 {
		return l
	}
	at := func(v float64) *float64 { return &v }
	l.Peak, l.TruePeak, l.Crest = at(audio.DB(peak)), at(measure.TruePeak(b)), at(audio.DB(peak/math.Max(measure.RMS(b), 1e-9)))
	l.ShortTerm = at(measure.Loudest(b, math.Min(3, float64(b.Frames())/float64(b.Rate))))
	if i, ok := measure.Integrated(b); ok {
		l.Integrated = at(i)
	}
	return l
}

// taken is what a render left: each row's sound, and the windows of its effects.
type taken struct {
	rows    []*audio.Buffer // in the order of the document's rows
	watched map[string]*window
	latency int
}

// windowMS is how long the part of a row is that its effects are drawn over.
const windowMS = 340

// window is a part of what goes into the effects of a row and comes out of them.
type window struct {
	from, to int // frames of the render
	now      int // first frame of the present block
	before   map[string][]float64
	after    map[string][]float64
}

func (w *window) keep(list map[string][]float64, effectID string, b effect.Block) {
	if w.now+b.Frames() <= w.from || w.now >= w.to {
		return
	}
	for i := range b.Left {
		if at := w.now + i; at >= w.from && at < w.to {
			list[effectID] = append(list[effectID], (b.Left[i]+b.Right[i])/2)
		}
	}
}

// Before keeps what goes into an effect.
func (w *window) Before(effectID string, b effect.Block) { w.keep(w.before, effectID, b) }

// After keeps what comes out of it.
func (w *window) After(effectID string, b effect.Block) { w.keep(w.after, effectID, b) }

// take renders a song with every row apart.
func take(ctx context.Context, d *project.Document, song engine.Song, bars int) (*taken, error) {
	e := engine.New(engine.Rate)
	e.Load(song)
	line := groove.NewLine(&song.Groove, song.Tempo, 0)
	frames := int(line.Seconds(float64(bars*song.Groove.Meter.BarTicks())) * engine.Rate)
	names := d.Rows()
	t := &taken{watched: map[string]*window{}}
	t.latency, _ = e.Latency()
	for _, name := range names {
		t.rows = append(t.rows, audio.New(engine.Rate, 2, 0))
		if c := d.Chain(name); len(*c) > 0 {
			from := firstHit(d, line, name, bars)
			w := &window{from: from, to: from + windowMS*engine.Rate/1000, before: map[string][]float64{}, after: map[string][]float64{}}
			t.watched[name] = w
			e.Watch(name, w)
		}
	}
	e.Play(0)
	var l, r [engine.MaxBlock]float64
	for at := 0; at < frames+t.latency; at += engine.MaxBlock {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		for _, w := range t.watched {
			w.now = at
		}
		e.Process(l[:], r[:])
		for i, name := range names {
			left, right := l[:], r[:]
			if i < e.Voices() {
				left, right = e.Voice(i, engine.MaxBlock)
			} else if i < len(names)-1 {
				left, right = e.Bus(i-e.Voices(), engine.MaxBlock)
			}
			skip := min(max(e.RowLatency(name)-at, 0), engine.MaxBlock)
			add(t.rows[i], left[skip:], right[skip:], frames)
		}
	}
	return t, nil
}

func add(b *audio.Buffer, left, right []float64, most int) {
	for c, x := range [2][]float64{left, right} {
		for _, v := range x[:min(len(x), most-len(b.Channels[c]))] {
			b.Channels[c] = append(b.Channels[c], float32(v))
		}
	}
}

// firstHit is the frame of the hardest hit, the first of several, of the voices that come
// to a row in the bars.
func firstHit(d *project.Document, line *groove.Line, row string, bars int) int {
	best, at := 0, 0.0
	for _, e := range line.Events(0, bars*d.Groove.Meter.BarTicks(), nil) {
		if !comes(d, d.Groove.Lanes[e.Lane].Voice, row) {
			continue
		}
		if e.Velocity > best {
			best, at = e.Velocity, e.Time
		}
	}
	return max(int(at*engine.Rate), 0)
}

// comes reports whether what a row gives comes to another one.
func comes(d *project.Document, from, row string) bool {
	if from == row || row == project.OutRow {
		return true
	}
	r := d.Row(from)
	if r == nil {
		return false
	}
	if r.To != "" && comes(d, project.BusRow(r.To), row) {
		return true
	}
	return slices.ContainsFunc(r.Sends, func(s mixer.Send) bool { return comes(d, project.BusRow(s.To), row) })
}

// pictures are those of the effects of a row, in the order of reading.
func (t *taken) pictures(d *project.Document, row string) []Picture {
	out := []Picture{}
	w := t.watched[row]
	if w == nil {
		return out
	}
	var look func(effects []effect.Effect)
	look = func(effects []effect.Effect) {
		for i := range effects {
			s := &effects[i]
			out = append(out, picture(s, d, w.before[s.ID], w.after[s.ID]))
			for _, p := range s.Paths {
				look(p)
			}
		}
	}
	look(*d.Chain(row))
	return slices.Clip(out)
}
