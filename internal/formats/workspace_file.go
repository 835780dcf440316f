package formats

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
)

// WorkspaceFormat is what a workspace file says that it is; files of the one
// before are read too.
const (
	WorkspaceFormat   = "nine-coins/workspace/2"
	WorkspaceFormatV1 = "nine-coins/workspace/1"
)

// MostWorkspaceBytes is the size up to which a workspace file is read.
const MostWorkspaceBytes = 64 << 20

// Workspace is everything that a workspace holds, without accounts, roles and
// links: those are doors, and are not handed on in a file.
type Workspace struct {
	Name      string
	People    []string // names of raters and of who made changes
	Platforms []PlatformEntry
	Studies   []StudyEntry
	History   []ChangeEntry // of the workspace itself
}

// PlatformEntry is a platform with the files of its editions, letter by
// letter, in the order in which they were published.
type PlatformEntry struct {
	Key      string
	BinnedAt time.Time // zero: not in the bin
	Editions []string
	Lists    []*pricelist.Edition // the same, read
}

// StudyEntry is a study with its history. What rests in its bin is what its
// history has removed.
type StudyEntry struct {
	Study     study.Study
	BinnedAt  time.Time // of the study itself; zero: not in the bin
	UpdatedAt time.Time
	History   []ChangeEntry
}

// ChangeEntry is a line of a history, the oldest first: edits, or a note of
// something that is about neither.
type ChangeEntry struct {
	At       time.Time
	By       string
	Ops      document.Change
	About    string // of a note: what kind of note it is
	Says     []document.Said
	UndoneAt time.Time // zero: it stands
	Lapsed   bool
	Passed   bool
	Wide     bool // of a study: it came or went as a whole
}

// workspaceFields is the table of workspace files.
func workspaceFields(latest time.Time) *document.Table[Workspace] {
	type w = *Workspace
	studies := study.Fields(study.Sources{Latest: latest})
	return &document.Table[Workspace]{Format: WorkspaceFormat, Title: "A workspace of Nine Coins", Parts: workspaceParts(latest,
		document.Parts[StudyEntry]{
			document.Nested("study", func(s *StudyEntry) *study.Study { return &s.Study }, studies, document.Must),
			historyOf(latest, func(s *StudyEntry) *[]ChangeEntry { return &s.History }),
		}, historyOf(latest, func(w w) *[]ChangeEntry { return &w.History }))}
}

// workspaceParts describes what all versions of workspace files have in common.
func workspaceParts(latest time.Time, inStudy document.Parts[StudyEntry], history document.Part[Workspace]) document.Parts[Workspace] {
	type w = *Workspace
	inStudy = append(document.Parts[StudyEntry]{
		document.Field("binned_at", "", document.Moment(latest), func(s *StudyEntry) *time.Time { return &s.BinnedAt }),
		document.Field("updated_at", "", document.Moment(latest), func(s *StudyEntry) *time.Time { return &s.UpdatedAt }, document.Must),
	}, inStudy...)
	return document.Parts[Workspace]{
		document.Field("name", "", notation.Title(60), func(w w) *string { return &w.Name }, document.Must),
		document.Texts("people", notation.Person, 100_000, func(w w) *[]string { return &w.People }, document.Must),
		document.Check(peopleDiffer),
		document.List("platforms", document.Of(func(w w) *[]PlatformEntry { return &w.Platforms }, document.Items[Workspace, PlatformEntry]{
			Key: func(p *PlatformEntry) string { return p.Key }, Name: func(_ w, p *PlatformEntry) string { return p.Key }, One: "platform", Most: 10_000, Must: true}),
			document.Parts[PlatformEntry]{
				document.Field("key", "", document.Key, func(p *PlatformEntry) *string { return &p.Key }, document.Must),
				document.Field("binned_at", "", document.Moment(latest), func(p *PlatformEntry) *time.Time { return &p.BinnedAt }),
				document.Texts("editions", priceListFile, 10_000, func(p *PlatformEntry) *[]string { return &p.Editions }, document.Must),
			}),
		document.List("studies", document.Of(func(w w) *[]StudyEntry { return &w.Studies }, document.Items[Workspace, StudyEntry]{
			Key: studyKey, Name: func(_ w, s *StudyEntry) string { return s.Study.Title }, One: "study", Most: 100_000, Must: true}), inStudy),
		history,
	}
}

// studyKey tells studies apart; in the bin several may have one key.
func studyKey(s *StudyEntry) string {
	if !s.BinnedAt.IsZero() {
		return ""
	}
	return s.Study.Key
}

var priceListFile = document.Notation[string]{Parse: func(s string) (string, error) { return s, nil }, Text: func(s string) string { return s },
	Want: "a price list file as text", As: document.IsText}

