package api

import (
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"jubrak/app/service"
	"jubrak/core/mixreport"
)

// SystemInfo is a speaker simulation.
type SystemInfo struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	// Says what it is a stand-in for.
	Says string `json:"says"`
}

// BypassRequest names what is to be bypassed.
type BypassRequest struct {
	// Row is a voice, "bus:" with a bus, or "out"; empty is all of it.
	Row string `json:"row"`
	// Effect is one of its chain; empty is the chain.
	Effect string `json:"effect"`
}

// BypassGain is by how much what is bypassed makes its row louder.
type BypassGain struct {
	// Gain is how much louder off is played, so that it is as loud as on, dB.
	Gain float64 `json:"gain_db"`
}

// NewLibraryChain names the row whose chain is kept, and how it is called.
type NewLibraryChain struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// Name has 1 to 40 letters.
	Name string `json:"name"`
}

// ChainList is the library of chains.
type ChainList struct {
	Chains []service.LibraryChain `json:"chains"`
}

func (s *server) mix(c *gin.Context) {
	look, err := s.service.Mix(c.Request.Context(), c.Param("id"))
	s.answer(c, look, err)
}

func (s *server) effectRecording(c *gin.Context) {
	base, err := strconv.Atoi(c.Query("base"))
	if err != nil {
		refuse(c, http.StatusBadRequest, "bad_request", "base must be the version that the recording is added to.")
		return
	}
	if name, data, ok := s.received(c); ok {
		st, err := s.service.EffectRecording(c.Param("id"), base, c.Query("row"), c.Param("effect"), name, data)
		s.answer(c, st, err)
	}
}

func (s *server) bypassGain(c *gin.Context) {
	if req, ok := body[BypassRequest](c); ok {
		by, err := s.service.BypassGain(c.Request.Context(), c.Param("id"), req.Row, req.Effect)
		s.answer(c, BypassGain{Gain: by}, err)
	}
}

func (s *server) chains(c *gin.Context) {
	list, err := s.service.Chains()
	s.answer(c, ChainList{Chains: list}, err)
}

func (s *server) saveChain(c *gin.Context) {
	if req, ok := body[NewLibraryChain](c); ok {
		saved, err := s.service.SaveChain(c.Param("id"), req.Row, req.Name)
		s.answer(c, saved, err)
	}
}

// Odds are the chances of a guess.
type Odds struct {
	// Chance that one who only guesses is right at least so often, 0 to 1.
	Chance float64 `json:"chance"`
}

func (s *server) odds(c *gin.Context) {
	right, _ := strconv.Atoi(c.Query("right"))
	of, _ := strconv.Atoi(c.Query("of"))
	s.answer(c, Odds{Chance: mixreport.Odds(right, min(of, 1000))}, nil)
}

func (s *server) bounceRow(c *gin.Context) {
	if req, ok := body[service.BounceRow](c); ok {
		st, err := s.service.Bounce(c.Request.Context(), c.Param("id"), req)
		s.answer(c, st, err)
	}
}

func (s *server) takeMix(c *gin.Context) {
	if req, ok := body[service.MixAsk](c); ok {
		taken, err := s.service.TakeMix(c.Param("id"), req)
		s.answer(c, taken, err)
	}
}
