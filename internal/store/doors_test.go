package store_test

import (
	"errors"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// bare opens a store in which nobody is yet.
func bare(t *testing.T) (s *store.Store, url string) {
	t.Helper()
	url = testkit.Database(t)
	s, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	require.NoError(t, s.Migrate(t.Context()))
	return s, url
}

// sql runs a statement behind the store's back.
func sql(t *testing.T, url, statement string, args ...any) {
	t.Helper()
	conn, err := pgx.Connect(t.Context(), url)
	require.NoError(t, err)
	defer conn.Close(t.Context())
	_, err = conn.Exec(t.Context(), statement, args...)
	require.NoError(t, err)
}

func TestTheFirstOwnerComesInByASetUpLinkThatOpensOnce(t *testing.T) {
	s, url := bare(t)
	ctx := t.Context()
	_, first := doors.NewToken()
	_, second := doors.NewToken()
	require.NoError(t, s.MakeSetUp(ctx, first, time.Hour))
	require.NoError(t, s.MakeSetUp(ctx, second, time.Hour), "a second process prints one too")
	_, err := s.Pass(ctx, first, store.Invitation)
	assert.ErrorIs(t, err, store.ErrMissing, "it opens nothing else")
	a, err := s.UseSetUp(ctx, first, "Marl & Thistle", "Imke Vroom", "imke@marl.example", "hash")
	require.NoError(t, err)
	account, seats, err := s.Visitor(ctx, a.ID, a.Epoch, uuid.Nil)
	require.NoError(t, err)
	assert.Equal(t, "imke@marl.example", account.Email)
	require.Len(t, seats, 1)
	assert.Equal(t, doors.Owner, seats[0].Role)
	assert.Equal(t, "Marl & Thistle", seats[0].Workspace.Name)

	_, err = s.UseSetUp(ctx, first, "x", "x", "x@marl.example", "")
	assert.ErrorIs(t, err, store.ErrUsed)
	_, err = s.UseSetUp(ctx, second, "x", "x", "x@marl.example", "")
	assert.ErrorIs(t, err, store.ErrSetUp, "one owner is enough")
	assert.ErrorIs(t, s.MakeSetUp(ctx, first, time.Hour), store.ErrSetUp)
	sql(t, url, "delete from members")
	_, third := doors.NewToken()
	require.NoError(t, s.MakeSetUp(ctx, third, -time.Hour))
	_, err = s.Pass(ctx, third, store.SetUp)
	assert.ErrorIs(t, err, store.ErrEnded)
	_, err = s.UseSetUp(ctx, third, "x", "x", "x@marl.example", "")
	assert.ErrorIs(t, err, store.ErrEnded)
}

func TestTheSetUpTakesOverWhatWasBroughtInBefore(t *testing.T) {
	s, _ := bare(t)
	w, _, err := s.FirstWorkspace(t.Context(), "Workspace")
	require.NoError(t, err)
	_, hash := doors.NewToken()
	require.NoError(t, s.MakeSetUp(t.Context(), hash, time.Hour))
	a, err := s.UseSetUp(t.Context(), hash, "Marl & Thistle", "Imke Vroom", "imke@marl.example", "")
	require.NoError(t, err)
	_, seats, err := s.Visitor(t.Context(), a.ID, a.Epoch, uuid.Nil)
	require.NoError(t, err)
	assert.Equal(t, store.Workspace{ID: w.ID, Name: "Marl & Thistle"}, seats[0].Workspace)
}

func TestInvitationsAreTakenUpOnceAndCanBeWithdrawn(t *testing.T) {
	s, w := testkit.Store(t)
	ctx := t.Context()
	owner := testkit.As(t, s, w.ID, uuid.Nil, doors.Owner)
	invite := func(email string, role doors.Role) []byte {
		_, hash := doors.NewToken()
		_, err := s.Invite(ctx, owner, email, role, hash, 7*24*time.Hour)
		require.NoError(t, err)
		return hash
	}
	old := invite("rue@marl.example", doors.Reader)
	hash := invite("Rue@marl.example", doors.Rater)
	_, _, err := s.Join(ctx, old, uuid.Nil, "Rue Sable", "hash")
	assert.ErrorIs(t, err, store.ErrWithdrawn, "a newer one to the same email withdraws it")
	open, err := s.Invitations(ctx, w.ID)
	require.NoError(t, err)
	require.Len(t, open, 1)
	assert.Equal(t, doors.Rater, open[0].Role)
	assert.Equal(t, "Imke Vroom", open[0].By)

	_, _, err = s.Join(ctx, hash, uuid.Nil, "Dov Amsel", "hash")
	assert.ErrorIs(t, err, store.ErrNameTaken)
	a, joined, err := s.Join(ctx, hash, uuid.Nil, "Rue Sable", "hash")
	require.NoError(t, err)
	assert.Equal(t, w, joined)
	_, _, err = s.Join(ctx, hash, uuid.Nil, "Somebody Else", "hash")
	assert.ErrorIs(t, err, store.ErrUsed)
	_, seats, err := s.Visitor(ctx, a.ID, a.Epoch, uuid.Nil)
	require.NoError(t, err)
	assert.Equal(t, doors.Rater, seats[0].Role)
	_, again := doors.NewToken()
	_, err = s.Invite(ctx, owner, "RUE@marl.example", doors.Reader, again, time.Hour)
	assert.ErrorIs(t, err, store.ErrMember)

	gone := invite("sedge@marl.example", doors.Editor)
	open, err = s.Invitations(ctx, w.ID)
	require.NoError(t, err)
	require.NoError(t, s.WithdrawInvitation(ctx, owner, open[0].ID))
	assert.ErrorIs(t, s.WithdrawInvitation(ctx, owner, open[0].ID), store.ErrMissing)
	_, err = s.Pass(ctx, gone, store.Invitation)
	assert.ErrorIs(t, err, store.ErrWithdrawn)
	var refused *store.NotAllowedError
	editor := testkit.As(t, s, w.ID, uuid.Nil, doors.Editor)
	_, err = s.Invite(ctx, editor, "x@marl.example", doors.Owner, again, time.Hour)
	assert.ErrorAs(t, err, &refused)
	assert.ErrorAs(t, s.WithdrawInvitation(ctx, editor, open[0].ID), &refused)
}

// TestOfManyWhoTakeUpOneInvitationOneJoins goes through the door with eight at
// once.
func TestOfManyWhoTakeUpOneInvitationOneJoins(t *testing.T) {
	s, w := testkit.Store(t)
	_, hash := doors.NewToken()
	_, err := s.Invite(t.Context(), testkit.As(t, s, w.ID, uuid.Nil, doors.Owner), "rue@marl.example", doors.Reader, hash, time.Hour)
	require.NoError(t, err)
	var joined atomic.Int32
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			if _, _, err := s.Join(t.Context(), hash, uuid.Nil, "Rue Sable", ""); err == nil {
				joined.Add(1)
			}
		})
	}
	all.Wait()
	assert.EqualValues(t, 1, joined.Load())
}

