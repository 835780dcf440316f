package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"sync"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/work"
	"ninecoins/internal/keep"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// kind is a kind of document: the table of its fields, and what follows from
// one.
type kind[P, O any] struct {
	name  string
	table *document.Table[P]
	// Completes a change with what has to go along with it.
	settle func(P, document.Change) (document.Change, error)
	// Completes what was read with what stands beside it, and returns the editions
	// that it goes by. What it names and is not there is a [*document.InvalidError].
	complete func(ctx context.Context, q querier, workspace uuid.UUID, p *P, today time.Time) ([]uuid.UUID, error)
	// Works it out; what followed from what it was edited from may help, where that is known.
	compute func(ctx context.Context, p *P, before O) (O, error)
	fails   func(O) *work.Panic // where the program failed on one; nil: it does not say
	tell    func(uuid.UUID, error)
	weight  func(O) int64
	title   func(*P) string
	linking string      // the list whose items name editions
	facts   func(O) any // nil: none are kept
	// What else is written with an edit; nil: nothing.
	after func(b *pgx.Batch, e Editing)
	// Whose an item is that a path leads to: the key of a person, and their name;
	// "" nobody's.
	owner func(P, document.Path) (key, name string)
	kept  *keep.Cache[uuid.UUID, worked[P, O]]
	under sync.Map // what is being worked out for readers, by sight
}

// worked is a document at a revision with what was worked out from it. It is not
// changed any more, so many may look at it at once.
type worked[P, O any] struct {
	at      revision
	today   time.Time
	value   P
	outcome O
}

// get returns what is kept of a document at a revision and day.
func (k *kind[P, O]) get(id uuid.UUID, at revision, today time.Time) (worked[P, O], bool) {
	one, ok := k.kept.Get(id)
	return one, ok && one.at == at && one.today.Equal(today)
}

// revision is how far a document is, and what it is worked out from beside it. Numbers come again
// after a backup was restored, stamps do not.
type revision struct {
	own           int64
	stamp, beside uuid.UUID
}

// put keeps it.
func (k *kind[P, O]) put(id uuid.UUID, one worked[P, O]) {
	k.kept.Put(id, one, k.weight(one.outcome))
}

// parts reads a document from its parts, without what stands beside it.
func (k *kind[P, O]) parts(ctx context.Context, q querier, id uuid.UUID) (p P, err error) {
	rows, err := q.Query(ctx, "select part, body from document_parts where document_id = $1", id)
	if err != nil {
		return p, err
	}
	pieces, part, body := map[string]string{}, "", ""
	if _, err := pgx.ForEachRow(rows, []any{&part, &body}, func() error { pieces[part] = body; return nil }); err != nil {
		return p, err
	}
	if p, err = k.table.Join(ctx, pieces); err != nil {
		return p, fmt.Errorf("%s %s cannot be read: %w", k.name, id, err)
	}
	return p, nil
}

// sight is what readers of a document see: the document at a revision, as of a day.
type sight struct {
	id    uuid.UUID
	at    revision
	today time.Time
}

// look is [kind.work] for readers, once for all who wait for the same.
func (k *kind[P, O]) look(ctx context.Context, q querier, workspace, id uuid.UUID, at revision, today time.Time) (worked[P, O], error) {
	if one, ok := k.get(id, at, today); ok {
		return one, nil
	}
	key := sight{id, at, today}
	under, _ := k.under.LoadOrStore(key, &work.Shared[worked[P, O]]{})
	one, err := under.(*work.Shared[worked[P, O]]).Get(ctx, nil, func(ctx context.Context, _ work.Tell) (worked[P, O], error) {
		defer k.under.CompareAndDelete(key, under)
		return k.work(ctx, q, workspace, id, at, today)
	})
	if err != nil { // also where it was not begun, because who asked had left
		k.under.CompareAndDelete(key, under)
	}
	return one, err
}

// computed works a document out. Where the program fails on it, that is an error of it alone.
func (k *kind[P, O]) computed(ctx context.Context, id uuid.UUID, p *P) (o O, err error) {
	before, _ := k.kept.Get(id) // at whatever revision
	if err = work.Guarded(func() (err error) { o, err = k.compute(ctx, p, before.outcome); return err }); err != nil {
		return o, fmt.Errorf("%s %s: %w", k.name, id, err)
	}
	if k.fails != nil && k.fails(o) != nil {
		k.tell(id, k.fails(o))
	}
	return o, nil
}

// work returns a document at its present revision with what follows from it.
func (k *kind[P, O]) work(ctx context.Context, q querier, workspace, id uuid.UUID, at revision, today time.Time) (worked[P, O], error) {
	if one, ok := k.get(id, at, today); ok {
		return one, nil
	}
	p, err := k.parts(ctx, q, id)
	one := worked[P, O]{at: at, today: today, value: p}
	if err == nil {
		_, err = k.complete(ctx, q, workspace, &one.value, today)
	}
	if err != nil {
		return one, err
	}
	if one.outcome, err = k.computed(ctx, id, &one.value); err != nil {
		return one, err
	}
	k.put(id, one)
	return one, nil
}

// insert keeps a new document. Whoever inserts works nothing out: the facts
// follow when they are asked for.
func (k *kind[P, O]) insert(ctx context.Context, tx pgx.Tx, workspace, id uuid.UUID, key string, p P, binned time.Time) error {
	_, err := tx.Exec(ctx, "insert into documents (id, workspace_id, kind, key, title, deleted_at) values ($1, $2, $3, $4, $5, $6)", id, workspace,
		k.name, key, k.title(&p), orNull(binned))
	if err != nil {
		return err
	}
	pieces, _, err := k.checked(ctx, p)
	if err != nil {
		return err
	}
	links, err := k.complete(ctx, tx, workspace, &p, time.Time{})
	if err != nil {
		return err
	}
	b := &pgx.Batch{}
	for part, body := range pieces {
		b.Queue("insert into document_parts (document_id, part, body) values ($1, $2, $3)", id, part, body)
	}
	link(b, id, links)
	return tx.SendBatch(ctx, b).Close()
}

// checked writes a document and makes sure that it can be read again: one that
// cannot would be lost.
func (k *kind[P, O]) checked(ctx context.Context, p P) (map[string]string, P, error) {
	pieces := k.table.Pieces(p)
	again, err := k.table.Join(ctx, pieces)
	if err == nil && !maps.Equal(pieces, k.table.Pieces(again)) {
		err = errors.New("it reads back as another one")
	}
	if err != nil {
		return nil, again, fmt.Errorf("the %s was not saved, for it could not be read again: %w", k.name, err)
	}
	return pieces, again, nil
}

// link notes which editions a document goes by.
func link(b *pgx.Batch, id uuid.UUID, editions []uuid.UUID) {
	if editions == nil {
		editions = []uuid.UUID{}
	}
	b.Queue("update document_editions set left_at = now() where document_id = $1 and left_at is null and edition_id <> all($2)", id, editions)
	b.Queue("insert into document_editions (document_id, edition_id) select $1, unnest($2::uuid[]) on conflict (document_id, edition_id) do update set left_at = null", id, editions)
}

// factsOf writes facts as the database keeps them.
func (k *kind[P, O]) factsOf(o O) (any, error) {
	if k.facts == nil {
		return nil, nil
	}
	data, err := json.Marshal(k.facts(o))
	return string(data), err
}
