package web

import (
	"errors"
	"fmt"
	"net/url"
	"strings"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"net/http"

	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/pricelist"
)

type shelfBody struct {
	Platforms      []platformRow
	Categories     []choiceView
	Text, Category string
	Total          string
	Next, First    string // links to other pages
	May            bool
	Undo           undoLine
	Fresh          newPlatform
	Usual          []string // categories
	Searches       bool
	Features       int
}

// platformRow is a platform on the shelf.
type platformRow struct {
	Key, Name, About, Does, Read, Age, Source, Editions, UsedIn string
	Draft, Priced                                               bool
}

// newPlatform is what was typed of a platform that is made by hand.
type newPlatform struct {
	Name, Does, About, Links, Currency string
	Field, Problem                     string
}

type shelfRow struct {
	ID, Name, Does, Read, Age, Source, Currency string
	UsedIn                                      string
}

func (s *Server) shelfRow(e store.EditionRow) shelfRow {
	days := int(s.today().Sub(e.ObservedOn).Hours() / 24)
	return shelfRow{ID: e.ID.String(), Name: e.Name, Does: doing(e.Does), Read: pricelist.SayRead(e.ObservedOn), Age: daysAgo(days),
		Source: e.Source, Currency: e.Currency, UsedIn: inStudies(e.UsedIn)}
}

// doing names what a platform does.
func doing(does []string) string {
	named := make([]string, len(does))
	for i, one := range does {
		named[i] = pricelist.ShowCategory(one)
	}
	return strings.Join(named, ", ")
}

func inStudies(n int) string {
	if n == 0 {
		return "no study"
	}
	if n >= store.ManyUses {
		return fmt.Sprintf("%d studies or more", store.ManyUses)
	}
	return counted(n, "study", "studies")
}

// daysAgo says how long ago a day was; one that has not come here yet has come
// elsewhere on earth.
func daysAgo(days int) string {
	switch {
	case days <= 0:
		return "today"
	case days == 1:
		return "yesterday"
	}
	return fmt.Sprintf("%d days ago", days)
}

// shelfLength is how many platforms the shelf shows at once.
const shelfLength = 50

// shelf shows the platforms; after a price list was brought in (?brought=) it says
// where that went.
func (s *Server) shelf(c *gin.Context) { s.drawShelf(c, http.StatusOK, nil) }

func (s *Server) drawShelf(c *gin.Context, status int, n *notice) {
	s.drawShelfWith(c, status, n, newPlatform{})
}