func TestRolesAreGivenTakenAndTheLastOwnerStays(t *testing.T) {
	s, w := testkit.Store(t)
	ctx := t.Context()
	owner, editor := testkit.As(t, s, w.ID, uuid.Nil, doors.Owner), testkit.As(t, s, w.ID, uuid.Nil, doors.Editor)
	assert.ErrorIs(t, s.SetRole(ctx, owner, owner.By, doors.Owner, doors.Reader), store.ErrLastOwner)
	assert.ErrorIs(t, s.SetRole(ctx, owner, owner.By, doors.Owner, ""), store.ErrLastOwner)
	var refused *store.NotAllowedError
	assert.ErrorAs(t, s.SetRole(ctx, editor, editor.By, doors.Editor, doors.Owner), &refused, "nobody lifts themselves")
	assert.ErrorIs(t, s.SetRole(ctx, owner, editor.By, doors.Reader, doors.Owner), store.ErrMissing, "it was thought to be another role")
	require.NoError(t, s.SetRole(ctx, owner, editor.By, doors.Editor, doors.Owner))
	require.NoError(t, s.SetRole(ctx, owner, owner.By, doors.Owner, doors.Reader))
	assert.ErrorAs(t, s.SetWorkspaceName(ctx, owner, "Mine"), &refused, "the role is asked for in the transaction")
	editor.Role = doors.Owner
	require.NoError(t, s.SetWorkspaceName(ctx, editor, "Madder"))
	require.NoError(t, s.SetRole(ctx, editor, owner.By, doors.Reader, ""))
	members, err := s.Members(ctx, w.ID)
	require.NoError(t, err)
	assert.Len(t, members, 2)
	history, err := s.History(ctx, w.ID, uuid.Nil, store.Asked{Fields: []string{"role", "workspace name"}, Most: 10})
	require.NoError(t, err)
	require.Len(t, history, 4)
	assert.Equal(t, "Dov Amsel", history[0].By)
	assert.Equal(t, "Role Imke Vroom", history[0].Says[0].Label)
	assert.Equal(t, "Madder", history[1].Says[0].To)
}

