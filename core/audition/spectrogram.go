package audition

import (
	"math"

	"gonum.org/v1/gonum/dsp/fourier"

	"jubrak/core/audio"
)

// Spectrogram is a picture of a stretch: level by frequency and time.
type Spectrogram struct {
	From float64 `json:"from_s"`
	To   float64 `json:"to_s"`
	// Hz are the middles of the rows, low first, an equal ratio apart.
	Hz []float64 `json:"hz"`
	// Columns is the number of moments.
	Columns int `json:"columns"`
	// Levels holds one byte for each row of each column, column by column: 0
	// is Floor dB or less under the loudest, 255 the loudest.
	Levels []byte  `json:"levels"`
	Floor  float64 `json:"floor_db"`
}

const (
	pictureRows  = 80
	pictureSize  = 2048
	pictureLow   = 40.0
	pictureHigh  = 18000.0
	pictureFloor = -66.0
)

// Picture makes a spectrogram of a stretch of mono sound between two times in
// seconds: Hann windows of 2,048 samples around each column's middle, power
// added up in 80 bands.
func Picture(b *audio.Buffer, from, to float64, columns int) *Spectrogram {
	p := &Spectrogram{From: from, To: to, Columns: columns, Floor: pictureFloor, Levels: make([]byte, columns*pictureRows)}
	ratio := math.Pow(pictureHigh/pictureLow, 1.0/pictureRows)
	for r := range pictureRows {
		p.Hz = append(p.Hz, pictureLow*math.Pow(ratio, float64(r)+0.5))
	}
	fft := fourier.NewFFT(pictureSize)
	buf, coeff := make([]float64, pictureSize), make([]complex128, pictureSize/2+1)
	power := make([]float64, columns*pictureRows)
	bin := float64(b.Rate) / pictureSize
	top := 1e-12
	for c := range columns {
		middle := int((from + (to-from)*(float64(c)+0.5)/float64(columns)) * float64(b.Rate))
		part := b.Slice(middle-pictureSize/2, middle+pictureSize/2)
		clear(buf)
		for _, ch := range part.Channels {
			for i, v := range ch {
				buf[i] += float64(v) * (0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/pictureSize))
			}
		}
		fft.Coefficients(coeff, buf)
		for r, hz := range p.Hz {
			lo, hi := hz/math.Sqrt(ratio)/bin, hz*math.Sqrt(ratio)/bin
			var sum float64
			for k := int(math.Round(lo)); k <= int(math.Round(hi)) && k < len(coeff); k++ {
				sum += real(coeff[k])*real(coeff[k]) + imag(coeff[k])*imag(coeff[k])
			}
			power[c*pictureRows+r] = sum
			top = math.Max(top, sum)
		}
	}
	for i, v := range power {
		db := 10 * math.Log10(math.Max(v/top, 1e-12))
		p.Levels[i] = byte(math.Round(math.Max(1-db/pictureFloor, 0) * 255))
	}
	return p
}
