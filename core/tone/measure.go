package tone

import (
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/dsp/fourier"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/music"
)

// Measures is the tone of a one-shot, as defined in docs/measures.md. Its
// JSON is the contract of `jubrak measure`. A nil value cannot be told.
type Measures struct {
	SampleRate     int      `json:"sample_rate"`
	Channels       int      `json:"channels"`
	Duration       float64  `json:"duration_ms"`
	LeadingSilence float64  `json:"leading_silence_ms"`
	Peak           *float64 `json:"peak_dbfs"`
	TruePeak       *float64 `json:"true_peak_dbtp"`
	RMS            *float64 `json:"rms_dbfs"`
	Crest          *float64 `json:"crest_db"`
	Integrated     *float64 `json:"lufs_integrated"`
	Attack         *float64 `json:"attack_ms"`
	// Decay counts from the peak; DecayRange tells which part of the fall
	// the line was fitted to.
	Decay       *float64     `json:"decay_60db_ms"`
	DecayRange  *string      `json:"decay_range"`
	Fundamental *float64     `json:"fundamental_hz"`
	Note        *string      `json:"note"`
	Cents       *float64     `json:"cents"`
	PitchCurve  [][2]float64 `json:"pitch_curve"`
	// Settles is when 95 % of the way from the first pitch to the fundamental, in
	// octaves, is over for good.
	Settles     *float64           `json:"settles_ms"`
	Centroid    *float64           `json:"spectral_centroid_hz"`
	Flatness    *float64           `json:"flatness"`
	Snap        *float64           `json:"snap_db"`
	ThirdOctave map[string]float64 `json:"third_octave_db"`
	Balance     map[string]float64 `json:"balance_db"`
	Correlation *float64           `json:"stereo_correlation"`
	FamilyGuess *string            `json:"family_guess"`
}

// RMS is the root mean square over all channels, linear.
func RMS(b *audio.Buffer) float64 {
	var sum float64
	n := 0
	for _, ch := range b.Channels {
		for _, v := range ch {
			sum += float64(v) * float64(v)
		}
		n += len(ch)
	}
	return math.Sqrt(sum / math.Max(float64(n), 1))
}

// Measure takes the tone of a one-shot of any rate and channel count.
func Measure(b *audio.Buffer) *Measures {
	m := &Measures{
		SampleRate: b.Rate, Channels: len(b.Channels), Duration: b.Seconds() * 1000,
		PitchCurve: [][2]float64{}, ThirdOctave: map[string]float64{}, Balance: map[string]float64{},
	}
	x := oneSide(b)
	peak := b.Peak()
	if peak == 0 || len(x) == 0 {
		return m
	}
	rms := RMS(b)
	m.Peak, m.TruePeak = ptr(audio.DB(peak)), ptr(TruePeak(b))
	m.RMS, m.Crest = ptr(audio.DB(rms)), ptr(audio.DB(peak/rms))
	if v, ok := Integrated(b); ok {
		m.Integrated = &v
	}
	if len(b.Channels) == 2 {
		if r, ok := correlation(b.Channels[0], b.Channels[1]); ok {
			m.Correlation = &r
		}
	}
	if dc := Offset(x, b.Rate); dc != 0 {
		for i := range x {
			x[i] -= dc
		}
	}
	onset := Onset(x, b.Rate)
	m.LeadingSilence = float64(onset) / float64(b.Rate) * 1000
	m.Attack = Attack(x, b.Rate)
	m.Decay, m.DecayRange = decay(x, b.Rate)
	m.spectrum(x[onset:], b.Rate)
	if hz, ok := Fundamental(x[onset:], b.Rate, 25, 1200); ok {
		m.PitchCurve = pitchCurve(x[onset:], b.Rate, hz)
		if late, ok := Arrives(m.PitchCurve); ok && math.Log2(hz/late) > 0.03 {
			hz = late
			m.PitchCurve = pitchCurve(x[onset:], b.Rate, hz)
		}
		name, cents := music.NoteName(music.NoteOf(hz))
		m.Fundamental, m.Note, m.Cents = &hz, &name, &cents
		m.Settles = settles(m.PitchCurve, hz)
	}
	m.Snap = snap(x[onset:], b.Rate)
	m.guess()
	return m
}

