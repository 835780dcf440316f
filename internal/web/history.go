package web

import (
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/document"
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
	Did, Undid                 string // what the caller did last, and took back last
}

func (s *Server) undoLine(r *request) (undoLine, error) {
	line := undoLine{}
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
		line.Undo, line.Did = sayBack(recent.Undo), sayNow(recent.Undo)
	}
	if recent.Redo != nil {
		line.Redo, line.Undid = sayAgain(recent.Redo), "Undone: "+sayBack(recent.Redo)+"."
	}
	if recent.Last != nil {
		line.LastID = lastID(recent)
		line.Last = r.sayChange(recent.Last)
	}
	return line, nil
}

// lastID tells the newest change of a study from any other, also once it is taken
// back; "" where there is none.
func lastID(recent store.Recent) string {
	if recent.Last == nil {
		return ""
	}
	return fmt.Sprintf("%s %v", recent.Last.ID, recent.Last.UndoneAt)
}

// done is what a change did, by the edit that its line names.
type done struct {
	document.Said
	do   document.Do // Set also of a value that comes and goes under its key, as a rating
	op   document.Op
	more int // edits beside it
}

// doneBy sums up a change that says something.
func doneBy(c *store.Change) done {
	d := done{Said: c.Says[len(c.Says)-1], op: c.Ops[len(c.Ops)-1], more: len(c.Says) - 1}
	if c.BroughtBack() { // what comes along with an option stands after it
		d.Said, d.op = c.Says[0], c.Ops[0]
	}
	d.do = d.op.Do
	if d.do == document.Insert && d.Was != "–" || d.do == document.Remove && c.Removed == "" && d.Was != "there" {
		d.do = document.Set
	}
	return d
}

// sayBack says what undo would do.
func sayBack(c *store.Change) string { return sayStep(c, true) }

// sayAgain says what redo would do.
func sayAgain(c *store.Change) string { return sayStep(c, false) }

// sayNow says what was done, and what stands there now.
func sayNow(c *store.Change) string {
	if len(c.Says) > 0 {
		if d := doneBy(c); d.do == document.Set {
			return fmt.Sprintf("%s is now %s.", d.Label, d.To)
		}
	}
	return sayAgain(c) + "."
}

func sayStep(c *store.Change, back bool) string {
	if len(c.Says) == 0 {
		return "the last change"
	}
	d := doneBy(c)
	text := d.Label
	switch {
	case d.do == document.Set:
		text += orElse(back, " back to "+d.Was, " to "+d.To)
	case d.do == document.Move:
		text += orElse(back, " back "+d.Was, " "+d.To)
	case d.do == document.Insert:
		text += orElse(back, " out again", " added")
	case back:
		text += " back " + orElse(strings.HasPrefix(d.Was, "in "), d.Was, "where it was")
	default:
		text += " " + d.To
	}
	if d.more > 0 {
		text += fmt.Sprintf(" and %d more", d.more)
	}
	return text
}

func isRating(c document.Change) bool {
	return len(c) == 1 && strings.HasPrefix(string(c[0].Path), "ratings.")
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
	if c.Need == "" || len(c.Says) == 0 || c.Wide {
		return fmt.Sprintf("%s changed the study.", who)
	}
	d, back := doneBy(c), c.UndoneAt != nil
	name := d.Label // "the option Fernwire", or "Contacts, event May 2027"
	if len(d.op.Path.Steps()) == 2 {
		name = "the " + usage.LowerFirst(d.Label)
	}
	did := "added " + name
	switch {
	case d.do == document.Set && back:
		did = fmt.Sprintf("took back %s: %s again", d.Label, d.Was)
	case d.do == document.Set:
		did = fmt.Sprintf("changed %s from %s to %s", d.Label, d.Was, d.To)
	case d.do == document.Move:
		did = "moved " + name + orElse(back, " back "+d.Was, " "+d.To)
	case d.do == document.Remove && back, c.BroughtBack() && !back:
		did = "brought " + name + " back"
	case c.Removed != "":
		did = "deleted " + name + "; it rests in the bin"
	case d.do == document.Remove:
		did = "took " + name + " out"
	case back:
		did = "took " + name + " out again"
	}
	if d.more > 0 && !c.BroughtBack() {
		did += fmt.Sprintf(" and %d more", d.more)
	}
	return who + " " + did + "."
}

// takeBack undoes, redoes, puts back what stood before a change, or leaves a
// change that cannot be undone as it is.
func (s *Server) takeBack(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	var err error
	var step *store.Change
	switch ch.Op {
	case "undo":
		step, err = s.store.Undo(c, at)
	case "redo":
		step, err = s.store.Redo(c, at)
	default:
		id, bad := uuid.Parse(ch.Change)
		if bad != nil {
			return nil, notFound("There is no such change in the history.")
		}
		if ch.Op == "pass-over" {
			err = s.store.PassOver(c, at, id)
		} else {
			err = s.store.PutBack(c, at, id, ch.Was)
		}
		if errors.Is(err, store.ErrMissing) {
			err = notFound("There is no such change in the history.")
		}
	}
	cause := err
	var changed *store.ChangedError
	if errors.As(err, &changed) {
		return s.standsInTheWay(changed, step), nil
	}
	var refused *store.RefusedError
	wrong, err := saved(c, err, "", "")
	if wrong != nil && step != nil && errors.As(cause, &refused) { // what it belonged to is gone, perhaps
		wrong.problem.Message = strings.Replace(wrong.problem.Message, "Not saved", "Nothing was taken back", 1)
		wrong.problem.Ways = []way{{"Leave it", map[string]string{"op": "pass-over", "change": step.ID.String()}}}
	}
	return wrong, err
}

