package api

import (
	"github.com/gin-gonic/gin"

	"jubrak/app/workshop"
)

func (s *server) fit() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.FitAsk](c); ok {
			job, err := s.workshop.Fit(c.Param("id"), c.Param("voice"), req)
			s.answer(c, job, err)
		}
	}
}

func (s *server) fitTo() gin.HandlerFunc {
	return func(c *gin.Context) {
		if name, data, ok := s.received(c); ok {
			file, err := s.workshop.FitTo(name, data)
			s.answer(c, file, err)
		}
	}
}

func (s *server) fitted() gin.HandlerFunc {
	return func(c *gin.Context) {
		f, err := s.workshop.Fitted(c.Param("id"))
		s.answer(c, f, err)
	}
}

func (s *server) takeFit() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.TakeFit](c); ok {
			st, err := s.workshop.TakeFit(c.Param("id"), c.Param("voice"), req)
			s.answer(c, st, err)
		}
	}
}

func (s *server) intoTones() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.IntoAsk](c); ok {
			b, err := s.workshop.Into(c.Request.Context(), c.Param("id"), c.Param("voice"), req)
			s.answer(c, b, err)
		}
	}
}

func (s *server) fitChain() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.ChainAsk](c); ok {
			f, err := s.workshop.FitChain(c.Request.Context(), c.Param("id"), req)
			s.answer(c, f, err)
		}
	}
}