// MeasureSpectrum takes of the tone of a one-shot what spectra say: brightness, flatness,
// snap, third octaves and regions.
func MeasureSpectrum(b *audio.Buffer) *Measures {
	m := &Measures{SampleRate: b.Rate, Channels: len(b.Channels), ThirdOctave: map[string]float64{}, Balance: map[string]float64{}}
	x := oneSide(b)
	if b.Peak() == 0 || len(x) == 0 {
		return m
	}
	if dc := Offset(x, b.Rate); dc != 0 {
		for i := range x {
			x[i] -= dc
		}
	}
	x = x[Onset(x, b.Rate):]
	m.spectrum(x, b.Rate)
	m.Snap = snap(x, b.Rate)
	return m
}

// How far below its strongest bin a spectrum still counts in Surface, dB: for brightness,
// and for flatness, in which what is below is raised to there.
const (
	surfaceDB = 40.0
	flatDB    = 60.0
)

// Surface takes brightness and flatness of a one-shot as Measure does, of what lies within
// 40 and 60 dB of the strongest bin alone: what a recording leaves far below a drum is not
// its colour. Nil of silence.
func Surface(b *audio.Buffer) (centroid, flatness *float64) {
	x := oneSide(b)
	if b.Peak() == 0 || len(x) == 0 {
		return nil, nil
	}
	x = x[Onset(x, b.Rate):]
	n := b.Rate / 4
	win := make([]float64, n)
	for i := range min(n, len(x)) {
		win[i] = x[i] * (0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/float64(n-1)))
	}
	mag := magnitudes(win)
	top := slices.Max(mag[1:])
	floor, flat := top*audio.Gain(-surfaceDB), top*audio.Gain(-flatDB)
	var sum, weighted, logs, power float64
	for k := 1; k < len(mag); k++ {
		if mag[k] > floor {
			sum += mag[k]
			weighted += mag[k] * float64(k) * float64(b.Rate) / float64(n)
		}
		m := math.Max(mag[k], flat)
		logs += math.Log(m * m)
		power += m * m
	}
	if sum == 0 {
		return nil, nil
	}
	bins := float64(len(mag) - 1)
	return ptr(weighted / sum), ptr(math.Min(math.Exp(logs/bins)/(power/bins), 1))
}

// settles is when a pitch curve has come to its end; nil where it does not move by a
// semitone.
func settles(curve [][2]float64, hz float64) *float64 {
	far := 0.0
	for _, p := range curve[:min(len(curve), 4)] {
		far = math.Max(far, math.Abs(math.Log2(p[1]/hz)))
	}
	if far < 1.0/12 {
		return nil
	}
	for i := len(curve) - 1; i >= 0; i-- {
		if math.Abs(math.Log2(curve[i][1]/hz)) > 0.05*far {
			if i == len(curve)-1 {
				return nil
			}
			return &curve[i+1][0]
		}
	}
	return nil
}

// Arrives is where a pitch curve comes to, Hz: the median of its end, if most of its last
// quarter lies within half a semitone of that. A glide that goes on and the beating of
// partials have no such place.
func Arrives(curve [][2]float64) (hz float64, ok bool) {
	if len(curve) < 16 {
		return 0, false
	}
	var end []float64
	for _, p := range curve[len(curve)-len(curve)/4:] {
		end = append(end, p[1])
	}
	late := slices.Clone(end[len(end)/2:])
	slices.Sort(late)
	hz = late[len(late)/2]
	near := 0
	for _, v := range end {
		if math.Abs(12*math.Log2(v/hz)) < 0.5 {
			near++
		}
	}
	return hz, near*4 >= len(end)*3
}

func ptr[T any](v T) *T { return &v }

// oneSide is the mean of the channels, or the first where they cancel.
func oneSide(b *audio.Buffer) []float64 {
	x := b.Mono()
	var sum float64
	for _, v := range x {
		sum += v * v
	}
	if len(b.Channels) > 1 && math.Sqrt(sum/math.Max(float64(len(x)), 1)) < 0.2*RMS(b) {
		for i, v := range b.Channels[0] {
			x[i] = float64(v)
		}
	}
	return x
}

