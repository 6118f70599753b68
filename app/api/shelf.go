package api

import (
	"bytes"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"jubrak/app/workshop"
	"jubrak/core/sound"
	"jubrak/core/stock"
)

// NewShelfSound saves a voice's sound in the library.
type NewShelfSound struct {
	Name string   `json:"name"`
	Tags []string `json:"tags"`
	// Layers, where there are any, are saved in place of the voice's.
	Layers []sound.Layer `json:"layers"`
}

// NewShelfKit is the name under which a kit, or an attempt at a sound, is kept.
type NewShelfKit struct {
	Name string `json:"name"`
}

// OtherLayers are layers that a voice does not have yet.
type OtherLayers struct {
	Layers []sound.Layer `json:"layers"`
}

// VariationList is the answer to asking for variations.
type VariationList struct {
	Variations []workshop.SoundVariation `json:"variations"`
}

// Distances tell how unlike sounds of the library are, dB, by their ids.
type Distances struct {
	Distances map[string]float64 `json:"distances"`
}

func (s *server) shelf() gin.HandlerFunc {
	return func(c *gin.Context) {
		shelf, err := s.workshop.Shelf()
		s.answer(c, shelf, err)
	}
}

func (s *server) saveSound() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[NewShelfSound](c); ok {
			saved, err := s.workshop.SaveSound(c.Param("id"), c.Param("voice"), req.Name, req.Tags, req.Layers)
			s.answer(c, saved, err)
		}
	}
}

func (s *server) saveKit() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[NewShelfKit](c); ok {
			saved, err := s.workshop.SaveKit(c.Param("id"), req.Name)
			s.answer(c, saved, err)
		}
	}
}

func (s *server) saveCurve() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[sound.Curve](c); ok {
			saved, err := s.workshop.SaveCurve(req)
			s.answer(c, saved, err)
		}
	}
}

func (s *server) deleteItem() gin.HandlerFunc {
	return func(c *gin.Context) { s.answer(c, gin.H{}, s.workshop.Store.DeleteItem(c.Param("item"))) }
}

func (s *server) attempts() gin.HandlerFunc {
	return func(c *gin.Context) {
		list, err := s.workshop.Attempts(c.Param("id"), c.Param("voice"))
		s.answer(c, list, err)
	}
}

func (s *server) keepAttempt() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[NewShelfKit](c); ok {
			list, err := s.workshop.KeepAttempt(c.Param("id"), c.Param("voice"), req.Name)
			s.answer(c, list, err)
		}
	}
}

func (s *server) loudnessWith() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[OtherLayers](c); ok {
			loud, err := s.workshop.LoudnessWith(c.Param("id"), c.Param("voice"), req.Layers)
			s.answer(c, loud, err)
		}
	}
}

func (s *server) near() gin.HandlerFunc {
	return func(c *gin.Context) {
		than, err := stock.ParseThan(c.Query("than"))
		if err != nil {
			refuse(c, http.StatusBadRequest, "bad_request", workshop.Sentence(err))
			return
		}
		near, err := s.workshop.Near(c.Request.Context(), c.Param("id"), c.Param("voice"), than, c.Query("to") == "target")
		s.answer(c, Distances{near}, err)
	}
}

func (s *server) vary() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.VaryAsk](c); ok {
			list, err := s.workshop.Vary(c.Param("id"), c.Param("voice"), req)
			s.answer(c, VariationList{list}, err)
		}
	}
}

func (s *server) numbered() gin.HandlerFunc {
	return func(c *gin.Context) {
		req, ok := body[workshop.Numbered](c)
		if !ok {
			return
		}
		var file bytes.Buffer
		first, last, err := s.workshop.WriteNumbered(&file, c.Param("id"), c.Param("voice"), req)
		if err != nil {
			s.fail(c, err)
			return
		}
		c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="%03d-%03d.zip"`, first, last))
		c.Data(http.StatusOK, "application/zip", file.Bytes())
	}
}
