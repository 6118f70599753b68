package api

import (
	"github.com/gin-gonic/gin"

	"jubrak/app/service"
	"jubrak/core/rebuild"
)

// OriginList says of each voice what is still the reference's.
type OriginList struct {
	Voices []rebuild.Origins `json:"voices"`
}

func (s *server) rebuild(c *gin.Context) {
	if req, ok := body[service.RebuildAsk](c); ok {
		job, err := s.service.Rebuild(c.Param("id"), req)
		s.answer(c, job, err)
	}
}

func (s *server) rebuilt(c *gin.Context) {
	r, err := s.service.Rebuilt(c.Param("id"))
	s.answer(c, r, err)
}

func (s *server) origins(c *gin.Context) {
	list, err := s.service.Origins(c.Request.Context(), c.Param("id"))
	s.answer(c, OriginList{list}, err)
}