func (s *Server) drawShelfWith(c *gin.Context, status int, n *notice, fresh newPlatform) {
	ws := callerOf(c).workspace()
	text := []rune(strings.TrimSpace(c.Query("find")))
	body := shelfBody{May: callerOf(c).may(doors.ToEdit), Text: string(text[:min(len(text), 60)]), Category: c.Query("does"), Fresh: fresh, Usual: pricelist.Categories}
	rows, err := s.store.Shelf(c, ws, store.ShelfPage{Text: body.Text, Category: body.Category, After: c.Query("after"), Most: shelfLength + 1})
	var names []string
	var counts []int
	if err == nil {
		names, counts, err = s.store.Categories(c, ws)
	}
	if err == nil {
		body.Undo, err = s.wideUndo(c)
	}
	catalogue := &feature.Catalogue{}
	if err == nil {
		catalogue, _, _, err = s.store.Catalogue(c, ws)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	for _, a := range catalogue.Areas() {
		body.Features += len(catalogue.Of(a.Key))
	}
	link := func(does, after string) string {
		q := url.Values{}
		for name, value := range map[string]string{"find": body.Text, "does": does, "after": after} {
			if value != "" {
				q.Set(name, value)
			}
		}
		return "/shelf" + orElse(len(q) > 0, "?"+q.Encode(), "")
	}
	body.Categories = append(body.Categories, choiceView{Label: "All", Link: link("", ""), Chosen: body.Category == ""})
	for i, name := range names {
		body.Categories = append(body.Categories, choiceView{Label: fmt.Sprintf("%s %d", pricelist.ShowCategory(name), counts[i]), Link: link(name, ""), Chosen: name == body.Category})
	}
	if len(rows) > shelfLength {
		rows = rows[:shelfLength]
		body.Next = link(body.Category, rows[len(rows)-1].Key)
	}
	if c.Query("after") != "" {
		body.First = link(body.Category, "")
	}
	body.Searches = len(rows) > 5 || body.Text != "" || body.Category != "" || body.First != ""
	if body.Text != "" || body.Category != "" {
		body.Total = counted(len(rows), "platform", "platforms") + orElse(body.Next != "", " and more", "")
	}
	for _, p := range rows {
		body.Platforms = append(body.Platforms, s.platformRow(p))
		if n == nil && p.Name == c.Query("brought") {
			n = &notice{Text: p.Name + " was brought in and stands here, on the price shelf. To compare it, add it on the Line-up of a study."}
		}
	}
	if name := c.Query("brought"); n == nil && name != "" {
		if p, err := s.store.Shelf(c, ws, store.ShelfPage{Text: name, Most: 1}); err == nil && len(p) == 1 && p[0].Name == name {
			n = &notice{Text: name + " was brought in and stands on the price shelf. To compare it, add it on the Line-up of a study."}
		}
	}
	s.render(c, status, "shelf", page{Title: "Price shelf", Active: "shelf", Limits: callerOf(c).limits(), Body: body, Notice: n})
}

func (s *Server) platformRow(p store.PlatformRow) platformRow {
	r := platformRow{Key: p.Key, Name: p.Name, About: p.About, Does: doing(p.Does), UsedIn: inStudies(p.UsedIn), Draft: p.Draft, Priced: p.Editions > 0,
		Editions: counted(p.Editions, "edition", "editions")}
	if r.Priced {
		r.Read, r.Age, r.Source = pricelist.SayRead(p.ObservedOn), daysAgo(int(s.today().Sub(p.ObservedOn).Hours()/24)), p.Source
	}
	return r
}

// shelfEdit makes a platform by hand, deletes one with its editions, or undoes and
// redoes that.
func (s *Server) shelfEdit(c *gin.Context) {
	if c.PostForm("op") != "new" {
		s.wideEdit(c, store.Platforms, "/shelf", s.drawShelf)
		return
	}
	fresh := newPlatform{Name: c.PostForm("name"), Does: c.PostForm("does"), About: c.PostForm("about"), Links: c.PostForm("links"), Currency: c.PostForm("currency")}
	platform := pricelist.Platform{Name: strings.TrimSpace(fresh.Name), About: strings.TrimSpace(fresh.About), Links: strings.Fields(fresh.Links)}
	for one := range strings.SplitSeq(fresh.Does, ",") {
		if one = strings.TrimSpace(one); one != "" {
			platform.Does = append(platform.Does, pricelist.Category(one))
		}
	}
	key, err := s.store.NewPlatform(c, s.editing(c, uuid.Nil), platform, strings.ToUpper(strings.TrimSpace(fresh.Currency)), "")
	var refused *store.RefusedError
	if errors.As(err, &refused) {
		fresh.Field, fresh.Problem = wrongField(refused), capital(problemOf(refused.Err))+". Nothing was made."
		s.drawShelfWith(c, http.StatusUnprocessableEntity, nil, fresh)
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/shelf/platforms/"+key+"/draft")
}

// wrongField is the field of a platform that is at fault.
func wrongField(refused *store.RefusedError) string {
	var field *store.FieldError
	var taken *store.TakenError
	switch {
	case errors.As(refused, &field):
		_, name, _ := strings.Cut(string(field.Path), ".")
		return name
	case errors.As(refused, &taken):
		return "name"
	}
	return "currency"
}

// workspaceHistory lists what became of the workspace itself: files, studies,
// platforms, people.
func (s *Server) workspaceHistory(c *gin.Context) {
	asked := store.Asked{Most: longestHistory}
	asked.Before, _ = uuid.Parse(c.Query("before"))
	changes, err := s.store.History(c, callerOf(c).workspace(), uuid.Nil, asked)
	if err != nil {
		s.fail(c, err)
		return
	}
	b := historyBody{Empty: len(changes) == 0, Days: byDay(changes, told)}
	if len(changes) == longestHistory {
		b.Older = "/history?before=" + changes[len(changes)-1].ID.String()
	}
	s.render(c, http.StatusOK, "wide_history", page{Title: "History", Active: "workspace", Body: b})
}
