package web

import (
	"encoding/json"
	"fmt"
	"html/template"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

type fieldBody struct {
	costsHead
	Say          template.HTML
	X, Y, Who    []choiceView
	ToX, ToY     string
	Problem      string
	Fault        string
	Hidden       []againField
	Data         json.RawMessage
	Alt          string
	Where        []fieldWhere
	Passes       []passView
	Heads        []string // of the table: values of x
	Rows         []fieldRow
	NameX, NameY string
}

// fieldWhere says where somebody is best along one axis.
type fieldWhere struct {
	Title string
	All   []whereView
}

type passView struct {
	Month, From, To  string
	FaceFrom, FaceTo int
}

type fieldRow struct {
	At    string
	Cells []string
}

// fieldData is what the field is drawn from.
type fieldData struct {
	LabelX string       `json:"labelX"`
	LabelY string       `json:"labelY"`
	HighX  int64        `json:"highX"`
	Ys     []int64      `json:"ys"`
	Rows   [][][3]int64 `json:"rows"` // of each y: from, to and face of each run
	Names  []fieldName  `json:"names"`
	Path   [][2]float64 `json:"path"`
	Start  string       `json:"start"`
	End    string       `json:"end"`
}

type fieldName struct {
	Face int    `json:"face"`
	Name string `json:"name"`
}

func buildField(r *request) (any, error) {
	b := fieldBody{costsHead: r.costsHead("field")}
	o, st := r.outcome, r.study()
	x := r.pickDriver("driver", "")
	y := r.pickDriver("by", x)
	if r.c.Query("by") == "" { // seats, where prices follow them, say most beside contacts
		for _, d := range o.Axes() {
			if d.Key == "seats" && x != "seats" {
				y = "seats"
			}
		}
	}
	if x == "" || y == "" {
		b.Fault = "A field needs two drivers that prices follow: set another one on Growth, such as seats."
		return b, nil
	}
	b.X, b.Y = r.axes("/costs/field", "driver", x, y), r.axes("/costs/field", "by", y, x)
	byFit := r.c.Query("who") == "fit" && len(st.Criteria) > 0
	b.Who = []choiceView{{Label: "costs least", Link: r.query("/costs/field", "who", ""), Chosen: !byFit}}
	if len(st.Criteria) > 0 {
		b.Who = append(b.Who, choiceView{Label: "fits best", Link: r.query("/costs/field", "who", "fit"), Chosen: byFit})
	}
	highX, problem := r.typedEnd("to", x)
	highY, other := r.typedEnd("up", y)
	b.ToX, b.ToY, b.Problem, b.Hidden = money.Thousands(uint64(highX)), money.Thousands(uint64(highY)), orElse(problem != "", problem, other), r.hiddenQuery("to", "up")
	f, err := o.Field(x, y, 0, highX, highY, byFit)
	if err != nil {
		b.Fault = sayAlongFault(err)
		return b, nil
	}
	b.NameX, b.NameY = usage.LowerFirst(f.X.Name), usage.LowerFirst(f.Y.Name)
	b.Say = phrase(o.SayField(f, byFit))
	where := func(title string, d usage.Driver, all []study.RegionWords) {
		w := fieldWhere{Title: title}
		for _, one := range all {
			w.All = append(w.All, r.where(one.Result, "", one.Text))
		}
		b.Where = append(b.Where, w)
	}
	if !byFit {
		where(fmt.Sprintf("At %s %s", money.Thousands(uint64(f.NowY)), b.NameY), f.X, o.SayRegions(f.AlongX, f.X, 0, highX))
		where(fmt.Sprintf("At %s %s", money.Thousands(uint64(f.NowX)), b.NameX), f.Y, o.SayRegions(f.AlongY, f.Y, 0, highY))
	}
	result := func(k int) int {
		if k < 0 {
			return -1
		}
		return f.Results[k]
	}
	for _, p := range f.Passes() {
		b.Passes = append(b.Passes, passView{st.Month(p.Month).String(), r.nameOf(result(p.From)), r.nameOf(result(p.To)), r.faceOf(result(p.From)), r.faceOf(result(p.To))})
	}
	return b, b.draw(r, f, byFit)
}

// tableEvery is every how many values of an axis the table of a field has one.
const tableEvery = 8

func (b *fieldBody) draw(r *request, f *study.Field, byFit bool) error {
	st := r.study()
	inside := f.Inside()
	d := fieldData{Names: []fieldName{}, LabelX: f.X.Name, LabelY: f.Y.Name, HighX: f.Xs[len(f.Xs)-1], Ys: f.Ys, Path: f.Path[:inside], Start: st.Start.String(),
		End: st.Month(max(0, inside-1)).String()}
	used := map[int]bool{}
	for _, row := range f.Rows {
		var runs [][3]int64
		for _, g := range row {
			face := 0
			if g.Least >= 0 {
				face = r.faceOf(f.Results[g.Least])
			}
			used[face] = true
			runs = append(runs, [3]int64{g.From, g.To, int64(face)})
		}
		d.Rows = append(d.Rows, runs)
	}
	for i := range r.outcome.Results {
		if o := &r.outcome.Results[i].Option; used[o.Face] {
			d.Names = append(d.Names, fieldName{o.Face, o.Name})
		}
	}
	does := "costs least"
	if byFit {
		does = "fits best"
	}
	b.Alt = fmt.Sprintf("Who %s over %s and %s.", does, b.NameX, b.NameY)
	for i := 0; i < len(f.Xs); i += tableEvery {
		b.Heads = append(b.Heads, money.Thousands(uint64(f.Xs[i])))
	}
	step := max(1, len(f.Ys)/10)
	for j := 0; j < len(f.Ys); j += step {
		row := fieldRow{At: money.Thousands(uint64(f.Ys[j]))}
		for i := 0; i < len(f.Xs); i += tableEvery {
			k := f.Best[j][i]
			if k >= 0 {
				k = f.Results[k]
			}
			row.Cells = append(row.Cells, r.nameOf(k))
		}
		b.Rows = append(b.Rows, row)
	}
	var err error
	b.Data, err = json.Marshal(d)
	return err
}
