package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Change is an edit as the history keeps it. Was and Became are in the words
// that the database holds: plain decimals, shares as ratios, "" for no rating.
type Change struct {
	ID     uuid.UUID
	MadeAt time.Time
	Field
	Was, Became string
	UndoneAt    *time.Time // nil while it stands
	Lapsed      bool       // undone, and no longer to be redone
	Kept        string     // reason of a rating that was removed
	By          string     // name of who made it; "" where that is not known
	Person      uuid.UUID  // who made it; nil where that is not known
	Name        string     // of the thing, as it was called then
}

const changeColumns = "c.id, c.made_at, c.edit, c.of, c.option, c.rater, c.was, c.became, c.undone_at, c.lapsed, c.kept, coalesce(p.name, ''), coalesce(c.person_id, '00000000-0000-0000-0000-000000000000'), c.name"

// What can be undone next is the newest change of one's own that stands; what
// can be redone next is the one that one undid last, unless one changed
// something since; of what one's role may set today, so that what it may no
// longer set is not offered and hides nothing. $1 is the scope, $2 the person,
// $3 the kinds of fields.
const (
	fromChanges = "select " + changeColumns + " from changes c left join people p on p.id = c.person_id "
	ofStudy     = "c.study_id = $1 and c.person_id = $2 and c.edit = any($3) "
	ofWorkspace = "c.workspace_id = $1 and c.person_id = $2 and c.edit = any($3) "
	undoOrder   = "and c.undone_at is null and not c.passed order by c.seq desc limit 1"
	redoOrder   = "and c.undone_at is not null and not c.lapsed order by c.seq limit 1"
)

// own is the condition for changes of one's own within the scope.
func (e Editing) own() string {
	if e.wide() {
		return ofWorkspace
	}
	return ofStudy
}

func changes(rows pgx.Rows, err error) ([]Change, error) {
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (Change, error) {
		var c Change
		err := r.Scan(&c.ID, &c.MadeAt, &c.Edit, &c.Of, &c.Option, &c.Rater, &c.Was, &c.Became, &c.UndoneAt, &c.Lapsed, &c.Kept, &c.By, &c.Person, &c.Name)
		return c, err
	})
}

// entry is what [Editing.note] writes into the history.
type entry struct {
	Field
	Was, Became, Kept, Name string
}

// note writes a change into the history, in the transaction that makes it.
func (e Editing) note(ctx context.Context, tx pgx.Tx, n entry) error {
	study := e.Study
	if n.Edit == "study" {
		study = uuid.MustParse(n.Of)
	}
	_, err := tx.Exec(ctx, `insert into changes (id, workspace_id, study_id, person_id, edit, of, option, rater, was, became, kept, name)
		values ($1, $2, nullif($3, '00000000-0000-0000-0000-000000000000'::uuid), nullif($4, '00000000-0000-0000-0000-000000000000'::uuid), $5, $6, $7, $8, $9, $10, $11, $12)`,
		newID(), e.Workspace, study, e.By, n.Edit, n.Of, n.Option, n.Rater, n.Was, n.Became, n.Kept, n.Name)
	return err
}

// Recent is what a page says of the history: what undo would take back and
// redo would make again, and the newest change of anybody's; nil for none.
type Recent struct{ Undo, Redo, Last *Change }

// Recent looks up what a page says of the history of a study or a workspace.
func (s *Store) Recent(ctx context.Context, e Editing) (Recent, error) {
	var found Recent
	b := &pgx.Batch{}
	first := func(into **Change, sql string, args ...any) {
		b.Queue(sql, args...).Query(func(rows pgx.Rows) error {
			all, err := changes(rows, nil)
			if len(all) > 0 {
				*into = &all[0]
			}
			return err
		})
	}
	first(&found.Undo, fromChanges+"where "+e.own()+undoOrder, e.scope(), e.By, settable(e.wide(), e.Role))
	first(&found.Redo, fromChanges+"where "+e.own()+redoOrder, e.scope(), e.By, settable(e.wide(), e.Role))
	if !e.wide() {
		first(&found.Last, fromChanges+"where c.study_id = $1 order by c.touched_at desc limit 1", e.Study)
	}
	return found, s.pool.SendBatch(ctx, b).Close()
}

// Asked narrows a history.
type Asked struct {
	Edits  []string  // kinds of fields; none: all
	Person uuid.UUID // who made them; nil: anybody
	Before uuid.UUID // only changes older than this one; nil: from the newest on
	Most   int
}

