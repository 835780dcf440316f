package store

import (
	"context"
	"errors"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/doors"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Change is a step of a history: edits that were made together, or something
// that is only noted, without edits.
type Change struct {
	ID       uuid.UUID
	MadeAt   time.Time
	Ops      document.Change
	Paths    []string // of what was changed; of a note, what kind of note it is
	Says     []document.Said
	UndoneAt *time.Time // nil while it stands
	Lapsed   bool       // undone, and no longer to be redone
	By       string     // name of who made it; "" where that is not known
	Person   uuid.UUID  // who made it; nil where that is not known
	Need     doors.Role // the least role that may take it back; "": it is only noted
	Wide     bool       // of the workspace: a study or a platform that went or came
	Removed  string     // path of the item that it put into the bin
}

// BroughtBack reports whether the change brings an option back with what went along.
func (c *Change) BroughtBack() bool {
	return len(c.Ops) > 1 && c.Ops[0].Do == document.Insert && strings.HasPrefix(string(c.Ops[0].Path), "options.")
}

const changeColumns = "c.id, c.made_at, c.ops, c.paths, c.says, c.undone_at, c.lapsed, coalesce(p.name, ''), coalesce(c.person_id, '00000000-0000-0000-0000-000000000000'), c.need, c.wide, c.removed"

// What can be undone next is the newest change of one's own that stands; what
// can be redone next is the one that one undid last, unless one changed
// something since; of what one's role may set today, so that what it may no
// longer set is not offered and hides nothing. $1 is the scope, $2 the person,
// $3 the roles up to the editor's.
const (
	fromChanges = "select " + changeColumns + " from changes c left join people p on p.id = c.person_id "
	ofStudy     = "c.document_id = $1 and not c.wide and c.person_id = $2 and c.need = any($3) "
	ofWorkspace = "c.workspace_id = $1 and c.wide and c.person_id = $2 and c.need = any($3) "
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

// reach lists the roles that the editor's role covers.
func (e Editing) reach() []string {
	all := []string{}
	for _, need := range []doors.Need{doors.ToRate, doors.ToEdit, doors.ToGovern} {
		if e.Role.May(need) {
			all = append(all, string(doors.Least(need)))
		}
	}
	return all
}

func changes(rows pgx.Rows, err error) ([]Change, error) {
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Change])
}

// lapse ends what the editor could have made again: something new was done.
func (e Editing) lapse(b *pgx.Batch) {
	b.Queue("update changes c set lapsed = true where c.undone_at is not null and not c.lapsed and "+e.own(), e.scope(), e.By, e.reach())
}

const insertChange = `insert into changes (id, workspace_id, document_id, person_id, ops, paths, says, need, wide, removed)
	values ($1, $2, nullif($3, '00000000-0000-0000-0000-000000000000'::uuid), nullif($4, '00000000-0000-0000-0000-000000000000'::uuid), $5, $6, $7, $8, $9, $10)`

// noteChange queues what writes a change into the history.
func (e Editing) noteChange(b *pgx.Batch, made document.Change, says []document.Said, need doors.Need) {
	removed := ""
	if e.Kind == AStudy {
		removed = removedBy(made)
	}
	b.Queue(insertChange, newID(), e.Workspace, e.Study, e.By, asJSON(made), pathsOf(made), asJSON(says), string(doors.Least(need)), false, removed)
}

// note writes into the history what cannot be taken back there: of what kind it
// is, of what, and what was and is.
func (e Editing) note(ctx context.Context, tx pgx.Tx, kind, name, was, to string) error {
	label := capital(kind)
	if name != "" {
		label += " " + name
	}
	_, err := tx.Exec(ctx, insertChange, newID(), e.Workspace, e.Study, e.By, "[]", []string{kind},
		asJSON([]document.Said{{Label: label, Was: was, To: to}}), "", e.wide(), "")
	return err
}

func pathsOf(c document.Change) []string {
	paths := make([]string, len(c))
	for i, op := range c {
		paths[i] = string(op.Path)
	}
	return paths
}

// removedBy is the path of the item that a change removes; "" where it removes
// none that rests in the bin. What goes along with it stands before it.
func removedBy(c document.Change) string {
	last := c[len(c)-1]
	if steps := last.Path.Steps(); last.Do == document.Remove && len(steps) == 2 && steps[0] != "ratings" {
		return string(last.Path)
	}
	return ""
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
	first(&found.Undo, fromChanges+"where "+e.own()+undoOrder, e.scope(), e.By, e.reach())
	first(&found.Redo, fromChanges+"where "+e.own()+redoOrder, e.scope(), e.By, e.reach())
	if !e.wide() {
		first(&found.Last, fromChanges+"where c.document_id = $1 order by c.touched_at desc limit 1", e.Study)
	}
	return found, s.pool.SendBatch(ctx, b).Close()
}

// Asked narrows a history.
type Asked struct {
	Fields []string  // first steps of paths, and kinds of notes; none: all
	Person uuid.UUID // who made them; nil: anybody
	Before uuid.UUID // only changes older than this one; nil: from the newest on
	Most   int
}

