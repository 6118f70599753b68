package effect

import (
	"bytes"
	"encoding/binary"
	"math"
	"os/exec"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/internal/peer"

	"jubrak/internal/brief"
)

// filtered is a block as ffmpeg's audio filters leave it, and what they printed.
func filtered(t *testing.T, b Block, filters string) (Block, string) {
	t.Helper()
	var in, out, said bytes.Buffer
	sides := make([]float64, 0, 2*b.Frames())
	for i := range b.Left {
		sides = append(sides, b.Left[i], b.Right[i])
	}
	require.NoError(t, binary.Write(&in, binary.LittleEndian, sides))
	cmd := exec.Command(peer.Need(t, "ffmpeg"), "-hide_banner", "-nostats", "-f", "f64le", "-ar", "48000", "-ac", "2", "-i", "pipe:0", "-af", filters, "-f", "f64le", "-ar", "48000", "-ac", "2", "pipe:1")
	cmd.Stdin, cmd.Stdout, cmd.Stderr = &in, &out, &said
	require.NoError(t, cmd.Run(), "%s", said.String())
	x := make([]float64, out.Len()/8)
	require.NoError(t, binary.Read(&out, binary.LittleEndian, x))
	theirs := Block{}
	for i := 0; i+1 < len(x); i += 2 {
		theirs.Left, theirs.Right = append(theirs.Left, x[i]), append(theirs.Right, x[i+1])
	}
	return theirs, said.String()
}

// clickOf is a second with one sample, and stereo two unlike ones.
func clickOf() Block {
	b := Block{make([]float64, rate), make([]float64, rate)}
	b.Left[0], b.Right[0] = 1, 1
	return b
}

// wide is a tone on both sides.
func wide(hz, level float64, frames int) Block {
	x := sine(hz, level, frames).Left
	return Block{x, append([]float64(nil), x...)}
}

// gains are what a response to a click leaves at 40 frequencies from 30 Hz to 16 kHz, dB.
func gains(x []float64) (out []float64) {
	for k := range 40 {
		hz := 30 * math.Pow(16000/30.0, float64(k)/39)
		var re, im float64
		for i, v := range x {
			sin, cos := math.Sincos(2 * math.Pi * hz * float64(i) / rate)
			re, im = re+v*cos, im+v*sin
		}
		out = append(out, 20*math.Log10(math.Hypot(re, im)+1e-12))
	}
	return out
}

// Library: ffmpeg (filters as given): responses to a click within 0.05 dB where they are
// above -60 dB.
func TestResponsesBesideFfmpeg(t *testing.T) {
	band := func(shape float64, hz, gain, q float64) map[string]float64 {
		return flat8(map[string]float64{"band3.shape": shape, "band3.hz": hz, "band3.gain_db": gain, "band3.q": q})
	}
	for _, c := range []struct {
		kind    string
		values  map[string]float64
		filters string
	}{
		{"equalizer", band(bandBell, 1000, 6, 2), "equalizer=f=1000:t=q:w=2:g=6"},
		{"equalizer", band(bandBell, 90, -12, 0.7), "equalizer=f=90:t=q:w=0.7:g=-12"},
		{"equalizer", band(bandLowShelf, 200, 8, math.Sqrt2/2), "lowshelf=f=200:t=q:w=0.70711:g=8"},
		{"equalizer", band(bandHighShelf, 1000, -9, math.Sqrt2/2), "highshelf=f=1000:t=q:w=0.70711:g=-9"},
		{"equalizer", band(bandNotch, 700, 0, 3), "bandreject=f=700:t=q:w=3"},
		{"equalizer", flat8(map[string]float64{"band1.shape": bandLowCut, "band1.hz": 120, "band1.q": 0.71, "band1.slope": 1}), "highpass=f=120:t=q:w=0.7071"},
		{"equalizer", flat8(map[string]float64{"band1.shape": bandHighCut, "band1.hz": 3000, "band1.q": 0.71, "band1.slope": 1}), "lowpass=f=3000:t=q:w=0.7071"},
		{"eq", map[string]float64{"band2.gain_db": 7, "band2.hz": 500, "band2.q": 1}, "equalizer=f=500:t=q:w=1:g=7"},
		{"tape", map[string]float64{"amount_percent": 0, "bump_db": 6, "bump_hz": 80, "top_hz": 9000, "wow_weighted_percent": 0, "flutter_weighted_percent": 0}, "equalizer=f=80:t=q:w=0.9:g=6,lowpass=f=9000:t=q:w=0.7071"},
		{"worn", map[string]float64{"low_hz": 200, "high_hz": 4000, "wow_weighted_percent": 0, "flutter_weighted_percent": 0, "mono_percent": 0, "crackle_db": -80, "hiss_rms_db": -80}, "highpass=f=200:t=q:w=0.7071,lowpass=f=4000:t=q:w=0.7071"},
	} {
		ours := clickOf()
		if c.kind == "tape" { // small enough not to bend
			ours.Left[0], ours.Right[0] = 1e-3, 1e-3
		}
		theirs, _ := filtered(t, ours, c.filters)
		through(rackOf(c.kind, c.values), ours)
		a, b, within := gains(ours.Left), gains(theirs.Left), 0.05
		if c.kind == "tape" {
			within = 0.25
		}
		for k := range a {
			if c.kind == "tape" && k > 33 {
				break // what bends it has a top of its own: 0.25 dB at 10 kHz, 1.2 at 16
			}
			if b[k] > -60 || c.kind == "tape" {
				assert.InDelta(t, b[k], a[k], within, "%s at frequency %d", c.filters, k)
			}
		}
	}
}

