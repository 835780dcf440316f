package study

import (
	"slices"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/usage"
)

// Record is the history of a driver, month by month.
type Record struct {
	Driver  string
	Counted []usage.Counted
}

// MostCounted is how many months of a driver are kept: fifty years.
const MostCounted = 600

func historyPart() document.Part[Study] {
	return document.List("history", document.Of(func(s *Study) *[]Record { return &s.History }, document.Items[Study, Record]{
		Key: func(r *Record) string { return r.Driver }, Name: func(s *Study, r *Record) string {
			return "history of " + usage.LowerFirst(nameOfDriver(r.Driver, s.Own))
		},
		One: "history", Most: 80}), recordParts(), document.Needs(toEdit))
}

func recordParts() document.Parts[Record] {
	return document.Parts[Record]{
		document.Field("driver", "driver", document.Key, func(r *Record) *string { return &r.Driver }, document.Must),
		document.List("counted", document.Of(func(r *Record) *[]usage.Counted { return &r.Counted }, document.Items[Record, usage.Counted]{
			Key: func(c *usage.Counted) string { return c.Month.ISO() }, Name: func(_ *Record, c *usage.Counted) string { return c.Month.String() }, One: "month",
			Most: MostCounted, Make: countedOf, Absent: "not told"}), countedParts(), document.Needs(toEdit)),
	}
}

func countedOf(key string) (usage.Counted, bool) {
	m, err := usage.ParseMonth(key)
	return usage.Counted{Month: m}, err == nil
}

func countedParts() document.Parts[usage.Counted] {
	return document.Parts[usage.Counted]{
		document.Field("month", "month", notation.Month, func(c *usage.Counted) *usage.Month { return &c.Month }, document.Must),
		document.Field("value", "", notation.Quantity, func(c *usage.Counted) *usage.Quantity { return &c.Value }, document.Must, document.Needs(toEdit)),
	}
}

var recordTable = document.Item(recordParts())

// HistoryOf is what was counted of a driver.
func (s *Study) HistoryOf(driver string) []usage.Counted {
	for i := range s.History {
		if s.History[i].Driver == driver {
			return s.History[i].Counted
		}
	}
	return nil
}

// KeepHistory is the change that keeps histories in the place of those that the study
// has of the same drivers.
func (s *Study) KeepHistory(all []Record) (c document.Change) {
	for _, r := range all {
		slices.SortFunc(r.Counted, func(a, b usage.Counted) int { return int(a.Month - b.Month) })
		path := document.Path("history").To(r.Driver)
		if s.HistoryOf(r.Driver) != nil {
			c = append(c, document.Op{Do: document.Remove, Path: path})
		}
		c = append(c, document.Op{Do: document.Insert, Path: path, To: recordTable.WriteItem(r)})
	}
	return c
}

// TakeOver is the change that makes a driver grow, and swing, as its history did; nil
// where nothing can be fitted, or nothing would change. Where it stands today stays.
func (s *Study) TakeOver(driver string) document.Change {
	f, err := usage.FitGrowth(s.HistoryOf(driver))
	at := slices.IndexFunc(s.Drivers, func(d Setting) bool { return d.Driver == driver })
	if err != nil || at < 0 {
		return nil
	}
	was := &s.Drivers[at]
	now := *was
	now.Path.Growth = f.Growth
	if now.Path.Shape == usage.ByMonth {
		now.Path.Then = usage.Compound
	} else {
		now.Path.Shape = usage.Compound
	}
	if f.Seasonal {
		now.Path.Season = f.Season
	}
	return changed(document.Path("drivers").To(driver), was, &now)
}

// EvenSeason is the change that evens the seasonal factors of a driver to a mean of 1.
func (s *Study) EvenSeason(driver string) document.Change {
	at := slices.IndexFunc(s.Drivers, func(d Setting) bool { return d.Driver == driver })
	if at < 0 {
		return nil
	}
	now := s.Drivers[at]
	now.Path.Season = now.Path.Season.Evened()
	return changed(document.Path("drivers").To(driver), &s.Drivers[at], &now)
}

// changed sets the fields of a course in which two settings of a driver differ.
func changed(at document.Path, was, now *Setting) (c document.Change) {
	set := func(before, after string, steps ...string) {
		if before != after {
			c = append(c, document.Op{Do: document.Set, Path: at.To(steps...), Was: before, To: after})
		}
	}
	set(shapeText(was.Path.Shape), shapeText(now.Path.Shape), "shape")
	set(shapeText(was.Path.Then), shapeText(now.Path.Then), "then")
	set(was.Path.Growth.String(), now.Path.Growth.String(), "growth")
	for i, key := range usage.MonthKeys {
		set(was.Path.Season[i].String(), now.Path.Season[i].String(), "season", key)
	}
	return c
}
