package store

import (
	"context"
	"errors"
	"time"

	"ninecoins/internal/doors"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// What a pass opens.
const (
	SetUp       = "set-up"
	Invitation  = "invitation"
	NewPassword = "new password"
	NewEmail    = "new email"
)

// Pass is a link that opens once.
type Pass struct {
	ID        uuid.UUID
	Opens     string
	Workspace Workspace  // invitation
	Email     string     // invitation: who is invited; new password: whose; new email: the new one
	Role      doors.Role // invitation
	By        string     // invitation: who invites
	Account   uuid.UUID  // new password, new email
	MadeAt    time.Time
	EndsAt    time.Time
}

// Reasons why a pass does not open.
var (
	ErrUsed      = errors.New("the link was used before, and opens once")
	ErrEnded     = errors.New("the link's time is over")
	ErrWithdrawn = errors.New("the link was withdrawn")
	ErrMember    = errors.New("whoever has that email is a member already")
	ErrSetUp     = errors.New("there is an owner already")
)

const passColumns = `s.id, s.opens, coalesce(w.id, '00000000-0000-0000-0000-000000000000'), coalesce(w.name, ''), case when s.email <> '' then s.email
	else coalesce(a.email, '') end, s.role, coalesce(p.name, ''),
	coalesce(s.account_id, '00000000-0000-0000-0000-000000000000'), s.made_at, s.ends_at`

const fromPasses = ` from passes s left join workspaces w on w.id = s.workspace_id left join people p on p.id = s.made_by left join accounts a on a.id = s.account_id `

func scanPass(r pgx.CollectableRow) (p Pass, err error) {
	return p, r.Scan(&p.ID, &p.Opens, &p.Workspace.ID, &p.Workspace.Name, &p.Email, &p.Role, &p.By, &p.Account, &p.MadeAt, &p.EndsAt)
}

// Pass returns what a pass opens, without using it. One that does not open is
// [ErrMissing], [ErrUsed], [ErrEnded] or [ErrWithdrawn].
func (s *Store) Pass(ctx context.Context, hash []byte, opens string) (Pass, error) {
	return pass(ctx, s.pool, hash, opens, "")
}

func pass(ctx context.Context, q querier, hash []byte, opens, lock string) (p Pass, err error) {
	var used, withdrawn, ended bool
	err = q.QueryRow(ctx, "select "+passColumns+", s.used_at is not null, s.withdrawn_at is not null, s.ends_at <= now()"+fromPasses+"where s.hash = $1 "+
		"and s.opens = $2"+lock, hash, opens).
		Scan(&p.ID, &p.Opens, &p.Workspace.ID, &p.Workspace.Name, &p.Email, &p.Role, &p.By, &p.Account, &p.MadeAt, &p.EndsAt, &used, &withdrawn, &ended)
	switch {
	case err != nil:
		return p, missing(err)
	case used:
		return p, ErrUsed
	case withdrawn:
		return p, ErrWithdrawn
	case ended:
		return p, ErrEnded
	}
	return p, nil
}

// use runs with on a pass and marks it as used, in one transaction: of two who
// come at once, one finds it used.
func (s *Store) use(ctx context.Context, hash []byte, opens string, with func(pgx.Tx, Pass) error) error {
	return taken(s.tx(ctx, func(tx pgx.Tx) error {
		p, err := pass(ctx, tx, hash, opens, " for update of s")
		if err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, "update passes set used_at = now() where id = $1", p.ID); err != nil {
			return err
		}
		return with(tx, p)
	}))
}

// MakeSetUp keeps a set-up link, where nobody owns anything yet; else it is
// [ErrSetUp].
func (s *Store) MakeSetUp(ctx context.Context, hash []byte, life time.Duration) error {
	tag, err := s.pool.Exec(ctx, "insert into passes (id, hash, opens, ends_at) select $1, $2, $3, now() + $4 where not exists (select from members "+
		"where role = 'owner')", newID(), hash, SetUp, life)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrSetUp
	}
	return err
}

