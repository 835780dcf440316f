package formats

import (
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
)

// Files of version 1 of workspaces hold changes of one field each, in the words
// of the tables of that time, and studies with the options of their bin.

// workspaceV1 is a workspace as those files have it. The histories stand beside
// the studies, in their order.
type workspaceV1 struct {
	Workspace
	Old       []changeV1
	Histories [][]changeV1
}

type changeV1 struct {
	At                                                     time.Time
	By, Edit, Of, Option, Rater, Was, Became, Reason, Name string
	UndoneAt                                               time.Time
	Lapsed, Passed                                         bool
}

// studyV1 is a study with its old history.
type studyV1 struct {
	StudyEntry
	Old []changeV1
}

func workspaceFieldsV1(latest time.Time) *document.Table[workspaceV1] {
	type w = *workspaceV1
	studies := study.Fields(study.Sources{Latest: latest, WithBin: true})
	type s = *studyV1
	when := document.Moment(latest)
	common := workspaceParts(latest, nil, document.Then(func(*Workspace) {}))
	parts := document.Parts[workspaceV1]{}
	for _, part := range common[:4] {
		parts = append(parts, document.Within(func(w w) *Workspace { return &w.Workspace }, part))
	}
	parts = append(parts, document.List("studies", document.Items[workspaceV1, studyV1]{
		Get: func(w w) []studyV1 { return nil },
		Set: func(w w, all []studyV1) {
			for _, one := range all {
				w.Studies, w.Histories = append(w.Studies, one.StudyEntry), append(w.Histories, one.Old)
			}
		},
		Key: func(s s) string { return studyKey(&s.StudyEntry) }, Name: func(_ w, s s) string { return s.Study.Title }, One: "study", Most: 100_000, Must: true},
		document.Parts[studyV1]{
			document.Field("binned_at", "", when, func(s s) *time.Time { return &s.BinnedAt }),
			document.Field("updated_at", "", when, func(s s) *time.Time { return &s.UpdatedAt }, document.Must),
			document.Nested("study", func(s s) *study.Study { return &s.Study }, studies, document.Must),
			historyV1(when, func(s s) *[]changeV1 { return &s.Old }),
		}), historyV1(when, func(w w) *[]changeV1 { return &w.Old }))
	return &document.Table[workspaceV1]{Format: WorkspaceFormatV1, Parts: parts}
}

func historyV1[P any](when document.Notation[time.Time], at func(*P) *[]changeV1) document.Part[P] {
	type c = *changeV1
	words := lines(300)
	parts := document.Parts[changeV1]{
		document.Field("at", "", when, func(c c) *time.Time { return &c.At }, document.Must),
		document.Field("by", "", personOrNone, func(c c) *string { return &c.By }),
		document.Field("edit", "", lines(40), func(c c) *string { return &c.Edit }, document.Must),
		document.Field("rater", "", personOrNone, func(c c) *string { return &c.Rater }),
		document.Field("undone_at", "", when, func(c c) *time.Time { return &c.UndoneAt }),
		document.Field("lapsed", "", document.YesNo(), func(c c) *bool { return &c.Lapsed }),
		document.Field("passed", "", document.YesNo(), func(c c) *bool { return &c.Passed }),
	}
	for name, text := range map[string]func(c) *string{"of": func(c c) *string { return &c.Of }, "option": func(c c) *string { return &c.Option },
		"was":    func(c c) *string { return &c.Was },
		"became": func(c c) *string { return &c.Became }, "kept": func(c c) *string { return &c.Reason }, "name": func(c c) *string { return &c.Name }} {
		parts = append(parts, document.Field(name, "", words, text))
	}
	return document.List("history", document.Of(at, document.Items[P, changeV1]{Key: func(c) string { return "" },
		Name: func(*P, c) string { return "" }, One: "change", Most: 1_000_000, Must: true}), parts)
}

// modern turns the workspace into one of today.
func (w *workspaceV1) modern() *Workspace {
	for i := range w.Studies {
		one := &w.Studies[i]
		for _, c := range w.Histories[i] {
			if c.Edit == "study" {
				c.Of = one.Study.Key
			}
			entry := c.modern(&one.Study)
			entry.Wide = c.Edit == "study"
			one.History = append(one.History, entry)
		}
		one.History = append(one.History, unnoted(&one.Study, w.Histories[i])...)
		one.Study = *one.Study.InTheRunning()
	}
	for _, c := range w.Old {
		entry := c.modern(&study.Study{})
		entry.Wide = true
		w.History = append(w.History, entry)
	}
	return &w.Workspace
}

