package formats

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/feature"
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
	Features  string   // its catalogue, as a document; "": what ships
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
	Draft    string               // what is being written of it, as a document; "": nothing
	Aside    []AsideEntry         // drafts that were put aside, the oldest first
}

// AsideEntry is a draft that was put aside, and can be taken up again.
type AsideEntry struct {
	At    time.Time
	Draft string
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
				document.Field("draft", "", documentText(readDraft), func(p *PlatformEntry) *string { return &p.Draft }),
				document.List("aside", document.Of(func(p *PlatformEntry) *[]AsideEntry { return &p.Aside }, document.Items[PlatformEntry, AsideEntry]{
					Key: func(*AsideEntry) string { return "" }, Name: func(*PlatformEntry, *AsideEntry) string { return "" }, One: "draft", Most: 1_000}),
					document.Parts[AsideEntry]{
						document.Field("at", "", document.Moment(latest), func(a *AsideEntry) *time.Time { return &a.At }, document.Must),
						document.Field("draft", "", documentText(readDraft), func(a *AsideEntry) *string { return &a.Draft }, document.Must),
					}),
			}),
		document.List("studies", document.Of(func(w w) *[]StudyEntry { return &w.Studies }, document.Items[Workspace, StudyEntry]{
			Key: studyKey, Name: func(_ w, s *StudyEntry) string { return s.Study.Title }, One: "study", Most: 100_000, Must: true}), inStudy),
		document.Field("features", "", documentText(readCatalogue), func(w w) *string { return &w.Features }),
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

// documentText is a document as text, which can be read as one.
func documentText(read func(string) error) document.Notation[string] {
	return document.Notation[string]{Parse: func(s string) (string, error) {
		if s == "" {
			return "", nil
		}
		if err := read(s); err != nil {
			return s, document.Problem("holds a document that cannot be read: " + document.Shorten(err.Error(), 200))
		}
		return s, nil
	}, Text: func(s string) string { return s }, Want: "a document as text", As: document.IsText}
}

func readCatalogue(text string) error {
	_, err := feature.Table().Join(context.Background(), map[string]string{document.Main: text})
	return err
}

func readDraft(text string) error {
	_, err := pricelist.Drafts().Join(context.Background(), map[string]string{document.Main: text})
	return err
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
	to.Begin(w.Name, w.People, w.Features)
	for _, p := range w.Platforms {
		to.Platform(p)
	}
	for _, s := range w.Studies {
		to.Study(s)
	}
	err := to.End(w.History)
	return out.Bytes(), err
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
				e, ok := lists[t.Platform+pricelist.ReadText(t.ObservedOn)]
				if !ok && t.Platform != "" && !t.ObservedOn.IsZero() {
					place := fmt.Sprintf("studies[%d].study.options[%d]", i, j)
					if t != &o.Tool {
						place += fmt.Sprintf(".with[%d]", slices.IndexFunc(o.With, func(one study.Tool) bool { return one.Key == t.Key }))
					}
					file.r.faults.Add(1, place+".platform", "there is no edition of platform %q read on %s in the file", t.Platform, pricelist.ReadText(t.ObservedOn))
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
		id := e.Platform.Key + pricelist.ReadText(e.ObservedOn)
		switch {
		case e.Platform.Key != p.Key:
			r.faults.Add(1, name, "is a price list of %q, not of %q", e.Platform.Key, p.Key)
		case lists[id] != nil:
			r.faults.Add(1, name, "there are two editions of %q read on %s", p.Key, pricelist.ReadText(e.ObservedOn))
		}
		lists[id] = e
		p.Lists = append(p.Lists, e)
	}
}

// WorkspaceSchema returns the published schema of workspace files.
func WorkspaceSchema() []byte { return written.Schema() }
