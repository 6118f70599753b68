package effect

import "fmt"

// Limits of shapes.
const (
	MaxShapes = 16 // of a project
	MaxPoints = 64 // of a shape
)

// Shape is a level over a part of the song's time, drawn once and followed by any effect
// of any row.
type Shape struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Beats is after how many it begins again.
	Beats float64 `json:"beats"`
	// Points are levels from 0 to 1, at even distances, straight from one to the next
	// and from the last to the first.
	Points []float64 `json:"points"`
}

// Validate checks a shape.
func (s *Shape) Validate() error {
	if s.ID == "" || !(s.Beats >= 0.125 && s.Beats <= 32) || len(s.Points) < 2 || len(s.Points) > MaxPoints {
		return fmt.Errorf("a shape has 2 to %d points over an eighth of a beat to 32 beats", MaxPoints)
	}
	for _, p := range s.Points {
		if !(p >= 0 && p <= 1) {
			return fmt.Errorf("a shape's points lie from 0 to 1")
		}
	}
	return nil
}

// At is the level at a beat of the song.
func (s *Shape) At(beat float64) float64 {
	n := float64(len(s.Points))
	place := beat / s.Beats
	place = (place - float64(int(place))) * n
	if place < 0 {
		place += n
	}
	i := int(place) % len(s.Points)
	a, b := s.Points[i], s.Points[(i+1)%len(s.Points)]
	return a + (b-a)*(place-float64(int(place)))
}
