package store

import (
	"context"
	"errors"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/doors"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// ChangedError reports an edit that was made on what somebody changed since.
// Nothing was saved.
type ChangedError struct {
	Path  document.Path
	Label string // what it is, in words
	Now   string // what stands there, in its canonical text
	Shown string // the same as it is shown
	By    string // who wrote it; "" where that is not known
	At    time.Time
}

func (e *ChangedError) Error() string { return string(e.Path) + " was changed meanwhile" }

// RefusedError reports an edit that cannot be made. Nothing was saved.
type RefusedError struct{ Err error }

func (e *RefusedError) Error() string { return e.Err.Error() }
func (e *RefusedError) Unwrap() error { return e.Err }

// NotAllowedError reports an edit that needs more than the editor's role, or
// is of another rater's rating. Nothing was saved.
type NotAllowedError struct {
	Need  doors.Need
	Rater string // whose rating it is; "" where the role is what is missing
}

func (e *NotAllowedError) Error() string {
	if e.Rater != "" {
		return "a rating is changed by who gave it, " + e.Rater
	}
	return "this needs the role of " + string(doors.Least(e.Need))
}

// Editing says who edits which study, and on which day. Each edit also says
// what stood in the field when it was begun: if that has changed since, the
// edit is refused with a [*ChangedError]. So edits of different fields never
// get in each other's way. Every edit gives the study a new revision.
type Editing struct {
	Workspace, Study uuid.UUID  // no study: what belongs to the workspace itself
	By               uuid.UUID  // the person in the workspace
	Name             string     // of that person
	Role             doors.Role // which must still be theirs when the edit is made
	Today            time.Time
	Tab              string // which open page the edit comes from, for its [Notice]
	Kind             Kind   // of the document that Study names
}

// Kind says what a document is.
type Kind string

// The kinds of documents.
const (
	AStudy     Kind = "" // as most are
	ACatalogue Kind = "catalogue"
	ADraft     Kind = "draft"
)

// kept is the name under which documents of a kind are kept.
func (k Kind) kept() string {
	if k == AStudy {
		return "study"
	}
	return string(k)
}

// editor edits documents of one kind.
type editor interface {
	edit(ctx context.Context, s *Store, e Editing, ask func(context.Context, pgx.Tx) (step, error)) (document.Change, error)
}

func (s *Store) editor(k Kind) editor {
	switch k {
	case ACatalogue:
		return s.catalogues
	case ADraft:
		return s.drafts
	}
	return s.studies
}

// scope is what the edit locks.
func (e Editing) scope() uuid.UUID {
	if e.Study == uuid.Nil {
		return e.Workspace
	}
	return e.Study
}

func (e Editing) wide() bool { return e.Study == uuid.Nil }

// Edit changes a study, in full or not at all. A change of what stands there
// already changes nothing: a save that is sent again after its answer was lost
// is no conflict.
func (s *Store) Edit(ctx context.Context, e Editing, c document.Change) error {
	_, err := s.editor(e.Kind).edit(ctx, s, e, func(context.Context, pgx.Tx) (step, error) { return step{asked: c}, nil })
	var changed *ChangedError
	if len(c) == 1 && c[0].Do == document.Set && errors.As(err, &changed) && changed.Path == c[0].Path && changed.Now == c[0].To {
		return nil
	}
	return err
}

// step is one step in a history: what is changed, and how it is noted.
type step struct {
	asked document.Change
	taken bool // it takes back or makes again what was asked before: it is not looked at whose it is
	// Queues the statements that note it; nil: as a new change.
	note func(b *pgx.Batch, made document.Change)
}

// edited is what an edit made of a document.
type edited[P, O any] struct {
	before P
	after  worked[P, O]
	made   document.Change // nil: nothing was changed
}

// edit locks a document, changes it, works it out and keeps it with all that
// follows in one transaction. ask is called once the document is locked; a step
// without edits changes nothing.
func (k *kind[P, O]) edit(ctx context.Context, s *Store, e Editing, ask func(context.Context, pgx.Tx) (step, error)) (document.Change, error) {
	var ed edited[P, O]
	err := s.tx(ctx, func(tx pgx.Tx) (err error) {
		ed, err = k.editIn(ctx, tx, e, func(P) (step, error) { return ask(ctx, tx) })
		return err
	})
	var changed *document.ChangedError
	var invalid *document.InvalidError
	switch {
	case errors.As(err, &changed):
		return nil, s.tellWho(ctx, e, k.stands(ed.before, changed))
	case errors.As(err, &invalid):
		return nil, &RefusedError{invalid}
	case err == nil && ed.made != nil:
		k.put(e.Study, ed.after)
	}
	return ed.made, err
}

// editIn is [kind.edit] within a transaction; ask sees what stands there.
func (k *kind[P, O]) editIn(ctx context.Context, tx pgx.Tx, e Editing, ask func(P) (step, error)) (ed edited[P, O], err error) {
	at, err := e.lock(ctx, tx)
	if err != nil {
		return ed, err
	}
	now, err := k.work(ctx, tx, e.Workspace, e.Study, at, e.Today)
	if err != nil {
		return ed, err
	}
	ed.before = now.value
	st, err := ask(ed.before)
	if err != nil {
		return ed, err
	}
	if err := k.allow(e, ed.before, st); err != nil {
		return ed, err
	}
	settled, err := k.settle(ed.before, st.asked)
	if err != nil {
		return ed, err
	}
	value, done, err := k.table.Apply(ed.before, settled)
	if err != nil {
		return ed, err
	}
	if done = changing(done); len(done) == 0 {
		return ed, nil
	}
	at = revision{at.own + 1, newID(), at.beside}
	if ed.after, err = k.keep(ctx, tx, e, value, done, at); err != nil {
		return ed, err
	}
	facts, err := k.factsOf(ed.after.outcome)
	if err != nil {
		return ed, err
	}
	b := &pgx.Batch{}
	b.Queue("update documents set revision = revision + 1, stamp = $4, updated_at = now(), title = $2, facts = $3 where id = $1", e.Study, k.title(&ed.after.value), facts,
		at.stamp)
	if st.note == nil {
		e.lapse(b)
		e.noteChange(b, done, k.table.Say(ed.before, st.asked), k.needOf(done))
	} else {
		st.note(b, done)
	}
	if k.after != nil {
		k.after(b, e)
	}
	if err := tx.SendBatch(ctx, b).Close(); err != nil {
		return ed, err
	}
	ed.made = done
	return ed, notify(ctx, tx, Notice{Study: e.Study, Tab: e.Tab})
}

// keep writes the parts that were touched, works the document out and returns it.
func (k *kind[P, O]) keep(ctx context.Context, tx pgx.Tx, e Editing, edited P, done document.Change, at revision) (worked[P, O], error) {
	after := worked[P, O]{at: at, today: e.Today}
	pieces, again, err := k.checked(ctx, edited)
	if err != nil {
		return after, err
	}
	after.value = again
	links, err := k.complete(ctx, tx, e.Workspace, &after.value, e.Today)
	if err != nil {
		return after, err
	}
	if after.outcome, err = k.computed(ctx, e.Study, &after.value); err != nil {
		return after, err
	}
	b := &pgx.Batch{}
	touched, relinks := map[string]bool{}, false
	for _, op := range done {
		touched[k.table.PieceOf(op.Path)] = true
		relinks = relinks || op.Path.Steps()[0] == k.linking
	}
	for part := range touched {
		b.Queue("insert into document_parts (document_id, part, body) values ($1, $2, $3) on conflict (document_id, part) do update set body = excluded.body", e.Study, part, pieces[part])
	}
	if relinks {
		link(b, e.Study, links)
	}
	return after, tx.SendBatch(ctx, b).Close()
}

// changing leaves out what sets a field to what stands in it.
func changing(c document.Change) document.Change {
	var all document.Change
	for _, op := range c {
		if op.Do != document.Set || op.Was != op.To {
			all = append(all, op)
		}
	}
	return all
}

// allow refuses what the editor may not change.
func (k *kind[P, O]) allow(e Editing, p P, st step) error {
	for _, op := range st.asked {
		need := doors.Need(k.table.NeedOf(op.Path))
		if need == doors.Untold {
			return &document.InvalidError{Path: op.Path, Problem: "is nothing that is edited"}
		}
		if !st.taken && !e.Role.May(need) {
			return &NotAllowedError{Need: need}
		}
		if owner, name := k.owner(p, op.Path); !st.taken && owner != "" && owner != e.By.String() {
			return &NotAllowedError{Need: need, Rater: name}
		}
	}
	return nil
}

// needOf is what the most demanding of some edits needs.
func (k *kind[P, O]) needOf(c document.Change) doors.Need {
	need := doors.Untold
	for _, op := range c {
		need = max(need, doors.Need(k.table.NeedOf(op.Path)))
	}
	return need
}

// stands says what stands where an edit came too late.
func (k *kind[P, O]) stands(p P, changed *document.ChangedError) *ChangedError {
	spot, _ := k.table.Spot(p, changed.Path)
	if spot.Label == "" {
		spot.Label = string(changed.Path)
	}
	return &ChangedError{Path: changed.Path, Label: spot.Label, Now: changed.Now, Shown: spot.Said}
}

// locked runs with once the study, or the workspace, is locked for the editor.
// Who follows the study is told to look: a link that was shut ends open streams.
func (s *Store) locked(ctx context.Context, e Editing, with func(pgx.Tx) error) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		if _, err := e.lock(ctx, tx); err != nil {
			return err
		}
		if err := with(tx); err != nil || e.wide() {
			return err
		}
		return notify(ctx, tx, Notice{Study: e.Study, Tab: e.Tab})
	})
}

