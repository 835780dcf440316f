package store

import (
	"context"
	"strconv"
	"time"

	"ninecoins/internal/core/pricelist"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// PlatformRow is a platform as the price shelf lists it.
type PlatformRow struct {
	Key, Name, About string
	Does             []string
	Editions         int
	Newest           uuid.UUID // its newest edition; nil: there is none yet
	ObservedOn       time.Time
	Source, Currency string
	UsedIn           int  // studies, by any of its editions; [ManyUses] of an edition, or more, are not counted on
	Draft            bool // its price list is being written
}

// ShelfPage says which platforms are asked for.
type ShelfPage struct {
	Text     string // in the name, what it does, or its categories; "" any
	Category string // "" any
	After    string // key of the platform that comes before; "" from the first on
	Priced   bool   // only those that have a price list
	Most     int
}

const platformColumns = `p.key, p.name, p.about, p.does,
	(select count(*) from editions e where e.platform_id = p.id),
	coalesce(n.id, '00000000-0000-0000-0000-000000000000'::uuid), coalesce(n.observed_on, '0001-01-01'::timestamp), coalesce(n.source, ''), coalesce(n.currency, ''),
	(select count(distinct document_id) from editions e, lateral (select l.document_id from document_editions l join documents d on d.id = l.document_id
		where l.edition_id = e.id and l.left_at is null and d.deleted_at is null order by l.document_id limit 100) used where e.platform_id = p.id),
	exists (select from documents d where d.workspace_id = p.workspace_id and d.kind = 'draft' and d.key = p.key and d.deleted_at is null)`

const newestEdition = "left join lateral (select id, observed_on, source, currency from editions e where e.platform_id = p.id order by observed_on desc limit 1) n on true"

// Shelf lists a page of a workspace's platforms by name.
func (s *Store) Shelf(ctx context.Context, workspace uuid.UUID, p ShelfPage) ([]PlatformRow, error) {
	// Only what is asked for stands in the query, so that each shape of it is planned for
	// itself.
	args := []any{workspace, p.Most}
	arg := func(value string) string {
		args = append(args, value)
		return "$" + strconv.Itoa(len(args))
	}
	where := "workspace_id = $1 and deleted_at is null"
	if p.Text != "" {
		like := arg(likeAny(p.Text))
		where += " and (lower(name) like " + like + " or lower(about) like " + like + " or exists (select from unnest(does) one where lower(one) like " + like + "))"
	}
	if p.Category != "" {
		where += " and " + arg(p.Category) + " = any(does)"
	}
	if p.After != "" {
		where += " and (lower(name), key) > (select lower(name), key from platforms where workspace_id = $1 and key = " + arg(p.After) + ")"
	}
	if p.Priced {
		where += " and exists (select from editions e where e.platform_id = p.id)"
	}
	rows, err := s.pool.Query(ctx, "select "+platformColumns+" from (select * from platforms p where "+where+" order by lower(name), key limit $2) p "+
		newestEdition+" order by lower(p.name), p.key", args...)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[PlatformRow])
}

// Categories lists what the platforms of a workspace do, and how many do it, the
// commonest first.
func (s *Store) Categories(ctx context.Context, workspace uuid.UUID) (names []string, counts []int, err error) {
	rows, err := s.pool.Query(ctx, `select one, count(*) from platforms, unnest(does) one where workspace_id = $1 and deleted_at is null
		group by one order by 2 desc, 1 limit 40`, workspace)
	if err != nil {
		return nil, nil, err
	}
	var name string
	var n int
	_, err = pgx.ForEachRow(rows, []any{&name, &n}, func() error { names, counts = append(names, name), append(counts, n); return nil })
	return names, counts, err
}

// Platform returns a platform of the shelf, or [ErrMissing].
func (s *Store) Platform(ctx context.Context, workspace uuid.UUID, key string) (PlatformRow, error) {
	rows, err := s.pool.Query(ctx, "select "+platformColumns+" from platforms p "+newestEdition+" where p.workspace_id = $1 and p.key = $2 and p.deleted_at is null", workspace, key)
	if err != nil {
		return PlatformRow{}, err
	}
	row, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[PlatformRow])
	return row, missing(err)
}

