package api

import (
	"strconv"

	"github.com/gin-gonic/gin"

	"jubrak/app/workshop"
	"jubrak/core/balance"
)

// SystemInfo is something that one listens on.
type SystemInfo struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	// Says what it is a stand-in for.
	Says string `json:"says"`
}

// JudgeRequest names what is to be judged off and on.
type JudgeRequest struct {
	// Row is a voice, "bus:" with a bus, or "out"; empty is all of it.
	Row string `json:"row"`
	// Step is one of its chain; empty is the chain.
	Step string `json:"step"`
}

// Judged is by how much what is judged makes its row louder.
type Judged struct {
	// Gain is how much louder off is played, so that it is as loud as on, dB.
	Gain float64 `json:"gain_db"`
}

// NewShelfChain names the row whose chain is kept, and how it is called.
type NewShelfChain struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// Name has 1 to 40 letters.
	Name string `json:"name"`
}

// ChainList is the library of chains.
type ChainList struct {
	Chains []workshop.ShelfChain `json:"chains"`
}

func (s *server) mix() gin.HandlerFunc {
	return func(c *gin.Context) {
		look, err := s.workshop.Mix(c.Request.Context(), c.Param("id"))
		s.answer(c, look, err)
	}
}

func (s *server) judge() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[JudgeRequest](c); ok {
			by, err := s.workshop.Judge(c.Request.Context(), c.Param("id"), req.Row, req.Step)
			s.answer(c, Judged{Gain: by}, err)
		}
	}
}

func (s *server) chains() gin.HandlerFunc {
	return func(c *gin.Context) {
		list, err := s.workshop.Chains()
		s.answer(c, ChainList{Chains: list}, err)
	}
}

func (s *server) saveChain() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[NewShelfChain](c); ok {
			saved, err := s.workshop.SaveChain(c.Param("id"), req.Row, req.Name)
			s.answer(c, saved, err)
		}
	}
}

// Odds are the chances of a guess.
type Odds struct {
	// Chance that one who only guesses is right at least so often, 0 to 1.
	Chance float64 `json:"chance"`
}

func (s *server) odds() gin.HandlerFunc {
	return func(c *gin.Context) {
		right, _ := strconv.Atoi(c.Query("right"))
		of, _ := strconv.Atoi(c.Query("of"))
		s.answer(c, Odds{Chance: balance.Odds(right, min(of, 1000))}, nil)
	}
}

func (s *server) bounceRow() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.BounceRow](c); ok {
			st, err := s.workshop.Bounce(c.Request.Context(), c.Param("id"), req)
			s.answer(c, st, err)
		}
	}
}

func (s *server) takeMix() gin.HandlerFunc {
	return func(c *gin.Context) {
		if req, ok := body[workshop.MixAsk](c); ok {
			taken, err := s.workshop.TakeMix(c.Param("id"), req)
			s.answer(c, taken, err)
		}
	}
}
