package web

import (
	"context"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"ninecoins/internal/core/work"

	"github.com/gin-gonic/gin"
)

const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

// secured sets the headers that keep other sites out and pages uncached; under
// https they also keep browsers to it for a year (RFC 6797).
func (s *Server) secured(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", policy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(), geolocation=(), microphone=()")
	h.Set("Cache-Control", "no-store")
	if s.secure() {
		h.Set("Strict-Transport-Security", "max-age=31536000")
	}
}

// sessionless reports whether a path is answered without asking who comes.
func sessionless(path string) bool {
	return strings.HasPrefix(path, "/assets/") || path == "/healthz" || path == "/favicon.ico"
}

// answerIn bounds how long an answer may take: a database that does not answer
// is then told as such. Files have longer to come in. Open streams go on.
var answerIn = 20 * time.Second

const (
	fileIn = 2 * time.Minute
	workIn = 2 * time.Minute
)

func hurried(c *gin.Context) {
	within := answerIn
	switch {
	case strings.HasSuffix(c.FullPath(), "/events"), c.FullPath() == "/workspace/export":
		return // which take as long as somebody listens
	case strings.HasSuffix(c.FullPath(), "/work"):
		within = workIn
	case c.FullPath() == "/files":
		within = fileIn
		out := http.NewResponseController(c.Writer)
		_ = out.SetReadDeadline(time.Now().Add(fileIn))
		_ = out.SetWriteDeadline(time.Now().Add(fileIn))
	}
	ctx, cancel := context.WithTimeout(c.Request.Context(), within)
	defer cancel()
	c.Request = c.Request.WithContext(ctx)
	c.Next()
}

// logged notes requests; secrets in addresses are not written down.
func (s *Server) logged(c *gin.Context) {
	start := time.Now()
	c.Next()
	level := slog.LevelDebug
	if c.Writer.Status() >= 500 {
		level = slog.LevelError
	}
	s.log.Log(c, level, "request", "method", c.Request.Method, "path", loggedPath(c), "status", c.Writer.Status(), "took", time.Since(start))
}

func loggedPath(c *gin.Context) string {
	if c.Param("token") != "" {
		return c.FullPath()
	}
	return c.Request.URL.Path
}

// recovered turns a panic into a page in words; the trace goes to the log.
func (s *Server) recovered(c *gin.Context) {
	defer func() {
		if p := recover(); p == http.ErrAbortHandler {
			panic(p)
		} else if p != nil {
			failed := work.Panicked(p)
			s.log.Error("panic", "what", failed.Cause(), "path", loggedPath(c), "trace", failed.Trace)
			c.Abort()
			if !c.Writer.Written() {
				s.fail(c, &failure{status: http.StatusInternalServerError, What: "Something went wrong in Nine Coins itself.",
					Do: "Go back and try again; the console says more."})
			}
		}
	}()
	c.Next()
}
