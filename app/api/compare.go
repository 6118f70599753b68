package api

import (
	"strings"

	"github.com/gin-gonic/gin"

	"jubrak/app/service"
)

// DistanceList is how far each version lay from the reference.
type DistanceList struct {
	Distances []service.Distance `json:"distances"`
}

// BlindResultList is the blind tests that were made.
type BlindResultList struct {
	Results []service.BlindResult `json:"results"`
}

func (s *server) compare(c *gin.Context) {
	if other := c.Query("reference"); other != "" {
		v, err := s.service.CompareReferences(c.Request.Context(), c.Param("id"), other)
		s.answer(c, v, err)
		return
	}
	if other := c.Query("project"); other != "" {
		v, err := s.service.CompareProject(c.Request.Context(), c.Param("id"), other)
		s.answer(c, v, err)
		return
	}
	v, err := s.service.Compare(c.Request.Context(), c.Param("id"), strings.Split(c.Query("beside"), ","))
	s.answer(c, v, err)
}

func (s *server) distances(c *gin.Context) {
	list, err := s.service.Distances(c.Param("id"))
	s.answer(c, DistanceList{list}, err)
}

func (s *server) applyRows(c *gin.Context) {
	if req, ok := body[service.ApplyAsk](c); ok {
		job, err := s.service.Apply(c.Param("id"), req)
		s.answer(c, job, err)
	}
}

func (s *server) applied(c *gin.Context) {
	v, err := s.service.Applied(c.Param("id"))
	s.answer(c, v, err)
}

func (s *server) blind(c *gin.Context) {
	if req, ok := body[service.BlindAsk](c); ok {
		g, err := s.service.Blind(c.Request.Context(), c.Param("id"), req)
		s.answer(c, g, err)
	}
}

func (s *server) blindResults(c *gin.Context) {
	list, err := s.service.BlindResults(c.Param("id"))
	s.answer(c, BlindResultList{list}, err)
}

func (s *server) answerBlind(c *gin.Context) {
	if req, ok := body[service.BlindAnswer](c); ok {
		g, err := s.service.AnswerBlind(c.Param("game"), req)
		s.answer(c, g, err)
	}
}
