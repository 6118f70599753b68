package measure

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Where pieces meet nothing is lost and nothing added: the peak between two samples is
// the same at any place.
func TestTruePeakOverTheEdgesOfPieces(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	burst := make([]float32, 40)
	for i := range burst {
		burst[i] = float32(rng.Float64()*2 - 1)
	}
	alone := truePeak(burst, 0)
	for at := peakPiece - 90; at < peakPiece+40; at++ {
		x := make([]float32, 2*peakPiece+7)
		copy(x[at:], burst)
		assert.InDelta(t, alone, truePeak(x, 0), 1e-12, "at %d", at)
	}
}