// unnoted are the options in the bin of which the history does not say that they
// went there.
func unnoted(s *study.Study, history []changeV1) (all []ChangeEntry) {
	gone := map[string]bool{}
	for _, c := range history {
		if c.Edit == "option" && c.UndoneAt.IsZero() {
			gone[c.Of] = c.Became == "in the bin"
		}
	}
	for _, o := range s.Options {
		if !o.BinnedAt.IsZero() && !gone[o.Key] {
			c := changeV1{At: o.BinnedAt, Edit: "option", Of: o.Key, Was: "here", Became: "in the bin", Name: o.Name}
			all = append(all, c.modern(s))
		}
	}
	return all
}

func (c *changeV1) modern(s *study.Study) ChangeEntry {
	e := ChangeEntry{At: c.At, By: c.By, UndoneAt: c.UndoneAt, Lapsed: c.Lapsed, Passed: c.Passed, Ops: c.ops(s)}
	say := func(label, was, to string) { e.Says = []document.Said{{Label: label, Was: was, To: to}} }
	switch {
	case c.Edit == "option" && len(e.Ops) > 0:
		say("Option "+c.Name, place(c.Was), place(c.Became))
	case len(e.Ops) == 0:
		e.About = c.Edit
		say(strings.TrimSpace(strings.ToUpper(c.Edit[:1])+c.Edit[1:]+" "+c.Name), c.Was, c.Became)
	case c.Edit == "study" || c.Edit == "platform":
		say(strings.ToUpper(c.Edit[:1])+c.Edit[1:]+" "+c.Name, c.Was, c.Became)
	default:
		all := study.Fields(study.Sources{WithBin: true})
		e.Says = all.Say(*s, e.Ops)
	}
	return e
}

func place(text string) string {
	if text == "here" {
		return "in the line-up"
	}
	return text
}

// ops are the edits of a change; none for one that was only noted, or of which
// nothing is left that it could be made of.
func (c *changeV1) ops(s *study.Study) document.Change {
	set := func(path document.Path, was, to string) document.Change {
		return document.Change{{Do: document.Set, Path: path, Was: was, To: to}}
	}
	share := func(text string) string {
		a, err := money.ParseAmount(text)
		if err != nil {
			return text
		}
		return money.Share(a).String()
	}
	root := document.Path("")
	switch c.Edit {
	case "pay":
		return set("pay", c.Was, c.Became)
	case "driver":
		return set(root.To("drivers", c.Of, "now"), c.Was, c.Became)
	case "growth":
		return set(root.To("drivers", c.Of, "growth"), share(c.Was), share(c.Became))
	case "weight":
		return set(root.To("criteria", c.Of, "weight"), share(c.Was), share(c.Became))
	case "best", "worst":
		return set(root.To("criteria", c.Of, c.Edit), c.Was, c.Became)
	case "rating":
		return c.rating()
	case "option":
		return c.option(s)
	case "study":
		return moved("studies", c.Of, c.Became == "in the bin")
	case "platform":
		return moved("platforms", c.Of, c.Became == "in the bin")
	}
	return nil
}

func moved(list, key string, gone bool) document.Change {
	op := document.Op{Do: document.Insert, Path: document.Path("").To(list, key)}
	if gone {
		op.Do = document.Remove
	}
	return document.Change{op}
}

func (c *changeV1) rating() document.Change {
	at := document.Path("ratings").To(study.RatingKey(&fit.Rating{Rater: c.Rater, Option: c.Option, Criterion: c.Of}))
	item := func(value string) string {
		h, err := fit.ParseHalves(value)
		if err != nil {
			return ""
		}
		return study.WriteRating(fit.Rating{Rater: c.Rater, Option: c.Option, Criterion: c.Of, Value: h, Reason: c.Reason})
	}
	switch {
	case c.Was == "":
		return document.Change{{Do: document.Insert, Path: at, To: item(c.Became)}}
	case c.Became == "":
		return document.Change{{Do: document.Remove, Path: at, Was: item(c.Was)}}
	}
	return document.Change{{Do: document.Set, Path: at.To("value"), Was: c.Was, To: c.Became}}
}

// option removes an option with its ratings, as they are now, or brings it back.
func (c *changeV1) option(s *study.Study) document.Change {
	var away document.Change
	whole := *s.Named()
	for i := range whole.Options {
		o := whole.Options[i]
		if o.Key != c.Of {
			continue
		}
		o.BinnedAt = time.Time{}
		for _, r := range whole.Ratings {
			if r.Option == o.Key {
				away = append(away, document.Op{Do: document.Remove, Path: document.Path("ratings").To(study.RatingKey(&r)), Was: study.WriteRating(r)})
			}
		}
		before := ""
		for _, next := range whole.Options[i+1:] {
			if before == "" && next.BinnedAt.IsZero() {
				before = next.Key
			}
		}
		away = append(away, document.Op{Do: document.Remove, Path: document.Path("options").To(o.Key), Was: study.WriteOption(o), Before: before})
	}
	if c.Became == "in the bin" {
		return away
	}
	return away.Inverse()
}
