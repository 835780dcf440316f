package formats

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
)

// WorkspaceFormat is the first word of a workspace file.
const WorkspaceFormat = "nine-coins/workspace/1"

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

// StudyEntry is a study with what rests in its bin and its history. The study
// holds the options that are in the bin too, with their ratings.
type StudyEntry struct {
	Study     *study.Study
	BinnedAt  time.Time // of the study itself; zero: not in the bin
	UpdatedAt time.Time
	History   []ChangeEntry
}

// ChangeEntry is a line of a history, the oldest first. Was and Became are as
// the history keeps them: plain decimals, shares as ratios.
type ChangeEntry struct {
	At       time.Time  `json:"at"`
	By       string     `json:"by,omitempty"`
	Edit     string     `json:"edit"`
	Of       string     `json:"of,omitempty"`
	Option   string     `json:"option,omitempty"`
	Rater    string     `json:"rater,omitempty"`
	Was      string     `json:"was,omitempty"`
	Became   string     `json:"became,omitempty"`
	Kept     string     `json:"kept,omitempty"`
	Name     string     `json:"name,omitempty"`
	UndoneAt *time.Time `json:"undone_at,omitempty"`
	Lapsed   bool       `json:"lapsed,omitempty"`
	Passed   bool       `json:"passed,omitempty"`
}

type (
	workspaceFile struct {
		Format    string           `json:"format"`
		Name      string           `json:"name"`
		People    []string         `json:"people"`
		Platforms []platformFile   `json:"platforms"`
		Studies   []studyEntryFile `json:"studies"`
		History   []ChangeEntry    `json:"history"`
	}
	platformFile struct {
		Key      string     `json:"key"`
		BinnedAt *time.Time `json:"binned_at,omitempty"`
		Editions []string   `json:"editions"`
	}
	studyEntryFile struct {
		BinnedAt  *time.Time      `json:"binned_at,omitempty"`
		UpdatedAt time.Time       `json:"updated_at"`
		Study     json.RawMessage `json:"study"`
		History   []ChangeEntry   `json:"history"`
	}
)

// withBin is how studies stand in a workspace: with what rests in their bin.
var withBin = study.Fields(study.Sources{WithBin: true})

// WriteWorkspace writes a workspace as a file that [ReadWorkspace] reads back
// equal.
func WriteWorkspace(w *Workspace) ([]byte, error) {
	f := workspaceFile{Format: WorkspaceFormat, Name: w.Name, People: orNone(w.People), Platforms: []platformFile{}, Studies: []studyEntryFile{}, History: orNone(w.History)}
	for _, p := range w.Platforms {
		f.Platforms = append(f.Platforms, platformFile{p.Key, momentOf(p.BinnedAt), orNone(p.Editions)})
	}
	for _, s := range w.Studies {
		f.Studies = append(f.Studies, studyEntryFile{momentOf(s.BinnedAt), s.UpdatedAt, withBin.Write(*s.Study), orNone(s.History)})
	}
	return json.MarshalIndent(f, "", "  ")
}

func orNone[T any](list []T) []T {
	if list == nil {
		return []T{}
	}
	return list
}

func momentOf(at time.Time) *time.Time {
	if at.IsZero() {
		return nil
	}
	return &at
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
	f := file.fields(WorkspaceFormat)
	w := &Workspace{Name: f.text("name", must, 60), People: readPeople(f)}
	lists := map[string]*pricelist.Edition{}
	platforms, keys := map[string]bool{}, map[string]bool{}
	f.each("platforms", must, 10_000, func(p *fields) {
		one := readPlatform(p, lists)
		if platforms[one.Key] {
			p.refuse(p.node, "key", "platform %q stands twice", one.Key)
		}
		platforms[one.Key] = true
		w.Platforms = append(w.Platforms, one)
	})
	find := func(platform string, day time.Time) (*pricelist.Edition, bool) {
		e, ok := lists[platform+day.Format(time.DateOnly)]
		return e, ok
	}
	f.each("studies", must, 10_000, func(s *fields) {
		one := StudyEntry{BinnedAt: s.moment("binned_at", optional), UpdatedAt: s.moment("updated_at", must)}
		if inner := s.inside("study", must); inner != nil {
			one.Study = readStudy(f.r, inner.node, inner.path, study.Sources{Latest: f.r.latest, Find: find, WithBin: true})
			if one.BinnedAt.IsZero() && keys[one.Study.Key] {
				inner.refuse(inner.node, "key", "study %q stands twice", one.Study.Key)
			}
			keys[one.Study.Key] = keys[one.Study.Key] || one.BinnedAt.IsZero()
		}
		one.History = readHistory(s)
		w.Studies = append(w.Studies, one)
	})
	w.History = readHistory(f)
	f.done()
	if err := file.r.done(); err != nil {
		return nil, err
	}
	return w, nil
}

// readPeople reads names of people, of which none is or looks like another.
func readPeople(f *fields) []string {
	n := f.of("people", must, "a list of names", document.IsList)
	if n == nil {
		return nil
	}
	var people []string
	seen := map[string]string{}
	for i, item := range n.Items {
		at := fmt.Sprintf("people[%d]", i)
		name := f.personIn(item, at, must)
		if other, twice := seen[doors.Likeness(name)]; twice && name != "" {
			f.refuse(item, at, "%q looks like %q, who is named before; each needs a name of their own", name, other)
		}
		seen[doors.Likeness(name)] = name
		people = append(people, name)
	}
	return people
}

func readPlatform(p *fields, lists map[string]*pricelist.Edition) PlatformEntry {
	one := PlatformEntry{Key: p.key("key", must), BinnedAt: p.moment("binned_at", optional)}
	n := p.of("editions", must, "a list", document.IsList)
	if n == nil {
		return one
	}
	for i, item := range n.Items {
		name := fmt.Sprintf("editions[%d]", i)
		if item.Shape != document.IsText {
			p.refuse(item, name, "expected a price list file as text, found %s", item.Shape)
			continue
		}
		e, err := ReadPriceList(p.r.ctx, []byte(item.Text), p.r.latest.AddDate(0, 0, -1))
		var faults Faults
		if errors.As(err, &faults) {
			for _, fault := range faults {
				p.refuse(item, name, "in the price list, %s", fault)
			}
		}
		if err != nil {
			continue
		}
		id := e.Platform.Key + e.ObservedOn.Format(time.DateOnly)
		switch {
		case e.Platform.Key != one.Key:
			p.refuse(item, name, "is a price list of %q, not of %q", e.Platform.Key, one.Key)
		case lists[id] != nil:
			p.refuse(item, name, "there are two editions of %q read on %s", one.Key, e.ObservedOn.Format(time.DateOnly))
		}
		lists[id] = e
		one.Editions, one.Lists = append(one.Editions, item.Text), append(one.Lists, e)
	}
	return one
}

func readHistory(f *fields) []ChangeEntry {
	var all []ChangeEntry
	f.each("history", must, 1_000_000, func(c *fields) {
		one := ChangeEntry{At: c.moment("at", must), By: c.person("by", optional), Edit: c.text("edit", must, 40), Of: c.text("of", optional, 300), Option: c.text("option", optional, 60),
			Rater: c.person("rater", optional), Was: c.text("was", optional, 300), Became: c.text("became", optional, 300), Kept: c.text("kept", optional, 300), Name: c.text("name", optional, 300),
			Lapsed: c.yes("lapsed"), Passed: c.yes("passed")}
		if at := c.moment("undone_at", optional); !at.IsZero() {
			one.UndoneAt = &at
		}
		all = append(all, one)
	})
	return all
}
