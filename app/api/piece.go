package api

import (
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"jubrak/app/service"
	"jubrak/core/pattern"
)

func (s *server) fills(c *gin.Context) { s.answer(c, FillList{Fills: pattern.Fills()}, nil) }

func (s *server) piece(c *gin.Context) {
	facts, err := s.service.Piece(c.Param("id"))
	s.answer(c, facts, err)
}

func (s *server) drawable(c *gin.Context) {
	list, err := s.service.Drawable(c.Param("id"))
	s.answer(c, DrawableList{Drawable: list}, err)
}

func (s *server) pieceHits(c *gin.Context) {
	from, err1 := strconv.Atoi(c.Query("from"))
	to, err2 := strconv.Atoi(c.Query("to"))
	if err1 != nil || err2 != nil || to <= from {
		refuse(c, http.StatusBadRequest, "bad_request", "A stretch of the arrangement is asked for by two ticks, from and to.")
		return
	}
	hits, err := s.service.PieceHits(c.Param("id"), from, to)
	s.answer(c, hits, err)
}

func (s *server) addBacking(c *gin.Context) {
	at, err := strconv.Atoi(c.DefaultQuery("at", "0"))
	if err != nil || at < 0 {
		refuse(c, http.StatusBadRequest, "bad_request", "A backing begins at a tick, 0 or later.")
		return
	}
	if name, file, ok := s.uploaded(c, MaxBacking); ok {
		job, err := s.service.AddBacking(c.Param("id"), name, at, file)
		s.answer(c, job, err)
	}
}

// MaxBacking is the largest file of a backing, bytes: it is never held in memory.
const MaxBacking = 4 << 30

func (s *server) backings(c *gin.Context) {
	list, err := s.service.Backings(c.Param("id"))
	s.answer(c, BackingList{Backings: list}, err)
}

func (s *server) backingWave(c *gin.Context) {
	n, err := strconv.Atoi(c.Query("points"))
	if err != nil || n < 1 || n > 4000 {
		refuse(c, http.StatusBadRequest, "bad_request", "A picture has 1 to 4000 points.")
		return
	}
	p, err := s.service.BackingWave(c.Param("id"), c.Param("backing"), n)
	s.answer(c, p, err)
}

func (s *server) pieceRoom(c *gin.Context) {
	space, err := s.service.Space(c.Request.Context(), c.Param("id"))
	s.answer(c, space, err)
}

func (s *server) bouncePiece(c *gin.Context) {
	if req, ok := body[service.PieceBounce](c); ok {
		st, err := s.service.BouncePiece(c.Request.Context(), c.Param("id"), req)
		s.answer(c, st, err)
	}
}

func (s *server) outline(c *gin.Context) {
	shape, err := s.service.Outline(c.Request.Context(), c.Param("id"), c.Param("ref"))
	s.answer(c, shape, err)
}