// History lists changes, the newest first: of a study, or where no study is
// given of the workspace itself and of the coming and going of its studies.
func (s *Store) History(ctx context.Context, workspace, study uuid.UUID, a Asked) ([]Change, error) {
	rows, err := s.pool.Query(ctx, fromChanges+`where c.workspace_id = $1
		and case when $2 = '00000000-0000-0000-0000-000000000000'::uuid then c.wide
			else c.document_id = (select id from documents where workspace_id = $1 and id = $2 and deleted_at is null) end
		and ($3::text[] is null or exists (select from unnest(c.paths) path where split_part(path, '.', 1) = any($3)))
		and ($4 = '00000000-0000-0000-0000-000000000000'::uuid or c.person_id = $4)
		and ($5 = '00000000-0000-0000-0000-000000000000'::uuid or c.seq < (select seq from changes where id = $5)) order by c.seq desc limit $6`,
		workspace, study, a.Fields, a.Person, a.Before, a.Most)
	return changes(rows, err)
}

// Makers lists who has changed a study, by name.
func (s *Store) Makers(ctx context.Context, workspace, study uuid.UUID) (map[uuid.UUID]string, error) {
	rows, err := s.pool.Query(ctx, "select distinct p.id, p.name from changes c join people p on p.id = c.person_id where c.workspace_id = $1 and c.document_id = $2", workspace, study)
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
// nil where there is none. If something else stands there by now, it is
// refused with a [*ChangedError] beside the change.
func (s *Store) Undo(ctx context.Context, e Editing) (*Change, error) {
	return s.walk(ctx, e, undoOrder, document.Change.Inverse,
		"update changes set undone_at = now(), touched_at = clock_timestamp(), lapsed = false, ops = $2 where id = $1")
}

// Redo makes the change again that one undid last, under the same rule.
func (s *Store) Redo(ctx context.Context, e Editing) (*Change, error) {
	same := func(c document.Change) document.Change { return c }
	return s.walk(ctx, e, redoOrder, same, "update changes set undone_at = null, touched_at = clock_timestamp(), ops = $2 where id = $1")
}

// walk goes one step through one's own history. way makes a change's edits what
// is to be done, and what was done the edits to be kept.
func (s *Store) walk(ctx context.Context, e Editing, order string, way func(document.Change) document.Change, mark string) (*Change, error) {
	if e.wide() {
		return s.walkWide(ctx, e, order, way, mark)
	}
	var at *Change
	_, err := s.editor(e.Kind).edit(ctx, s, e, func(ctx context.Context, tx pgx.Tx) (step, error) {
		var err error
		at, err = e.newest(ctx, tx, order)
		if at == nil || err != nil {
			return step{}, err
		}
		id := at.ID
		return step{asked: way(at.Ops), taken: true, note: func(b *pgx.Batch, made document.Change) { b.Queue(mark, id, asJSON(way(made))) }}, nil
	})
	return at, err
}

// newest looks up the change that undo or redo comes to; nil for none.
func (e Editing) newest(ctx context.Context, tx pgx.Tx, order string) (*Change, error) {
	rows, err := tx.Query(ctx, fromChanges+"where "+e.own()+order, e.scope(), e.By, e.reach())
	found, err := changes(rows, err)
	if err != nil || len(found) == 0 {
		return nil, err
	}
	return &found[0], nil
}

// PassOver leaves a change of one's own as it is: undo no longer stops at it.
func (s *Store) PassOver(ctx context.Context, e Editing, id uuid.UUID) error {
	return s.locked(ctx, e, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, "update changes set passed = true, lapsed = true where workspace_id = $1 and id = $2 and person_id = $3", e.Workspace, id, e.By)
		if err == nil && tag.RowsAffected() == 0 {
			err = ErrMissing
		}
		return err
	})
}

// PutBack makes what stood before a change stand again, as a new change. Of a
// change of one field, now is what stands there at present. A change that is
// not the study's, or that was only noted, is [ErrMissing].
func (s *Store) PutBack(ctx context.Context, e Editing, id uuid.UUID, now string) error {
	var back document.Change
	_, err := s.editor(e.Kind).edit(ctx, s, e, func(ctx context.Context, tx pgx.Tx) (step, error) {
		rows, err := tx.Query(ctx, fromChanges+"where c.workspace_id = $1 and c.document_id = $2 and c.id = $3 and c.need <> ''", e.Workspace, e.Study, id)
		found, err := changes(rows, err)
		if err != nil {
			return step{}, err
		}
		if len(found) == 0 || len(found[0].Ops) == 0 {
			return step{}, ErrMissing
		}
		c := found[0]
		if !e.Role.May(needFor(c.Need)) {
			return step{}, &NotAllowedError{Need: needFor(c.Need)}
		}
		back = c.Ops.Inverse()
		if len(back) == 1 && back[0].Do == document.Set {
			back[0].Was = now
		}
		return step{asked: back, taken: c.Need != doors.Rater}, nil
	})
	var changed *ChangedError
	if errors.As(err, &changed) && len(back) == 1 && changed.Now == back[0].To && back[0].Do == document.Set {
		return nil
	}
	return err
}

// needFor is the need of which a role is the least that meets it.
func needFor(r doors.Role) doors.Need {
	for _, need := range []doors.Need{doors.ToRate, doors.ToEdit} {
		if doors.Least(need) == r {
			return need
		}
	}
	return doors.ToGovern
}

func capital(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

func orNothing(s string) string {
	if s == "" {
		return "–"
	}
	return s
}

// Needs is what taking the change back needs; [doors.Untold] where it is only
// noted.
func (c *Change) Needs() doors.Need {
	if c.Need == "" {
		return doors.Untold
	}
	return needFor(c.Need)
}
