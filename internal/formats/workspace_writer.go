package formats

import (
	"bytes"
	"encoding/json"
	"io"
	"time"
)

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
func (w *WorkspaceWriter) Begin(name string, people []string, features string) {
	f := asFields(Workspace{Name: name, People: people, Features: features})
	w.put("{\n  \"format\": ")
	w.indented(f["format"], "  ")
	w.put(",\n  \"name\": ")
	w.indented(f["name"], "  ")
	w.put(",\n  \"people\": ")
	w.indented(f["people"], "  ")
	if features != "" {
		w.put(",\n  \"features\": ")
		w.indented(f["features"], "  ")
	}
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
