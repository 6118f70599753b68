package api

import (
	"strings"

	"github.com/gin-gonic/gin"

	"jubrak/app/workshop"
)

// DistanceList is how far each version lay from the reference.
type DistanceList struct {
	Distances []workshop.Distance `json:"distances"`
}

// BlindResultList is the blind tests that were made.
type BlindResultList struct {
	Results []workshop.BlindResult `json:"results"`
}

func (s *server) compare() gin.HandlerFunc {
	return func(c *gin.Context) {
		if other := c.Query("reference"); other != "" {
			v, err := s.workshop.CompareReferences(c.Request.Context(), c.Param("id"), other)
			s.answer(c, v, err)
			return
		}
		if other := c.Query("project"); other != "" {
			v, err := s.workshop.CompareProject(c.Request.Context(), c.Param("id"), other)
			s.answer(c, v, err)
			return
		}
		v, err := s.workshop.Compare(c.Request.Context(), c.Param("id"), strings.Split(c.Query("beside"), ","))
		s.answer(c, v, err)
	}
}

func (s *server) distances() gin.HandlerFunc {
	return func(c *gin.Context) {
		list, err := s.workshop.Distances(c.Param("id"))
		s.answer(c, DistanceList{list}, err)
	}
}

func (s *server) applyRows() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.ApplyAsk](c); ok {
			job, err := s.workshop.Apply(c.Param("id"), req)
			s.answer(c, job, err)
		}
	}
}

func (s *server) applied() gin.HandlerFunc {
	return func(c *gin.Context) {
		v, err := s.workshop.Applied(c.Param("id"))
		s.answer(c, v, err)
	}
}

func (s *server) blind() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.BlindAsk](c); ok {
			g, err := s.workshop.Blind(c.Request.Context(), c.Param("id"), req)
			s.answer(c, g, err)
		}
	}
}

func (s *server) blindResults() gin.HandlerFunc {
	return func(c *gin.Context) {
		list, err := s.workshop.BlindResults(c.Param("id"))
		s.answer(c, BlindResultList{list}, err)
	}
}

func (s *server) answerBlind() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.BlindAnswer](c); ok {
			g, err := s.workshop.AnswerBlind(c.Param("game"), req)
			s.answer(c, g, err)
		}
	}
}