func TestAMemberTakesOverTheRatingsUnderTheirName(t *testing.T) {
	s, _ := bare(t)
	w, _, err := s.FirstWorkspace(t.Context(), "Madder")
	require.NoError(t, err)
	e := store.Editing{Workspace: w.ID}
	for _, file := range demoFiles() {
		_, err = s.ImportFile(t.Context(), e, file)
		require.NoError(t, err)
	}
	a, err := s.NewAccount(t.Context(), w.ID, "Imke Vroom", "imke@marl.example", "", doors.Owner)
	require.NoError(t, err)
	studies, err := s.Studies(t.Context(), w.ID, testkit.Day, store.Page{Most: 50})
	require.NoError(t, err)
	e = testkit.As(t, s, w.ID, studies[0].ID, doors.Owner)
	require.NoError(t, testkit.Set(t.Context(), s, e, rated(e, "fernwire", "ease"), "5", "6"))

	// A new name goes with all that was rated and changed under the old one.
	require.NoError(t, s.SetName(t.Context(), a.ID, "Imke Vroom-Sable"))
	e.Name = "Imke Vroom-Sable"
	done, err := s.Undo(t.Context(), e)
	require.NoError(t, err)
	assert.Equal(t, "Imke Vroom-Sable", done.By)
	value, _ := rating(load(t, s, e), "Imke Vroom-Sable", "fernwire", "ease")
	assert.Equal(t, "5", value)
	_, err = s.NewAccount(t.Context(), w.ID, "Dov Amsel", "dov@marl.example", "", doors.Editor)
	require.NoError(t, err)
	assert.ErrorIs(t, s.SetName(t.Context(), a.ID, "Dov Amsel"), store.ErrNameTaken)
	assert.ErrorIs(t, s.AskNewEmail(t.Context(), a.ID, "DOV@marl.example", []byte("hash"), time.Hour), store.ErrEmailTaken)
}

func TestSessionsEndWithTheirEpoch(t *testing.T) {
	s, w := testkit.Store(t)
	ctx := t.Context()
	a, err := s.NewAccount(ctx, w.ID, "Rue Sable", "rue@marl.example", "old", doors.Reader)
	require.NoError(t, err)
	epoch, err := s.SetPassword(ctx, a.ID, "new")
	require.NoError(t, err)
	_, _, err = s.Visitor(ctx, a.ID, a.Epoch, uuid.Nil)
	assert.ErrorIs(t, err, store.ErrMissing)
	_, _, err = s.Visitor(ctx, a.ID, epoch, uuid.Nil)
	require.NoError(t, err)
	require.NoError(t, s.EndSessions(ctx, a.ID))
	_, _, err = s.Visitor(ctx, a.ID, epoch, uuid.Nil)
	assert.ErrorIs(t, err, store.ErrMissing)
	require.NoError(t, s.Rehash(ctx, a.ID, "old", "never"))
	_, kept, err := s.AtDoor(ctx, "RUE@marl.example")
	require.NoError(t, err)
	assert.Equal(t, "new", kept, "a password that was changed meanwhile stays")
	_, err = s.SetPassword(ctx, uuid.New(), "x")
	assert.ErrorIs(t, err, store.ErrMissing)

	_, hash := doors.NewToken()
	_, spare := doors.NewToken()
	require.NoError(t, s.MakeNewPassword(ctx, a.ID, hash, time.Hour))
	require.NoError(t, s.MakeNewPassword(ctx, a.ID, spare, time.Hour))
	p, err := s.Pass(ctx, hash, store.NewPassword)
	require.NoError(t, err)
	assert.Equal(t, "rue@marl.example", p.Email)
	changed, err := s.UseNewPassword(ctx, hash, "newer")
	require.NoError(t, err)
	assert.Greater(t, changed.Epoch, epoch+1)
	_, err = s.UseNewPassword(ctx, spare, "newest")
	assert.ErrorIs(t, err, store.ErrWithdrawn, "one link used shuts the others")
	for what, change := range map[string]func() error{
		"password": func() error { _, err := s.SetPassword(ctx, a.ID, "newest"); return err },
		"email": func() error {
			_, hash := doors.NewToken()
			if err := s.AskNewEmail(ctx, a.ID, "rue.sable@marl.example", hash, time.Hour); err != nil {
				return err
			}
			_, _, err := s.UseNewEmail(ctx, hash)
			return err
		},
	} {
		_, late := doors.NewToken()
		require.NoError(t, s.MakeNewPassword(ctx, a.ID, late, time.Hour))
		require.NoError(t, change())
		_, err = s.UseNewPassword(ctx, late, "stolen")
		assert.ErrorIs(t, err, store.ErrWithdrawn, "a link that was sent before the %s was changed opens nothing", what)
	}
}

