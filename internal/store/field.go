package store

import (
	"maps"
	"slices"
	"strings"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
)

// Field names something that is edited in place.
type Field struct {
	Edit   string // a key of kinds: pay, driver, growth, weight, best, worst, rating, option; study, platform
	Of     string // key of the driver, criterion, option or platform; id of the study
	Option string // rating: key of the option
	Rater  string // rating: name of who rates
}

// String names the field in errors.
func (f Field) String() string {
	return strings.Join(strings.Fields(strings.Join([]string{f.Edit, f.Of, f.Option, f.Rater}, " ")), " ")
}

// Where a thing that can be deleted stands.
const (
	Here  = "here"
	InBin = "in the bin"
)

// kind is how a kind of field is set, and what that needs.
type kind struct {
	need doors.Need
	// The statement that sets the field to $3 where $2 stands in it; $1 is the
	// study, or the workspace for what belongs to no study, and $4 the field's
	// Of. A rating has statements of its own.
	set  string
	wide bool   // of the workspace, not of a study
	name string // what the thing is called, for the history; $1 and $2 as $1 and $4 above
	// where the thing stands, for what can be deleted; likewise
	stands string
}

const (
	standing    = `case when deleted_at is null then 'here' else 'in the bin' end`
	whereabouts = standing + " = $2"
)

var kinds = map[string]kind{
	"pay":    {need: doors.ToEdit, set: "update studies set pay = $3 where id = $1 and pay = $2 and $4 = ''"},
	"driver": {need: doors.ToEdit, set: "update study_drivers set value = $3::numeric, revision = revision + 1 where study_id = $1 and value = $2::numeric and driver = $4"},
	"growth": {need: doors.ToEdit, set: "update study_drivers set growth = $3::numeric, revision = revision + 1 where study_id = $1 and growth = $2::numeric and driver = $4"},
	"weight": {need: doors.ToEdit, set: "update study_criteria set weight = $3::numeric, revision = revision + 1 where study_id = $1 and weight = $2::numeric and key = $4"},
	"best":   {need: doors.ToEdit, set: "update study_criteria set best = $3::numeric, revision = revision + 1 where study_id = $1 and best = $2::numeric and key = $4 and source = 'cost'"},
	"worst":  {need: doors.ToEdit, set: "update study_criteria set worst = $3::numeric, revision = revision + 1 where study_id = $1 and worst = $2::numeric and key = $4 and source = 'cost'"},
	"rating": {need: doors.ToRate},
	"option": {need: doors.ToEdit, set: "update study_options set deleted_at = case $3 when 'in the bin' then now() end, revision = revision + 1 where study_id = $1 and key = $4 and " + whereabouts,
		name:   "select name from study_options where study_id = $1 and key = $2",
		stands: "select " + standing + " from study_options where study_id = $1 and key = $2"},
	"study": {need: doors.ToEdit, wide: true, name: "select title from studies where workspace_id = $1 and id::text = $2",
		stands: "select " + standing + " from studies where workspace_id = $1 and id::text = $2",
		set:    "update studies set deleted_at = case $3 when 'in the bin' then now() end, revision = revision + 1 where workspace_id = $1 and id::text = $4 and " + whereabouts},
	"platform": {need: doors.ToEdit, wide: true, name: "select name from platforms where workspace_id = $1 and key = $2",
		stands: "select " + standing + " from platforms where workspace_id = $1 and key = $2",
		set:    "update platforms set deleted_at = case $3 when 'in the bin' then now() end where workspace_id = $1 and key = $4 and " + whereabouts},
}

// NeedOf returns what an edit of this kind needs; [doors.Untold], which nobody
// meets, for one that is not known.
func NeedOf(edit string) doors.Need { return kinds[edit].need }

// undoable lists the kinds of fields of one scope: of studies, or of the
// workspace itself.
func undoable(wide bool) []string { return settable(wide, doors.Owner) }

// settable lists those of them that a role may set.
func settable(wide bool, role doors.Role) []string {
	return slices.Sorted(func(yield func(string) bool) {
		for edit := range maps.Keys(kinds) {
			if kinds[edit].wide == wide && role.May(kinds[edit].need) && !yield(edit) {
				return
			}
		}
	})
}

// A rating is set by what stands there and what is to: nothing, or a value.
// $1 is the study, $2 and $3 was and to, $4 criterion, $5 option, $6 rater,
// $7 workspace, $8 reason.
const (
	ratingRow = `study_ratings.study_id = $1 and person_id = (select id from people where workspace_id = $7 and name = $6)
		and option_id = (select id from study_options where study_id = $1 and key = $5) and criterion_id = (select id from study_criteria where study_id = $1 and key = $4)`
	changeRating = "update study_ratings set value = $3::numeric, revision = revision + 1 where value = $2::numeric and " + ratingRow
	removeRating = "delete from study_ratings where value = $2::numeric and $3 = '' and " + ratingRow + " returning reason"
	insertRating = `insert into study_ratings (study_id, person_id, option_id, criterion_id, value, reason)
		select $1, p.id, o.id, c.id, $3::numeric, $8 from people p, study_options o, study_criteria c
		where $2 = '' and p.workspace_id = $7 and p.name = $6 and o.study_id = $1 and o.key = $5 and c.study_id = $1 and c.key = $4 and c.source = 'rated'
		on conflict do nothing`
)

// In returns what stands in the field in a study, in the words that the
// database holds: plain decimals, shares as ratios, "" for no rating.
func (f Field) In(st *study.Study) string {
	switch f.Edit {
	case "pay":
		return string(st.Pay)
	case "option":
		for _, o := range st.Options {
			if o.Key == f.Of {
				return Here
			}
		}
		return InBin
	case "rating":
		var given *fit.Halves
		for _, one := range st.Ratings {
			if one.Rater == f.Rater && one.Option == f.Option && one.Criterion == f.Of {
				given = &one.Value
			}
		}
		return ratingText(given)
	}
	for _, d := range st.Drivers {
		if d.Driver == f.Of && f.Edit == "driver" {
			return d.Path.Now.String()
		}
		if d.Driver == f.Of && f.Edit == "growth" {
			return asRatio(d.Path.Growth)
		}
	}
	for _, c := range st.Criteria {
		if c.ID == f.Of {
			return map[string]string{"weight": asRatio(c.Weight), "best": c.Best.String(), "worst": c.Worst.String()}[f.Edit]
		}
	}
	return ""
}

func ratingText(h *fit.Halves) string {
	if h == nil {
		return ""
	}
	return h.String()
}

// asRatio writes a share as the database holds it: 0.15 for 15%.
func asRatio(s money.Share) string { return money.Amount(s).String() }
