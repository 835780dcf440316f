package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/work"
	"ninecoins/internal/doors"
	"ninecoins/internal/formats"
	"ninecoins/internal/keep"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// mostOutcomes bounds the memory for outcomes, in bytes, with the price lists
// that they hold.
const mostOutcomes = 128 << 20

// studiesOf is how studies are kept in a store.
func studiesOf(s *Store) *kind[study.Study, *study.Outcome] {
	return &kind[study.Study, *study.Outcome]{
		name: "study", table: study.Kept(), linking: "options",
		settle:   study.Settle,
		complete: s.completeStudy,
		compute:  s.computeStudy,
		fails:    func(o *study.Outcome) *work.Panic { return o.Panic },
		tell:     s.tell,
		weight:   (*study.Outcome).Weight,
		title:    func(st *study.Study) string { return st.Title },
		facts:    func(o *study.Outcome) any { return o.Facts() },
		owner: func(st study.Study, at document.Path) (key, name string) {
			key = study.OwnerOf(at)
			return key, st.NameOf(key)
		},
		kept: keep.New[uuid.UUID, worked[study.Study, *study.Outcome]](mostOutcomes),
	}
}

// computeStudy works a study out. Where the program fails on it, the outcome says so, and whoever
// listens ([Store.Hear]) is told.
func (s *Store) computeStudy(ctx context.Context, st *study.Study, last *study.Outcome) (*study.Outcome, error) {
	if before := s.before.Load(); before != nil {
		(*before)(st)
	}
	return study.ComputeAfter(ctx, st, last)
}

// Hear has somebody told, in a few words that hold nothing of a study's contents, on which study
// the program fails.
func (s *Store) Hear(told func(study uuid.UUID, what *work.Panic)) { s.heard.Store(&told) }

// Before has something done to each study before it is worked out; tests break them so.
func (s *Store) Before(do func(*study.Study)) { s.before.Store(&do) }

// tell tells of the panic that an error is, if it is one.
func (s *Store) tell(id uuid.UUID, err error) {
	var p *work.Panic
	if told := s.heard.Load(); told != nil && errors.As(err, &p) {
		(*told)(id, p)
	}
}

// completeStudy gives raters their names and options their price lists.
func (s *Store) completeStudy(ctx context.Context, q querier, workspace uuid.UUID, st *study.Study, today time.Time) ([]uuid.UUID, error) {
	st.Today = today
	var err error
	if st.Catalogue, err = s.catalogue(ctx, q, workspace); err != nil {
		return nil, err
	}
	var keys []string
	var days []time.Time
	for i := range st.Options {
		for _, t := range st.Options[i].Tools() {
			keys, days = append(keys, t.Platform), append(days, t.ObservedOn)
		}
	}
	found := map[string]uuid.UUID{}
	b := &pgx.Batch{}
	if len(st.Ratings) > 0 {
		st.People = map[string]string{}
		b.Queue("select id::text, name from people where workspace_id = $1", workspace).Query(func(rows pgx.Rows) error {
			var id, name string
			_, err := pgx.ForEachRow(rows, []any{&id, &name}, func() error { st.People[id] = name; return nil })
			return err
		})
	}
	if len(keys) > 0 {
		b.Queue(`select e.id, p.key, e.observed_on from unnest($2::text[], $3::timestamp[]) o (key, day) join platforms p on p.key = o.key
			join editions e on e.platform_id = p.id and e.observed_on = o.day where p.workspace_id = $1 and e.workspace_id = $1`, workspace, keys, days).Query(func(rows pgx.Rows) error {
			var id uuid.UUID
			var key string
			var day time.Time
			_, err := pgx.ForEachRow(rows, []any{&id, &key, &day}, func() error { found[key+pricelist.ReadText(day)] = id; return nil })
			return err
		})
	}
	if b.Len() > 0 {
		if err := q.SendBatch(ctx, b).Close(); err != nil {
			return nil, err
		}
	}
	var links []uuid.UUID
	var failed error
	for i := range st.Options {
		o := &st.Options[i]
		o.With = slices.Clone(o.With) // what was read may be looked at by others
		o.EachTool(func(at document.Path, t *study.Tool) {
			id, ok := found[t.Platform+pricelist.ReadText(t.ObservedOn)]
			if !ok && failed == nil {
				failed = &document.InvalidError{Path: at.To("observed_on"),
					Problem: fmt.Sprintf("has no price list: there is none of %q read on %s on the shelf", t.Platform, pricelist.SayRead(t.ObservedOn))}
			}
			if failed != nil {
				return
			}
			if t.Edition, failed = s.edition(ctx, q, id); failed == nil && !slices.Contains(links, id) {
				links = append(links, id)
			}
		})
		if failed != nil {
			return nil, failed
		}
		if o.Name == "" {
			o.Name = o.Called()
		}
	}
	return links, nil
}