// Offset is the constant that a recording is shifted by (its DC offset), linear;
// 0 where it cannot be told from the sound. It is read from the quietest
// stretches of 100 ms, under a Hann window, whose first null lies at 20 Hz: there
// an offset stands out, and a low drum does not pass for one.
func Offset(x []float64, rate int) float64 {
	w := min(rate/10, len(x))
	if w < 16 {
		return 0
	}
	window := make([]float64, w)
	var norm float64
	for i := range window {
		window[i] = 0.5 - 0.5*math.Cos(2*math.Pi*(float64(i)+0.5)/float64(w))
		norm += window[i]
	}
	var sum, weights float64
	quietest := math.Inf(1)
	for from := 0; from+w <= len(x); from += max(w/2, 1) {
		var mean, power float64
		for i, g := range window {
			mean += g * x[from+i] / norm
		}
		for i, g := range window {
			d := x[from+i] - mean
			power += g * d * d / norm
		}
		quietest = math.Min(quietest, power)
		weight := 1 / (power + 1e-14)
		sum, weights = sum+weight*mean, weights+weight
	}
	dc := sum / weights
	if math.Abs(dc) < 1e-7 || math.Abs(dc) < 0.1*math.Sqrt(quietest) {
		return 0
	}
	return dc
}

func correlation(a, b []float32) (float64, bool) {
	var ab, aa, bb float64
	for i := range a {
		x, y := float64(a[i]), float64(b[i])
		ab, aa, bb = ab+x*y, aa+x*x, bb+y*y
	}
	return ab / math.Sqrt(aa*bb), aa > 0 && bb > 0
}

// Attack is the time in which the running maximum of the wave goes from 10
// to 90 % of its peak, ms; nil of silence.
func Attack(x []float64, rate int) *float64 {
	var peak float64
	for _, v := range x {
		peak = math.Max(peak, math.Abs(v))
	}
	from, to, run := -1, -1, 0.0
	for i, v := range x {
		run = math.Max(run, math.Abs(v))
		if from < 0 && run >= 0.1*peak {
			from = i
		}
		if run >= 0.9*peak {
			to = i
			break
		}
	}
	if from < 0 || to < 0 {
		return nil
	}
	return ptr(float64(to-from) / float64(rate) * 1000)
}

// decay integrates the squared signal backwards from its end to its peak and
// fits a line to the fall (Schroeder 1965; ISO 3382-1): from -5 to -35 dB
// where the fall goes that far, else to -25. The result is the time in which
// that line falls 60 dB.
func decay(x []float64, rate int) (ms *float64, used *string) {
	top := 0
	for i, v := range x {
		if math.Abs(v) > math.Abs(x[top]) {
			top = i
		}
	}
	tail := x[top:]
	sum := make([]float64, len(tail)+1)
	for i := len(tail) - 1; i >= 0; i-- {
		sum[i] = sum[i+1] + tail[i]*tail[i]
	}
	if sum[0] == 0 {
		return nil, nil
	}
	for _, low := range []float64{-35, -25} {
		var n, sx, sy, sxx, sxy float64
		reached := false
		for i := range tail {
			db := 10 * math.Log10(sum[i]/sum[0])
			if db < low {
				reached = true
				break
			}
			if db <= -5 {
				t := float64(i) / float64(rate)
				n, sx, sy, sxx, sxy = n+1, sx+t, sy+db, sxx+t*t, sxy+t*db
			}
		}
		if slope := (n*sxy - sx*sy) / (n*sxx - sx*sx); reached && n > 8 && slope < 0 {
			text := map[float64]string{-35: "-5..-35 dB", -25: "-5..-25 dB"}[low]
			return ptr(-60 / slope * 1000), &text
		}
	}
	return nil, nil
}

// Regions are the five named regions of the spectrum, Hz.
var Regions = []struct {
	Name     string
	From, To float64
}{{"sub", 20, 60}, {"low", 60, 150}, {"low_mid", 150, 600}, {"presence", 600, 5000}, {"air", 5000, 20000}}

// spectrum fills centroid, flatness, third octaves and balance.
func (m *Measures) spectrum(x []float64, rate int) {
	n := rate / 4
	win := make([]float64, n)
	for i := range win {
		if i < len(x) {
			win[i] = x[i] * (0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/float64(n-1)))
		}
	}
	mag := magnitudes(win)
	var sum, weighted, logs, power float64
	for k := 1; k < len(mag); k++ {
		hz := float64(k) * float64(rate) / float64(n)
		sum += mag[k]
		weighted += mag[k] * hz
		logs += math.Log(mag[k]*mag[k] + 1e-20)
		power += mag[k] * mag[k]
	}
	if sum == 0 {
		return
	}
	m.Centroid = ptr(weighted / sum)
	bins := float64(len(mag) - 1)
	m.Flatness = ptr(math.Min(math.Exp(logs/bins)/(power/bins), 1))
	m.bandsOf(x, rate)
}

