package study

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/pricelist"
)

// Option is something that is in the running: a platform, one plan of it, or a
// stack of several tools.
type Option struct {
	Key, Name string
	Face      int  // 1 to [MostOptions]
	Now       bool // what runs today
	Tool           // the platform; of a stack, the first of its tools
	With      []Tool
	Lets      []string  // keys of running tools that it makes unneeded
	Move      Move      // what it takes to move there
	Aside     string    // why it was set aside; "": it is in the running
	AsideOn   time.Time // when
	BinnedAt  time.Time // since when it rests in the bin; zero: it does not
}

// Tool is a platform, or one plan of it, as a part of an option.
type Tool struct {
	Key        string // among the further tools of a stack
	Platform   string
	ObservedOn time.Time // which price list it goes by
	Plan       string    // the plan that it is pinned to, by key; "": whichever serves best
	Term       string    // the term that it is pinned to, by key; "": as the study pays
	For        string    // what it is for in a stack
	Carries    bool      // the bridges of the stack run through it
	Edition    *pricelist.Edition
}

// Tools lists what the option is made of.
func (o *Option) Tools() []Tool { return append([]Tool{o.Tool}, o.With...) }

// Stack reports whether the option is made of several tools.
func (o *Option) Stack() bool { return len(o.With) > 0 }

// Called is what the tool is called: its platform, and the plan that it is pinned to.
func (t *Tool) Called() string {
	if t.Edition == nil {
		return t.Platform
	}
	if p, ok := t.Edition.Plan(t.Plan); ok {
		return t.Edition.Platform.Name + ", " + p.Name
	}
	return t.Edition.Platform.Name
}

// Called is what the option is called while it has no name of its own: its tool,
// or all of them.
func (o *Option) Called() string {
	names := []string{o.Tool.Called()}
	for i := range o.With {
		names = append(names, o.With[i].Called())
	}
	name := []rune(strings.Join(names, " + "))
	return string(name[:min(len(name), 60)])
}

func toolParts() document.Parts[Tool] {
	edits := document.Needs(toEdit)
	return document.Parts[Tool]{
		document.Field("key", "key", document.Key, func(t *Tool) *string { return &t.Key }, document.Must),
		document.Field("platform", "platform", document.Key, func(t *Tool) *string { return &t.Platform }, document.Must),
		document.Field("observed_on", "list of", document.DayOrTime, func(t *Tool) *time.Time { return &t.ObservedOn }, document.Must, edits),
		document.Field("plan", "plan", keyOrNone, func(t *Tool) *string { return &t.Plan }, edits),
		document.Field("term", "term", keyOrNone, func(t *Tool) *string { return &t.Term }, edits),
		document.Field("for", "what it is for", notation.Note(60), func(t *Tool) *string { return &t.For }, edits),
		document.Field("carries", "carries the bridges", document.YesNo(), func(t *Tool) *bool { return &t.Carries }, edits),
	}
}

func optionParts(from Sources) document.Parts[Option] {
	type o = *Option
	edits := document.Needs(toEdit)
	parts := document.Parts[Option]{
		document.Field("key", "key", document.Key, func(o o) *string { return &o.Key }, document.Must),
		document.Field("platform", "platform", document.Key, func(o o) *string { return &o.Platform }, document.Must),
		document.Field("observed_on", "list of", document.DayOrTime, func(o o) *time.Time { return &o.ObservedOn }, document.Must, edits),
		document.Field("plan", "plan", keyOrNone, func(o o) *string { return &o.Plan }, edits),
		document.Field("term", "term", keyOrNone, func(o o) *string { return &o.Term }, edits),
		document.Field("name", "name", notation.Title(60), func(o o) *string { return &o.Name }, edits),
		document.Field("face", "face", document.Whole(1, MostOptions), func(o o) *int { return &o.Face }, document.Must, edits),
		document.Field("now", "runs today", document.YesNo(), func(o o) *bool { return &o.Now }, edits),
		document.Field("for", "what it is for", notation.Note(60), func(o o) *string { return &o.For }, edits),
		document.Field("carries", "carries the bridges", document.YesNo(), func(o o) *bool { return &o.Carries }, edits),
		document.List("with", document.Of(func(o o) *[]Tool { return &o.With }, document.Items[Option, Tool]{
			Key: func(t *Tool) string { return t.Key }, Name: func(_ o, t *Tool) string { return t.Called() }, One: "tool", Most: MostTools - 1,
			Rekey: func(t *Tool, key string) { t.Key = key }}), toolParts(), edits),
		document.Texts("lets", document.Key, mostRunning, func(o o) *[]string { return &o.Lets }, document.InLine(" ", "tools that it makes unneeded"), edits),
		document.Inside("move", func(o o) *Move { return &o.Move }, moveParts()),
		document.Field("aside", "set aside", notation.Note(200), func(o o) *string { return &o.Aside }, edits),
		document.Field("aside_on", "set aside on", document.Day, func(o o) *time.Time { return &o.AsideOn }, edits),
	}
	if from.WithBin {
		parts = append(parts, document.Field("binned_at", "in the bin since", document.Moment(from.Latest), func(o o) *time.Time { return &o.BinnedAt }))
	}
	return parts
}

