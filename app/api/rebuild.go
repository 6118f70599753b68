package api

import (
	"github.com/gin-gonic/gin"

	"jubrak/app/workshop"
	"jubrak/core/rebuild"
)

// WhoseList says of each voice what is still the reference's.
type WhoseList struct {
	Voices []rebuild.Whose `json:"voices"`
}

func (s *server) rebuild() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.RebuildAsk](c); ok {
			job, err := s.workshop.Rebuild(c.Param("id"), req)
			s.answer(c, job, err)
		}
	}
}

func (s *server) rebuilt() gin.HandlerFunc {
	return func(c *gin.Context) {
		r, err := s.workshop.Rebuilt(c.Param("id"))
		s.answer(c, r, err)
	}
}

func (s *server) whose() gin.HandlerFunc {
	return func(c *gin.Context) {
		list, err := s.workshop.Whose(c.Request.Context(), c.Param("id"))
		s.answer(c, WhoseList{list}, err)
	}
}