// UseSetUp makes the first owner. The workspace that files were brought into
// before becomes theirs, under the given name; else one is made.
func (s *Store) UseSetUp(ctx context.Context, hash []byte, workspace, name, email, password string) (a Account, err error) {
	err = s.use(ctx, hash, SetUp, func(tx pgx.Tx, _ Pass) error {
		if _, err := tx.Exec(ctx, "lock table members in exclusive mode"); err != nil {
			return err
		}
		var owned bool
		if err := tx.QueryRow(ctx, "select exists (select from members where role = 'owner')").Scan(&owned); err != nil {
			return err
		}
		if owned {
			return ErrSetUp
		}
		var id uuid.UUID
		err := tx.QueryRow(ctx, "update workspaces set name = $1 where id = (select id from workspaces order by created_at, id limit 1) returning id",
			workspace).Scan(&id)
		if missing(err) == ErrMissing {
			id = newID()
			_, err = tx.Exec(ctx, "insert into workspaces (id, name) values ($1, $2)", id, workspace)
		}
		if err != nil {
			return err
		}
		if a, err = insertAccount(ctx, tx, name, email, password); err != nil {
			return err
		}
		return seat(ctx, tx, id, a.ID, name, doors.Owner)
	})
	return a, err
}

// Invite keeps an invitation of an email and returns when it ends; one that is
// open for the same email is withdrawn by it. A member's email is [ErrMember].
func (s *Store) Invite(ctx context.Context, e Editing, email string, role doors.Role, hash []byte, life time.Duration) (ends time.Time, err error) {
	e.Study = uuid.Nil
	err = s.locked(ctx, e, func(tx pgx.Tx) error {
		if !e.Role.May(doors.ToGovern) {
			return &NotAllowedError{Need: doors.ToGovern}
		}
		var member bool
		err := tx.QueryRow(ctx, "select exists (select from members m join accounts a on a.id = m.account_id where m.workspace_id = $1 "+
			"and lower(a.email) = lower($2))", e.Workspace, email).Scan(&member)
		if err != nil {
			return err
		}
		if member {
			return ErrMember
		}
		if _, err := tx.Exec(ctx, "update passes set withdrawn_at = now() where workspace_id = $1 and lower(email) = lower($2) and used_at is null "+
			"and withdrawn_at is null", e.Workspace, email); err != nil {
			return err
		}
		err = tx.QueryRow(ctx, "insert into passes (id, hash, opens, workspace_id, email, role, made_by, ends_at) values ($1, $2, $3, $4, $5, $6, $7, now() + $8) returning ends_at",
			newID(), hash, Invitation, e.Workspace, email, string(role), e.By, life).Scan(&ends)
		if err != nil {
			return err
		}
		return e.note(ctx, tx, "invitation", email, orNothing(""), string(role))
	})
	return ends, err
}

// Invitations lists a workspace's invitations that can still be taken up.
func (s *Store) Invitations(ctx context.Context, workspace uuid.UUID) ([]Pass, error) {
	rows, err := s.pool.Query(ctx, "select "+passColumns+fromPasses+"where s.workspace_id = $1 and s.used_at is null and s.withdrawn_at is null "+
		"and s.ends_at > now() order by s.made_at desc, s.id desc", workspace)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, scanPass)
}

// WithdrawInvitation shuts an invitation. One that is not open is
// [ErrMissing].
func (s *Store) WithdrawInvitation(ctx context.Context, e Editing, id uuid.UUID) error {
	e.Study = uuid.Nil
	return s.locked(ctx, e, func(tx pgx.Tx) error {
		if !e.Role.May(doors.ToGovern) {
			return &NotAllowedError{Need: doors.ToGovern}
		}
		var email, role string
		err := tx.QueryRow(ctx, "update passes set withdrawn_at = now() where workspace_id = $1 and id = $2 and opens = $3 and used_at is null "+
			"and withdrawn_at is null returning email, role", e.Workspace, id, Invitation).Scan(&email, &role)
		if err != nil {
			return missing(err)
		}
		return e.note(ctx, tx, "invitation", email, role, orNothing(""))
	})
}

// Join takes an invitation up: with an account of the invited email, which is
// made, with the name and password given, where there is none yet. known says
// that the account's own password was checked, or that it is signed in.
func (s *Store) Join(ctx context.Context, hash []byte, known uuid.UUID, name, password string) (a Account, w Workspace, err error) {
	err = s.use(ctx, hash, Invitation, func(tx pgx.Tx, p Pass) error {
		w = p.Workspace
		if known != uuid.Nil {
			err := tx.QueryRow(ctx, "select id, name, email, epoch, password <> '' from accounts where id = $1", known).Scan(&a.ID, &a.Name, &a.Email,
				&a.Epoch, &a.HasPassword)
			if err != nil {
				return missing(err)
			}
		} else if a, err = insertAccount(ctx, tx, name, p.Email, password); err != nil {
			return err
		}
		var member bool
		err := tx.QueryRow(ctx, "select exists (select from members where workspace_id = $1 and account_id = $2)", w.ID, a.ID).Scan(&member)
		if err != nil {
			return err
		}
		if member {
			return ErrMember
		}
		if err := seat(ctx, tx, w.ID, a.ID, a.Name, p.Role); err != nil {
			return err
		}
		joined := Editing{Workspace: w.ID}
		if err := tx.QueryRow(ctx, "select person_id from members where workspace_id = $1 and account_id = $2", w.ID, a.ID).Scan(&joined.By); err != nil {
			return err
		}
		return joined.note(ctx, tx, "role", a.Name, orNothing(""), string(p.Role))
	})
	return a, w, err
}

