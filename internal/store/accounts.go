package store

import (
	"context"
	"errors"

	"ninecoins/internal/doors"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// Account is somebody who can sign in. Sessions that were begun under an
// earlier Epoch have ended.
type Account struct {
	ID          uuid.UUID
	Name, Email string
	Epoch       int64
	HasPassword bool
	WithoutKeys bool // keys of one letter do nothing
}

// Seat is an account's place in a workspace.
type Seat struct {
	Workspace Workspace
	Person    uuid.UUID
	Name      string // of the person, in this workspace
	Role      doors.Role
	Holds     bool // the study or edition that was asked for is this workspace's
}

// Visitor returns an account with its seats, the oldest first, and tells which
// workspace holds a study or edition, where one is asked for. An account that
// is gone, or whose sessions of that epoch have ended, is [ErrMissing].
func (s *Store) Visitor(ctx context.Context, account uuid.UUID, epoch int64, thing uuid.UUID) (Account, []Seat, error) {
	var a Account
	var seats []Seat
	rows, err := s.pool.Query(ctx, `select a.id, a.name, a.email, a.epoch, a.password <> '', a.without_keys, w.id, coalesce(w.name, ''), p.id, coalesce(p.name, ''), coalesce(m.role, ''),
			exists (select from documents where id = $3 and workspace_id = w.id) or exists (select from editions where id = $3 and workspace_id = w.id)
		from accounts a left join members m on m.account_id = a.id left join workspaces w on w.id = m.workspace_id left join people p on p.id = m.person_id
		where a.id = $1 and a.epoch = $2 order by m.joined_at, w.id`, account, epoch, thing)
	if err != nil {
		return a, nil, err
	}
	var workspace, person *uuid.UUID
	var one Seat
	_, err = pgx.ForEachRow(rows, []any{&a.ID, &a.Name, &a.Email, &a.Epoch, &a.HasPassword, &a.WithoutKeys, &workspace, &one.Workspace.Name, &person, &one.Name,
		&one.Role, &one.Holds}, func() error {
		if workspace != nil {
			one.Workspace.ID, one.Person = *workspace, *person
			seats = append(seats, one)
		}
		return nil
	})
	if err == nil && a.ID == uuid.Nil {
		err = ErrMissing
	}
	return a, seats, err
}

// AtDoor returns the account of an email with its kept password, for
// comparing; [ErrMissing] where there is none.
func (s *Store) AtDoor(ctx context.Context, email string) (a Account, password string, err error) {
	err = s.pool.QueryRow(ctx, "select id, name, email, epoch, password <> '', password from accounts where lower(email) = lower($1)", email).
		Scan(&a.ID, &a.Name, &a.Email, &a.Epoch, &a.HasPassword, &password)
	return a, password, missing(err)
}

// SetKeys switches keys of one letter on or off.
func (s *Store) SetKeys(ctx context.Context, account uuid.UUID, on bool) error {
	_, err := s.pool.Exec(ctx, "update accounts set without_keys = not $2 where id = $1", account, on)
	return err
}

// Rehash keeps a password that was hashed anew, unless it was changed
// meanwhile.
func (s *Store) Rehash(ctx context.Context, account uuid.UUID, was, to string) error {
	_, err := s.pool.Exec(ctx, "update accounts set password = $3 where id = $1 and password = $2", account, was, to)
	return err
}

// SetPassword keeps a new password, ends all sessions of the account and shuts
// its open links. It returns the epoch that new ones begin
// under.
func (s *Store) SetPassword(ctx context.Context, account uuid.UUID, password string) (epoch int64, err error) {
	err = s.tx(ctx, func(tx pgx.Tx) error {
		if err := shutNewPasswords(ctx, tx, account); err != nil {
			return err
		}
		return tx.QueryRow(ctx, "update accounts set password = $2, epoch = epoch + 1 where id = $1 returning epoch", account, password).Scan(&epoch)
	})
	return epoch, missing(err)
}

// shutNewPasswords withdraws an account's open links, for a new password or
// another email.
func shutNewPasswords(ctx context.Context, tx pgx.Tx, account uuid.UUID) error {
	_, err := tx.Exec(ctx, "update passes set withdrawn_at = now() where account_id = $1 and used_at is null and withdrawn_at is null", account)
	return err
}

// EndSessions ends all sessions of an account, on every server.
func (s *Store) EndSessions(ctx context.Context, account uuid.UUID) error {
	_, err := s.pool.Exec(ctx, "update accounts set epoch = epoch + 1 where id = $1", account)
	return err
}

// Reasons why an account cannot be as asked.
var (
	ErrNameTaken  = errors.New("somebody else goes by that name in the workspace already")
	ErrEmailTaken = errors.New("that email has an account already")
	ErrLastOwner  = errors.New("a workspace needs an owner; make somebody else owner first")
)

// taken turns the database's word for a name or email that is taken into ours.
func taken(err error) error {
	var pgErr *pgconn.PgError
	if errors.As(err, &pgErr) {
		switch pgErr.ConstraintName {
		case "people_workspace_id_name_key", "people_likeness":
			return ErrNameTaken
		case "accounts_email":
			return ErrEmailTaken
		}
	}
	return err
}

// SetName names an account anew, in all its workspaces and in what it rated
// there. A name that another person of a workspace has is [ErrNameTaken].
func (s *Store) SetName(ctx context.Context, account uuid.UUID, name string) error {
	return taken(s.tx(ctx, func(tx pgx.Tx) error {
		// Names stand beside ratings, so the studies are not as they were. Locks are
		// taken in one order everywhere, workspaces before studies before people and
		// each by id, so that two who come at once wait for one another in turn.
		for _, sql := range []string{
			"select from workspaces where id in (select workspace_id from people where account_id = $1) order by id for no key update",
			"select from documents where workspace_id in (select workspace_id from people where account_id = $1) order by id for no key update",
		} {
			if _, err := tx.Exec(ctx, sql, account); err != nil {
				return err
			}
		}
		if _, err := tx.Exec(ctx, "update documents s set revision = revision + 1 from people p where p.account_id = $1 and p.workspace_id = s.workspace_id", account); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, "update accounts set name = $2 where id = $1", account, name); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, "update people set name = $2, likeness = $3 where account_id = $1", account, name, doors.Likeness(name))
		return err
	}))
}