// standsInTheWay says what somebody else wrote where a change was to be taken
// back, with both values, and offers what can be done.
func (s *Server) standsInTheWay(changed *store.ChangedError, step *store.Change) *refusal {
	by := "was changed since"
	if changed.By != "" {
		by = fmt.Sprintf("was changed since by %s, at %s", changed.By, clock(changed.At))
	}
	stands := ""
	if changed.Shown != "" {
		stands = ", and stands at " + changed.Shown + " now"
	}
	wrong := refuse("", "", fmt.Sprintf("Nothing was taken back: %s %s%s.", changed.Label, by, stands))
	if step == nil || len(step.Says) == 0 {
		return wrong
	}
	said := step.Says[len(step.Says)-1]
	leave := way{"Leave it", map[string]string{"op": "pass-over", "change": step.ID.String()}}
	if len(step.Ops) == 1 && step.Ops[0].Do == document.Set {
		wrong.problem.Message += fmt.Sprintf(" You had changed it from %s to %s.", said.Was, said.To)
		leave.Do = "Leave " + changed.Shown
		wrong.problem.Ways = append(wrong.problem.Ways, way{"Put " + said.Was + " there all the same",
			map[string]string{"op": "put-back", "change": step.ID.String(), "was": changed.Now}})
	}
	wrong.problem.Ways = append(wrong.problem.Ways, leave)
	return wrong
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
	PutBack                   string // what the button says
	Back                      bool   // putting back would change something, and may be done
	Stands                    bool   // what stood before stands there now
}

// coinOf names where a change is at home; "" for one that is only noted.
func coinOf(c *store.Change) string {
	if c.Need == "" || c.Wide || len(c.Ops) == 0 {
		return ""
	}
	key := study.CoinOf(c.Ops[len(c.Ops)-1].Path)
	if slices.ContainsFunc(c.Ops, func(op document.Op) bool { return strings.HasPrefix(string(op.Path), "options.") }) {
		key = "line-up" // with the ratings that go along
	}
	for _, one := range study.CoinNames {
		if one[0] == key {
			return one[1]
		}
	}
	return ""
}

// fieldsOf lists the first steps of the paths that stand on a coin.
func fieldsOf(coin string) []string {
	for _, one := range study.CoinNames {
		if one[1] == coin {
			return study.FieldsOf(one[0])
		}
	}
	return nil
}

const longestHistory = 200

// buildHistory makes the study's history: by coin (?coin=), by person
// (?person=), what is older than a change (?before=).
func (s *Server) buildHistory(r *request) (any, error) {
	study := uuid.MustParse(r.id)
	asked := store.Asked{Fields: fieldsOf(r.c.Query("coin")), Most: longestHistory}
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
	for _, name := range []string{"", "Brief", "Line-up", "Coverage", "Growth", "Costs", "Scores"} {
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
func told(c *store.Change) historyRow {
	row := historyRow{ID: c.ID.String(), Time: clock(c.MadeAt), Who: orElse(c.By == "", "–", c.By), Coin: coinOf(c)}
	if len(c.Says) > 0 && len(c.Ops) == 0 { // only noted
		row.Name, row.Was, row.Became = c.Says[0].Label, c.Says[0].Was, c.Says[0].To
	} else if len(c.Says) > 0 {
		d := doneBy(c)
		row.Name, row.Was, row.Became = d.Label, d.Was, d.To
		if d.more > 0 {
			row.Name += fmt.Sprintf(" and %d more", d.more)
		}
	}
	if c.UndoneAt != nil {
		row.Undone = clock(*c.UndoneAt)
	}
	return row
}

func (r *request) historyRow(c *store.Change) historyRow {
	row := told(c)
	if row.Coin == "" {
		return row
	}
	mine := !isRating(c.Ops) || study.OwnerOf(c.Ops[0].Path) == r.caller.seat.Person.String()
	row.Back = r.caller.may(c.Needs()) && mine
	row.PutBack = "Put back"
	if len(c.Ops) == 1 && c.Ops[0].Do == document.Set {
		spot, there := table.Spot(*r.study(), c.Ops[0].Path)
		row.Now, row.Stands = spot.Text, spot.Text == c.Ops[0].Was
		row.Back = row.Back && there && !row.Stands
		row.PutBack += " " + row.Was
		return row
	}
	// What is there already does not come back, what has gone does not go, and what stands in its place does not move.
	now := *r.study()
	row.Stands = true
	for _, op := range c.Ops.Inverse() {
		spot, _ := table.Spot(now, op.Path)
		after, made, err := table.Apply(now, document.Change{op})
		switch {
		case op.Do == document.Insert && spot.There, op.Do == document.Remove && !spot.There, op.Do == document.Set && spot.Text == op.To:
		case err == nil && op.Do == document.Move && made[0].Was == op.Before:
		default:
			row.Stands = false
		}
		if err == nil {
			now = after
		}
	}
	row.Back = row.Back && !row.Stands
	return row
}

func clock(t time.Time) string { return t.Format("15:04") }
