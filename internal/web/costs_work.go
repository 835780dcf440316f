package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"sync/atomic"
	"time"

	"ninecoins/internal/core/study"
	"ninecoins/internal/core/work"

	"github.com/gin-gonic/gin"
)

// longWork is what a page of costs shows that may take longer than a page: who looks waits for it
// with all others who do, and it ends with the last of them.
type longWork struct {
	doing, unit string
	do          func(ctx context.Context, r *request, told work.Tell) error
}

var longWorks = map[string]longWork{
	"chance": {"Simulating", "paths", func(ctx context.Context, r *request, told work.Tell) error {
		_, err := r.outcome.Draw(ctx, r.drawn(), told)
		return err
	}},
	"leaving": {"Weighing moves", "options", func(ctx context.Context, r *request, told work.Tell) error {
		_, err := r.outcome.Roads(ctx, told)
		return err
	}},
	"bargain": {"Looking for cuts", "options", func(ctx context.Context, r *request, told work.Tell) error {
		_, err := r.outcome.Bargains(ctx, told)
		return err
	}},
}

// waitView is what stands in the place of what is still worked out.
type waitView struct {
	Work        string // where it is worked out
	Now         string // to have it worked out without scripts
	Says, Start string
	Doing, Unit string
}

// waiting is what stands there meanwhile.
func (r *request) waiting(what, says, start string) *waitView {
	one := longWorks[what]
	at := r.base() + "/costs/" + what + "/work"
	if n := r.drawn(); n > 1 {
		at += fmt.Sprintf("?draw=%d", n)
	}
	return &waitView{Work: at, Now: r.query("/costs/"+what, "now", "1"),
		Says: says, Start: start, Doing: one.doing, Unit: one.unit}
}

// soonEnough is how long a page waits before it says what it waits for.
const soonEnough = 400 * time.Millisecond

// soon reports whether some long work is done, within what a page may take; without scripts the
// reader asks to wait longer. Its error is that of the work.
func (r *request) soon(what string) (done bool, err error) {
	ctx := r.ctx()
	if r.c.Query("now") == "" {
		var cancel context.CancelFunc
		ctx, cancel = context.WithTimeout(ctx, soonEnough)
		defer cancel()
	}
	err = longWorks[what].do(ctx, r, nil)
	if errors.Is(err, context.DeadlineExceeded) && r.ctx().Err() == nil {
		return false, nil
	}
	return err == nil, err
}

// waitFor reports whether some long work is there. What kept it away stands in fault, and what is waited
// for in the head; its error is that of a reader who has left.
func (r *request) waitFor(what string, head *costsHead, fault *string, says, start string) (there bool, err error) {
	switch done, err := r.soon(what); {
	case err != nil && r.ctx().Err() != nil:
		return false, err
	case err != nil:
		*fault = sayWork(err)
	case !done:
		head.Waits = r.waiting(what, says, start)
	default:
		return true, nil
	}
	return false, nil
}

// sayWork says what kept something from being worked out.
func sayWork(err error) string {
	var p *work.Panic
	switch {
	case errors.Is(err, study.ErrNoSpread):
		return capital(err.Error()) + ". Enter low and high growth of a driver on Growth, or bring its history."
	case errors.Is(err, context.DeadlineExceeded):
		return "It took longer than it may, and was given up. With fewer options, months or offers it goes faster."
	case errors.As(err, &p):
		return "It cannot be worked out: " + p.Error() + "."
	}
	return "It cannot be worked out: " + err.Error() + "."
}

// progress is a line of what the work tells while it goes on.
type progress struct {
	Done  int    `json:"done"`
	Of    int    `json:"of"`
	Ready bool   `json:"ready,omitempty"`
	Fault string `json:"fault,omitempty"`
}

// workOn does long work and tells how far it is, a line of JSON at a time. It ends when the reader
// leaves, or the study moves on: then the page is looked at anew.
func (s *Server) workOn(what string) gin.HandlerFunc {
	return func(c *gin.Context) {
		r, err := s.open(c)
		if err != nil {
			s.fail(c, err)
			return
		}
		out := http.NewResponseController(c.Writer)
		_ = out.SetWriteDeadline(time.Now().Add(workIn + 5*time.Second))
		c.Header("Content-Type", "application/x-ndjson")
		c.Header("Cache-Control", "no-store")
		c.Header("X-Accel-Buffering", "no")
		c.Status(http.StatusOK)
		if c.Request.Method == http.MethodHead {
			return
		}
		tell := func(p progress) {
			line, _ := json.Marshal(p)
			_, _ = c.Writer.Write(append(line, '\n'))
			c.Writer.Flush()
		}
		tell(progress{Of: 1})
		id, _ := thing(c)
		notices, stop := s.watcher.Follow(id)
		defer stop()
		ctx, leave := context.WithCancel(r.ctx())
		defer leave()
		var moved atomic.Bool
		go func() {
			select {
			case <-notices:
				moved.Store(true)
			case <-s.closing:
			case <-ctx.Done():
			}
			leave()
		}()
		last := 0
		err = longWorks[what].do(ctx, r, func(done, of int) {
			if done-last >= of/20 || done == of {
				last = done
				tell(progress{Done: done, Of: of})
			}
		})
		switch {
		case err == nil, moved.Load():
			tell(progress{Ready: true})
		case errors.Is(err, context.Canceled):
		default:
			s.logFailed(c, err)
			tell(progress{Fault: sayWork(err)})
		}
	}
}

// escaped are words as they stand on a page.
func escaped(text string) template.HTML { return template.HTML(template.HTMLEscapeString(text)) }
