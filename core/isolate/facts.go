package isolate

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/measure"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Measure is a value and how far it may lie off, both in the same unit.
type Measure struct {
	Value  float64 `json:"value"`
	Within float64 `json:"within"`
}

// Facts are the measures of a drum, from what is known of it; nil cannot be measured here.
type Facts struct {
	Fundamental *Measure `json:"fundamental_hz"`
	Note        *string  `json:"note"`
	Settles     *Measure `json:"settles_ms"`
	Decay       *Measure `json:"decay_ms"`
	Attack      *Measure `json:"attack_ms"`
	Snap        *Measure `json:"snap_db"`
	Brightness  *Measure `json:"brightness_hz"`
	Noisiness   *Measure `json:"noisiness"`
	// Regions are measure.Regions, dB against the whole drum.
	Regions map[string]*Measure `json:"regions_db"`
	// Level is that of all its strokes against all drums, dB.
	Level *Measure `json:"level_db"`
	// Rest is that of all its strokes against all that is no drum, K-weighted, dB.
	Rest *Measure `json:"rest_db"`
	// Width is the correlation of both sides, 1 for one that is in the middle.
	Width *Measure `json:"width"`
}

// region is how much of the drum's power lies between two frequencies, how much of that is
// known, and its error, dB.
func (r *row) region(t *transform, from, to float64, first, last int) (sum, known, err float64) {
	begin := strokeFrame(t)
	for k := max(begin+first, 0); k < min(begin+last, len(r.level)); k++ {
		for n, band := range r.bands {
			lo, hi := float64(band[0])*rate/analysisSize, float64(band[1])*rate/analysisSize
			share := math.Min(hi, to) - math.Max(lo, from)
			if share <= 0 {
				continue
			}
			p := r.level[k][n] * share / (hi - lo)
			sum += p
			if r.claimed[k][n] < SurelyKnown {
				known += p
				err += p * r.claimed[k][n]
			}
		}
	}
	return sum, known, err / math.Max(known, 1e-20)
}

// leastKnown is how much of what a measure is taken from must be known.
const leastKnown = 0.6

// measure takes the facts of a drum that are known.
func (r *row) measure(t *transform, of *audio.Buffer) Facts {
	f := Facts{Regions: map[string]*Measure{}}
	whole := len(r.level)
	all, known, err := r.region(t, 20, 20000, -2, whole)
	if known == 0 {
		return f
	}
	m := measure.Measure(of)
	if len(of.Channels) == 2 && m.Correlation != nil {
		f.Width = &Measure{math.Round(*m.Correlation*100) / 100, 0.1}
	}
	unknown := 10 * math.Log10(all/known) // dB that the known part may fall short of the whole
	for _, reg := range measure.Regions {
		sum, sure, e := r.region(t, reg.From, reg.To, -2, whole)
		if sure > leastKnown*sum && e+unknown < SurelyKnown {
			f.Regions[reg.Name] = &Measure{round1(m.Balance[reg.Name]), round1(e + unknown)}
		}
	}
	share := err + unknown
	if known < leastKnown*all || share > SurelyKnown {
		return f
	}
	if high, sure, e := r.region(t, 1000, 20000, -1, 2); sure > leastKnown*high && e+share < SurelyKnown && m.Snap != nil {
		f.Snap = &Measure{round1(*m.Snap), round1(e + share)}
	}
	if m.Centroid != nil {
		f.Brightness = &Measure{math.Round(*m.Centroid), math.Round(*m.Centroid * (math.Pow(10, share/10) - 1))}
	}
	if m.Flatness != nil {
		f.Noisiness = &Measure{math.Round(*m.Flatness*1000) / 1000, math.Round(*m.Flatness*(math.Pow(10, share/10)-1)*1000) / 1000}
	}
	if begin, sure, _ := r.region(t, 20, 20000, -1, 3); sure > leastKnown*begin && m.Attack != nil {
		f.Attack = &Measure{round1(*m.Attack), 0.5}
	}
	f.Decay = r.decay(t, m.Decay)
	r.pitch(t, &f)
	return f
}

