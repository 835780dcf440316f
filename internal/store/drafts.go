package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/doors"
	"ninecoins/internal/formats"
	"ninecoins/internal/keep"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Drafted is a draft with what follows from it.
type Drafted struct {
	Draft  pricelist.Draft
	Whole  *pricelist.Edition // with what plans take over from others
	Faults []pricelist.Fault  // what keeps it from being published
	// The revision that this is, for who publishes it.
	Revision int64
}

// draftsOf is how drafts of price lists are kept.
func draftsOf() *kind[pricelist.Draft, *Drafted] {
	return &kind[pricelist.Draft, *Drafted]{
		name: "draft", table: pricelist.Drafts(),
		settle: func(_ pricelist.Draft, c document.Change) (document.Change, error) { return c, nil },
		complete: func(context.Context, querier, uuid.UUID, *pricelist.Draft, time.Time) ([]uuid.UUID, error) {
			return nil, nil
		},
		compute: func(_ context.Context, d *pricelist.Draft, _ *Drafted) (*Drafted, error) {
			whole, faults := d.Whole()
			return &Drafted{Draft: *d, Whole: whole, Faults: faults}, nil
		},
		weight: func(d *Drafted) int64 { return 2 * d.Whole.Weight() },
		title:  func(d *pricelist.Draft) string { return d.Edition.Platform.Name },
		owner:  func(pricelist.Draft, document.Path) (string, string) { return "", "" },
		kept:   keep.New[uuid.UUID, worked[pricelist.Draft, *Drafted]](32 << 20),
	}
}

// DraftID returns the draft of a platform's price list, or [ErrMissing].
func (s *Store) DraftID(ctx context.Context, workspace uuid.UUID, platform string) (id uuid.UUID, err error) {
	err = s.pool.QueryRow(ctx, "select id from documents where workspace_id = $1 and kind = 'draft' and key = $2 and deleted_at is null", workspace, platform).Scan(&id)
	return id, missing(err)
}

// Draft returns the draft of a platform's price list and its id, or [ErrMissing].
func (s *Store) Draft(ctx context.Context, workspace uuid.UUID, platform string) (*Drafted, uuid.UUID, error) {
	var id uuid.UUID
	var at revision
	err := s.pool.QueryRow(ctx, "select id, revision, stamp from documents where workspace_id = $1 and kind = 'draft' and key = $2 and deleted_at is null", workspace,
		platform).Scan(&id, &at.own, &at.stamp)
	if err != nil {
		return nil, id, missing(err)
	}
	one, err := s.drafts.look(ctx, s.pool, workspace, id, at, time.Time{})
	if err != nil {
		return nil, id, err
	}
	d := *one.outcome
	d.Revision = at.own
	return &d, id, nil
}

// newestStated is the newest price list of a platform as it was stated, or [ErrMissing].
func newestStated(ctx context.Context, tx pgx.Tx, workspace uuid.UUID, platform string) (stated pricelist.Edition, err error) {
	var file string
	if err = tx.QueryRow(ctx, `select e.document from editions e join platforms p on p.id = e.platform_id
		where p.workspace_id = $1 and p.key = $2 and p.deleted_at is null order by e.observed_on desc limit 1`, workspace, platform).Scan(&file); err != nil {
		return stated, missing(err)
	}
	return formats.StatedPriceList(ctx, []byte(file))
}

// OpenDraft returns the draft of a platform's price list, which is begun from its
// newest edition where there is none. A platform that is not on the shelf is
// [ErrMissing].
func (s *Store) OpenDraft(ctx context.Context, e Editing, platform string) (id uuid.UUID, err error) {
	e.Study = uuid.Nil
	err = s.locked(ctx, e, func(tx pgx.Tx) error {
		if !e.Role.May(doors.ToEdit) {
			return &NotAllowedError{Need: doors.ToEdit}
		}
		err := tx.QueryRow(ctx, "select id from documents where workspace_id = $1 and kind = 'draft' and key = $2 and deleted_at is null", e.Workspace, platform).Scan(&id)
		if missing(err) != ErrMissing {
			return err
		}
		stated, err := newestStated(ctx, tx, e.Workspace, platform)
		if err != nil {
			return err
		}
		id = newID()
		return s.drafts.insert(ctx, tx, e.Workspace, id, platform, pricelist.Drafted(stated, e.Today), time.Time{})
	})
	return id, err
}

// TakenError reports a platform whose name another one has.
type TakenError struct{ Name string }

func (e *TakenError) Error() string {
	return fmt.Sprintf("there is a platform %q on the shelf, or in the bin, already", e.Name)
}

