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
	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/gin-gonic/gin/binding"
	"github.com/google/uuid"
)

// change is a form as it was sent: what is edited, of which thing, what stood
// there, and what was typed.
type change struct {
	Edit   string `form:"edit" binding:"required,oneof=driver growth pay weight best worst rating option undo redo put-back pass-over"`
	Of     string `form:"of" binding:"max=200"`
	Option string `form:"option" binding:"max=100"`
	Was    string `form:"was" binding:"max=100"`
	Value  string `form:"value" binding:"max=100"`
}

// field is the id of the input that the change came from.
func (ch change) field() string {
	return strings.Join(strings.Fields(ch.Edit+" "+ch.Option+" "+ch.Of), "-")
}

// edit saves the change that a form carries.
func (s *Server) edit(c *gin.Context, id uuid.UUID) (*refusal, error) {
	var ch change
	if err := c.ShouldBindWith(&ch, binding.FormPost); err != nil {
		return nil, unreadable()
	}
	ch.Value = strings.TrimSpace(ch.Value)
	at := s.editing(c, id)
	if need := store.NeedOf(ch.Edit); need != doors.Untold && !callerOf(c).may(need) {
		return nil, notAllowed(callerOf(c), need)
	}
	switch ch.Edit {
	case "undo", "redo", "put-back", "pass-over":
		return s.takeBack(c, at, ch)
	case "option":
		return saved(c, s.store.Move(c, at, ch.Edit, ch.Of, store.Here, store.InBin), "", "")
	case "pay":
		return s.editPay(c, at, ch)
	case "driver":
		was, to, wrong := both(ch, usage.ParseQuantity, fmt.Sprintf("a number from 0 to %s. Type it like 6400 or 0.6", usage.Most.Format()))
		if wrong != nil {
			return wrong, nil
		}
		return saved(c, s.store.SetDriver(c, at, ch.Of, was, to), ch.field(), ch.Value)
	case "growth":
		return s.editGrowth(c, at, ch)
	case "weight":
		ch.Was, ch.Value = withoutPercent(ch.Was), withoutPercent(ch.Value)
		was, to, wrong := both(ch, parseWeight, "a share of 100. Type a number from 0 to 100")
		if wrong != nil {
			return wrong, nil
		}
		return saved(c, s.store.SetWeight(c, at, ch.Of, was, to), ch.field(), ch.Value)
	case "best", "worst":
		was, to, wrong := both(ch, parsePrice, "an amount of money. Type it like 4000 or 12.50")
		if wrong != nil {
			return wrong, nil
		}
		set := s.store.SetBest
		if ch.Edit == "worst" {
			set = s.store.SetWorst
		}
		return saved(c, set(c, at, ch.Of, was, to), ch.field(), ch.Value)
	}
	return s.editRating(c, at, ch)
}

// both reads what stood in a field and what was typed. What cannot be read is
// refused, saying what is wanted; what may mean something else is asked about;
// a form whose Was cannot be read was not made by these pages, and is taken
// for one that began elsewhere.
func both[T any](ch change, parse func(string) (T, error), want string) (was, to T, wrong *refusal) {
	to, err := typed(ch.Value, parse)
	if err != nil {
		if wrong = unclear(ch, err, parse); wrong == nil {
			wrong = refuse(ch.field(), ch.Value, fmt.Sprintf("%s is not %s; nothing was changed.", quoted(ch.Value), want))
		}
		return was, to, wrong
	}
	if was, err = typed(ch.Was, parse); err != nil {
		wrong = &refusal{http.StatusConflict, problem{Field: ch.field(), Typed: ch.Value, Meanwhile: true, Message: meanwhile(&caller{}, &store.ChangedError{}, ch.Value)}}
	}
	return was, to, wrong
}

// typed reads a number as people type it; nothing typed stays nothing.
func typed[T any](text string, parse func(string) (T, error)) (T, error) {
	if text == "" {
		return parse("")
	}
	plain, err := money.Plain(text)
	if err != nil {
		var none T
		return none, err
	}
	return parse(plain)
}