func TestTriesAreCountedBeforeTheyAreMadeAndRunOut(t *testing.T) {
	s, url := bare(t)
	other, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(other.Close)
	ctx := t.Context()
	account := store.Limit{Key: "rue", Most: 5, Within: time.Hour}
	place := store.Limit{Key: "127.0.0.1", Most: 8, Within: time.Hour}
	var let atomic.Int32
	var all sync.WaitGroup
	for n := range 12 { // on two servers at once
		db := []*store.Store{s, other}[n%2]
		all.Go(func() {
			wait, err := db.Try(ctx, account, place)
			if assert.NoError(t, err) && wait == 0 {
				let.Add(1)
			}
		})
	}
	all.Wait()
	assert.EqualValues(t, 5, let.Load())
	wait, err := s.Try(ctx, account, place)
	require.NoError(t, err)
	assert.InDelta(t, time.Hour.Seconds(), wait.Seconds(), 60)
	for range 3 {
		wait, err = s.Try(ctx, store.Limit{Key: "sedge", Most: 5, Within: time.Hour}, place)
		require.NoError(t, err)
		assert.Zero(t, wait)
	}
	wait, err = s.Try(ctx, store.Limit{Key: "madder", Most: 5, Within: time.Hour}, place)
	require.NoError(t, err)
	assert.NotZero(t, wait, "the place is used up for everybody's account")
	require.NoError(t, s.Forgive(ctx, account))
	wait, err = s.Try(ctx, account)
	require.NoError(t, err)
	assert.Zero(t, wait)
	sql(t, url, "update tries set at = at - interval '61 minutes'")
	wait, err = s.Try(ctx, account, place)
	require.NoError(t, err)
	assert.Zero(t, wait, "an hour later there is room again")
}

func TestReadingLinksShowOneStudyUntilTheyEnd(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	token, hash := doors.NewToken()
	require.NoError(t, s.MakeReadingLink(ctx, e, "The board", true, hash, time.Now().Add(time.Hour)))
	link, err := s.OpenReadingLink(ctx, doors.HashOf(token))
	require.NoError(t, err)
	assert.Equal(t, e.Study, link.Study)
	assert.True(t, link.Names)
	assert.EqualValues(t, 1, link.Opened)
	visit := [][]byte{[]byte("the hash of a secret")}
	_, err = s.Reading(ctx, visit, e.Study)
	assert.ErrorIs(t, err, store.ErrMissing, "not before it was opened")
	require.NoError(t, s.Visit(ctx, link.ID, visit[0]))
	_, err = s.Reading(ctx, visit, e.Study)
	require.NoError(t, err)
	_, err = s.Reading(ctx, visit, uuid.New())
	assert.ErrorIs(t, err, store.ErrMissing, "of no other study")
	_, err = s.Reading(ctx, nil, e.Study)
	assert.ErrorIs(t, err, store.ErrMissing)

	require.NoError(t, remove(t, s, e))
	_, err = s.Reading(ctx, visit, e.Study)
	assert.ErrorIs(t, err, store.ErrMissing, "nor of one in the bin")
	require.NoError(t, restore(t, s, e))
	require.NoError(t, s.WithdrawReadingLink(ctx, e, link.ID))
	assert.ErrorIs(t, s.WithdrawReadingLink(ctx, e, link.ID), store.ErrMissing)
	_, err = s.OpenReadingLink(ctx, hash)
	assert.ErrorIs(t, err, store.ErrMissing)
	_, past := doors.NewToken()
	require.NoError(t, s.MakeReadingLink(ctx, e, "Late", false, past, time.Now().Add(-time.Second)))
	_, err = s.OpenReadingLink(ctx, past)
	assert.ErrorIs(t, err, store.ErrMissing)
	all, err := s.ReadingLinks(ctx, e.Workspace, e.Study)
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Equal(t, "Imke Vroom", all[0].By)
	var refused *store.NotAllowedError
	rater := testkit.As(t, s, e.Workspace, e.Study, doors.Rater)
	assert.ErrorAs(t, s.MakeReadingLink(ctx, rater, "x", false, past, time.Now()), &refused)
	assert.ErrorAs(t, s.WithdrawReadingLink(ctx, rater, link.ID), &refused)
}

