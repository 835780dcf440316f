package web

import (
	"bytes"
	"embed"
	"fmt"
	"html/template"
	"io/fs"
	"net/http"
	"reflect"
	"strings"

	"ninecoins/internal/doors"

	"github.com/gin-gonic/gin"
)

//go:embed views
var viewFiles embed.FS

// views are the templates, one set for each page: the frame, the shared parts
// and the page's own.
type views struct{ pages map[string]*template.Template }

func loadViews(a *assets) (*views, error) {
	v := &views{pages: map[string]*template.Template{}}
	shared, err := template.New("frame").Funcs(template.FuncMap{"asset": a.path, "move": move, "some": some}).ParseFS(viewFiles, "views/frame/*.html")
	if err != nil {
		return nil, fmt.Errorf("reading the frame: %w", err)
	}
	names, err := fs.Glob(viewFiles, "views/*.html")
	if err != nil {
		return nil, err
	}
	for _, name := range names {
		set, err := shared.Clone()
		if err == nil {
			_, err = set.ParseFS(viewFiles, name)
		}
		if err != nil {
			return nil, fmt.Errorf("reading view %s: %w", name, err)
		}
		v.pages[strings.TrimSuffix(strings.TrimPrefix(name, "views/"), ".html")] = set
	}
	return v, nil
}

// some reports whether any of a table's rows has something in a column: one that nothing uses is left out.
func some(rows any, column string) bool {
	all := reflect.ValueOf(rows)
	for i := range all.Len() {
		if v := reflect.Indirect(all.Index(i)).FieldByName(column); v.Kind() == reflect.Slice && v.Len() > 0 || v.Kind() != reflect.Slice && !v.IsZero() {
			return true
		}
	}
	return false
}

// page is what every template is given.
type page struct {
	Title  string
	Study  *studyFrame // nil outside a study
	Active string      // key of the coin, "desk", "shelf", …
	Limits string      // what the caller may not do here
	Lines  bool        // it has charts with panels, and their styles
	Body   any
	Notice *notice
	Who    *who   // nil for nobody
	Home   string // where the mark leads, and pages that fail; "": the Desk
}

// who is what the head says of the caller.
type who struct {
	Name, Role, Workspace string
	Link                  string // reads by a link, until when
	Edits                 bool   // may change things here
	Demo                  bool
	WithoutKeys           bool
}

// notice is a line of words above the page, with one thing to do.
type notice struct {
	Trouble bool
	Text    string
	Ways    []way
}

func (s *Server) who(k *caller) *who {
	switch {
	case k.link != nil:
		return &who{Name: k.account.Name, Link: lastDay(k.link)}
	case k.signedIn():
		return &who{Name: k.account.Name, Role: string(k.seat.Role), Workspace: k.seat.Workspace.Name, Edits: k.may(doors.ToEdit),
			WithoutKeys: k.account.WithoutKeys, Demo: s.demo != "" && k.may(doors.ToGovern)}
	}
	return nil
}

// render writes a page whole, or fails without having written any of it.
func (s *Server) render(c *gin.Context, status int, view string, p page) {
	k := callerOf(c)
	if p.Who = s.who(k); k.link != nil {
		p.Home = "/studies/" + k.link.Study.String() + "/brief"
	}
	var out bytes.Buffer
	if err := s.views.pages[view].ExecuteTemplate(&out, "frame", p); err != nil {
		s.log.Error("rendering", "view", view, "error", err)
		http.Error(c.Writer, "Nine Coins could not draw this page.", http.StatusInternalServerError)
		return
	}
	c.Data(status, "text/html; charset=utf-8", out.Bytes())
}