// unclear asks what was meant by a number that could be read otherwise than it
// was typed for, offering the readings that the field would take; nil where
// there are none.
func unclear[T any](ch change, err error, parse func(string) (T, error)) *refusal {
	var asked *money.UnclearError
	if !errors.As(err, &asked) {
		return nil
	}
	var ways []way
	var meant []string
	for _, reading := range asked.Readings {
		if _, err := typed(reading, parse); err == nil {
			meant = append(meant, reading)
			ways = append(ways, way{"Save " + reading, map[string]string{"edit": ch.Edit, "of": ch.Of, "option": ch.Option, "was": ch.Was, "value": reading}})
		}
	}
	if len(ways) == 0 {
		return nil
	}
	why := "Decimals begin with a point here."
	switch {
	case len(ways) > 1:
		why = quoted(ch.Value) + " can be read as either."
	case len(asked.Readings) > 1:
		why = quoted(ch.Value) + " can be read two ways, and only this one fits here."
	}
	wrong := refuse(ch.field(), ch.Value, fmt.Sprintf("Did you mean %s? %s Nothing was changed.", strings.Join(meant, " or "), why))
	wrong.problem.Ways = ways
	return wrong
}

func parseWeight(s string) (money.Share, error) {
	w, err := money.ParseShare(s)
	if err == nil && (w < 0 || w > money.Whole) {
		err = usage.ErrRange
	}
	return w, err
}

func parsePrice(s string) (money.Amount, error) {
	a, err := money.ParseAmount(s)
	if err == nil && (a < 0 || a > money.Units(1_000_000_000)) {
		err = usage.ErrRange
	}
	return a, err
}

func parseGrowth(s string) (money.Share, error) {
	g, err := money.ParseShare(s)
	if err == nil && (g < usage.LeastGrowth || g > usage.MostGrowth) {
		err = usage.ErrRange
	}
	return g, err
}

func (s *Server) editPay(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	p := projection.Policy(ch.Value)
	if p != projection.Monthly && p != projection.Yearly {
		return refuse(ch.field(), ch.Value, "Pay is monthly or yearly."), nil
	}
	if ch.Was == ch.Value {
		return nil, nil
	}
	return saved(c, s.store.SetPay(c, at, projection.Policy(ch.Was), p), ch.field(), ch.Value)
}

func (s *Server) editGrowth(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	ch.Was, ch.Value = withoutPercent(ch.Was), withoutPercent(ch.Value)
	was, to, wrong := both(ch, parseGrowth, fmt.Sprintf("a percentage from %s to %s a month. Type it like 2 or -0.5", usage.LeastGrowth, usage.MostGrowth))
	if wrong != nil {
		return wrong, nil
	}
	return saved(c, s.store.SetGrowth(c, at, ch.Of, was, to), ch.field(), ch.Value)
}

// withoutPercent takes the sign off a percentage that was typed with it.
func withoutPercent(s string) string { return strings.TrimSpace(strings.TrimSuffix(s, "%")) }

func (s *Server) editRating(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	was, to, wrong := both(ch, parseRating, "a rating. Type 0 to 9 in halves, like 6.5, or leave it empty for not rated")
	if wrong != nil {
		return wrong, nil
	}
	return saved(c, s.store.SetRating(c, at, ch.Option, ch.Of, was, to), ch.field(), ch.Value)
}

// parseRating reads a rating; nothing typed is no rating.
func parseRating(s string) (*fit.Halves, error) {
	if s == "" {
		return nil, nil
	}
	h, err := fit.ParseHalves(s)
	return &h, err
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
	Value    string
	Was      string // what stands there, for the form to send along
	Label    string // for those who do not see the place
	Unit     string
	Problem  string
	Typed    string // what was not saved because somebody else wrote meanwhile
	Mine     bool   // offer to save it all the same
	Ways     []way  // what may have been meant by it
	Wide     bool
	Locked   string // why the caller may not change it; "" where they may
}

// field makes an editable; after a refused edit it has the message, and holds
// what was typed unless somebody else's value now stands there.
func (r *request) field(e editable) editable {
	e.ID, e.Was = change{Edit: e.Edit, Of: e.Of, Option: e.Option}.field(), e.Value
	if r.problem.Field == e.ID {
		r.told = true
		e.Problem = r.problem.Message
		if r.problem.Meanwhile {
			e.Typed, e.Mine = r.problem.Typed, true
		} else {
			e.Value, e.Ways = r.problem.Typed, r.problem.Ways
		}
	}
	if need := store.NeedOf(e.Edit); e.Locked == "" && !r.caller.may(need) {
		e.Locked = "This is changed by " + orElse(need == doors.ToRate, "raters", "editors") + "."
	}
	return e
}