// lock waits for others' edits of the same study or workspace to end, makes
// sure that the editor still has the role, and returns the study's revision.
func (e Editing) lock(ctx context.Context, tx pgx.Tx) (at revision, err error) {
	sql := "select revision, stamp, " + besideRevision + ", exists (select from members m where m.workspace_id = $1 and m.person_id = $3 and m.role = $4) from documents d where workspace_id = $1 and id = $2 and kind = $5 and deleted_at is null for no key update"
	if e.wide() {
		sql = "select 0, $2::uuid, $2::uuid, exists (select from members m where m.workspace_id = $1 and m.person_id = $3 and m.role = $4) from workspaces where id = $1 and id = $2 and $5 <> '' for no key update"
	}
	var seated bool
	if err := tx.QueryRow(ctx, sql, e.Workspace, e.scope(), e.By, string(e.Role), e.Kind.kept()).Scan(&at.own, &at.stamp, &at.beside, &seated); err != nil {
		return at, missing(err)
	}
	if !seated {
		return at, &NotAllowedError{Need: doors.ToGovern}
	}
	return at, nil
}

// tellWho adds to a [*ChangedError] who wrote what stands in the field.
func (s *Store) tellWho(ctx context.Context, e Editing, changed *ChangedError) error {
	var places []string
	for steps := changed.Path.Steps(); len(steps) > 0; steps = steps[:len(steps)-1] {
		places = append(places, string(document.Path("").To(steps...)))
	}
	err := s.pool.QueryRow(ctx, `select coalesce(p.name, ''), c.touched_at from changes c left join people p on p.id = c.person_id
		where c.workspace_id = $1 and c.document_id = $2 and c.paths && $3 order by c.touched_at desc limit 1`, e.Workspace, e.Study, places).Scan(&changed.By, &changed.At)
	if err != nil && missing(err) != ErrMissing {
		return err
	}
	return changed
}