// decay is the time in which the drum falls by 60 dB, by a line through the levels that
// are known between 5 and 25 dB below its peak (as ISO 3382-1 counts T20); nil where they
// are not, and where the fall of the whole sound is another.
func (r *row) decay(t *transform, whole *float64) *Measure {
	begin := strokeFrame(t)
	var level, sure []float64
	for k := begin; k < len(r.level); k++ {
		var sum, known float64
		for n, v := range r.level[k] {
			sum += v
			if r.claimed[k][n] < SurelyKnown {
				known += v
			}
		}
		level, sure = append(level, sum), append(sure, known/math.Max(sum, 1e-20))
	}
	// Integrated backwards (Schroeder 1965), from the last frame that is known on.
	last := len(level) - 1
	for last > 0 && sure[last] < leastKnown {
		last--
	}
	tail := 0.0
	if last > 6 { // what follows goes on falling as it did
		fall := math.Log(level[last-5]/math.Max(level[last], 1e-30)) / 5
		if fall > 0.005 {
			tail = level[last] / fall
		}
	}
	curve := make([]float64, last+1)
	for k := last; k >= 0; k-- {
		tail += level[k]
		curve[k] = tail
	}
	var n, sx, sy, sxx, sxy float64
	unknown, reached, deep := 0.0, false, false
	for k, v := range curve {
		db := 10 * math.Log10(v/curve[0])
		if reached = reached || db < -25; db < -35 {
			deep = true
			break
		}
		if db <= -5 && sure[k] < leastKnown {
			unknown++
		}
		if db <= -5 && !reached {
			x := float64(k) * FrameSeconds
			n, sx, sy, sxx, sxy = n+1, sx+x, sy+db, sxx+x*x, sxy+x*db
		}
	}
	if !reached || n < 3 || unknown > 0.3*n || whole == nil {
		return nil
	}
	slope := (n*sxy - sx*sy) / (n*sxx - sx*sx)
	if slope >= 0 {
		return nil
	}
	ms := -60 / slope * 1000
	off := math.Abs(*whole/ms - 1)
	if !deep && off > 0.15 || off > 0.5 {
		return nil
	}
	value := *whole
	if !deep {
		value = math.Sqrt(ms * value)
	}
	return &Measure{math.Round(value), math.Round(math.Min(off, 0.1)*value + FrameSeconds*1000)}
}

// A fundamental, Hz, is a partial that strokes have in common, that is known for a while,
// falls, and keeps its pitch.
const (
	lowestPitch  = 25.0
	highestPitch = 1200.0
)

// pitch measures the fundamental and when it settles, of what strokes have in common where
// that is known.
func (r *row) pitch(t *transform, f *Facts) {
	X := r.common()
	begin := strokeFrame(t)
	for k := range X {
		for n, band := range r.bands {
			if k >= begin-1 && r.sure[k][n] < pitchKnown {
				continue
			}
			for b := band[0]; b < band[1]; b++ {
				X[k][b] = 0
			}
		}
	}
	wave := t.inverse(X, r.length)
	clear(wave[:lead-quietLead])
	b := &audio.Buffer{Rate: rate, Channels: [][]float32{wave}}
	m := measure.Measure(b)
	if m.Fundamental == nil || *m.Fundamental < lowestPitch || *m.Fundamental > highestPitch {
		return
	}
	// Its last 20 ms lie under the edge of what is known.
	hz, ok := measure.Arrives(m.PitchCurve[:max(len(m.PitchCurve)-4, 0)])
	if !ok || math.Abs(math.Log2(hz / *m.Fundamental)) > 0.5 {
		return
	}
	band := 0
	for n, edges := range r.bands {
		if float64(edges[0])*rate/analysisSize <= hz {
			band = n
		}
	}
	// It is known for a while, and falls.
	first, frames := math.Inf(-1), 0
	last := math.Inf(1)
	for k := begin; k < len(r.level); k++ {
		l := 10 * math.Log10(r.level[k][band]+1e-20)
		if r.sure[k][band] >= pitchKnown || l < first-pitchRange {
			continue
		}
		frames++
		first = math.Max(first, l)
		last = l
	}
	if float64(frames)*FrameSeconds < 0.04 || first-last < 6 {
		return
	}
	name, _ := music.NoteName(music.NoteOf(hz))
	f.Note = &name
	f.Fundamental = &Measure{math.Round(hz*100) / 100, math.Round(hz*0.006*100) / 100}
	if m.Settles != nil {
		f.Settles = &Measure{math.Round(*m.Settles), 10}
	}
}

// pitchRange is how far a partial falls until its pitch is no longer heard, dB.
const pitchRange = 40.0

// pitchKnown is how wrong the level of a partial may be, dB: its phase says more.
const pitchKnown = 4.0

// KickHz is the fundamental of the kick among a recording's drums, of the first where there
// are two; nil where it cannot be measured.
func KickHz(list []Drum) *float64 {
	for i := range list {
		if d := &list[i]; d.Family == sound.Kick && d.Facts.Fundamental != nil {
			return &d.Facts.Fundamental.Value
		}
	}
	return nil
}

// With is an analysis with what a recording's drums by themselves say of it; itself where
// there are none. It is not changed.
func With(a *transcribe.Analysis, list []Drum) *transcribe.Analysis {
	if len(list) == 0 {
		return a
	}
	with := *a
	with.KickHz = KickHz(list)
	if share := Share(list); share != nil && a.Share != nil && !a.Share.Alone {
		with.Share = share
	}
	return &with
}
