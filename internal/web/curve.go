package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
)

// curveView is a chart of what plans cost along a driver, with its table and its words.
type curveView struct {
	Title string
	Data  json.RawMessage
	Alt   string
	Along []choiceView
	Rows  []curveRow
	Heads []string
	Says  []string // where the next plan becomes the cheaper one
	Cut   bool
}

type curveRow struct {
	At    string
	Cells []string
}

// curveData is what the chart is drawn from.
type curveData struct {
	Label  string        `json:"label"`
	Sign   string        `json:"sign"`
	Low    int64         `json:"low"`
	High   int64         `json:"high"`
	Now    int64         `json:"now"`
	NowIs  string        `json:"nowIs"`
	Ticks  []curveTick   `json:"ticks,omitempty"`
	Series []curveSeries `json:"series"`
}

// curveTick is a mark of the axis with words of its own.
type curveTick struct {
	X     int64  `json:"x"`
	Label string `json:"label"`
}

type curveSeries struct {
	Name  string       `json:"name"`
	Shade int          `json:"shade"`
	Of    int          `json:"of"`
	Face  int          `json:"face,omitempty"`
	Parts [][4]float64 `json:"parts"` // x, y, x, y of each straight part that serves
}

// mostCurves is how many plans one chart follows.
const mostCurves = 24

func whole(a money.Amount) float64 { return float64(a) / float64(money.Scale) }

// curveAlong follows all plans of a list along a driver, monthly where they are sold so.
func curveAlong(e *pricelist.Edition, deal tariff.Deal, t *study.Tried, d usage.Driver, high int64) (*curveView, error) {
	read := func(x int64) []int64 {
		rows, err := rowAt(e, t, map[string][]float64{d.Key: {float64(x)}}, 1)
		if err != nil {
			return make([]int64, len(e.Meters))
		}
		return rows[0]
	}
	all := e
	if len(e.Plans) > mostCurves {
		some := *e
		some.Plans, all = e.Plans[:mostCurves], &some
	}
	months := 1
	if !slices.ContainsFunc(e.Plans, func(p pricelist.Plan) bool {
		_, ok := p.Term("monthly")
		return ok || len(p.Terms) > 0 && p.Terms[0].Months == 1
	}) {
		months = 12
	}
	curves, err := projection.Curves(all, deal, months, read, 0, high)
	if err != nil || len(curves) == 0 {
		return nil, errors.Join(err, errNoCurve)
	}
	now := t.Values[d.Key].Ceil().Whole()
	data := curveData{Label: d.Name, Sign: deal.Basis.Currency.Symbol(), High: high, Now: now, NowIs: t.Values[d.Key].Format()}
	c := &curveView{Title: "What it costs along " + strings.ToLower(d.Name), Cut: all != e}
	turns := []int64{0, now, high}
	for i := range curves {
		s := curveSeries{Name: curves[i].Plan.Name, Shade: i, Of: len(curves), Parts: [][4]float64{}}
		for _, p := range curves[i].Points {
			if p.Serves {
				s.Parts = append(s.Parts, [4]float64{float64(p.X), whole(p.From), float64(p.Last), whole(p.To)})
			}
			turns = append(turns, p.X)
		}
		data.Series = append(data.Series, s)
		c.Heads = append(c.Heads, curves[i].Plan.Name)
		c.Cut = c.Cut || curves[i].Cut
	}
	slices.Sort(turns)
	turns = slices.Compact(turns)
	cur := deal.Basis.Currency
	for _, x := range turns[:min(len(turns), 40)] {
		row := curveRow{At: money.Thousands(uint64(x))}
		for i := range curves {
			a, serves := curves[i].At(x)
			row.Cells = append(row.Cells, map[bool]string{true: cur.Format(a), false: "–"}[serves])
		}
		c.Rows = append(c.Rows, row)
	}
	c.Says = sayCheapest(curves, turns, high, usage.LowerFirst(d.Name))
	c.Alt = c.Title + ": " + strings.Join(c.Says, " ")
	c.Data, err = json.Marshal(data)
	return c, err
}

var errNoCurve = errors.New("no plan has a price to follow")

// sayCheapest says from where to where along a driver each plan costs least.
func sayCheapest(curves []projection.Curve, turns []int64, high int64, what string) (all []string) {
	best := func(x int64) int {
		at, least := -1, money.Amount(0)
		for i := range curves {
			a, serves := curves[i].At(x)
			if serves && (at < 0 || curves[at].May && !curves[i].May || curves[at].May == curves[i].May && a < least) {
				at, least = i, a
			}
		}
		return at
	}
	from, now := turns[0], best(turns[0])
	tell := func(to int64) {
		name := "no plan serves"
		if now >= 0 {
			name = curves[now].Plan.Name + " costs least"
		}
		text := fmt.Sprintf("from %s to %s %s %s", money.Thousands(uint64(from)), money.Thousands(uint64(to)), what, name)
		if to == high {
			text = fmt.Sprintf("from %s %s on %s", money.Thousands(uint64(from)), what, name)
		}
		all = append(all, capital(text)+".")
	}
	step := func(x int64) {
		if at := best(x); at != now {
			tell(x - 1)
			from, now = x, at
		}
	}
	for i := 1; i < len(turns); i++ {
		low, last := turns[i-1], turns[i]-1
		for low < last && best(last) != now { // the order turns on a straight part, as often as lines cross there
			end := last
			for end-low > 1 {
				if mid := low + (end-low)/2; best(mid) == now {
					low = mid
				} else {
					end = mid
				}
			}
			step(end)
			low = end
		}
		step(turns[i])
	}
	tell(high)
	return all
}