// bandsOf adds up the energy of the whole sound in third octaves (exact
// centres 1000·10^(n/10), IEC 61260-1) and regions, in dB against the whole.
func (m *Measures) bandsOf(x []float64, rate int) {
	padded := make([]float64, nextPow2(max(len(x), rate/4)))
	copy(padded, x)
	mag := magnitudes(padded)
	step := float64(rate) / float64(len(padded))
	energy := func(from, to float64) float64 {
		var sum float64
		for k := max(int(math.Ceil(from/step)), 1); k < len(mag) && float64(k)*step < to; k++ {
			sum += mag[k] * mag[k]
		}
		return sum
	}
	total := energy(20, 20000)
	if total == 0 {
		return
	}
	db := func(e float64) float64 { return math.Max(10*math.Log10(e/total), -120) }
	edge := math.Pow(10, 0.05)
	for n := -16; n <= 13; n++ {
		centre := 1000 * math.Pow(10, float64(n)/10)
		if centre*edge < float64(rate)/2 {
			m.ThirdOctave[nominal[n+16]] = db(energy(centre/edge, centre*edge))
		}
	}
	for _, r := range Regions {
		m.Balance[r.Name] = db(energy(r.From, r.To))
	}
}

// nominal third-octave centres from 25 Hz to 20 kHz (IEC 61260-1).
var nominal = []string{"25", "31.5", "40", "50", "63", "80", "100", "125", "160", "200", "250", "315", "400", "500", "630", "800", "1000", "1250", "1600", "2000", "2500", "3150", "4000", "5000", "6300", "8000", "10000", "12500", "16000", "20000"}

func magnitudes(x []float64) []float64 {
	coeff := fourier.NewFFT(len(x)).Coefficients(nil, x)
	out := make([]float64, len(coeff))
	for k, c := range coeff {
		out[k] = math.Hypot(real(c), imag(c))
	}
	return out
}

func nextPow2(n int) int {
	p := 1
	for p < n {
		p *= 2
	}
	return p
}

// snap is the energy of the first 10 ms above 1 kHz against the whole, dB.
func snap(x []float64, rate int) *float64 {
	high := dsp.HighPass(1000, math.Sqrt2/2, float64(rate))
	var top, all float64
	for i, v := range x {
		y := high.Next(v)
		if i < rate/100 {
			top += y * y
		}
		all += v * v
	}
	if all == 0 || top == 0 {
		return nil
	}
	return ptr(10 * math.Log10(top/all))
}

// Fundamental is the settled pitch in Hz of the lowest partial between from and
// to Hz that is clearly a tone: the slope of its phase over the last third of
// the time in which it stays within 43 dB of its peak, so that of a glide it is
// the last note. Drum heads have partials close above the lowest (1.59 and 2.14
// times it), so the strongest need not be the fundamental. ok is false for
// sounds without a clear pitch. x starts at the onset and has no offset.
func Fundamental(x []float64, rate int, from, to float64) (hz float64, ok bool) {
	if len(x) < rate/25 {
		return 0, false
	}
	// A fall begins far above where it settles: the later part tells.
	part := x[:min(len(x), 2*rate)]
	spec := newPartials(part[len(part)/3:], rate, from, to)
	if len(spec.list) == 0 {
		spec = newPartials(part, rate, from, to)
	}
	found := spec.list
	if len(found) > mostPartials {
		return 0, false
	}
	for i, p := range found {
		if p.hz > spec.strongest() {
			break
		}
		low, high := math.Max(p.hz*0.6, from*0.8), p.hz*1.6
		if i > 0 { // the neighbours lie beyond the band's edges
			low = math.Min(math.Max(low, found[i-1].hz/edgeLow), 0.95*p.hz)
		}
		if i+1 < len(found) {
			high = math.Max(math.Min(high, found[i+1].hz/edgeHigh), 1.05*p.hz)
		}
		if hz, falls, ok := settled(part, rate, p.hz, low, high); ok && spec.concentrated(i, falls) {
			return hz, true
		}
	}
	return 0, false
}

// steadyTone is how alike a partial must be to itself one period later, 0..1,
// to be a tone: 1 is a steady one, noise of a band an octave wide about 0.3.
const steadyTone = 0.75

