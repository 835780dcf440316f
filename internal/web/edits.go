package web

import (
	"errors"
	"fmt"
	"net/http"
	"strings"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// change is a form as it was sent: what is edited, of which thing, from which
// revision, and the values typed.
type change struct {
	Edit     string `form:"edit" binding:"required,oneof=driver growth pay weight best worst rating"`
	Of       string `form:"of" binding:"max=200"`
	Option   string `form:"option" binding:"max=100"`
	Rater    string `form:"rater" binding:"max=100"`
	Revision int64  `form:"revision" binding:"min=0"`
	Value    string `form:"value" binding:"max=100"`
	Beside   string `form:"beside" binding:"max=100"` // the value that is saved together with this one
}

// field is the id of the input that the change came from.
func (ch change) field() string {
	return strings.Join(strings.Fields(ch.Edit+" "+ch.Option+" "+ch.Of), "-")
}

// edit saves the change that a form carries.
func (s *Server) edit(c *gin.Context, id uuid.UUID) (*refusal, error) {
	var ch change
	if err := c.ShouldBind(&ch); err != nil {
		var large *http.MaxBytesError
		if errors.As(err, &large) {
			return nil, &failure{http.StatusRequestEntityTooLarge, "That was too much to send.", fmt.Sprintf("A form may hold %d KB. Nothing was changed.", mostForm>>10)}
		}
		return nil, &failure{http.StatusBadRequest, "This form could not be read.", "Nothing was changed. Reload the page and try again."}
	}
	ch.Value = strings.TrimSpace(ch.Value)
	at := store.Editing{Workspace: s.workspace.ID, Study: id, Today: s.today(), Revision: ch.Revision}
	switch ch.Edit {
	case "pay":
		return s.editPay(c, at, ch)
	case "driver", "growth":
		return s.editDriver(c, at, ch)
	case "weight":
		return s.editWeight(c, at, ch)
	case "best", "worst":
		return s.editScale(c, at, ch)
	}
	return s.editRating(c, at, ch)
}

func (s *Server) editPay(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	p := projection.Policy(ch.Value)
	if p != projection.Monthly && p != projection.Yearly {
		return refuse(ch.field(), ch.Value, "Pay is monthly or yearly."), nil
	}
	return saved(s.store.SetPay(c, at, p), ch.field(), ch.Value)
}

func (s *Server) editDriver(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	now, growth := ch.Value, ch.Beside
	if ch.Edit == "growth" {
		now, growth = growth, now
	}
	q, err := usage.ParseQuantity(now)
	if err != nil {
		return refuse(ch.field(), now, fmt.Sprintf("%s is not a number from 0 to %s. Type it like 6400 or 0.6; nothing was changed.", quoted(now), usage.Most.Format())), nil
	}
	g, err := money.ParseShare(strings.TrimPrefix(strings.ReplaceAll(growth, "−", "-"), "+"))
	if err != nil {
		return refuse(ch.field(), growth, fmt.Sprintf("%s is not a percentage. Type it like 2 or -0.5; nothing was changed.", quoted(growth))), nil
	}
	if g < usage.LeastGrowth || g > usage.MostGrowth {
		return refuse(ch.field(), growth, fmt.Sprintf("Growth of %s a month is not between %s and %s. Nothing was changed.", g, usage.LeastGrowth, usage.MostGrowth)), nil
	}
	return saved(s.store.SetDriver(c, at, ch.Of, usage.Path{Now: q, Growth: g}), ch.field(), ch.Value)
}

func (s *Server) editWeight(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	w, err := money.ParseShare(ch.Value)
	if err != nil || w < 0 || w > money.Whole {
		return refuse(ch.field(), ch.Value, fmt.Sprintf("%s is not a share of 100. Type a number from 0 to 100; nothing was changed.", quoted(ch.Value))), nil
	}
	return saved(s.store.SetWeight(c, at, ch.Of, w), ch.field(), ch.Value)
}

func (s *Server) editScale(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	a, err1 := money.ParseAmount(strings.ReplaceAll(ch.Value, ",", ""))
	b, err2 := money.ParseAmount(strings.ReplaceAll(ch.Beside, ",", ""))
	if err1 != nil || err2 != nil || a < 0 || a > money.Units(1_000_000_000) {
		return refuse(ch.field(), ch.Value, fmt.Sprintf("%s is not an amount of money. Type it like 4000 or 12.50; nothing was changed.", quoted(ch.Value))), nil
	}
	best, worst := a, b
	if ch.Edit == "worst" {
		best, worst = b, a
	}
	if worst < best {
		return refuse(ch.field(), ch.Value, "The cost that scores 0 must not be below the cost that scores 9. Nothing was changed."), nil
	}
	return saved(s.store.SetScale(c, at, ch.Of, best, worst), ch.field(), ch.Value)
}

func (s *Server) editRating(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	if strings.TrimSpace(ch.Rater) == "" {
		return refuse(ch.field(), ch.Value, "A rating needs to know who rates. Reload the page; nothing was changed."), nil
	}
	var value *fit.Halves
	if ch.Value != "" {
		h, err := fit.ParseHalves(ch.Value)
		if err != nil {
			return refuse(ch.field(), ch.Value, fmt.Sprintf("%s is not a rating. Type 0 to 9 in halves, like 6.5, or leave it empty for not rated; nothing was changed.", quoted(ch.Value))), nil
		}
		value = &h
	} else if ch.Revision == 0 {
		return nil, nil // empty before and after
	}
	return saved(s.store.SetRating(c, at, ch.Rater, ch.Option, ch.Of, value), ch.field(), ch.Value)
}

// quoted writes what was typed, shortened, in quotation marks.
func quoted(s string) string {
	if r := []rune(s); len(r) > 30 {
		s = string(r[:30]) + "…"
	}
	return "“" + s + "”"
}

// editable is an input that is changed where it stands.
type editable struct {
	ID       string // of the input
	Edit, Of string
	Option   string
	Rater    string
	Revision int64
	Value    string
	Beside   string
	Label    string // for those who do not see the place
	Unit     string
	Problem  string
	Wide     bool
}

// field makes an editable; after a refused edit it holds what was typed and
// the message.
func (r *request) field(e editable) editable {
	e.ID = change{Edit: e.Edit, Of: e.Of, Option: e.Option}.field()
	if r.problem.Field == e.ID {
		e.Value, e.Problem = r.problem.Typed, r.problem.Message
	}
	return e
}

func (r *request) revision(parts ...string) int64 {
	return r.loaded.Revisions[strings.Join(parts, "/")]
}
