package web

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net/http"
	"sync"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/work"
	"ninecoins/internal/outside"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// rateBook remembers the newest reference rates, so that no page waits for them.
type rateBook struct {
	from   *outside.Service
	ending context.Context // ends what is asked for beside a page
	beside *sync.RWMutex   // read locked meanwhile

	mu     sync.Mutex
	newest *outside.Rates
	asked  time.Time
}

// ratesKept is how long reference rates are taken for the newest.
const ratesKept = time.Hour

// latest is the newest table that is known; nil: none yet. It is asked for anew beside the
// page where it has grown old.
func (b *rateBook) latest(today time.Time) *outside.Rates {
	if b == nil || b.from == nil {
		return nil
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	if time.Since(b.asked) > ratesKept {
		b.asked = time.Now()
		b.beside.RLock()
		go func() {
			defer b.beside.RUnlock()
			ctx, cancel := context.WithTimeout(b.ending, 2*outside.Within)
			defer cancel()
			_ = work.Guarded(func() error { return b.ask(ctx, today) })
		}()
	}
	return b.newest
}

// ask fetches the rates of a day and keeps them as the newest.
func (b *rateBook) ask(ctx context.Context, day time.Time) error {
	rates, err := b.from.RatesOn(ctx, day)
	if err != nil {
		return err
	}
	b.mu.Lock()
	b.newest, b.asked = rates, time.Now()
	b.mu.Unlock()
	return nil
}

// AskForRates fetches the newest reference rates now. The error is an [*outside.Problem], or
// [outside.ErrNone].
func (s *Server) AskForRates(ctx context.Context) error { return s.rates.ask(ctx, s.today()) }

// muchMoved is by which share a rate has moved when it is said.
const muchMoved = 0.03

// moved says by how much a rate of a study has moved since its day, where that is much: ""
// where it is not, or no newer rates are known.
func moved(newest *outside.Rates, code string, pinned quote.Rate, to money.Currency) string {
	from, err := money.ParseCurrency(code)
	if newest == nil || err != nil || pinned.Rate <= 0 || !newest.On.After(pinned.On) {
		return ""
	}
	now, ok := newest.Between(from, to)
	if !ok {
		return ""
	}
	by := float64(now)/float64(pinned.Rate) - 1
	if math.Abs(by) <= muchMoved {
		return ""
	}
	return fmt.Sprintf("%s on %s: %+.1f%% since", now, newest.On.Format("2 Jan 2006"), 100*by)
}

// takeRates pins the reference rates of a day for all currencies that a study needs.
func (s *Server) takeRates(c *gin.Context) {
	k := callerOf(c)
	id, _ := thing(c)
	at := s.editing(c, id)
	st, err := s.store.Study(c, k.workspace(), id, at.Today)
	if errors.Is(err, store.ErrMissing) {
		err = &failure{status: http.StatusNotFound, What: "This study is not here any more.", Do: "The Desk lists what there is."}
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	back := "/studies/" + id.String() + "/brief"
	tell := func(what string) {
		s.fail(c, &failure{status: http.StatusUnprocessableEntity, What: what, Do: "Nothing was changed. Rates can be typed on the Brief."})
	}
	day := at.Today
	if text := c.PostForm("day"); text != "" {
		if day, err = document.Until(at.Today).Typed(text); err != nil {
			tell(quoted(text) + " is no day up to today, such as 26 Nov 2026.")
			return
		}
	}
	rates, err := s.rates.from.RatesOn(c, day)
	var problem *outside.Problem
	switch {
	case errors.Is(err, outside.ErrNone):
		tell("No reference rates are set up here.")
		return
	case errors.As(err, &problem):
		tell("The reference rates could not be taken: " + problem.What + ".")
		return
	case err != nil:
		s.fail(c, err)
		return
	}
	change, missing := pinned(st, rates)
	if len(missing) > 0 {
		tell("The reference rates have none for " + list(missing) + ".")
		return
	}
	if len(change) > 0 {
		if _, err := saved(c, s.store.Edit(c, at, change), "", ""); err != nil {
			s.fail(c, err)
			return
		}
	}
	c.Redirect(http.StatusSeeOther, back)
}

// pinned is the change that sets the rates of a day: of all that a study has, and those that
// the lists of its options need.
func pinned(st *study.Study, rates *outside.Rates) (change document.Change, missing []string) {
	var codes []string
	need := func(code string) {
		for _, one := range codes {
			if one == code {
				return
			}
		}
		if code != st.Currency.Code() {
			codes = append(codes, code)
		}
	}
	for i := range st.Options {
		for _, t := range st.Options[i].Tools() {
			if t.Edition != nil {
				need(t.Edition.Currency.Code())
			}
		}
	}
	for code := range st.Rates {
		need(code)
	}
	day := rates.On.Format(time.DateOnly)
	for _, code := range codes {
		from, err := money.ParseCurrency(code)
		rate, ok := rates.Between(from, st.Currency)
		if err != nil || !ok || rate <= 0 {
			missing = append(missing, code)
			continue
		}
		was, there := st.Rates[code]
		if !there {
			op, err := table.Add(*st, "rates", map[string]string{"currency": code, "rate": rate.Grouped(), "on": day})
			if err != nil {
				missing = append(missing, code)
				continue
			}
			change = append(change, op)
			continue
		}
		path := document.Path("rates").To(code)
		if was.Rate != rate {
			change = append(change, document.Op{Do: document.Set, Path: path.To("rate"), Was: was.Rate.String(), To: rate.String()})
		}
		if text := was.On.Format(time.DateOnly); text != day {
			change = append(change, document.Op{Do: document.Set, Path: path.To("on"), Was: text, To: day})
		}
	}
	return change, missing
}