// History lists changes, the newest first: of a study, or where no study is
// given of the workspace itself and of the coming and going of its studies.
func (s *Store) History(ctx context.Context, workspace, study uuid.UUID, a Asked) ([]Change, error) {
	rows, err := s.pool.Query(ctx, fromChanges+`where c.workspace_id = $1
		and case when $2 = '00000000-0000-0000-0000-000000000000'::uuid then c.study_id is null or c.edit = any($7)
			else c.study_id = (select id from studies where workspace_id = $1 and id = $2 and deleted_at is null) end
		and ($3::text[] is null or c.edit = any($3)) and ($4 = '00000000-0000-0000-0000-000000000000'::uuid or c.person_id = $4)
		and ($5 = '00000000-0000-0000-0000-000000000000'::uuid or c.seq < (select seq from changes where id = $5)) order by c.seq desc limit $6`, workspace, study, a.Edits, a.Person, a.Before, a.Most, undoable(true))
	return changes(rows, err)
}

// Makers lists who has changed a study, by name.
func (s *Store) Makers(ctx context.Context, workspace, study uuid.UUID) (map[uuid.UUID]string, error) {
	rows, err := s.pool.Query(ctx, "select distinct p.id, p.name from changes c join people p on p.id = c.person_id where c.workspace_id = $1 and c.study_id = $2", workspace, study)
	if err != nil {
		return nil, err
	}
	makers := map[uuid.UUID]string{}
	var id uuid.UUID
	var name string
	_, err = pgx.ForEachRow(rows, []any{&id, &name}, func() error { makers[id] = name; return nil })
	return makers, err
}

// Undo takes the newest change of one's own that stands back and returns it;
// nil where there is none. If something else stands in the field by now, it is
// refused with a [*ChangedError] beside the change.
func (s *Store) Undo(ctx context.Context, e Editing) (*Change, error) {
	return s.step(ctx, e, undoOrder, "update changes set undone_at = now(), touched_at = clock_timestamp(), lapsed = false, kept = $2 where id = $1", func(c Change) (from, to string) { return c.Became, c.Was })
}

// Redo makes the change again that one undid last, under the same rule.
func (s *Store) Redo(ctx context.Context, e Editing) (*Change, error) {
	return s.step(ctx, e, redoOrder, "update changes set undone_at = null, touched_at = clock_timestamp(), kept = $2 where id = $1", func(c Change) (from, to string) { return c.Was, c.Became })
}

func (s *Store) step(ctx context.Context, e Editing, order, mark string, way func(Change) (from, to string)) (*Change, error) {
	var at *Change
	err := s.editing(ctx, e, func(tx pgx.Tx) error {
		at = nil
		rows, err := tx.Query(ctx, fromChanges+"where "+e.own()+order, e.scope(), e.By, settable(e.wide(), e.Role))
		found, err := changes(rows, err)
		if err != nil || len(found) == 0 {
			return err
		}
		at = &found[0]
		if err := e.allow(at.Field); err != nil {
			return err
		}
		from, to := way(*at)
		kept, err := e.set(ctx, tx, at.Field, from, to, at.Kept)
		if err == nil {
			_, err = tx.Exec(ctx, mark, at.ID, kept)
		}
		if err == nil {
			err = e.tellStudy(ctx, tx, at.Field)
		}
		return err
	})
	return at, err
}

// tellStudy notifies whoever follows a study that comes or goes.
func (e Editing) tellStudy(ctx context.Context, tx pgx.Tx, f Field) error {
	id, err := uuid.Parse(f.Of)
	if f.Edit != "study" || err != nil {
		return nil
	}
	return notify(ctx, tx, Notice{Study: id, Tab: e.Tab})
}

// PassOver leaves a change of one's own as it is: undo no longer stops at it.
func (s *Store) PassOver(ctx context.Context, e Editing, id uuid.UUID) error {
	return s.editing(ctx, e, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, "update changes set passed = true, lapsed = true where workspace_id = $1 and id = $2 and person_id = $3", e.Workspace, id, e.By)
		if err == nil && tag.RowsAffected() == 0 {
			err = ErrMissing
		}
		return err
	})
}

// PutBack sets a field to what stood there before a change, as a new change.
// now is what stands there at present. A change that is not the study's is
// [ErrMissing].
func (s *Store) PutBack(ctx context.Context, e Editing, id uuid.UUID, now string) error {
	rows, err := s.pool.Query(ctx, fromChanges+"where c.workspace_id = $1 and c.study_id = $2 and c.id = $3 and c.edit = any($4)", e.Workspace, e.Study, id, undoable(false))
	found, err := changes(rows, err)
	if err != nil {
		return err
	}
	if len(found) == 0 {
		return ErrMissing
	}
	return s.change(ctx, e, found[0].Field, now, found[0].Was)
}
