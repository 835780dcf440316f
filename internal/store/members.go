package store

import (
	"context"
	"time"

	"ninecoins/internal/doors"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Member is a person with a role in a workspace.
type Member struct {
	Person      uuid.UUID
	Name, Email string
	Role        doors.Role
	JoinedAt    time.Time
}

// Members lists a workspace's members, by name.
func (s *Store) Members(ctx context.Context, workspace uuid.UUID) ([]Member, error) {
	rows, err := s.pool.Query(ctx, `select p.id, p.name, a.email, m.role, m.joined_at from members m join people p on p.id = m.person_id join accounts a on a.id = m.account_id
		where m.workspace_id = $1 order by p.name`, workspace)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Member])
}

// SetRole gives a member another role; "" takes the seat away. The last owner
// stays one. Somebody who is not a member, or whose role is not was by now, is
// [ErrMissing].
func (s *Store) SetRole(ctx context.Context, e Editing, person uuid.UUID, was, to doors.Role) error {
	e.Study = uuid.Nil
	return s.locked(ctx, e, func(tx pgx.Tx) error {
		if !e.Role.May(doors.ToGovern) {
			return &NotAllowedError{Need: doors.ToGovern}
		}
		var name string
		var others int
		err := tx.QueryRow(ctx, `select p.name, (select count(*) from members where workspace_id = $1 and role = 'owner' and person_id <> $2)
			from members m join people p on p.id = m.person_id where m.workspace_id = $1 and m.person_id = $2 and m.role = $3`, e.Workspace, person, string(was)).Scan(&name, &others)
		if err != nil {
			return missing(err)
		}
		if was == to {
			return nil
		}
		if was == doors.Owner && others == 0 {
			return ErrLastOwner
		}
		if to == "" {
			_, err = tx.Exec(ctx, "delete from members where workspace_id = $1 and person_id = $2", e.Workspace, person)
		} else {
			_, err = tx.Exec(ctx, "update members set role = $3 where workspace_id = $1 and person_id = $2", e.Workspace, person, string(to))
		}
		if err != nil {
			return err
		}
		return e.note(ctx, tx, "role", name, orNothing(string(was)), orNothing(string(to)))
	})
}

// SetWorkspaceName names the workspace anew.
func (s *Store) SetWorkspaceName(ctx context.Context, e Editing, name string) error {
	e.Study = uuid.Nil
	return s.locked(ctx, e, func(tx pgx.Tx) error {
		if !e.Role.May(doors.ToGovern) {
			return &NotAllowedError{Need: doors.ToGovern}
		}
		var was string
		err := tx.QueryRow(ctx, "select name from workspaces where id = $1", e.Workspace).Scan(&was)
		if err != nil || was == name {
			return missing(err)
		}
		if _, err := tx.Exec(ctx, "update workspaces set name = $2 where id = $1", e.Workspace, name); err != nil {
			return err
		}
		return e.note(ctx, tx, "workspace name", "", was, name)
	})
}