// settled measures the partial near hz within a band, and the time in which it
// falls to 1/e, seconds; ok is false where that is no tone.
func settled(x []float64, rate int, hz, low, high float64) (pitch, falls float64, ok bool) {
	a := analytic(x, rate, low, high)
	var peak, power, centre float64
	for i, c := range a {
		p := real(c)*real(c) + imag(c)*imag(c)
		peak = math.Max(peak, p)
		power, centre = power+p, centre+p*float64(i)/float64(rate)
	}
	end := 0
	for i, c := range a {
		if real(c)*real(c)+imag(c)*imag(c) > peak/2e4 {
			end = i
		}
	}
	period := float64(rate) / hz
	start := end - max(end*35/100, int(2*period))
	if start < 0 || end-start < rate/200 {
		return 0, 0, false
	}
	if alike(a[max(end-max(end/2, int(5*period)), 0):end], int(period)) < steadyTone {
		return 0, 0, false
	}
	// Of an exponential fall the power's centre lies at half its time constant.
	return phaseSlope(a[start:end]) * float64(rate) / (2 * math.Pi), 2 * centre / power, true
}

// alike is how much of a band's power keeps its phase from period to period, in
// stretches of three periods, so that a glide does no harm.
func alike(a []complex128, period int) float64 {
	var same, all float64
	for from := 0; from+2*period <= len(a); from += 3 * period {
		var sum complex128
		var mag float64
		for i := from + period; i < min(from+4*period, len(a)); i++ {
			c := a[i] * complex(real(a[i-period]), -imag(a[i-period]))
			sum += c
			mag += cabs(c)
		}
		same, all = same+cabs(sum), all+mag
	}
	return same / math.Max(all, 1e-30)
}

// Partials: how far below the strongest one is looked for, and how much of all
// energy the strongest must have with half an octave around it.
// A drum has few within an octave of it; noise has many.
const (
	mostPartials   = 5
	softestPartial = 0.2 // of its magnitude
	leastShare     = 0.25
)

type partial struct{ hz, magnitude float64 }

// partials are the spectral peaks of a sound up to an octave above the
// strongest, in order of frequency, and the spectrum they are in.
type partials struct {
	list    []partial
	mag     []float64
	step    float64 // Hz
	seconds float64 // of the sound
}

func (s *partials) strongest() float64 {
	best := s.list[0]
	for _, p := range s.list {
		if p.magnitude > best.magnitude {
			best = p
		}
	}
	return best.hz
}

// concentrated tells whether what sounds around a partial, without the other
// ones, is as narrow as a tone that falls in so many seconds, and not a band of
// noise.
func (s *partials) concentrated(i int, falls float64) bool {
	p := s.list[i].hz
	wide := 0.03*p + 1.2/(math.Pi*math.Max(falls, 1e-3)) + 1.5/s.seconds
	var own, all float64
	for k := int(p / 1.35 / s.step); k <= int(p*1.35/s.step) && k < len(s.mag); k++ {
		f, e := float64(k)*s.step, s.mag[k]*s.mag[k]
		if math.Abs(f-p) <= wide {
			own, all = own+e, all+e
			continue
		}
		others := false
		for j, o := range s.list {
			others = others || j != i && math.Abs(f-o.hz) <= math.Min(wide, math.Abs(o.hz-p)/2)
		}
		if !others {
			all += e
		}
	}
	return own > narrowTone*all
}

// narrowTone is the least share of a tone in what sounds about it.
const narrowTone = 0.6

// newPartials finds the spectral peaks; none where the strongest is but a small
// part of the sound.
func newPartials(x []float64, rate int, from, to float64) *partials {
	n := nextPow2(max(len(x), rate)) * 2
	padded := make([]float64, n)
	for i, v := range x {
		padded[i] = v * (0.5 + 0.5*math.Cos(math.Pi*float64(i)/float64(len(x))))
	}
	out := &partials{mag: magnitudes(padded), step: float64(rate) / float64(n), seconds: float64(len(x)) / float64(rate)}
	mag, step := out.mag, out.step
	best, total := 0, 0.0
	for k := 1; k < len(mag); k++ {
		f := float64(k) * step
		total += mag[k] * mag[k]
		if f >= from && f <= to && mag[k] > mag[best] || best == 0 && f >= from {
			best = k
		}
	}
	if best == 0 || total == 0 {
		return out
	}
	hz := float64(best) * step
	var near float64
	for k := int(hz / 1.3 / step); k <= int(hz*1.3/step) && k < len(mag); k++ {
		near += mag[k] * mag[k]
	}
	if near/total < leastShare {
		return out
	}
	for k := max(int(from/step), 1); k < len(mag) && k <= 2*best; k++ {
		reach := max(int(0.12*float64(k)), 2) // the highest of its surroundings
		if mag[k] >= softestPartial*mag[best] && highest(mag, k, reach) {
			out.list = append(out.list, partial{float64(k) * step, mag[k]})
		}
	}
	if len(out.list) == 0 || out.strongest() > to {
		out.list = []partial{{hz, mag[best]}}
	}
	return out
}