// EditionsOf lists the editions of a platform, the newest first.
func (s *Store) EditionsOf(ctx context.Context, workspace uuid.UUID, key string) ([]EditionRow, error) {
	rows, err := s.pool.Query(ctx, "select "+editionColumns+" from editions e join platforms p on p.id = e.platform_id where e.workspace_id = $1 and p.key = $2 and p.deleted_at is null order by e.observed_on desc", workspace, key)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[EditionRow])
}

// ListsOf returns the days on which price lists of some platforms were read, by
// platform, the newest first.
func (s *Store) ListsOf(ctx context.Context, workspace uuid.UUID, platforms []string) (map[string][]time.Time, error) {
	rows, err := s.pool.Query(ctx, `select p.key, e.observed_on from editions e join platforms p on p.id = e.platform_id
		where e.workspace_id = $1 and p.key = any($2) order by e.observed_on desc`, workspace, platforms)
	if err != nil {
		return nil, err
	}
	all := map[string][]time.Time{}
	var key string
	var day time.Time
	_, err = pgx.ForEachRow(rows, []any{&key, &day}, func() error { all[key] = append(all[key], day); return nil })
	return all, err
}

// EditionOn returns the edition of a platform that was read on a day, or [ErrMissing].
func (s *Store) EditionOn(ctx context.Context, workspace uuid.UUID, platform string, day time.Time) (*pricelist.Edition, error) {
	var id uuid.UUID
	err := s.pool.QueryRow(ctx, "select e.id from editions e join platforms p on p.id = e.platform_id where p.workspace_id = $1 and p.key = $2 and e.observed_on = $3 and p.deleted_at is null",
		workspace, platform, day).Scan(&id)
	if err != nil {
		return nil, missing(err)
	}
	return s.edition(ctx, s.pool, id)
}

// UsedIn is a study that goes by an edition of a platform.
type UsedIn struct {
	ID         uuid.UUID
	Title      string
	ObservedOn time.Time
}

// ManyUses is up to where the studies that use something are counted.
const ManyUses = 100

// PlatformUses lists the studies that go by any edition of a platform, up to most of
// them, those changed last first.
func (s *Store) PlatformUses(ctx context.Context, workspace uuid.UUID, key string, most int) ([]UsedIn, error) {
	rows, err := s.pool.Query(ctx, `select d.id, d.title, e.observed_on from document_editions l join documents d on d.id = l.document_id join editions e on e.id = l.edition_id
		join platforms p on p.id = e.platform_id where p.workspace_id = $1 and p.key = $2 and l.left_at is null and d.deleted_at is null and d.kind = 'study'
		order by d.updated_at desc, d.id desc, e.observed_on limit $3`, workspace, key, most)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[UsedIn])
}

// Again is a price list in use, and when it is past the patience of a study.
type Again struct {
	Platform, Name string
	ObservedOn     time.Time
	Due            time.Time // the earliest, of all studies that go by it
	Studies        int
}

// ToReadAgain lists the price lists that studies go by and that are to be read again by a
// day, the oldest first.
func (s *Store) ToReadAgain(ctx context.Context, workspace uuid.UUID, by time.Time, most int) ([]Again, error) {
	rows, err := s.pool.Query(ctx, `select p.key, p.name, e.observed_on, min(e.observed_on::date + coalesce((d.facts->>'patience')::int, 90)) as due, count(distinct d.id)
		from document_editions l join documents d on d.id = l.document_id join editions e on e.id = l.edition_id join platforms p on p.id = e.platform_id
		where p.workspace_id = $1 and l.left_at is null and d.deleted_at is null and d.kind = 'study' and p.deleted_at is null
		group by p.key, p.name, e.observed_on having min(e.observed_on::date + coalesce((d.facts->>'patience')::int, 90)) <= $2 order by due, p.name limit $3`, workspace, by, most)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Again])
}