// revision returns a number that grows with every change of a study, or
// [ErrMissing].
func (s *Store) revision(ctx context.Context, workspace, id uuid.UUID) (at revision, err error) {
	err = s.pool.QueryRow(ctx, "select revision, stamp, "+besideRevision+" from documents d where workspace_id = $1 and id = $2 and kind = 'study' and deleted_at is null",
		workspace, id).Scan(&at.own, &at.stamp, &at.beside)
	return at, missing(err)
}

// Outcome returns what follows from a study of a workspace as it stands, as of a
// day, or [ErrMissing]: the database is asked for its revision, and for the rest
// only where that is new.
func (s *Store) Outcome(ctx context.Context, workspace, id uuid.UUID, today time.Time) (*study.Outcome, error) {
	revision, err := s.revision(ctx, workspace, id)
	if err != nil {
		return nil, err
	}
	// What is read now is of this revision or of a later one, under which it is
	// then not found: never the other way round.
	one, err := s.studies.look(ctx, s.pool, workspace, id, revision, today)
	return one.outcome, err
}

// Study returns a study of a workspace as of a day, or [ErrMissing].
func (s *Store) Study(ctx context.Context, workspace, id uuid.UUID, today time.Time) (*study.Study, error) {
	o, err := s.Outcome(ctx, workspace, id, today)
	if err != nil {
		return nil, err
	}
	return o.Study, nil
}

// StudyRow is a study as the Desk lists it.
type StudyRow struct {
	ID        uuid.UUID
	Title     string
	UpdatedAt time.Time
	Facts     study.Facts
}

// Page says which studies are asked for.
type Page struct {
	Title  string    // that holds this; "" any
	Before uuid.UUID // those that stand after this one; nil: from the first on
	Most   int
}

// likeAny writes a text as the pattern of what holds it anywhere.
func likeAny(text string) string {
	if text == "" {
		return "%"
	}
	return "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(strings.ToLower(text)) + "%"
}

// Studies lists a page of a workspace's studies, the newest change first. Facts
// that are not of this day are worked out again.
func (s *Store) Studies(ctx context.Context, workspace uuid.UUID, today time.Time, p Page) ([]StudyRow, error) {
	all, err := s.titled(ctx, workspace, p, latest)
	if err == nil && p.Title != "" && len(all) < p.Most { // a rarer word
		all, err = s.titled(ctx, workspace, p, 0)
	}
	if err != nil {
		return nil, err
	}
	for i := range all {
		if f := &all[i].Facts; f.Version != study.FactsVersion || !f.Day.Equal(today) {
			if *f, err = s.newFacts(ctx, workspace, all[i].ID, today); err != nil {
				return nil, err
			}
		}
	}
	return all, nil
}

// latest is how many studies are looked through for a title one by one, the
// newest first, before an index is asked.
const latest = 300

// titled looks a page of studies up among the newest so many; 0: among all.
func (s *Store) titled(ctx context.Context, workspace uuid.UUID, p Page, among int) ([]StudyRow, error) {
	const newest = "order by updated_at desc, id desc limit "
	from := `documents where workspace_id = $1 and kind = 'study' and deleted_at is null
		and ($3 = '00000000-0000-0000-0000-000000000000'::uuid or (updated_at, id) < (select updated_at, id from documents where workspace_id = $1 and id = $3)) `
	sql := "select id, title, updated_at, facts from " + from + "and lower(title) like $2 " + newest + "$4"
	if among > 0 {
		sql = "select id, title, updated_at, facts from (select * from " + from + newest + strconv.Itoa(among) + ") d where lower(title) like $2 " + newest + "$4"
	}
	rows, err := s.pool.Query(ctx, sql, workspace, likeAny(p.Title), p.Before, p.Most)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (StudyRow, error) {
		var one StudyRow
		var facts *string
		err := r.Scan(&one.ID, &one.Title, &one.UpdatedAt, &facts)
		if facts != nil && err == nil {
			_ = json.Unmarshal([]byte(*facts), &one.Facts) // those that cannot be read are worked out again
		}
		return one, err
	})
}

// newFacts works a study's facts out and keeps them, unless it was changed
// meanwhile. One that went meanwhile has none.
func (s *Store) newFacts(ctx context.Context, workspace, id uuid.UUID, today time.Time) (study.Facts, error) {
	revision, err := s.revision(ctx, workspace, id)
	if errors.Is(err, ErrMissing) {
		return study.Facts{}, nil
	}
	if err != nil {
		return study.Facts{}, err
	}
	one, err := s.studies.look(ctx, s.pool, workspace, id, revision, today)
	var newer *document.NewerError
	if errors.As(err, &newer) {
		return study.Facts{About: "saved by a newer version of Nine Coins, which can open it"}, nil
	}
	if err != nil && ctx.Err() == nil && !Away(err) { // this study's fault, and no other's
		s.tell(id, err)
		return study.Facts{About: "cannot be worked out", Notes: []study.Attention{{Coin: study.CoinOf("title"), Text: "This study cannot be worked out: " +
			"it can be exported with the workspace, and deleted.", Do: "See why"}}}, nil
	}
	if err != nil {
		return study.Facts{}, err
	}
	text, err := s.studies.factsOf(one.outcome)
	if err == nil {
		_, err = s.pool.Exec(ctx, "update documents set facts = $3 where id = $1 and stamp = $2", id, revision.stamp, text)
	}
	return one.outcome.Facts(), err
}