// NewPlatform puts a platform on the shelf by hand, with a draft of its price list,
// and returns its key. like is the platform whose newest price list it begins with;
// "" for an empty one.
func (s *Store) NewPlatform(ctx context.Context, e Editing, p pricelist.Platform, in string, like string) (key string, err error) {
	e.Study = uuid.Nil
	err = s.locked(ctx, e, func(tx pgx.Tx) error {
		if !e.Role.May(doors.ToEdit) {
			return &NotAllowedError{Need: doors.ToEdit}
		}
		rows, err := tx.Query(ctx, "select key, name from platforms where workspace_id = $1", e.Workspace)
		if err != nil {
			return err
		}
		var taken []string
		twin := false
		var one, name string
		if _, err := pgx.ForEachRow(rows, []any{&one, &name}, func() error {
			taken, twin = append(taken, one), twin || doors.Likeness(name) == doors.Likeness(p.Name)
			return nil
		}); err != nil {
			return err
		}
		if twin {
			return &RefusedError{&TakenError{p.Name}}
		}
		p.Key = document.KeyFor(p.Name, func(key string) bool { return slices.Contains(taken, key) })
		d := pricelist.Draft{Edition: pricelist.Edition{ObservedOn: e.Today.Truncate(24 * time.Hour), Source: "entered by hand", Meters: []pricelist.Meter{}, Plans: []pricelist.Plan{}}}
		if like != "" {
			stated, err := newestStated(ctx, tx, e.Workspace, like)
			if err != nil {
				return err
			}
			d = pricelist.Drafted(stated, e.Today)
			d.Base, d.Edition.Source = time.Time{}, "stand-in for something like "+stated.Platform.Name
			p.Does, p.About = stated.Platform.Does, stated.Platform.About
		} else if d.Edition.Currency, err = money.ParseCurrency(in); err != nil {
			return &RefusedError{err}
		}
		d.Edition.Platform = pricelist.Platform{Key: p.Key, Does: []string{}}
		if d, err = described(d, &p); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, "insert into platforms (id, workspace_id, key, name, does, about) values ($1, $2, $3, $4, $5, $6)", newID(), e.Workspace, p.Key,
			p.Name, orEmpty(p.Does), p.About); err != nil {
			return err
		}
		if err := s.drafts.insert(ctx, tx, e.Workspace, newID(), p.Key, d, time.Time{}); err != nil {
			return err
		}
		key = p.Key
		return e.note(ctx, tx, "platform", p.Name, "–", "put on the shelf by hand")
	})
	return key, err
}

// described writes what was typed about a platform into its draft, as the draft's fields
// take it, and into p. What they do not take is a [*RefusedError].
func described(d pricelist.Draft, p *pricelist.Platform) (pricelist.Draft, error) {
	for path, text := range map[document.Path]string{"platform.name": p.Name, "platform.does": strings.Join(p.Does, ", "), "platform.about": p.About,
		"platform.links": strings.Join(p.Links, " ")} {
		spot, _ := pricelist.Drafts().Spot(d, path)
		to, err := pricelist.Drafts().Typed(d, path, text)
		if err == nil && to != spot.Text {
			d, _, err = pricelist.Drafts().Apply(d, document.Change{{Do: document.Set, Path: path, Was: spot.Text, To: to}})
		}
		if err == nil && path == "platform.name" && to == "" {
			err = document.Problem("is empty")
		}
		if err != nil {
			return d, &RefusedError{&FieldError{path, spot.Label, err}}
		}
	}
	*p = d.Edition.Platform
	return d, nil
}

// FieldError is what is wrong with a field that was typed.
type FieldError struct {
	Path  document.Path
	Label string
	Err   error
}

func (e *FieldError) Error() string { return fmt.Sprintf("%s %v", e.Label, e.Err) }
func (e *FieldError) Unwrap() error { return e.Err }

func orEmpty(all []string) []string {
	if all == nil {
		return []string{}
	}
	return all
}

// UnfitError reports a draft that cannot be published yet.
type UnfitError struct{ Faults []string }

func (e *UnfitError) Error() string { return e.Faults[0] }

// fromDraft begins what the history says of an edition that was a draft.
const fromDraft = "published, "

// SinceError reports that a draft was changed since somebody looked who would publish it.
type SinceError struct{ Changes []Change } // the newest first

func (e *SinceError) Error() string { return "it was changed since you looked" }

// Publish makes a platform's draft an edition of its price list and returns it: the draft as who
// publishes it saw it, at that revision. One that was changed since is refused with a
// [*RefusedError] of a [*SinceError], one at fault with that of an [*UnfitError].
func (s *Store) Publish(ctx context.Context, e Editing, platform string, seen int64) (edition uuid.UUID, err error) {
	e.Study = uuid.Nil
	err = s.locked(ctx, e, func(tx pgx.Tx) error {
		if !e.Role.May(doors.ToEdit) {
			return &NotAllowedError{Need: doors.ToEdit}
		}
		var id uuid.UUID
		var now int64
		err := tx.QueryRow(ctx, "select id, revision from documents where workspace_id = $1 and kind = 'draft' and key = $2 and deleted_at is null for update",
			e.Workspace, platform).Scan(&id, &now)
		if err != nil {
			return missing(err)
		}
		if now != seen {
			rows, err := tx.Query(ctx, fromChanges+"where c.document_id = $1 order by c.touched_at desc limit $2", id, min(max(now-seen, 1), 20))
			since := &SinceError{}
			if since.Changes, err = changes(rows, err); err != nil {
				return err
			}
			return &RefusedError{since}
		}
		d, err := s.drafts.parts(ctx, tx, id)
		if err != nil {
			return err
		}
		if err := laterThatDay(ctx, tx, id, &d.Edition); err != nil {
			return err
		}
		file, err := formats.WritePriceList(&d.Edition)
		if err != nil {
			return err
		}
		if edition, err = s.publishFile(ctx, tx, e, file, fromDraft); err != nil {
			return err
		}
		_, err = tx.Exec(ctx, "delete from documents where id = $1", id)
		return err
	})
	return edition, err
}

