package web

import (
	"errors"
	"fmt"
	"time"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// undoLine says what undo and redo would do next; empty for nothing.
type undoLine struct{ Undo, Redo, History string }

func (s *Server) undoLine(c *gin.Context, id string, st *study.Study) (undoLine, error) {
	line := undoLine{History: "/studies/" + id + "/history"}
	undo, redo, err := s.store.NextUndo(c, uuid.MustParse(id))
	if err != nil {
		return line, err
	}
	if undo != nil {
		line.Undo = fmt.Sprintf("%s back to %s", fieldName(st, undo.Field), fieldValue(st, undo.Field, undo.Was))
	}
	if redo != nil {
		line.Redo = fmt.Sprintf("%s to %s", fieldName(st, redo.Field), fieldValue(st, redo.Field, redo.Became))
	}
	return line, nil
}

// takeBack undoes, redoes, or puts back what stood before a change.
func (s *Server) takeBack(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	var err error
	switch ch.Edit {
	case "undo":
		_, err = s.store.Undo(c, at)
	case "redo":
		_, err = s.store.Redo(c, at)
	default:
		id, bad := uuid.Parse(ch.Of)
		if bad != nil {
			return nil, notFound("There is no such change in the history.")
		}
		err = s.store.PutBack(c, at, id, ch.Was)
	}
	var changed *store.ChangedError
	if errors.As(err, &changed) {
		return s.standsInTheWay(c, at, changed.Field)
	}
	return saved(err, "", "")
}

// standsInTheWay says what somebody else wrote where a change was to be taken
// back.
func (s *Server) standsInTheWay(c *gin.Context, at store.Editing, f store.Field) (*refusal, error) {
	st, err := s.store.Study(c, at.Workspace, at.Study, at.Today)
	if err != nil {
		return nil, err
	}
	wrong := refuse("", "", fmt.Sprintf("Nothing was taken back: %s was changed since, and stands at %s now. Change it where it stands, or put back an older value from the history.",
		fieldName(st, f), fieldValue(st, f, fieldNow(st, f))))
	return wrong, nil
}

type historyBody struct {
	Base  string
	Coins []choiceView
	Days  []historyDay
	Empty bool
}

type historyDay struct {
	Day     string
	Changes []historyRow
}

type historyRow struct {
	ID, Time, Coin, Name string
	Was, Became          string
	Undone               string // when it was taken back
	Now                  string // what stands there, as the database holds it
	Back                 bool   // putting back would change something
}

// coinOf names the coin that a field stands on.
var coinOf = map[string]string{"pay": "Costs", "driver": "Growth", "growth": "Growth", "weight": "Scores", "best": "Scores", "worst": "Scores", "rating": "Scores"}

const longestHistory = 500

func (s *Server) buildHistory(r *request) (any, error) {
	changes, err := s.store.History(r.c, s.workspace.ID, uuid.MustParse(r.id), longestHistory)
	if err != nil {
		return nil, err
	}
	b := historyBody{Base: r.base(), Empty: len(changes) == 0}
	only := r.c.Query("coin")
	for _, name := range []string{"", "Growth", "Costs", "Scores"} {
		choice := choiceView{Label: name, Link: r.base() + "/history?coin=" + name, Chosen: name == only}
		if name == "" {
			choice.Label, choice.Link = "All coins", r.base()+"/history"
		}
		b.Coins = append(b.Coins, choice)
	}
	for _, c := range changes {
		if only != "" && coinOf[c.Edit] != only {
			continue
		}
		day := c.MadeAt.Format("Monday 2 January 2006")
		if n := len(b.Days); n == 0 || b.Days[n-1].Day != day {
			b.Days = append(b.Days, historyDay{Day: day})
		}
		last := &b.Days[len(b.Days)-1]
		last.Changes = append(last.Changes, r.historyRow(c))
	}
	return b, nil
}

func (r *request) historyRow(c store.Change) historyRow {
	st := r.study()
	row := historyRow{ID: c.ID.String(), Time: clock(c.MadeAt), Coin: coinOf[c.Edit], Name: fieldName(st, c.Field), Was: fieldValue(st, c.Field, c.Was), Became: fieldValue(st, c.Field, c.Became), Now: fieldNow(st, c.Field)}
	row.Back = row.Now != c.Was
	if c.UndoneAt != nil {
		row.Undone = clock(*c.UndoneAt)
	}
	return row
}

func clock(t time.Time) string { return t.Format("15:04") }

// fieldName names a field for people.
func fieldName(st *study.Study, f store.Field) string {
	criterion := f.Of
	for _, c := range st.Criteria {
		if c.ID == f.Of {
			criterion = c.Name
		}
	}
	switch f.Edit {
	case "pay":
		return "Pay"
	case "driver", "growth":
		name := f.Of
		if d, ok := usage.InCatalogue(f.Of); ok {
			name = d.Name
		}
		if f.Edit == "growth" {
			return name + ", growth a month"
		}
		return name
	case "weight":
		return criterion + ", weight"
	case "best":
		return criterion + ", scores 9 at"
	case "worst":
		return criterion + ", scores 0 at"
	}
	option := f.Option
	for _, o := range st.Options {
		if o.Key == f.Option {
			option = o.Name
		}
	}
	return fmt.Sprintf("%s on %s", option, criterion)
}

// fieldValue writes a value that the history holds for people.
func fieldValue(st *study.Study, f store.Field, text string) string {
	a, err := money.ParseAmount(text)
	switch {
	case f.Edit == "rating" && text == "":
		return "not rated"
	case err != nil:
		return text
	case f.Edit == "driver":
		return a.Grouped()
	case f.Edit == "growth":
		return money.Share(a).String()
	case f.Edit == "weight":
		return money.Share(a).Percent()
	case f.Edit == "best" || f.Edit == "worst":
		return st.Currency.Format(a)
	}
	return text
}

// fieldNow returns what stands in a field, in the words that the database
// holds.
func fieldNow(st *study.Study, f store.Field) string {
	ratio := func(s money.Share) string { return money.Amount(s).String() }
	if f.Edit == "pay" {
		return string(st.Pay)
	}
	for _, d := range st.Drivers {
		if d.Driver == f.Of && f.Edit == "driver" {
			return d.Path.Now.String()
		}
		if d.Driver == f.Of && f.Edit == "growth" {
			return ratio(d.Path.Growth)
		}
	}
	for _, c := range st.Criteria {
		if c.ID == f.Of && f.Edit != "rating" {
			return map[string]string{"weight": ratio(c.Weight), "best": c.Best.String(), "worst": c.Worst.String()}[f.Edit]
		}
	}
	var given *fit.Halves
	for _, one := range st.Ratings {
		if one.Rater == f.Rater && one.Option == f.Option && one.Criterion == f.Of {
			given = &one.Value
		}
	}
	if given == nil {
		return ""
	}
	return given.String()
}