// ErrKeyTaken reports a study whose key another one has.
var ErrKeyTaken = errors.New("there is a study under that key already")

// insertStudy keeps a study that names its raters; one that rests in the bin
// since a moment comes in there, beside another of its key.
func (s *Store) insertStudy(ctx context.Context, tx pgx.Tx, workspace uuid.UUID, st *study.Study, binned time.Time) (uuid.UUID, error) {
	id := newID()
	keys, err := insertPeople(ctx, tx, workspace, raters(st))
	if err != nil {
		return id, err
	}
	err = s.studies.insert(ctx, tx, workspace, id, st.Key, *st.ByKey(keys), binned)
	var pgErr *pgconn.PgError
	if errors.As(err, &pgErr) && pgErr.ConstraintName == "documents_key" {
		return id, ErrKeyTaken
	}
	if err != nil {
		return id, fmt.Errorf("keeping study %q: %w", st.Key, err)
	}
	return id, nil
}

// NewStudy keeps a new study, made by hand or from a copy, under a key that
// follows from its title.
func (s *Store) NewStudy(ctx context.Context, e Editing, st study.Study) (uuid.UUID, error) {
	var id uuid.UUID
	e.Study = uuid.Nil
	err := s.locked(ctx, e, func(tx pgx.Tx) error {
		if !e.Role.May(doors.ToEdit) {
			return &NotAllowedError{Need: doors.ToEdit}
		}
		rows, err := tx.Query(ctx, "select key from documents where workspace_id = $1 and kind = 'study' and deleted_at is null", e.Workspace)
		if err != nil {
			return err
		}
		taken, err := pgx.CollectRows(rows, pgx.RowTo[string])
		if err != nil {
			return err
		}
		st.Key = document.KeyFor(st.Title, func(key string) bool { return slices.Contains(taken, key) })
		if id, err = s.insertStudy(ctx, tx, e.Workspace, &st, time.Time{}); err != nil {
			return err
		}
		made := e
		made.Study = id
		return made.note(ctx, tx, "study", st.Title, "–", "begun")
	})
	return id, err
}

// ImportStudy takes a study file whole or not at all. The editions that it
// names must be in the workspace. A file at fault is [formats.Faults].
func (s *Store) ImportStudy(ctx context.Context, by Editing, file []byte) (uuid.UUID, error) {
	opened, err := s.open(ctx, file)
	if err != nil {
		return uuid.Nil, err
	}
	return s.importStudy(ctx, by, opened)
}

func (s *Store) importStudy(ctx context.Context, by Editing, file *formats.File) (id uuid.UUID, err error) {
	err = s.tx(ctx, func(tx pgx.Tx) error {
		var failed error
		st, err := file.Study(s.editionsIn(ctx, tx, by.Workspace, &failed))
		if failed != nil {
			return failed
		}
		if err != nil {
			return err
		}
		if err := s.fit(ctx, st); err != nil {
			return err
		}
		id, err = s.insertStudy(ctx, tx, by.Workspace, st, time.Time{})
		if errors.Is(err, ErrKeyTaken) {
			return formats.Faults{{Line: 1, Field: "key", Problem: fmt.Sprintf("there is a study %q in the workspace already", st.Key)}}
		}
		if err != nil {
			return err
		}
		by.Study = id
		return by.note(ctx, tx, "study file", st.Title, "–", "brought in")
	})
	return id, err
}

// fit refuses a study of a file on which the program fails, by name.
func (s *Store) fit(ctx context.Context, st *study.Study) error {
	err := work.Guarded(func() error {
		o, err := s.computeStudy(ctx, st, nil)
		if err == nil && o.Panic != nil {
			return o.Panic
		}
		return err
	})
	if p := (*work.Panic)(nil); errors.As(err, &p) {
		s.tell(uuid.Nil, p)
		return formats.Faults{{Line: 1, Field: "title", Problem: fmt.Sprintf("Nine Coins fails on the study %q, so it was kept out; nothing else of the file was taken either", st.Title)}}
	}
	return err
}

// raters returns the names of who rated in a study.
func raters(st *study.Study) []string {
	var names []string
	for _, r := range st.Ratings {
		names = append(names, st.NameOf(r.Rater))
	}
	slices.Sort(names)
	return slices.Compact(names)
}