// Library: ffmpeg's acrossover: bands of fourth order have its responses within 0.05 dB.
func TestASplitBesideFfmpeg(t *testing.T) {
	for path, pick := range []string{"[lo]anullsink;[hi]anull", "[hi]anullsink;[lo]anull"} {
		theirs, _ := filtered(t, clickOf(), "acrossover=split=300:order=4th[lo][hi];"+pick)
		values := map[string]float64{"low_hz": 300, "low_db": -60, "high_db": -60}
		values[[]string{"high_db", "low_db"}[path]] = 0
		ours := through(rackOf("split", values), clickOf())
		a, b := gains(ours.Left), gains(theirs.Left)
		for k := range a {
			if b[k] > -24 { // the other path is only 60 dB down
				assert.InDelta(t, b[k], a[k], 0.15, "path %d at frequency %d", path, k)
			}
		}
	}
}

// Library: ffmpeg's filters on whole sounds: sample by sample within 1e-4.
func TestSamplesBesideFfmpeg(t *testing.T) {
	stereo := func() Block { return noise(rate, 0.2) }
	dc := func() Block {
		b := Block{make([]float64, 2*rate), make([]float64, 2*rate)}
		for i := range b.Left {
			b.Left[i], b.Right[i] = 0.5, 0.5
		}
		return b
	}
	for _, c := range []struct {
		kind    string
		values  map[string]float64
		sound   func() Block
		filters string
		within  float64
	}{
		{"width", map[string]float64{"side_percent": 160}, stereo, "extrastereo=m=1.6:c=0", 1e-4},
		{"width", map[string]float64{"delay_ms": 10, "side_percent": 100}, stereo, "adelay=0|10", 1e-4},
		{"trim", map[string]float64{"gain_db": -6, "sides": 4}, stereo, "pan=stereo|c0=c1|c1=c0,volume=-6dB", 1e-4},
		// Gains take 0.7 ms here, and their sine begins at its top.
		{"tremolo", map[string]float64{"time": 1, "rate_hz": 4, "depth_percent": 60, "phase_percent": 25}, dc, "tremolo=f=4:d=0.6", 0.01},
	} {
		ours := c.sound()
		theirs, _ := filtered(t, ours, c.filters)
		through(rackOf(c.kind, c.values), ours)
		worst := 0.0
		for i := range min(len(theirs.Left), len(ours.Left)) {
			worst = math.Max(worst, math.Max(math.Abs(theirs.Left[i]-ours.Left[i]), math.Abs(theirs.Right[i]-ours.Right[i])))
		}
		assert.Less(t, worst, c.within, c.filters)
	}
}

// Library: ffmpeg's adelay and aecho: a delay's rounds lie where theirs do.
func TestADelayBesideFfmpeg(t *testing.T) {
	ours := clickOf()
	theirs, _ := filtered(t, ours, "aecho=1:1:250|500:0.8|0.4")
	through(rackOf("echo", map[string]float64{"time": 1, "time_ms": 250, "mix_percent": 100, "feedback_percent": 50, "low_cut_hz": 20, "high_cut_hz": 20000}), ours)
	for _, round := range []int{12000, 24000} {
		at := func(x []float64) int {
			most := round - 2000
			for i := most; i < round+2000; i++ {
				if math.Abs(x[i]) > math.Abs(x[most]) {
					most = i
				}
			}
			return most
		}
		assert.InDelta(t, at(theirs.Left), at(ours.Left), 3, "the cuts hold it back by a sample or two a round")
	}
}