// MakeNewPassword keeps a link that lets an account choose a new password.
func (s *Store) MakeNewPassword(ctx context.Context, account uuid.UUID, hash []byte, life time.Duration) error {
	_, err := s.pool.Exec(ctx, "insert into passes (id, hash, opens, account_id, ends_at) values ($1, $2, $3, $4, now() + $5)", newID(), hash,
		NewPassword, account, life)
	return err
}

// UseNewPassword keeps a new password, ends all sessions of the account and
// shuts its other links for a new password.
func (s *Store) UseNewPassword(ctx context.Context, hash []byte, password string) (a Account, err error) {
	err = s.use(ctx, hash, NewPassword, func(tx pgx.Tx, p Pass) error {
		if err := shutNewPasswords(ctx, tx, p.Account); err != nil {
			return err
		}
		return tx.QueryRow(ctx, "update accounts set password = $2, epoch = epoch + 1 where id = $1 returning id, name, email, epoch, password <> ''",
			p.Account, password).
			Scan(&a.ID, &a.Name, &a.Email, &a.Epoch, &a.HasPassword)
	})
	return a, err
}

// AskNewEmail keeps a link that gives an account another email, once it is
// opened by whoever gets the letter there; an earlier one is withdrawn. An email
// that has an account is [ErrEmailTaken].
func (s *Store) AskNewEmail(ctx context.Context, account uuid.UUID, email string, hash []byte, life time.Duration) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		var taken bool
		err := tx.QueryRow(ctx, "select exists (select from accounts where lower(email) = lower($1))", email).Scan(&taken)
		if err == nil && taken {
			err = ErrEmailTaken
		}
		if err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, "update passes set withdrawn_at = now() where account_id = $1 and opens = $2 and used_at is null "+
			"and withdrawn_at is null", account, NewEmail); err != nil {
			return err
		}
		_, err = tx.Exec(ctx, "insert into passes (id, hash, opens, account_id, email, ends_at) values ($1, $2, $3, $4, $5, now() + $6)", newID(),
			hash, NewEmail, account, email, life)
		return err
	})
}

// AskedEmail returns the email that an account waits to be confirmed; "" for
// none.
func (s *Store) AskedEmail(ctx context.Context, account uuid.UUID) (email string, err error) {
	err = s.pool.QueryRow(ctx, "select email from passes where account_id = $1 and opens = $2 and used_at is null and withdrawn_at is null "+
		"and ends_at > now() order by made_at desc, id desc limit 1", account, NewEmail).Scan(&email)
	if missing(err) == ErrMissing {
		err = nil
	}
	return email, err
}

// WithdrawNewEmail shuts an account's open links for another email.
func (s *Store) WithdrawNewEmail(ctx context.Context, account uuid.UUID) error {
	_, err := s.pool.Exec(ctx, "update passes set withdrawn_at = now() where account_id = $1 and opens = $2 and used_at is null and withdrawn_at is null", account, NewEmail)
	return err
}

// UseNewEmail gives an account the email that its link was sent to, and shuts
// its other links. It returns the account as it is now, and the email that it
// had.
func (s *Store) UseNewEmail(ctx context.Context, hash []byte) (a Account, old string, err error) {
	err = s.use(ctx, hash, NewEmail, func(tx pgx.Tx, p Pass) error {
		if err := shutNewPasswords(ctx, tx, p.Account); err != nil {
			return err
		}
		if err := tx.QueryRow(ctx, "select email from accounts where id = $1 for update", p.Account).Scan(&old); err != nil {
			return missing(err)
		}
		return tx.QueryRow(ctx, "update accounts set email = $2 where id = $1 returning id, name, email, epoch, password <> ''", p.Account, p.Email).
			Scan(&a.ID, &a.Name, &a.Email, &a.Epoch, &a.HasPassword)
	})
	return a, old, err
}