// keyOrNone is a key that may be left empty.
var keyOrNone = orNone(document.Key)

// EachTool calls with every tool of the option, and the path at which it stands.
func (o *Option) EachTool(do func(at document.Path, t *Tool)) {
	at := document.Path("options").To(o.Key)
	do(at, &o.Tool)
	for i := range o.With {
		do(at.To("with", o.With[i].Key), &o.With[i])
	}
}

// editions gives each tool of an option its price list, from where a file finds it.
func (o *Option) editions(find func(string, time.Time) (*pricelist.Edition, bool), tell tells) {
	o.EachTool(func(at document.Path, t *Tool) {
		if t.Platform == "" || t.ObservedOn.IsZero() {
			return
		}
		e, ok := find(t.Platform, t.ObservedOn)
		if !ok {
			tell(at.To("platform"), "there is no edition of platform %q read on %s; bring its price list in first", t.Platform, pricelist.ReadText(t.ObservedOn))
			return
		}
		t.Edition = e
	})
	if o.Name == "" && o.Edition != nil {
		o.Name = o.Called()
	}
}

// toolsDiffer refuses a stack in which the same plan of a platform stands twice, and
// more than one tool that carries bridges.
func toolsDiffer(o *Option, tell document.Tell) {
	seen, carriers := map[string]bool{o.Platform + " " + o.Plan: true}, count(o.Carries)
	for _, t := range o.With {
		if key := t.Platform + " " + t.Plan; seen[key] {
			tell(document.Path("with").To(t.Key, "platform"), "%s is in this stack already; pin each to a plan of its own, or take one out", t.Called())
		} else {
			seen[key] = true
		}
		if carriers += count(t.Carries); t.Carries && carriers > 1 {
			tell(document.Path("with").To(t.Key, "carries"), "two tools carry the bridges of this stack; one can")
		}
	}
}

// pinned is a price list with one plan only, as it is sold and as it was quoted; false where
// it has no such plan.
func pinned(e *pricelist.Edition, plan string) (*pricelist.Edition, bool) {
	at := slices.IndexFunc(e.Plans, func(p pricelist.Plan) bool { return p.Key == plan })
	if at < 0 {
		return e, false
	}
	end := at + 1
	if end < len(e.Plans) && e.Plans[end].Is(plan) { // as it was quoted
		end++
	}
	one := *e
	one.Plans = e.Plans[at:end:end]
	return &one, true
}

// running returns the options that are not set aside.
func (s *Study) running() []Option {
	return slices.DeleteFunc(slices.Clone(s.Options), func(o Option) bool { return o.Aside != "" })
}

// SetAside lists the options that were set aside.
func (s *Study) SetAside() []Option {
	return slices.DeleteFunc(slices.Clone(s.Options), func(o Option) bool { return o.Aside == "" })
}

// SetAsideNow is the change that sets an option aside for a reason, or takes it back
// into the running for none.
func (s *Study) SetAsideNow(key, reason string, today time.Time) (document.Change, error) {
	at := slices.IndexFunc(s.Options, func(o Option) bool { return o.Key == key })
	if at < 0 {
		return nil, fmt.Errorf("there is no option %q", key)
	}
	o, path, on := &s.Options[at], document.Path("options").To(key), ""
	if reason != "" {
		on = document.Day.Text(today)
	}
	return document.Change{{Do: document.Set, Path: path.To("aside"), Was: o.Aside, To: reason},
		{Do: document.Set, Path: path.To("aside_on"), Was: document.Day.Text(o.AsideOn), To: on}}, nil
}

// LetsGo is what the tools cost a month that an option makes unneeded.
func (s *Study) LetsGo(o *Option) (sum money.Amount) {
	for i := range s.Running {
		if slices.Contains(o.Lets, s.Running[i].Key) {
			sum += s.Running[i].Cost
		}
	}
	return sum
}

// NewOption is the change that adds an option, which gets a key, a face and, where it
// has none, a name that no other option has.
func (s *Study) NewOption(o Option) (document.Change, error) {
	if o.Name == "" {
		o.Name = o.Called()
	}
	taken := func(is func(*Option) bool) bool {
		return slices.ContainsFunc(s.Options, func(one Option) bool { return is(&one) })
	}
	called := o.Name
	for n := 2; taken(func(one *Option) bool { return one.Name == o.Name }); n++ {
		o.Name = fmt.Sprintf("%.56s %d", called, n)
	}
	o.Key = document.KeyFor(o.Name, func(key string) bool { return taken(func(one *Option) bool { return one.Key == key }) })
	o.Face = s.freeFace()
	c := document.Change{{Do: document.Insert, Path: document.Path("options").To(o.Key), To: WriteOption(o)}}
	_, _, err := kept.Apply(*s, c)
	return c, err
}
