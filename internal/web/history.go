package web

import (
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// undoLine says what undo and redo would do next, empty for nothing, and what
// was changed last, for pages that follow.
type undoLine struct {
	Undo, Redo, History, Links string
	Last, LastID               string
}

func (s *Server) undoLine(r *request) (undoLine, error) {
	line := undoLine{}
	st := r.study()
	if r.caller.may(doors.ToRead) {
		line.History = r.base() + "/history"
	}
	if r.caller.may(doors.ToEdit) {
		line.Links = r.base() + "/links"
	}
	recent, err := s.store.Recent(r.c, s.editing(r.c, uuid.MustParse(r.id)))
	if err != nil {
		return line, err
	}
	if recent.Undo != nil {
		line.Undo = fmt.Sprintf("%s back %s%s", fieldName(st, recent.Undo), orElse(recent.Undo.Edit == "option", "", "to "), fieldValue(st, recent.Undo.Field, recent.Undo.Was))
	}
	if recent.Redo != nil {
		line.Redo = fmt.Sprintf("%s %s%s", fieldName(st, recent.Redo), orElse(recent.Redo.Edit == "option", "", "to "), fieldValue(st, recent.Redo.Field, recent.Redo.Became))
	}
	if recent.Last != nil {
		line.LastID = fmt.Sprintf("%s %v", recent.Last.ID, recent.Last.UndoneAt)
		line.Last = r.sayChange(recent.Last)
	}
	return line, nil
}

// sayChange tells a change as a sentence: who changed what to what.
func (r *request) sayChange(c *store.Change) string {
	who := "Somebody"
	switch {
	case c.Person != uuid.Nil && c.Person == r.caller.seat.Person:
		who = "You, in another tab,"
	case c.By != "" && r.caller.names():
		who = c.By
	}
	st := r.study()
	switch {
	case kindOf(c.Edit) == "":
		return fmt.Sprintf("%s changed the study.", who)
	case c.Edit == "option" && (c.Became == store.InBin) == (c.UndoneAt == nil):
		return fmt.Sprintf("%s deleted the option %s; it rests in the bin.", who, c.Name)
	case c.Edit == "option":
		return fmt.Sprintf("%s brought the option %s back.", who, c.Name)
	case c.UndoneAt != nil:
		return fmt.Sprintf("%s took back %s: %s again.", who, fieldName(st, c), fieldValue(st, c.Field, c.Was))
	}
	return fmt.Sprintf("%s changed %s from %s to %s.", who, fieldName(st, c), fieldValue(st, c.Field, c.Was), fieldValue(st, c.Field, c.Became))
}

// takeBack undoes, redoes, puts back what stood before a change, or leaves a
// change that cannot be undone as it is.
func (s *Server) takeBack(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	var err error
	var step *store.Change
	switch ch.Edit {
	case "undo":
		step, err = s.store.Undo(c, at)
	case "redo":
		step, err = s.store.Redo(c, at)
	default:
		id, bad := uuid.Parse(ch.Of)
		if bad != nil {
			return nil, notFound("There is no such change in the history.")
		}
		if ch.Edit == "pass-over" {
			err = s.store.PassOver(c, at, id)
		} else {
			err = s.store.PutBack(c, at, id, ch.Was)
		}
		if errors.Is(err, store.ErrMissing) {
			err = notFound("There is no such change in the history.")
		}
	}
	var changed *store.ChangedError
	if errors.As(err, &changed) {
		return s.standsInTheWay(c, at, changed, step)
	}
	return saved(c, err, "", "")
}

// standsInTheWay says what somebody else wrote where a change was to be taken
// back, with both values, and offers what can be done.
func (s *Server) standsInTheWay(c *gin.Context, at store.Editing, changed *store.ChangedError, step *store.Change) (*refusal, error) {
	st, err := s.store.Study(c, at.Workspace, at.Study, at.Today)
	if err != nil {
		return nil, err
	}
	f := changed.Field
	name, now := fieldName(st, &store.Change{Field: f}), fieldValue(st, f, changed.Now)
	by := "was changed since"
	if changed.By != "" {
		by = fmt.Sprintf("was changed since by %s, at %s", changed.By, clock(changed.At))
	}
	wrong := refuse("", "", fmt.Sprintf("Nothing was taken back: %s %s, and stands at %s now.", name, by, now))
	if step == nil {
		return wrong, nil
	}
	before, mine := fieldValue(st, f, step.Was), fieldValue(st, f, step.Became)
	wrong.problem.Message += fmt.Sprintf(" You had changed it from %s to %s.", before, mine)
	wrong.problem.Ways = []way{
		{"Put " + before + " there all the same", map[string]string{"edit": "put-back", "of": step.ID.String(), "was": changed.Now}},
		{"Leave " + now, map[string]string{"edit": "pass-over", "of": step.ID.String()}},
	}
	return wrong, nil
}

type historyBody struct {
	Base   string
	Coins  []choiceView
	People []choiceView
	Days   []historyDay
	Empty  bool
	Older  string // link to what is older; "" where nothing is
}

type historyDay struct {
	Day     string
	Changes []historyRow
}

type historyRow struct {
	ID, Time, Who, Coin, Name string
	Was, Became               string
	Undone                    string // when it was taken back
	Now                       string // what stands there, as the database holds it
	Back                      bool   // putting back would change something, and may be done
	Stands                    bool   // what stood before stands there now
}

// kindOf names where a kind of change is at home; "" for one that is no field.
func kindOf(edit string) string {
	return map[string]string{"pay": "Costs", "driver": "Growth", "growth": "Growth", "weight": "Scores", "best": "Scores", "worst": "Scores", "rating": "Scores", "option": "Line-up"}[edit]
}

// editsOf lists the kinds of fields that stand on a coin.
func editsOf(coin string) []string {
	return map[string][]string{"Costs": {"pay"}, "Growth": {"driver", "growth"}, "Scores": {"weight", "best", "worst", "rating"}, "Line-up": {"option"}}[coin]
}

const longestHistory = 200

// buildHistory makes the study's history: by coin (?coin=), by person
// (?person=), what is older than a change (?before=).
func (s *Server) buildHistory(r *request) (any, error) {
	study := uuid.MustParse(r.id)
	asked := store.Asked{Edits: editsOf(r.c.Query("coin")), Most: longestHistory}
	asked.Person, _ = uuid.Parse(r.c.Query("person"))
	asked.Before, _ = uuid.Parse(r.c.Query("before"))
	changes, err := s.store.History(r.c, r.caller.workspace(), study, asked)
	if err != nil {
		return nil, err
	}
	makers, err := s.store.Makers(r.c, r.caller.workspace(), study)
	if err != nil {
		return nil, err
	}
	link := func(set, to string) string {
		q := url.Values{}
		for _, key := range []string{"coin", "person"} {
			if v := r.c.Query(key); v != "" && key != set {
				q.Set(key, v)
			}
		}
		if to != "" {
			q.Set(set, to)
		}
		return r.base() + "/history" + orElse(len(q) > 0, "?"+q.Encode(), "")
	}
	b := historyBody{Base: r.base(), Empty: len(changes) == 0 && r.c.Request.URL.RawQuery == ""}
	for _, name := range []string{"", "Line-up", "Growth", "Costs", "Scores"} {
		b.Coins = append(b.Coins, choiceView{Label: orElse(name == "", "All coins", name), Link: link("coin", name), Chosen: name == r.c.Query("coin")})
	}
	b.People = []choiceView{{Label: "Everybody", Link: link("person", ""), Chosen: asked.Person == uuid.Nil}}
	for id, name := range makers {
		b.People = append(b.People, choiceView{Label: name, Link: link("person", id.String()), Chosen: id == asked.Person})
	}
	slices.SortStableFunc(b.People[1:], func(a, b choiceView) int { return strings.Compare(a.Label, b.Label) })
	b.Days = byDay(changes, r.historyRow)
	if len(changes) == longestHistory {
		b.Older = link("before", changes[len(changes)-1].ID.String())
	}
	return b, nil
}

// byDay puts changes, which stand in their order, under their days.
func byDay(changes []store.Change, row func(*store.Change) historyRow) (days []historyDay) {
	for i := range changes {
		day := changes[i].MadeAt.Format("Monday 2 January 2006")
		if n := len(days); n == 0 || days[n-1].Day != day {
			days = append(days, historyDay{Day: day})
		}
		last := &days[len(days)-1]
		last.Changes = append(last.Changes, row(&changes[i]))
	}
	return days
}

// told is a change as both histories show it.
func told(st *study.Study, c *store.Change) historyRow {
	row := historyRow{ID: c.ID.String(), Time: clock(c.MadeAt), Who: orElse(c.By == "", "–", c.By), Coin: kindOf(c.Edit), Name: fieldName(st, c), Was: fieldValue(st, c.Field, c.Was), Became: fieldValue(st, c.Field, c.Became)}
	if c.UndoneAt != nil {
		row.Undone = clock(*c.UndoneAt)
	}
	return row
}

func (r *request) historyRow(c *store.Change) historyRow {
	row := told(r.study(), c)
	if row.Coin != "" {
		row.Now = c.Field.In(r.study())
		row.Stands = row.Now == c.Was
		row.Back = !row.Stands && r.caller.may(store.NeedOf(c.Edit)) && (c.Edit != "rating" || c.Rater == r.caller.seat.Name)
	}
	return row
}

func clock(t time.Time) string { return t.Format("15:04") }

// fieldName names what a change is of, for people.
func fieldName(st *study.Study, c *store.Change) string {
	f := c.Field
	criterion := f.Of
	for _, one := range st.Criteria {
		if one.ID == f.Of {
			criterion = one.Name
		}
	}
	option := orElse(f.Edit == "option", f.Of, f.Option)
	for _, o := range st.Options {
		if o.Key == option {
			option = o.Name
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
	case "rating":
		return fmt.Sprintf("%s on %s", option, criterion)
	case "option":
		return "Option " + orElse(c.Name != "", c.Name, option)
	case "study":
		return "Study " + c.Name
	}
	return capital(f.Edit) + " " + c.Name
}

// fieldValue writes a value that the history holds for people.
func fieldValue(st *study.Study, f store.Field, text string) string {
	a, err := money.ParseAmount(text)
	switch {
	case f.Edit == "rating" && text == "":
		return "not rated"
	case text == "":
		return "–"
	case f.Edit == "option" && text == store.Here:
		return "in the line-up"
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