func historyOf[P any](latest time.Time, at func(*P) *[]ChangeEntry) document.Part[P] {
	type c = *ChangeEntry
	when, words := document.Moment(latest), lines(700)
	return document.List("history", document.Of(at, document.Items[P, ChangeEntry]{
		Key: func(c) string { return "" }, Name: func(*P, c) string { return "" }, One: "change", Most: 1_000_000, Must: true}),
		document.Parts[ChangeEntry]{
			document.Field("at", "", when, func(c c) *time.Time { return &c.At }, document.Must),
			document.Field("by", "", personOrNone, func(c c) *string { return &c.By }),
			document.Field("about", "", lines(60), func(c c) *string { return &c.About }),
			document.List("ops", document.Of(func(c c) *[]document.Op { return (*[]document.Op)(&c.Ops) }, document.Items[ChangeEntry, document.Op]{
				Key: func(*document.Op) string { return "" }, Name: func(c, *document.Op) string { return "" }, One: "edit", Most: 10_000}), opParts()),
			document.List("says", document.Of(func(c c) *[]document.Said { return &c.Says }, document.Items[ChangeEntry, document.Said]{
				Key: func(*document.Said) string { return "" }, Name: func(c,
					*document.Said) string {
					return ""
				}, One: "sentence", Most: 10_000}), document.Parts[document.Said]{
				document.Field("label", "", words, func(s *document.Said) *string { return &s.Label }),
				document.Field("was", "", words, func(s *document.Said) *string { return &s.Was }),
				document.Field("to", "", words, func(s *document.Said) *string { return &s.To }),
			}),
			document.Field("undone_at", "", when, func(c c) *time.Time { return &c.UndoneAt }),
			document.Field("lapsed", "", document.YesNo(), func(c c) *bool { return &c.Lapsed }),
			document.Field("passed", "", document.YesNo(), func(c c) *bool { return &c.Passed }),
			document.Field("wide", "", document.YesNo(), func(c c) *bool { return &c.Wide }),
		})
}

func opParts() document.Parts[document.Op] {
	type o = *document.Op
	return document.Parts[document.Op]{
		document.Field("do", "", document.Among(document.Set, document.Insert, document.Remove, document.Move),
			func(o o) *document.Do { return &o.Do }, document.Must),
		document.Field("path", "", document.Notation[document.Path]{Parse: func(s string) (document.Path, error) { return document.Path(s), nil },
			Text: func(p document.Path) string { return string(p) }, Want: "a path", As: document.IsText}, func(o o) *document.Path { return &o.Path }, document.Must),
		document.Field("was", "", lines(4_000), func(o o) *string { return &o.Was }),
		document.Field("to", "", lines(4_000), func(o o) *string { return &o.To }),
		document.Field("before", "", lines(300), func(o o) *string { return &o.Before }),
	}
}

func lines(longest int) document.Notation[string] { return document.Line(longest, doors.HiddenInNotes) }

var personOrNone = func() document.Notation[string] {
	n := notation.Person
	n.Parse = func(s string) (string, error) {
		if s == "" {
			return "", nil
		}
		return notation.Person.Parse(s)
	}
	return n
}()

func peopleDiffer(w *Workspace, tell document.Tell) {
	seen := map[string]string{}
	for i, name := range w.People {
		like := doors.Likeness(name)
		if other, twice := seen[like]; twice && name != "" {
			tell(document.Path("people").To(fmt.Sprint(i)), "%q looks like %q, who is named before; each needs a name of their own", name, other)
		}
		seen[like] = name
	}
}

// WriteWorkspace writes a workspace as a file that [ReadWorkspace] reads back
// equal.
func WriteWorkspace(w *Workspace) ([]byte, error) {
	var out bytes.Buffer
	to := NewWorkspaceWriter(&out)
	to.Begin(w.Name, w.People)
	for _, p := range w.Platforms {
		to.Platform(p)
	}
	for _, s := range w.Studies {
		to.Study(s)
	}
	err := to.End(w.History)
	return out.Bytes(), err
}

// WorkspaceWriter writes a workspace file piece by piece, in the order of its
// methods: a workspace need not be in memory as a whole.
type WorkspaceWriter struct {
	out     io.Writer
	list    string // that is open
	entries int    // that stand in it
	err     error
}

// NewWorkspaceWriter makes a writer. The first error of out is told at its end.
func NewWorkspaceWriter(out io.Writer) *WorkspaceWriter { return &WorkspaceWriter{out: out} }

var written = workspaceFields(time.Time{})

func (w *WorkspaceWriter) put(text string) {
	if w.err == nil {
		_, w.err = io.WriteString(w.out, text)
	}
}

// indented writes JSON as it stands at a depth.
func (w *WorkspaceWriter) indented(data json.RawMessage, prefix string) {
	var b bytes.Buffer
	if err := json.Indent(&b, data, prefix, "  "); err != nil && w.err == nil {
		w.err = err
	}
	w.put(b.String())
}

// asFields are the written fields of a workspace of which only some are filled in.
func asFields(of Workspace) map[string]json.RawMessage {
	all := map[string]json.RawMessage{}
	if err := json.Unmarshal(written.Write(of), &all); err != nil {
		panic(err) // what was just written
	}
	return all
}

