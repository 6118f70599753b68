package drumnet

import "math"

// slots are the stretches of time around a candidate, in frames from it,
// that the network sees: fine at the onset, coarse before and after.
var slots = [...][2]int{{-10, -7}, {-6, -4}, {-3, -3}, {-2, -2}, {-1, -1}, {0, 0}, {1, 1}, {2, 2}, {3, 3}, {4, 5}, {6, 8}, {9, 13}, {14, 20}, {21, 30}, {31, 45}}

// fineSlots are those in which it sees the finer bands of the lows.
var fineSlots = [...][2]int{{-16, -12}, {-9, -7}, {-4, -2}, {0, 2}, {4, 6}, {8, 10}, {13, 16}, {20, 26}, {32, 38}}

// atLarge are the quantiles over the file that show how loud each band is at
// large: what lasts, and what stands out.
var atLarge = [...]float64{0.5, 0.97}

// farSlots are further stretches, by which the networks that see them learn what
// rings from what is struck again.
var farSlots = [...][2]int{{-30, -11}, {46, 70}, {71, 110}}

// CoarseInputs is the number of the first features of a candidate: log power by
// slot and band, and how loud each band is in the file at large. NearInputs
// counts the same of the finer bands of the lows too, and Inputs also what lies
// further off and in longer frames, which not all ears see.
const (
	CoarseInputs = (len(slots) + len(atLarge)) * Bands
	NearInputs   = CoarseInputs + (len(fineSlots)+len(atLarge))*FineBands
	farInputs    = len(farSlots) * Bands
	Inputs       = NearInputs + farInputs + longInputs
)

// Scene is a sound prepared for the network.
type Scene struct {
	*Spectrum
	*Flux
	// Candidates are frames at which something may start, rising.
	Candidates []int
	coarse     view
	fine       view
	far        view
	long       *longFrames
}

// view is log power by frame and band, as far as the network sees it.
type view struct {
	frames int
	row    func(frame int) []float32
	slots  [][2]int
	usual  [len(atLarge)][]float32 // by quantile and band; none of a view without it
}

// NewScene prepares a spectrum.
func NewScene(s *Spectrum) *Scene {
	floor := s.floor()
	logs, fine := s.logs(floor)
	c := &Scene{Spectrum: s, Flux: newFlux(logs)}
	c.Candidates = c.Flux.candidates()
	coarse := func(i int) []float32 { return logs[i][:] }
	c.coarse = view{frames: len(logs), row: coarse, slots: slots[:]}
	c.coarse.setUsual(Bands)
	c.fine = view{frames: len(fine), row: func(i int) []float32 { return fine[i][:] }, slots: fineSlots[:]}
	c.fine.setUsual(FineBands)
	c.far = view{frames: len(logs), row: coarse, slots: farSlots[:]}
	c.long = newLongFrames(s.sound, floor)
	return c
}

// setUsual lets a view of so many bands also show how loud they are at large.
func (v *view) setUsual(bands int) {
	const enough = 20000 // frames: of a long file some stand for all
	every := v.frames/enough + 1
	column := make([]float64, (v.frames+every-1)/every)
	for b := range bands {
		for i := range column {
			column[i] = float64(v.row(i * every)[b])
		}
		for k, level := range quantiles(column, atLarge[:]) {
			v.usual[k] = append(v.usual[k], float32(level))
		}
	}
}

// Features writes what the networks see at a frame to dst, of length Inputs:
// log10 of power over the floor, 0 to 7, in units of FeatureUnit less one.
func (c *Scene) Features(frame int, dst []float32) {
	c.near(frame, dst)
	c.beyond(frame, dst)
	c.long.finish()
}

// near writes the first NearInputs of the features.
func (c *Scene) near(frame int, dst []float32) {
	c.fine.features(frame, c.coarse.features(frame, dst))
}

// beyond writes those after them; they are complete after long.finish.
func (c *Scene) beyond(frame int, dst []float32) {
	c.long.features(frame, c.far.features(frame, dst[NearInputs:]))
}

// features writes a view's part and returns what is left of dst.
func (v *view) features(frame int, dst []float32) []float32 {
	bands := len(v.row(0))
	for _, s := range v.slots {
		part := dst[:bands]
		dst = dst[bands:]
		clear(part)
		for i := max(s[0], -frame); i <= s[1]; i++ { // before the file is silence
			for b, x := range v.row(min(frame+i, v.frames-1)) {
				part[b] += x
			}
		}
		for b, sum := range part {
			part[b] = sum/float32(s[1]-s[0]+1)/FeatureUnit - 1
		}
	}
	for _, usual := range v.usual {
		for b, x := range usual {
			dst[b] = x/FeatureUnit - 1
		}
		dst = dst[len(usual):]
	}
	return dst
}

// FeatureUnit is how many powers of ten are one unit of a feature.
const FeatureUnit = 3

// FeaturePitch is the place in the spectrum of a feature, by the number of its
// band; finer bands lie between.
func FeaturePitch(feature int) float64 {
	switch {
	case feature < CoarseInputs:
		return float64(feature % Bands)
	case feature < NearInputs:
		b := (feature - CoarseInputs) % FineBands
		hz := float64(fineEdge(b)+fineEdge(b+1)-1) / 2 * Rate / LowEvery / fineSize
		return hz*size/Rate - 1
	case feature < NearInputs+farInputs:
		return float64((feature - NearInputs) % Bands)
	}
	return longPitch((feature - NearInputs - farInputs) % longBands)
}

// Reference is the level in dB against which the network reports levels.
func (c *Scene) Reference() float64 { return 10 * math.Log10(math.Max(c.loudest(), 1e-12)) }
