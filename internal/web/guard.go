package web

import (
	"log/slog"
	"net/http"
	"runtime/debug"
	"time"

	"github.com/gin-gonic/gin"
)

const mostForm = 64 << 10 // bytes

const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

// secured sets the headers that keep other sites out and pages uncached.
func secured(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", policy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(), geolocation=(), microphone=()")
	h.Set("Cache-Control", "no-store")
}

// limited bounds what a request may send.
func limited(c *gin.Context) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, mostForm)
}

func (s *Server) logged(c *gin.Context) {
	start := time.Now()
	c.Next()
	level := slog.LevelDebug
	if c.Writer.Status() >= 500 {
		level = slog.LevelError
	}
	s.log.Log(c, level, "request", "method", c.Request.Method, "path", c.Request.URL.Path, "status", c.Writer.Status(), "took", time.Since(start))
}

// recovered turns a panic into a page in words; the trace goes to the log.
func (s *Server) recovered(c *gin.Context) {
	defer func() {
		if p := recover(); p != nil {
			s.log.Error("panic", "what", p, "path", c.Request.URL.Path, "trace", string(debug.Stack()))
			c.Abort()
			if !c.Writer.Written() {
				s.fail(c, &failure{http.StatusInternalServerError, "Something went wrong in Nine Coins itself.", "Nothing was changed. Go back and try again; the console says more."})
			}
		}
	}()
	c.Next()
}
