// Package store keeps studies and price lists in PostgreSQL. A workspace owns
// everything; published editions never change; what people edit are documents,
// each with a revision, and one history of operations.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"sync/atomic"
	"time"

	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/work"
	"ninecoins/internal/keep"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrMissing reports something that is not there, or not in the workspace
// that was asked.
var ErrMissing = errors.New("not there")

// Store is a pool of connections. It is safe for concurrent use.
type Store struct {
	pool     *pgxpool.Pool
	sessions *pgxstore.PostgresStore
	editions *keep.Cache[uuid.UUID, *pricelist.Edition] // which never change
	studies  *kind[study.Study, *study.Outcome]
	// The workspaces' catalogues of features, and price lists that are being written.
	catalogues *kind[feature.Own, *feature.Catalogue]
	drafts     *kind[pricelist.Draft, *Drafted]
	heard      atomic.Pointer[func(uuid.UUID, *work.Panic)]
	before     atomic.Pointer[func(*study.Study)]
}

// mostEditions bounds the memory for price lists that were read, in bytes.
const mostEditions = 64 << 20

// Open connects to a server, which must answer within five seconds.
func Open(ctx context.Context, url string) (*Store, error) { return OpenTraced(ctx, url, nil) }

// OpenTraced is [Open] with a tracer that sees every statement; tests stop the
// process at one.
func OpenTraced(ctx context.Context, url string, tracer pgx.QueryTracer) (*Store, error) {
	config, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("the database's address cannot be read: %w", err)
	}
	config.ConnConfig.Tracer = tracer
	if config.ConnConfig.ConnectTimeout == 0 {
		config.ConnConfig.ConnectTimeout = 5 * time.Second
	}
	config.MaxConns = max(config.MaxConns, 8)
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	if err := pool.Ping(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	s := &Store{pool: pool, sessions: pgxstore.NewWithCleanupInterval(pool, 0), editions: keep.New[uuid.UUID, *pricelist.Edition](mostEditions)}
	s.studies, s.catalogues, s.drafts = studiesOf(s), cataloguesOf(), draftsOf()
	return s, nil
}

// Close ends all connections.
func (s *Store) Close() { s.pool.Close() }

// Sessions returns a session store on the same database, for scs; [Store.Purge]
// clears what has expired.
func (s *Store) Sessions() *pgxstore.PostgresStore { return s.sessions }

// Ping asks the server for an answer.
func (s *Store) Ping(ctx context.Context) error { return s.pool.Ping(ctx) }

// Migrate brings the tables up to date. Several processes may call it at once.
func (s *Store) Migrate(ctx context.Context) error {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	db := stdlib.OpenDBFromPool(s.pool)
	defer db.Close()
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectPostgres, db, files, goose.WithSessionLocker(locker), goose.WithGoMigrations(likenesses, documentsRead))
	if err != nil {
		return fmt.Errorf("reading the migrations: %w", err)
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("migrating the database: %w", err)
	}
	return nil
}

// tx runs with in one transaction, which ends with it. Where the database
// gives the transaction up because others stood in its way, it is run again:
// with may be called several times, and begins anew each time.
func (s *Store) tx(ctx context.Context, with func(pgx.Tx) error) error {
	return s.again(ctx, func() error { return pgx.BeginFunc(ctx, s.pool, with) })
}

// mostTries is how often a transaction is run at most.
const mostTries = 6

// again does something, and once more after a little while, as long as the
// database gives it up for what others do at the same time.
func (s *Store) again(ctx context.Context, do func() error) error {
	for try := 1; ; try++ {
		err := do()
		if try == mostTries || !standsInTheWay(err) {
			return err
		}
		select {
		case <-time.After(time.Duration(rand.Int64N(int64(time.Millisecond) << (2 * try)))):
		case <-ctx.Done():
			return err
		}
	}
}

// standsInTheWay reports whether a transaction was given up for another one:
// serialisation failures and deadlocks, class 40 of appendix A of PostgreSQL's
// manual.
func standsInTheWay(err error) bool {
	var said *pgconn.PgError
	return errors.As(err, &said) && (said.Code == "40001" || said.Code == "40P01")
}

func newID() uuid.UUID { return uuid.Must(uuid.NewV7()) }

// missing turns pgx's word for no rows into ours.
func missing(err error) error {
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrMissing
	}
	return err
}
