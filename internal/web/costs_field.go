package web

import (
	"encoding/json"
	"fmt"
	"html/template"

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
	PartsX int64        `json:"partsX"` // of one, in which values are counted
	PartsY int64        `json:"partsY"`
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
		b.Fault = "A field needs two drivers that prices follow, and prices here follow only one."
		return b, nil
	}
	b.X, b.Y = r.axes("/costs/field", "driver", x, y), r.axes("/costs/field", "by", y, x)
	byFit := r.c.Query("who") == "fit" && len(st.Criteria) > 0
	b.Who = []choiceView{{Label: "costs least", Link: r.query("/costs/field", "who", ""), Chosen: !byFit}}
	if len(st.Criteria) > 0 {
		b.Who = append(b.Who, choiceView{Label: "fits best", Link: r.query("/costs/field", "who", "fit"), Chosen: byFit})
	}
	alongX, _ := o.Axis(x)
	alongY, _ := o.Axis(y)
	highX, problem := r.typedEnd("to", alongX)
	highY, other := r.typedEnd("up", alongY)
	b.ToX, b.ToY, b.Problem, b.Hidden = alongX.Show(highX), alongY.Show(highY), orElse(problem != "", problem, other), r.hiddenQuery("to", "up")
	f, err := o.Field(r.paging(), x, y, 0, highX, highY, byFit)
	if err != nil {
		b.Fault = sayAlongFault(err)
		return b, nil
	}
	b.NameX, b.NameY = usage.LowerFirst(f.X.Name), usage.LowerFirst(f.Y.Name)
	b.Say = phrase(o.SayField(f, byFit))
	where := func(now int64, d study.Axis, all []study.RegionWords) {
		w := fieldWhere{Title: "At " + d.Count(now)}
		if d.Parts > 1 {
			w.Title = "With " + usage.LowerFirst(d.Name) + " at " + d.Show(now)
		}
		for _, one := range all {
			w.All = append(w.All, r.where(one.Result, "", one.Text))
		}
		b.Where = append(b.Where, w)
	}
	if !byFit {
		where(f.NowY, f.Y, o.SayRegions(f.AlongX, f.X, f.Xs[0], highX))
		where(f.NowX, f.X, o.SayRegions(f.AlongY, f.Y, f.Ys[0], highY))
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
	d := fieldData{Names: []fieldName{}, LabelX: f.X.Name, LabelY: f.Y.Name, PartsX: f.X.Parts, PartsY: f.Y.Parts,
		HighX: f.Xs[len(f.Xs)-1], Ys: f.Ys, Path: f.Path[:inside], Start: st.Start.String(),
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
		b.Heads = append(b.Heads, f.X.Show(f.Xs[i]))
	}
	step := max(1, len(f.Ys)/10)
	for j := 0; j < len(f.Ys); j += step {
		row := fieldRow{At: f.Y.Show(f.Ys[j])}
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