// highest tells whether a bin is the highest within a reach.
func highest(mag []float64, k, reach int) bool {
	for j := max(k-reach, 0); j <= min(k+reach, len(mag)-1); j++ {
		if mag[j] > mag[k] {
			return false
		}
	}
	return true
}

// analytic is the complex signal of a band: positive frequencies from..to
// with raised-cosine edges, by FFT.
func analytic(x []float64, rate int, from, to float64) []complex128 {
	n := nextPow2(2 * len(x))
	buf := make([]complex128, n)
	for i, v := range x {
		buf[i] = complex(v, 0)
	}
	fft := fourier.NewCmplxFFT(n)
	coeff := fft.Coefficients(nil, buf)
	step := float64(rate) / float64(n)
	for k := range coeff {
		f := float64(k) * step
		if k > n/2 {
			f = 0
		}
		coeff[k] *= complex(2/float64(n)*edge(f, from*edgeLow, from)*(1-edge(f, to, to*edgeHigh)), 0)
	}
	return fft.Sequence(nil, coeff)[:len(x)]
}

// The band of analytic fades out at these multiples of its ends.
const edgeLow, edgeHigh = 0.7, 1.4

// edge rises from 0 at a to 1 at b.
func edge(f, a, b float64) float64 {
	t := math.Min(math.Max((f-a)/(b-a), 0), 1)
	return 0.5 - 0.5*math.Cos(math.Pi*t)
}

func cabs(c complex128) float64 { return math.Hypot(real(c), imag(c)) }

// phaseSlope is the mean step of phase, weighted by power, radians a sample.
func phaseSlope(a []complex128) float64 {
	var sum complex128
	for i := 1; i < len(a); i++ {
		sum += a[i] * complex(real(a[i-1]), -imag(a[i-1]))
	}
	return math.Atan2(imag(sum), real(sum))
}

// pitchCurve is the instantaneous frequency of the lowest partial, one point
// every 5 ms as [ms, Hz], while it stays within 43 dB of its peak.
func pitchCurve(x []float64, rate int, settled float64) [][2]float64 {
	a := analytic(x[:min(len(x), 2*rate)], rate, settled*0.6, math.Min(settled*12, 4000))
	var peak float64
	for _, c := range a {
		peak = math.Max(peak, cabs(c))
	}
	out := [][2]float64{}
	w := rate / 200
	for i := 0; i+w < len(a); i += w {
		if cabs(a[i+w/2]) < peak/100 && i > rate/50 {
			break
		}
		hz := phaseSlope(a[i:i+w]) * float64(rate) / (2 * math.Pi)
		if hz > 10 {
			out = append(out, [2]float64{float64(i) / float64(rate) * 1000, hz})
		}
	}
	return medianOf3(out)
}

func medianOf3(c [][2]float64) [][2]float64 {
	out := append([][2]float64(nil), c...)
	for i := 1; i+1 < len(c); i++ {
		v := []float64{c[i-1][1], c[i][1], c[i+1][1]}
		sort.Float64s(v)
		out[i][1] = v[1]
	}
	return out
}

// guess files the sound by a few plain rules (common practice).
func (m *Measures) guess() {
	if m.Centroid == nil {
		return
	}
	low := m.Balance["sub"]
	name := "perc"
	switch {
	case m.Fundamental != nil && *m.Fundamental < 110 && m.Decay != nil && *m.Decay > 900 && *m.Centroid < 1500:
		name = "808"
	case m.Fundamental != nil && *m.Fundamental < 90 && math.Max(low, m.Balance["low"]) > -6:
		name = "kick"
	case *m.Centroid > 5000 && m.Balance["low_mid"] < -20 && m.Decay != nil && *m.Decay > 320:
		name = "hat_open"
	case *m.Centroid > 5000 && m.Balance["low_mid"] < -20:
		name = "hat_closed"
	case m.Fundamental != nil && *m.Fundamental < 250 && *m.Centroid < 900:
		name = "tom"
	case *m.Centroid > 700:
		name = "snare"
	}
	m.FamilyGuess = &name
}