// laterThatDay gives a price list the time of day where another was read on that day, so that it is
// a correction of it and comes after it.
func laterThatDay(ctx context.Context, tx pgx.Tx, draft uuid.UUID, e *pricelist.Edition) error {
	var last time.Time
	err := tx.QueryRow(ctx, `select x.observed_on from editions x join platforms p on p.id = x.platform_id join documents d on d.workspace_id = p.workspace_id and d.key = p.key
		where d.id = $1 and x.observed_on::date = $2::date order by x.observed_on desc limit 1`, draft, e.ObservedOn).Scan(&last)
	if err != nil {
		if missing(err) == ErrMissing {
			return nil
		}
		return err
	}
	now := time.Now().UTC()
	day := last.Truncate(24 * time.Hour)
	if e.ObservedOn = day.Add(time.Duration(now.Hour())*time.Hour + time.Duration(now.Minute())*time.Minute); !e.ObservedOn.After(last) {
		e.ObservedOn = last.Add(time.Minute)
	}
	return nil
}

// publishFile keeps a price list that was written here as an edition. What keeps it from being
// one is a [*RefusedError] of an [*UnfitError].
func (s *Store) publishFile(ctx context.Context, tx pgx.Tx, e Editing, file []byte, how string) (edition uuid.UUID, err error) {
	opened, err := s.open(ctx, file)
	if err == nil {
		var list *pricelist.Edition
		if list, err = opened.PriceList(); err == nil {
			edition, err = s.putEdition(ctx, tx, e, opened, list, how)
		}
	}
	var faults formats.Faults
	if errors.As(err, &faults) {
		unfit := &UnfitError{}
		for _, f := range faults {
			unfit.Faults = append(unfit.Faults, f.Field+": "+f.Problem)
		}
		err = &RefusedError{unfit}
	}
	return edition, err
}

// Gone is what became of a draft that is not there any more.
type Gone struct {
	Published bool // else it was put aside, or never was
	By        string
	At        time.Time
}

// GoneDraft says what became of a platform's draft.
func (s *Store) GoneDraft(ctx context.Context, workspace uuid.UUID, platform string) (g Gone, err error) {
	err = s.pool.QueryRow(ctx, `select true, coalesce(who.name, ''), c.made_at from changes c left join people who on who.id = c.person_id
		join platforms p on p.workspace_id = c.workspace_id and p.key = $2
		where c.workspace_id = $1 and c.wide and c.paths = '{price list}' and c.says->0->>'label' = 'Price list ' || p.name and starts_with(c.says->0->>'to', $3)
		and not exists (select from documents d where d.workspace_id = $1 and d.kind = 'draft' and d.key = $2 and d.deleted_at > c.made_at)
		order by c.made_at desc limit 1`, workspace, platform, fromDraft).Scan(&g.Published, &g.By, &g.At)
	if missing(err) == ErrMissing {
		err = nil
	}
	return g, err
}

// DropDraft puts a platform's draft aside; [Store.TakeUpDraft] takes it up again.
func (s *Store) DropDraft(ctx context.Context, e Editing, platform string) error {
	return s.moveDraft(ctx, e, "update documents set deleted_at = now() where workspace_id = $1 and kind = 'draft' and key = $2 and deleted_at is null", platform)
}

// TakeUpDraft takes up again the draft of a platform that was put aside last.
func (s *Store) TakeUpDraft(ctx context.Context, e Editing, platform string) error {
	return s.moveDraft(ctx, e, `update documents set deleted_at = null where id = (select id from documents where workspace_id = $1 and kind = 'draft' and key = $2
		and deleted_at is not null order by deleted_at desc limit 1) and not exists (select from documents where workspace_id = $1 and kind = 'draft' and key = $2
		and deleted_at is null)`, platform)
}

func (s *Store) moveDraft(ctx context.Context, e Editing, sql, platform string) error {
	e.Study = uuid.Nil
	return s.locked(ctx, e, func(tx pgx.Tx) error {
		if !e.Role.May(doors.ToEdit) {
			return &NotAllowedError{Need: doors.ToEdit}
		}
		tag, err := tx.Exec(ctx, sql, e.Workspace, platform)
		if err == nil && tag.RowsAffected() == 0 {
			err = ErrMissing
		}
		return err
	})
}
