package api

import (
	"bytes"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"jubrak/app/service"
	"jubrak/core/preset"
	"jubrak/core/sound"
)

// NewLibrarySound saves a voice's sound in the library.
type NewLibrarySound struct {
	Name string   `json:"name"`
	Tags []string `json:"tags"`
	// Layers, where there are any, are saved in place of the voice's.
	Layers []sound.Layer `json:"layers"`
}

// NewLibraryKit is the name under which a kit, or an attempt at a sound, is kept.
type NewLibraryKit struct {
	Name string `json:"name"`
}

// OtherLayers are layers that a voice does not have yet.
type OtherLayers struct {
	Layers []sound.Layer `json:"layers"`
}

// VariantList is the variants that were made.
type VariantList struct {
	Variants []service.SoundVariant `json:"variants"`
}

// Distances are how unlike sounds of the library are, dB, by their ids.
type Distances struct {
	Distances map[string]float64 `json:"distances"`
}

func (s *server) library(c *gin.Context) {
	library, err := s.service.Library()
	s.answer(c, library, err)
}

func (s *server) saveSound(c *gin.Context) {
	if req, ok := body[NewLibrarySound](c); ok {
		saved, err := s.service.SaveSound(c.Param("id"), c.Param("voice"), req.Name, req.Tags, req.Layers)
		s.answer(c, saved, err)
	}
}

func (s *server) saveKit(c *gin.Context) {
	if req, ok := body[NewLibraryKit](c); ok {
		saved, err := s.service.SaveKit(c.Param("id"), req.Name)
		s.answer(c, saved, err)
	}
}

func (s *server) saveCurve(c *gin.Context) {
	if req, ok := body[sound.Curve](c); ok {
		saved, err := s.service.SaveCurve(req)
		s.answer(c, saved, err)
	}
}

func (s *server) deleteItem(c *gin.Context) {
	s.answer(c, gin.H{}, s.service.Store.DeleteItem(c.Param("item")))
}

func (s *server) attempts(c *gin.Context) {
	list, err := s.service.Attempts(c.Param("id"), c.Param("voice"))
	s.answer(c, list, err)
}

func (s *server) keepAttempt(c *gin.Context) {
	if req, ok := body[NewLibraryKit](c); ok {
		list, err := s.service.KeepAttempt(c.Param("id"), c.Param("voice"), req.Name)
		s.answer(c, list, err)
	}
}

func (s *server) loudnessWith(c *gin.Context) {
	if req, ok := body[OtherLayers](c); ok {
		loud, err := s.service.LoudnessWith(c.Param("id"), c.Param("voice"), req.Layers)
		s.answer(c, loud, err)
	}
}

func (s *server) near(c *gin.Context) {
	than, err := preset.ParseThan(c.Query("than"))
	if err != nil {
		refuse(c, http.StatusBadRequest, "bad_request", service.Sentence(err))
		return
	}
	near, err := s.service.Near(c.Request.Context(), c.Param("id"), c.Param("voice"), than, c.Query("to") == "target")
	s.answer(c, Distances{near}, err)
}

func (s *server) vary(c *gin.Context) {
	if req, ok := body[service.VaryAsk](c); ok {
		list, err := s.service.Vary(c.Param("id"), c.Param("voice"), req)
		s.answer(c, VariantList{list}, err)
	}
}

func (s *server) numbered(c *gin.Context) {
	req, ok := body[service.Numbered](c)
	if !ok {
		return
	}
	var file bytes.Buffer
	first, last, err := s.service.WriteNumbered(&file, c.Param("id"), c.Param("voice"), req)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="%03d-%03d.zip"`, first, last))
	c.Data(http.StatusOK, "application/zip", file.Bytes())
}
