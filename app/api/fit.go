package api

import (
	"github.com/gin-gonic/gin"

	"jubrak/app/service"
)

func (s *server) fit(c *gin.Context) {
	if req, ok := body[service.FitAsk](c); ok {
		job, err := s.service.Fit(c.Param("id"), c.Param("voice"), req)
		s.answer(c, job, err)
	}
}

func (s *server) fitTo(c *gin.Context) {
	if name, data, ok := s.received(c); ok {
		file, err := s.service.FitTo(name, data)
		s.answer(c, file, err)
	}
}

func (s *server) fitted(c *gin.Context) {
	f, err := s.service.Fitted(c.Param("id"))
	s.answer(c, f, err)
}

func (s *server) takeFit(c *gin.Context) {
	if req, ok := body[service.TakeFit](c); ok {
		st, err := s.service.TakeFit(c.Param("id"), c.Param("voice"), req)
		s.answer(c, st, err)
	}
}

func (s *server) intoTones(c *gin.Context) {
	if req, ok := body[service.IntoAsk](c); ok {
		b, err := s.service.Into(c.Request.Context(), c.Param("id"), c.Param("voice"), req)
		s.answer(c, b, err)
	}
}

func (s *server) fitChain(c *gin.Context) {
	if req, ok := body[service.ChainAsk](c); ok {
		f, err := s.service.FitChain(c.Request.Context(), c.Param("id"), req)
		s.answer(c, f, err)
	}
}