// Begin writes what stands before the lists.
func (w *WorkspaceWriter) Begin(name string, people []string) {
	f := asFields(Workspace{Name: name, People: people})
	w.put("{\n  \"format\": ")
	w.indented(f["format"], "  ")
	w.put(",\n  \"name\": ")
	w.indented(f["name"], "  ")
	w.put(",\n  \"people\": ")
	w.indented(f["people"], "  ")
	w.open("platforms")
}

func (w *WorkspaceWriter) open(list string) {
	w.put(",\n  \"" + list + "\": [")
	w.list, w.entries = list, 0
}

func (w *WorkspaceWriter) shut() {
	if w.entries > 0 {
		w.put("\n  ")
	}
	w.put("]")
}

func (w *WorkspaceWriter) entry(of Workspace) {
	if w.entries > 0 {
		w.put(",")
	}
	w.entries++
	w.put("\n    ")
	var all []json.RawMessage
	if err := json.Unmarshal(asFields(of)[w.list], &all); err != nil && w.err == nil {
		w.err = err
	}
	w.indented(all[0], "    ")
}

// Platform writes a platform.
func (w *WorkspaceWriter) Platform(p PlatformEntry) {
	w.entry(Workspace{Platforms: []PlatformEntry{p}})
}

// Study writes a study with its history; all platforms stand before it.
func (w *WorkspaceWriter) Study(s StudyEntry) {
	if w.list == "platforms" {
		w.shut()
		w.open("studies")
	}
	s.Study = *s.Study.Named()
	w.entry(Workspace{Studies: []StudyEntry{s}})
}

// End writes the history of the workspace and returns the first error there was.
func (w *WorkspaceWriter) End(history []ChangeEntry) error {
	if w.list == "platforms" {
		w.shut()
		w.open("studies")
	}
	w.shut()
	w.put(",\n  \"history\": ")
	w.indented(asFields(Workspace{History: history})["history"], "  ")
	w.put("\n}\n")
	return w.err
}

// ReadWorkspace reads a workspace file on a day and checks it whole: every
// price list and every study in it. A file at fault is refused with [Faults].
func ReadWorkspace(ctx context.Context, data []byte, today time.Time) (*Workspace, error) {
	file, err := openUpTo(ctx, data, today, whole)
	if err != nil {
		return nil, err
	}
	return file.Workspace()
}

// Workspace reads the file as a workspace.
func (file *File) Workspace() (*Workspace, error) {
	r := file.r
	if file.format == WorkspaceFormatV1 {
		old := workspaceFieldsV1(r.latest).Read(r.ctx, file.root, "", &r.faults)
		w := old.modern()
		w.lists(file)
		return w, r.done()
	}
	w := workspaceFields(r.latest).Read(r.ctx, file.root, "", &r.faults)
	w.lists(file)
	return &w, r.done()
}

// lists reads the price lists and gives each option its own.
func (w *Workspace) lists(file *File) {
	lists := map[string]*pricelist.Edition{}
	for i := range w.Platforms {
		w.Platforms[i].read(file.r, fmt.Sprintf("platforms[%d]", i), lists)
	}
	for i := range w.Studies {
		for j := range w.Studies[i].Study.Options {
			o := &w.Studies[i].Study.Options[j]
			o.EachTool(func(at document.Path, t *study.Tool) {
				e, ok := lists[t.Platform+t.ObservedOn.Format(time.DateOnly)]
				if !ok && t.Platform != "" && !t.ObservedOn.IsZero() {
					place := fmt.Sprintf("studies[%d].study.options[%d]", i, j)
					if t != &o.Tool {
						place += fmt.Sprintf(".with[%d]", slices.IndexFunc(o.With, func(one study.Tool) bool { return one.Key == t.Key }))
					}
					file.r.faults.Add(1, place+".platform", "there is no edition of platform %q read on %s in the file", t.Platform, t.ObservedOn.Format(time.DateOnly))
				}
				t.Edition = e
			})
			if o.Name == "" && o.Edition != nil {
				o.Name = o.Called()
			}
		}
	}
}

// read reads the price lists of a platform. The line of a fault is that in the
// price list.
func (p *PlatformEntry) read(r *reader, at string, lists map[string]*pricelist.Edition) {
	for i, text := range p.Editions {
		name := fmt.Sprintf("%s.editions[%d]", at, i)
		e, err := ReadPriceList(r.ctx, []byte(text), r.latest.AddDate(0, 0, -1))
		var faults Faults
		if errors.As(err, &faults) {
			for _, fault := range faults {
				r.faults.Add(1, name, "in the price list, %s", fault)
			}
		}
		if err != nil {
			continue
		}
		id := e.Platform.Key + e.ObservedOn.Format(time.DateOnly)
		switch {
		case e.Platform.Key != p.Key:
			r.faults.Add(1, name, "is a price list of %q, not of %q", e.Platform.Key, p.Key)
		case lists[id] != nil:
			r.faults.Add(1, name, "there are two editions of %q read on %s", p.Key, e.ObservedOn.Format(time.DateOnly))
		}
		lists[id] = e
		p.Lists = append(p.Lists, e)
	}
}

// WorkspaceSchema returns the published schema of workspace files.
func WorkspaceSchema() []byte { return written.Schema() }
