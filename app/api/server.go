// Package api serves the service over HTTP: decode, call, encode. It answers
// only its own pages.
package api

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"path"
	"runtime/debug"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"jubrak/app/service"
	"jubrak/app/store"
	"jubrak/core/format"
)

// Version of the program and its API.
const Version = "0.1.0"

// The largest files that can be brought in, bytes: a reference, a layer, a
// project archive.
const (
	MaxUpload  = 256 << 20
	MaxLayer   = 64 << 20
	MaxArchive = 2 << 30
)

type server struct {
	doc     []byte // OpenAPI
	service *service.Service
	log     *slog.Logger
}

// New is the handler of the whole application: the API and the built front
// end in web.
func New(st *service.Service, web fs.FS, log *slog.Logger) http.Handler {
	gin.SetMode(gin.ReleaseMode)
	s := &server{service: st, log: log, doc: OpenAPI()}
	g := gin.New()
	g.Use(s.recovered(), ownPagesOnly(), headers())
	for _, r := range routes() {
		g.Handle(r.method, r.path, r.knownQueries(), func(c *gin.Context) { r.handle(s, c) })
	}
	g.NoRoute(s.page(web))
	return g
}

// recovered turns a panic into an answer and a line in the log.
func (s *server) recovered() gin.HandlerFunc {
	return gin.CustomRecoveryWithWriter(nil, func(c *gin.Context, p any) {
		s.log.Error("a handler panicked", "path", c.Request.URL.Path, "panic", p, "stack", string(debug.Stack()))
		refuse(c, http.StatusInternalServerError, "internal", "Something went wrong inside Jubrak. Nothing was changed. Try again; if it happens again, the terminal shows why.")
	})
}

// knownQueries refuses a query parameter that the route does not have: one that is
// misspelt would be without effect, and nobody would know.
func (r *route) knownQueries() gin.HandlerFunc {
	return func(c *gin.Context) {
		for name := range c.Request.URL.Query() {
			if !slices.ContainsFunc(r.query, func(q query) bool { return q.name == name }) {
				has := []string{}
				for _, q := range r.query {
					has = append(has, q.name)
				}
				why := fmt.Sprintf("There is no parameter %q here; there are none.", name)
				if len(has) > 0 {
					why = fmt.Sprintf("There is no parameter %q here; there are %s.", name, strings.Join(has, ", "))
				}
				refuse(c, http.StatusBadRequest, "bad_request", why)
				return
			}
		}
		c.Next()
	}
}

// ownPagesOnly refuses requests that another web page could have caused: a
// Host that is not this machine (DNS rebinding) or an Origin that is not ours.
func ownPagesOnly() gin.HandlerFunc {
	return func(c *gin.Context) {
		host := c.Request.Host
		if !loopback(host) {
			refuse(c, http.StatusForbidden, "host_refused", "Jubrak answers only on this machine. Open it at 127.0.0.1.")
			return
		}
		if origin := c.GetHeader("Origin"); origin != "" {
			u, err := url.Parse(origin)
			if err != nil || u.Host != host || (u.Scheme != "http" && u.Scheme != "https") {
				refuse(c, http.StatusForbidden, "origin_refused", "Another web page tried to use Jubrak; that is not allowed.")
				return
			}
		}
		c.Next()
	}
}

func loopback(host string) bool {
	name, _, err := net.SplitHostPort(host)
	if err != nil {
		name = host
	}
	name = strings.Trim(name, "[]")
	return name == "localhost" || name == "127.0.0.1" || name == "::1"
}

func headers() gin.HandlerFunc {
	const policy = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; worker-src 'self' blob:; connect-src 'self' ws: wss:; frame-ancestors 'none'"
	return func(c *gin.Context) {
		c.Header("Content-Security-Policy", policy)
		c.Header("X-Content-Type-Options", "nosniff")
		c.Header("Referrer-Policy", "no-referrer")
		c.Next()
	}
}

// page serves the front end; unknown paths without an ending are views of it.
func (s *server) page(web fs.FS) gin.HandlerFunc {
	files := http.FileServerFS(web)
	return func(c *gin.Context) {
		p := c.Request.URL.Path
		if strings.HasPrefix(p, "/api/") || (c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead) {
			refuse(c, http.StatusNotFound, "not_found", "There is nothing at this address.")
			return
		}
		if path.Ext(p) == "" {
			c.Header("Cache-Control", "no-cache")
			c.Request.URL.Path = "/"
		} else if strings.HasPrefix(p, "/assets/") {
			c.Header("Cache-Control", "public, max-age=31536000, immutable")
		}
		files.ServeHTTP(c.Writer, c.Request)
	}
}

func refuse(c *gin.Context, status int, code Code, message string) {
	c.AbortWithStatusJSON(status, Failure{Error: FailureBody{Code: code, Message: message}})
}

// fail answers an error of the service.
func (s *server) fail(c *gin.Context, err error) {
	var refusal *service.Refusal
	var file *format.Error
	var tooLarge *http.MaxBytesError
	var broken *store.BrokenOff
	switch {
	case errors.Is(err, context.Canceled):
		refuse(c, http.StatusServiceUnavailable, "internal", "This was given up: something newer was asked for, or the program is being closed. Nothing was changed.")
	case errors.As(err, &tooLarge):
		refuse(c, http.StatusRequestEntityTooLarge, "too_large", fmt.Sprintf("The file is larger than %d MB. Cut out the stretch you need and bring that.", tooLarge.Limit>>20))
	case errors.As(err, &broken):
		refuse(c, http.StatusBadRequest, "upload_broken", "The file did not arrive whole, so nothing was changed. Bring it again.")
	case errors.Is(err, store.ErrDiskFull):
		s.log.Error("the disk is full", "path", c.Request.URL.Path)
		refuse(c, http.StatusInsufficientStorage, "disk_full", "The disk is full, so this could not be saved. Everything up to the change before is kept. Make room on the disk, then do it again.")
	case errors.Is(err, store.ErrNoFolder), errors.Is(err, store.ErrNotAllowed):
		s.log.Error("the data folder cannot be used", "path", c.Request.URL.Path, "error", err)
		refuse(c, http.StatusInsufficientStorage, FolderUnusable, service.Sentence(err))
	case errors.Is(err, store.ErrDamaged):
		refuse(c, http.StatusUnprocessableEntity, "file_damaged", service.Sentence(err))
	case errors.Is(err, store.ErrNotFound):
		refuse(c, http.StatusNotFound, "not_found", "This is no longer there. It may have been deleted in another window.")
	case errors.Is(err, store.ErrConflict):
		refuse(c, http.StatusConflict, "version_conflict", "The project was changed in another window. The newest version is shown now.")
	case errors.As(err, &refusal):
		refuse(c, http.StatusUnprocessableEntity, Code(refusal.Code), refusal.Message)
	case errors.As(err, &file):
		refuse(c, http.StatusUnprocessableEntity, Code(file.Code), file.Message)
	default:
		s.log.Error("request failed", "path", c.Request.URL.Path, "error", err)
		refuse(c, http.StatusInternalServerError, "internal", "Something went wrong inside Jubrak. Nothing was changed. Try again; if it happens again, the terminal shows why.")
	}
}