// Library: ffmpeg's acompressor and agate: levels that hold still come out within 0.3 dB
// of theirs.
func TestDynamicsBesideFfmpeg(t *testing.T) {
	for _, in := range brief.First(3, -30.0, -12, -1, -40, -24, -6) {
		for _, c := range []struct {
			kind    string
			values  map[string]float64
			filters string
		}{
			{"compressor", map[string]float64{"threshold_db": -20, "ratio": 4, "knee_db": 0, "attack_ms": 1, "release_ms": 200, "gain_db": 0}, "acompressor=threshold=0.1:ratio=4:knee=1:attack=1:release=200:detection=peak:makeup=1"},
			{"gate", map[string]float64{"way": 1, "threshold_db": -20, "ratio": 2, "range_db": -60, "attack_ms": 1, "release_ms": 200, "hysteresis_db": 0}, "agate=threshold=0.1:ratio=2:knee=1:range=0.001:attack=1:release=200:detection=peak"},
		} {
			tone := wide(2000, math.Pow(10, in/20), 2*rate)
			theirs, _ := filtered(t, tone, c.filters)
			through(rackOf(c.kind, c.values), tone)
			assert.InDelta(t, 20*math.Log10(peakOf(theirs.Left[rate:])), 20*math.Log10(peakOf(tone.Left[rate:])), 0.3, "%s at %v dB", c.kind, in)
		}
	}
}

// Library: ffmpeg's afreqshift: the partials lie and sound as theirs; the images, too, are
// no louder.
func TestAShiftBesideFfmpeg(t *testing.T) {
	b := wide(300, 0.2, 2*rate)
	high := wide(3000, 0.1, 2*rate)
	for i := range b.Left {
		b.Left[i] += high.Left[i]
		b.Right[i] += high.Right[i]
	}
	theirs, _ := filtered(t, b, "afreqshift=shift=20")
	through(rackOf("shift", map[string]float64{"shift_hz": 20, "mix_percent": 100}), b)
	for _, hz := range []float64{320, 3020} {
		assert.InDelta(t, 20*math.Log10(amount(theirs.Left[rate/2:], hz)), 20*math.Log10(amount(b.Left[rate/2:], hz)), 0.1, "%v Hz", hz)
	}
	assert.Less(t, amount(b.Left[rate/2:], 280), math.Max(amount(theirs.Left[rate/2:], 280), 0.2*math.Pow(10, -50/20.0)))
}

// Library: ffmpeg's ebur128 measures the true peak that the ceiling lets through. It
// resamples with a filter that ends below half of the rate, so the noise ends there too.
func TestACeilingBesideFfmpeg(t *testing.T) {
	b := through(rackOf("equalizer", flat8(map[string]float64{"band1.shape": bandHighCut, "band1.hz": 14000, "band1.q": 0.71, "band1.slope": 7})), noise(3*rate, 1.5))
	through(rackOf("ceiling", map[string]float64{"gain_db": 6, "ceiling_db": -1}), b)
	_, said := filtered(t, b, "ebur128=peak=true")
	at := strings.LastIndex(said, "True peak:")
	require.Positive(t, at, said)
	peak, err := strconv.ParseFloat(strings.Fields(said[at:])[3], 64)
	require.NoError(t, err, said[at:])
	assert.Less(t, peak, -0.9)
	assert.Greater(t, peak, -2.5)
}

// Published: Carson 1922, Proc. IRE 10: a tone whose phase turns by β has sidebands of
// J₁(β) beside J₀(β). Flutter of an amount moves the way to the head by a known part.
func TestFlutterHasBesselsSidebands(t *testing.T) {
	b := wide(1000, 0.01, 4*rate)
	through(rackOf("tape", map[string]float64{"amount_percent": 0, "bump_db": 0, "top_hz": 20000, "wow_weighted_percent": 0, "flutter_weighted_percent": 0.72}), b)
	x := b.Left[rate:]
	way := 0.06 * 0.5 * wobbleMS / 1000 // seconds, of the faster turn's first
	beta, second := 2*math.Pi*1000*way, 2*math.Pi*1000*way/2
	assert.InDelta(t, math.J1(beta)/math.J0(beta), amount(x, 1000+9.3)/amount(x, 1000), 0.02)
	assert.InDelta(t, math.J1(second)/math.J0(second), amount(x, 1000+23.7)/amount(x, 1000), 0.02)
}
