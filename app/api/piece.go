package api

import (
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"jubrak/core/pattern"
)

func (s *server) fills() gin.HandlerFunc {
	return func(c *gin.Context) { s.answer(c, FillList{Fills: pattern.Fills()}, nil) }
}

func (s *server) piece() gin.HandlerFunc {
	return func(c *gin.Context) {
		facts, err := s.workshop.Piece(c.Param("id"))
		s.answer(c, facts, err)
	}
}

func (s *server) pieceHits() gin.HandlerFunc {
	return func(c *gin.Context) {
		from, err1 := strconv.Atoi(c.Query("from"))
		to, err2 := strconv.Atoi(c.Query("to"))
		if err1 != nil || err2 != nil || to <= from {
			refuse(c, http.StatusBadRequest, "bad_request", "A stretch of the arrangement is asked for by two ticks, from and to.")
			return
		}
		hits, err := s.workshop.PieceHits(c.Param("id"), from, to)
		s.answer(c, hits, err)
	}
}
