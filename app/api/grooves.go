package api

import (
	"github.com/gin-gonic/gin"

	"jubrak/app/workshop"
	"jubrak/core/pattern"
	"jubrak/core/project"
)

func (s *server) patterns() gin.HandlerFunc {
	return func(c *gin.Context) { s.answer(c, PatternList{Patterns: pattern.All()}, nil) }
}

func (s *server) propose() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[project.Ask](c); ok {
			list, err := s.workshop.Propose(c.Param("id"), req)
			s.answer(c, ProposedList{Proposed: list}, err)
		}
	}
}

func (s *server) between() gin.HandlerFunc {
	return func(c *gin.Context) {
		list, err := s.workshop.Between(c.Param("id"))
		s.answer(c, PairList{Pairs: list}, err)
	}
}

func (s *server) tries() gin.HandlerFunc {
	return func(c *gin.Context) {
		list, err := s.workshop.Tries(c.Param("id"))
		s.answer(c, TryList{Tries: list}, err)
	}
}

func (s *server) nearestRecording() gin.HandlerFunc {
	return func(c *gin.Context) {
		n, err := s.workshop.Nearest(c.Param("id"))
		s.answer(c, NearestRecording{Recording: n}, err)
	}
}

func (s *server) saveFeel() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[NewProfile](c); ok {
			p, err := s.workshop.SaveFeel(c.Param("id"), req.Name, req.Notes, req.Tags)
			s.answer(c, p, err)
		}
	}
}

func (s *server) roots() gin.HandlerFunc {
	return func(c *gin.Context) {
		found, err := s.workshop.RootsOf(c.Request.Context(), c.Param("id"), c.Param("ref"))
		s.answer(c, found, err)
	}
}

func (s *server) saveHabit() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.HabitAsk](c); ok {
			p, err := s.workshop.SaveHabit(c.Request.Context(), c.Param("id"), req)
			s.answer(c, p, err)
		}
	}
}