func TestEachUndoesOnesOwn(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	dov := testkit.As(t, s, e.Workspace, e.Study, doors.Editor)
	require.NoError(t, testkit.Set(ctx, s, e, "drivers.contacts.now", "6400", "7000"))
	require.NoError(t, testkit.Set(ctx, s, dov, "drivers.seats.now", "3", "5"))
	done, err := s.Undo(ctx, e)
	require.NoError(t, err)
	assert.Equal(t, []string{"drivers.contacts.now"}, done.Paths, "though Dov's is newer")
	require.NoError(t, testkit.Set(ctx, s, dov, "drivers.unsubscribed.now", "900", "800"))
	done, err = s.Redo(ctx, e)
	require.NoError(t, err)
	assert.Equal(t, []string{"drivers.contacts.now"}, done.Paths, "others' changes do not end what one can redo")

	require.NoError(t, testkit.Set(ctx, s, dov, "drivers.contacts.now", "7000", "7500"))
	done, err = s.Undo(ctx, e)
	var changed *store.ChangedError
	require.ErrorAs(t, err, &changed)
	assert.Equal(t, "7500", changed.Now)
	assert.Equal(t, "Dov Amsel", changed.By)
	assert.Equal(t, "7,000", done.Says[0].To, "both values can be told")
	require.NoError(t, s.PassOver(ctx, e, done.ID))
	done, err = s.Undo(ctx, e)
	require.NoError(t, err)
	assert.Nil(t, done, "what was left as it is is not met again")
	assert.ErrorIs(t, s.PassOver(ctx, dov, changes(t, s, e)[0].ID), nil)
	assert.ErrorIs(t, s.PassOver(ctx, e, changes(t, s, e)[0].ID), store.ErrMissing, "not another's")
	other, err := s.History(ctx, e.Workspace, e.Study, store.Asked{Person: dov.By, Most: 10})
	require.NoError(t, err)
	assert.Len(t, other, 3)
	older, err := s.History(ctx, e.Workspace, e.Study, store.Asked{Before: other[0].ID, Most: 2})
	require.NoError(t, err)
	assert.Len(t, older, 2)
	makers, err := s.Makers(ctx, e.Workspace, e.Study)
	require.NoError(t, err)
	assert.Equal(t, map[uuid.UUID]string{e.By: "Imke Vroom", dov.By: "Dov Amsel"}, makers)
}

func changes(t *testing.T, s *store.Store, e store.Editing) []store.Change {
	t.Helper()
	all, err := s.History(t.Context(), e.Workspace, e.Study, store.Asked{Fields: fields, Most: 100})
	require.NoError(t, err)
	return all
}

func TestASaveThatIsSentAgainIsNoConflict(t *testing.T) {
	s, e := withDemo(t)
	for range 2 { // the answer to the first was lost
		require.NoError(t, testkit.Set(t.Context(), s, e, "drivers.contacts.now", "6400", "7000"))
	}
	assert.Len(t, changes(t, s, e), 1)
}

func TestWhoHasNoSeatAnyMoreChangesNothing(t *testing.T) {
	s, e := withDemo(t)
	dov := testkit.As(t, s, e.Workspace, e.Study, doors.Editor)
	owner := wide(e)
	require.NoError(t, s.SetRole(t.Context(), owner, dov.By, doors.Editor, ""))
	var refused *store.NotAllowedError
	assert.True(t, errors.As(testkit.Set(t.Context(), s, dov, "drivers.seats.now", "3", "5"), &refused))
	assert.Empty(t, changes(t, s, e))
}
