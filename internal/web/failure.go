package web

import (
	"bytes"
	"context"
	"errors"
	"net/http"
	"sort"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/work"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// failure is an error in the reader's words, with its status.
type failure struct {
	status   int
	What, Do string
	Faults   []string // of a file, one by one
	Again    *again   // what was sent, to send it again
	Typed    string   // what was typed, where it cannot be sent again
	To, ToIs string   // where to go on
}

func (f *failure) Error() string { return f.What }

// again is a form that could not be saved, kept on the page.
type again struct {
	Action string
	Fields []againField
}

type againField struct{ Name, Value string }

func notFound(what string) *failure {
	return &failure{status: http.StatusNotFound, What: what, Do: "The Desk lists what there is."}
}

func unreadable() *failure {
	return &failure{status: http.StatusBadRequest, What: "This form could not be read.", Do: "Nothing was changed. Reload the page and try again."}
}

// fail answers with a page that says what happened and what to do.
func (s *Server) fail(c *gin.Context, err error) {
	var f *failure
	var refused *store.NotAllowedError
	var changed *store.ChangedError
	var newer *document.NewerError
	switch {
	case errors.As(err, &f):
	case errors.As(err, &refused) && refused.Rater != "":
		f = &failure{status: http.StatusForbidden, What: "A rating is changed by who gave it: " + refused.Rater + ".",
			Do: "Nothing was changed. You rate under your own name, on Scores."}
	case errors.As(err, &refused):
		f = notAllowed(callerOf(c), refused.Need)
	case errors.As(err, &changed):
		f = &failure{status: http.StatusConflict, What: "That was changed meanwhile.",
			Do: "Nothing was changed by you. Reload the page to see what stands there now."}
	case errors.Is(err, store.ErrMissing):
		f = &failure{status: http.StatusNotFound, What: "This study is not here any more.",
			Do: "It was deleted, perhaps in another tab, or the link is wrong or has ended. Nothing was changed. The Desk lists what there is."}
	case errors.Is(err, context.Canceled):
		c.Abort() // nobody waits for the answer
		return
	case errors.Is(err, context.DeadlineExceeded) && !store.Away(err):
		f = resend(c.Request, failure{status: http.StatusServiceUnavailable, What: "This took longer than it may, and was given up.",
			Do: "Nothing was changed. Try again in a moment; with fewer options, months or offers it goes faster."})
	case errors.As(err, &newer):
		f = &failure{status: http.StatusConflict, What: "This study was saved by a newer version of Nine Coins.",
			Do: "This one leaves it alone. Reload the page in a while, or ask whoever looks after Nine Coins to bring it up to date."}
	case store.Full(err):
		f = resend(c.Request, failure{status: http.StatusInsufficientStorage, What: "The disk of the database is full.",
			Do: "Nothing was saved. Whoever looks after Nine Coins has to make room on it; what was saved before is there."})
	case store.Away(err):
		f = away(c.Request)
	default:
		f = &failure{status: http.StatusInternalServerError, What: "This page could not be made.",
			Do: "The console where Nine Coins was started says more. If you were saving something, look whether it is there before you type it again."}
	}
	if f.status >= 500 {
		s.logFailed(c, err)
	}
	s.render(c, f.status, "failure", page{Title: f.What, Body: f})
}

// logFailed notes what failed; of a panic where it was.
func (s *Server) logFailed(c *gin.Context, err error) {
	if p := (*work.Panic)(nil); errors.As(err, &p) {
		s.log.Error("panic", "what", p.Cause(), "path", loggedPath(c), "trace", p.Trace)
		return
	}
	s.log.Error("failed", "path", loggedPath(c), "error", err)
}

// away says that the database cannot be reached, and keeps what was sent.
func away(r *http.Request) *failure {
	return resend(r, failure{status: http.StatusServiceUnavailable, What: "The database does not answer at present.",
		Do: "Nine Coins comes back by itself as soon as the database does. If it stays so, look at the console where Nine Coins was started."})
}

// kept are the fields whose text a page may hold that could not save it: those
// of edits and of forms without secrets. A form that has any other one is not
// kept.
var kept = map[string]bool{"edit": true, "of": true, "option": true, "was": true, "value": true, "study": true, "label": true, "names": true, "until": true,
	"op": true, "path": true, "before": true, "change": true, "rows": true, "columns": true, "kind": true, "title": true, "company": true,
	"name": true, "workspace": true, "email": true, "role": true, "next": true,
	"does": true, "about": true, "links": true, "currency": true, "price": true, "includes": true, "from": true, "to": true, "into": true,
	"features": true, "plans": true, "on": true, "area": true, "question": true, "unit": true, "back": true, "tool": true, "file": true, "at": true}

// resend adds to a failure what was sent, to send it again.
func resend(r *http.Request, what failure) *failure {
	f := &what
	if r.Method != http.MethodPost || r.ParseForm() != nil || len(r.PostForm) == 0 {
		return f
	}
	f.Again = &again{Action: r.URL.RequestURI()}
	for name, values := range r.PostForm {
		if !kept[name] && !strings.HasPrefix(name, "item.") && !strings.HasPrefix(name, valueOf) && !strings.HasPrefix(name, wasOf) {
			f.Do, f.Again = "What you typed is not kept on this page, for it may hold a secret: go back and try again in a moment. "+f.Do, nil
			return f
		}
		for _, value := range values {
			f.Again.Fields = append(f.Again.Fields, againField{name, value})
		}
	}
	f.Do = "What you sent is kept on this page: send it again in a moment. " + f.Do
	sort.Slice(f.Again.Fields, func(i, j int) bool { return f.Again.Fields[i].Name < f.Again.Fields[j].Name })
	return f
}

// sessionFailed answers where the sessions, which lie in the database, cannot
// be read or kept.
func (s *Server) sessionFailed(w http.ResponseWriter, r *http.Request, err error) {
	s.log.Error("sessions", "error", err)
	r.Body = http.MaxBytesReader(w, r.Body, mostForm)
	var out bytes.Buffer
	f := away(r)
	if err := s.views.pages["failure"].ExecuteTemplate(&out, "frame", page{Title: f.What, Body: f}); err != nil {
		http.Error(w, f.What, f.status)
		return
	}
	w.Header().Set("Content-Security-Policy", policy)
	w.Header().Set("Cache-Control", "no-store")
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.WriteHeader(f.status)
	_, _ = w.Write(out.Bytes())
}
