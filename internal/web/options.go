package web

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// How options come into the line-up, several at once, and out of the running.

// nameFor is what an option is called that is made of a platform, or one plan of it.
func (s *Server) nameFor(c *gin.Context, at store.Editing, typed map[string]string) (string, error) {
	day, err := pricelist.ParseRead(typed["observed_on"])
	if err != nil {
		return "", nil // which says so when it is added
	}
	e, err := s.store.EditionOn(c, at.Workspace, typed["platform"], day)
	if errors.Is(err, store.ErrMissing) {
		return "", nil
	}
	if err != nil {
		return "", err
	}
	t := study.Tool{Edition: e, Plan: typed["plan"]}
	return t.Called(), nil
}

// addSeveral adds all plans of a price list, side by side, or a stack of some plans.
func (s *Server) addSeveral(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	st, err := s.store.Study(c, at.Workspace, at.Study, at.Today)
	if err != nil {
		return nil, err
	}
	none := func(why string) *refusal {
		return &refusal{status: http.StatusUnprocessableEntity, problem: problem{Field: addID("options", ""), Message: why + " Nothing was added."}}
	}
	var all document.Change
	if ch.Op == "all-plans" {
		e, list, wrong, err := s.listed(c, at, ch.Value)
		if err != nil || wrong != "" {
			return none(wrong), err
		}
		for _, p := range e.Plans {
			if p.Offered == pricelist.Closed {
				continue
			}
			t := study.Tool{Edition: e, Plan: p.Key}
			insert, err := inserted(*st, "options", map[string]string{"platform": list[0], "observed_on": list[1], "plan": p.Key, "name": freeName(st, t.Called())})
			if err != nil {
				return none(capital(err.Error()) + "."), nil
			}
			after, _, err := table.Apply(*st, insert)
			if err != nil {
				return none(notMore(err)), nil
			}
			st, all = &after, append(all, insert...)
		}
		return saved(c, s.store.Edit(c, at, all), addID("options", ""), "")
	}
	var option study.Option
	for i, text := range c.PostFormArray("tool") {
		e, list, wrong, err := s.listed(c, at, text)
		if err != nil || wrong != "" {
			return none(wrong), err
		}
		day, _ := pricelist.ParseRead(list[1])
		t := study.Tool{Platform: list[0], ObservedOn: day, Plan: list[2], Edition: e}
		if i == 0 {
			option.Tool = t
			continue
		}
		t.Key = document.KeyFor(list[0], func(key string) bool {
			return slices.ContainsFunc(option.With, func(o study.Tool) bool { return o.Key == key })
		})
		option.With = append(option.With, t)
	}
	if option.Platform == "" {
		return none("There is no tool to stack."), nil
	}
	insert, err := st.NewOption(option)
	if err != nil {
		return none(notMore(err)), nil
	}
	return saved(c, s.store.Edit(c, at, insert), addID("options", ""), "")
}

func notMore(err error) string {
	var invalid *document.InvalidError
	if errors.As(err, &invalid) {
		return fmt.Sprintf("In the line-up %s.", invalid.Problem)
	}
	return capital(err.Error()) + "."
}

// listed finds the price list that a choice names: platform, day and perhaps plan.
func (s *Server) listed(c *gin.Context, at store.Editing, text string) (e *pricelist.Edition, list [3]string, wrong string, err error) {
	copy(list[:], strings.Fields(text))
	day, bad := pricelist.ParseRead(list[1])
	if bad != nil {
		return nil, list, "That is no price list.", nil
	}
	e, err = s.store.EditionOn(c, at.Workspace, list[0], day)
	if errors.Is(err, store.ErrMissing) {
		return nil, list, "That price list is not on the shelf any more.", nil
	}
	return e, list, "", err
}

// setAside takes an option out of the running for a reason, or back into it.
func (s *Server) setAside(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	sh, st, err := s.studySheet(c, at)
	if err != nil {
		return nil, err
	}
	path := document.Path(ch.Path)
	steps := path.Steps()
	if len(steps) != 2 || steps[0] != "options" {
		return nil, unreadable()
	}
	field := "aside-" + steps[1]
	spot, there := sh.spot(path.To("aside"))
	if !there {
		return &refusal{status: http.StatusConflict, problem: problem{Message: "Nothing was changed: that option is not in the line-up any more."}}, nil
	}
	reason, err := sh.typed(path.To("aside"), oneLine(ch.Value))
	switch {
	case err != nil:
		return mistyped(field, ch.Value, err, "a reason", nil), nil
	case reason == "" && spot.Text == "" && c.PostForm("back") == "":
		return refuse(field, "", "Say why, so that others know: “no trade-buyer lists, and none announced”."), nil
	}
	change, err := st.SetAsideNow(steps[1], reason, st.Today)
	if err != nil {
		return nil, notFound("There is no such option in this study.")
	}
	return saved(c, s.store.Edit(c, at, change), field, ch.Value)
}
