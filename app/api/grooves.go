package api

import (
	"github.com/gin-gonic/gin"

	"jubrak/app/service"
	"jubrak/core/pattern"
	"jubrak/core/project"
)

func (s *server) patterns(c *gin.Context) { s.answer(c, PatternList{Patterns: pattern.All()}, nil) }

func (s *server) propose(c *gin.Context) {
	if req, ok := body[project.Ask](c); ok {
		list, err := s.service.Propose(c.Param("id"), req)
		s.answer(c, ProposedList{Proposed: list}, err)
	}
}

func (s *server) between(c *gin.Context) {
	list, err := s.service.Between(c.Param("id"))
	s.answer(c, PairList{Pairs: list}, err)
}

func (s *server) tries(c *gin.Context) {
	list, err := s.service.Tries(c.Param("id"))
	s.answer(c, TryList{Tries: list}, err)
}

func (s *server) nearestRecording(c *gin.Context) {
	n, err := s.service.Nearest(c.Param("id"))
	s.answer(c, NearestRecording{Recording: n}, err)
}

func (s *server) saveFeel(c *gin.Context) {
	if req, ok := body[NewProfile](c); ok {
		p, err := s.service.SaveFeel(c.Param("id"), req.Name, req.Notes, req.Tags)
		s.answer(c, p, err)
	}
}

func (s *server) roots(c *gin.Context) {
	found, err := s.service.RootsOf(c.Request.Context(), c.Param("id"), c.Param("ref"))
	s.answer(c, found, err)
}

func (s *server) saveHabit(c *gin.Context) {
	if req, ok := body[service.HabitAsk](c); ok {
		p, err := s.service.SaveHabit(c.Request.Context(), c.Param("id"), req)
		s.answer(c, p, err)
	}
}