// NewWorkspace makes a workspace with the account as its owner.
func (s *Store) NewWorkspace(ctx context.Context, account Account, name string) (Workspace, error) {
	w := Workspace{newID(), name}
	err := s.tx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "insert into workspaces (id, name) values ($1, $2)", w.ID, name); err != nil {
			return err
		}
		return seat(ctx, tx, w.ID, account.ID, account.Name, doors.Owner)
	})
	return w, err
}

// NewAccount makes an account with a seat in a workspace, for the demo and for
// tests. password is a hash; none: nobody signs in with one.
func (s *Store) NewAccount(ctx context.Context, workspace uuid.UUID, name, email, password string, role doors.Role) (Account, error) {
	var a Account
	err := s.tx(ctx, func(tx pgx.Tx) (err error) {
		if a, err = insertAccount(ctx, tx, name, email, password); err != nil {
			return err
		}
		return seat(ctx, tx, workspace, a.ID, name, role)
	})
	return a, taken(err)
}

func insertAccount(ctx context.Context, tx pgx.Tx, name, email, password string) (Account, error) {
	a := Account{ID: newID(), Name: name, Email: email, Epoch: 1, HasPassword: password != ""}
	_, err := tx.Exec(ctx, "insert into accounts (id, name, email, password, epoch) values ($1, $2, $3, $4, $5)", a.ID, name, email, password, a.Epoch)
	return a, err
}

// seat gives an account a place in a workspace. It takes over the person of
// that name, or of one that looks like it, where there is one without an
// account, such as a rater who came with a study's file, and its own person
// where it was here before.
func seat(ctx context.Context, tx pgx.Tx, workspace, account uuid.UUID, name string, role doors.Role) error {
	var person uuid.UUID
	err := tx.QueryRow(ctx, `update people set account_id = $2 where id = (select id from people where workspace_id = $1 and (account_id = $2 or account_id is null and (name = $3 or likeness = $4))
		order by account_id is null, name = $3 desc limit 1) returning id`, workspace, account, name, doors.Likeness(name)).Scan(&person)
	if missing(err) == ErrMissing {
		person = newID()
		_, err = tx.Exec(ctx, "insert into people (id, workspace_id, name, likeness, account_id) values ($1, $2, $3, $4, $5)", person, workspace, name,
			doors.Likeness(name), account)
	}
	if err == nil {
		_, err = tx.Exec(ctx, "insert into members (workspace_id, account_id, person_id, role) values ($1, $2, $3, $4)", workspace, account, person, string(role))
	}
	return err
}
