package api

import (
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"jubrak/app/workshop"
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

func (s *server) drawable() gin.HandlerFunc {
	return func(c *gin.Context) {
		list, err := s.workshop.Drawable(c.Param("id"))
		s.answer(c, DrawableList{Drawable: list}, err)
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

func (s *server) addBacking() gin.HandlerFunc {
	return func(c *gin.Context) {
		at, err := strconv.Atoi(c.DefaultQuery("at", "0"))
		if err != nil || at < 0 {
			refuse(c, http.StatusBadRequest, "bad_request", "A backing begins at a tick, 0 or later.")
			return
		}
		if name, file, ok := s.uploaded(c, MaxBacking); ok {
			job, err := s.workshop.AddBacking(c.Param("id"), name, at, file)
			s.answer(c, job, err)
		}
	}
}

// MaxBacking is the largest file of a backing, bytes: it is never held in memory.
const MaxBacking = 4 << 30

func (s *server) backings() gin.HandlerFunc {
	return func(c *gin.Context) {
		list, err := s.workshop.Backings(c.Param("id"))
		s.answer(c, BackingList{Backings: list}, err)
	}
}

func (s *server) backingWave() gin.HandlerFunc {
	return func(c *gin.Context) {
		n, err := strconv.Atoi(c.Query("points"))
		if err != nil || n < 1 || n > 4000 {
			refuse(c, http.StatusBadRequest, "bad_request", "A picture has 1 to 4000 points.")
			return
		}
		p, err := s.workshop.BackingWave(c.Param("id"), c.Param("backing"), n)
		s.answer(c, p, err)
	}
}

func (s *server) pieceRoom() gin.HandlerFunc {
	return func(c *gin.Context) {
		space, err := s.workshop.Space(c.Request.Context(), c.Param("id"))
		s.answer(c, space, err)
	}
}

func (s *server) bouncePiece() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.PieceBounce](c); ok {
			st, err := s.workshop.BouncePiece(c.Request.Context(), c.Param("id"), req)
			s.answer(c, st, err)
		}
	}
}

func (s *server) outline() gin.HandlerFunc {
	return func(c *gin.Context) {
		shape, err := s.workshop.Outline(c.Request.Context(), c.Param("id"), c.Param("ref"))
		s.answer(c, shape, err)
	}
}
