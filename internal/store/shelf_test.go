package store_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func setCell(plan, feature, was, to string) document.Change {
	return document.Change{{Do: document.Set, Path: document.Path("plans").To(plan, "features", feature), Was: was, To: to}}
}

func TestADraftBecomesAnEdition(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	id, err := s.OpenDraft(ctx, wide(e), "brindlepost")
	require.NoError(t, err)
	again, err := s.OpenDraft(ctx, wide(e), "brindlepost")
	require.NoError(t, err)
	assert.Equal(t, id, again, "there is one draft of a platform")
	d := e
	d.Study, d.Kind = id, store.ADraft
	before, _, err := s.Draft(ctx, e.Workspace, "brindlepost")
	require.NoError(t, err)
	assert.Empty(t, before.Faults)
	assert.NotContains(t, before.Draft.Edition.Plans[1].Features, "letters/own-domain", "what a plan takes over is not in the draft")
	assert.Equal(t, pricelist.Yes, before.Whole.Plans[1].Feature("letters/own-domain").Has)

	require.NoError(t, s.Edit(ctx, d, setCell("sprig", "automation/event-triggers", "no", "yes 1")))
	require.NoError(t, s.Edit(ctx, d, document.Change{{Do: document.Set, Path: "plans.sprig.features.automation/event-triggers.note", To: "one trigger"}}))
	var changed *store.ChangedError
	assert.ErrorAs(t, s.Edit(ctx, d, setCell("sprig", "automation/event-triggers", "no", "yes 2")), &changed)
	assert.Equal(t, "yes 1", changed.Now)
	_, err = s.Undo(ctx, d)
	require.NoError(t, err)
	_, err = s.Undo(ctx, d)
	require.NoError(t, err)
	now, _, _ := s.Draft(ctx, e.Workspace, "brindlepost")
	assert.Equal(t, pricelist.Drafts().Pieces(before.Draft), pricelist.Drafts().Pieces(now.Draft), "each edit is taken back")
	_, err = s.Redo(ctx, d)
	require.NoError(t, err)
	rater := d
	rater.Role = doors.Rater
	var refused *store.NotAllowedError
	assert.ErrorAs(t, s.Edit(ctx, rater, setCell("sprig", "letters/polls", "", "yes")), &refused)

	edition, err := publish(t, s, wide(e), "brindlepost")
	require.NoError(t, err)
	row, list, err := s.Edition(ctx, e.Workspace, edition)
	require.NoError(t, err)
	assert.Equal(t, e.Today.Format(time.DateOnly), row.ObservedOn.Format(time.DateOnly))
	assert.Equal(t, 1, list.Plans[0].Feature("automation/event-triggers").Depth)
	_, _, err = s.Draft(ctx, e.Workspace, "brindlepost")
	assert.ErrorIs(t, err, store.ErrMissing)
	assert.Equal(t, "2026-10-02", load(t, s, e).Options[0].ObservedOn.Format(time.DateOnly), "studies go on with the edition that they had")
	require.NoError(t, testkit.Set(ctx, s, e, "options.brindlepost.observed_on", "2026-10-02", e.Today.Format(time.DateOnly)))

	_, err = s.OpenDraft(ctx, wide(e), "brindlepost")
	require.NoError(t, err)
	_, err = publish(t, s, wide(e), "brindlepost")
	var unfit *store.UnfitError
	if err != nil { // the same file changes nothing
		require.ErrorAs(t, err, &unfit)
		assert.Contains(t, unfit.Error(), "already")
	}
}

func TestADraftIsPutAsideAndTakenUp(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	id, err := s.OpenDraft(ctx, wide(e), "fernwire")
	require.NoError(t, err)
	require.NoError(t, s.DropDraft(ctx, wide(e), "fernwire"))
	_, _, err = s.Draft(ctx, e.Workspace, "fernwire")
	assert.ErrorIs(t, err, store.ErrMissing)
	binned, err := s.Bin(ctx, e.Workspace)
	require.NoError(t, err)
	assert.Empty(t, binned)
	require.NoError(t, s.TakeUpDraft(ctx, wide(e), "fernwire"))
	_, back, err := s.Draft(ctx, e.Workspace, "fernwire")
	require.NoError(t, err)
	assert.Equal(t, id, back)
	assert.ErrorIs(t, s.TakeUpDraft(ctx, wide(e), "fernwire"), store.ErrMissing, "it is here already")
	_, err = s.OpenDraft(ctx, wide(e), "heron")
	assert.ErrorIs(t, err, store.ErrMissing)
}

func TestAPlatformIsMadeByHand(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	key, err := s.NewPlatform(ctx, wide(e), pricelist.Platform{Name: "Larkspur Post", Does: []string{"email"}, About: "Letters."}, "EUR", "")
	require.NoError(t, err)
	assert.Equal(t, "larkspur-post", key)
	var taken *store.TakenError
	_, err = s.NewPlatform(ctx, wide(e), pricelist.Platform{Name: "LARKSPUR post"}, "EUR", "")
	require.ErrorAs(t, err, &taken)
	_, err = publish(t, s, wide(e), key)
	var unfit *store.UnfitError
	require.ErrorAs(t, err, &unfit)
	assert.Contains(t, unfit.Error(), "plan")

	_, id, err := s.Draft(ctx, e.Workspace, key)
	require.NoError(t, err)
	d := e
	d.Study, d.Kind = id, store.ADraft
	plan := `{"key": "post", "name": "Post", "offered": "public", "terms": [{"key": "monthly", "months": 1}], "charges": [{"key": "base", "kind": "flat", "price": "12"}]}`
	require.NoError(t, s.Edit(ctx, d, document.Change{{Do: document.Insert, Path: "plans.post", To: plan}}))
	require.NoError(t, s.Edit(ctx, d, setCell("post", "letters/polls", "", "yes")))
	_, err = publish(t, s, wide(e), key)
	require.NoError(t, err)
	row, err := s.Platform(ctx, e.Workspace, key)
	require.NoError(t, err)
	assert.Equal(t, 1, row.Editions)
	assert.False(t, row.Draft)

	stand, err := s.NewPlatform(ctx, wide(e), pricelist.Platform{Name: "Something like it"}, "", "brindlepost")
	require.NoError(t, err)
	copied, _, err := s.Draft(ctx, e.Workspace, stand)
	require.NoError(t, err)
	assert.Len(t, copied.Draft.Edition.Plans, 3)
	assert.Equal(t, "Something like it", copied.Draft.Edition.Platform.Name)
}

func TestTheShelfIsFoundByPages(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	for i := range 30 {
		_, err := s.NewPlatform(ctx, wide(e), pricelist.Platform{Name: fmt.Sprintf("Tool %02d", i), Does: []string{"social"}, About: strings.Repeat("Posts. ", 1+i%3)}, "EUR", "")
		require.NoError(t, err, "spaces at its end are taken off")
	}
	var names []string
	after := ""
	for {
		page, err := s.Shelf(ctx, e.Workspace, store.ShelfPage{After: after, Most: 8})
		require.NoError(t, err)
		if len(page) == 0 {
			break
		}
		for _, p := range page {
			names = append(names, p.Name)
		}
		after = page[len(page)-1].Key
	}
	assert.Len(t, names, 35)
	assert.IsIncreasing(t, names)
	found, err := s.Shelf(ctx, e.Workspace, store.ShelfPage{Text: "TOOL 1", Most: 50})
	require.NoError(t, err)
	assert.Len(t, found, 10)
	found, err = s.Shelf(ctx, e.Workspace, store.ShelfPage{Category: "newsletter", Most: 50})
	require.NoError(t, err)
	for _, p := range found {
		assert.Contains(t, p.Does, "newsletter")
		assert.Equal(t, 1, p.UsedIn)
	}
	uses, err := s.PlatformUses(ctx, e.Workspace, "brindlepost", 9)
	require.NoError(t, err)
	require.Len(t, uses, 1)
	assert.Equal(t, "Spring list", uses[0].Title)
	names, counts, err := s.Categories(ctx, e.Workspace)
	require.NoError(t, err)
	assert.Equal(t, "social", names[0])
	assert.Equal(t, 30, counts[0])
	none, err := s.Shelf(ctx, uuid.New(), store.ShelfPage{Most: 50})
	require.NoError(t, err)
	assert.Empty(t, none, "another workspace has a shelf of its own")
}

func TestFeaturesThatMeanTheSameAreMergedEverywhere(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	id, err := s.OpenCatalogue(ctx, wide(e))
	require.NoError(t, err)
	c := e
	c.Study, c.Kind = id, store.ACatalogue
	before := load(t, s, e)
	need := before.Needs[0].Feature
	o, err := s.Outcome(ctx, e.Workspace, e.Study, e.Today)
	require.NoError(t, err)
	was := o.Results[0].Coverage[0].Has
	require.NotEqual(t, pricelist.Unknown, was)

	// The study asks for a feature that the lists call otherwise.
	require.NoError(t, testkit.Delete(ctx, s, e, "needs."+need))
	require.NoError(t, s.Edit(ctx, e, document.Change{{Do: document.Insert, Path: "needs.own/name", To: `{"feature": "own/name", "name": "Ours", "level": "must"}`}}))
	last := func() coverage.Cell {
		o, err := s.Outcome(ctx, e.Workspace, e.Study, e.Today)
		require.NoError(t, err)
		cells := o.Results[0].Coverage
		return cells[len(cells)-1]
	}
	assert.Equal(t, pricelist.Unknown, last().Has)
	require.NoError(t, s.Edit(ctx, c, document.Change{{Do: document.Insert, Path: document.Path("merged").To(need), To: `{"from": "` + need + `", "into": "own/name"}`}}))
	assert.Equal(t, was, last().Has, "the price lists follow, and so does the study")
	_, err = s.Undo(ctx, c)
	require.NoError(t, err)
	assert.Equal(t, pricelist.Unknown, last().Has)

	own := `{"key": "own/name", "name": "Ours"}`
	require.NoError(t, s.Edit(ctx, c, document.Change{{Do: document.Insert, Path: "features.own/name", To: own}}))
	err = s.RemoveFeature(ctx, c, "own/name")
	uses, in := store.IsFeatureInUse(err)
	require.True(t, in, "%v", err)
	assert.Equal(t, "Spring list", uses[0].Title)
	require.NoError(t, testkit.Delete(ctx, s, e, "needs.own/name"))
	require.NoError(t, s.Edit(ctx, c, document.Change{{Do: document.Insert, Path: "features.own/other", To: `{"key": "own/other", "name": "Other"}`}}))
	require.NoError(t, s.RemoveFeature(ctx, c, "own/other"))
}

func TestAWorkspaceFileHoldsTheCatalogueAndDrafts(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	id, err := s.OpenCatalogue(ctx, wide(e))
	require.NoError(t, err)
	c := e
	c.Study, c.Kind = id, store.ACatalogue
	require.NoError(t, s.Edit(ctx, c, document.Change{{Do: document.Insert, Path: "features.seeds/lots", To: `{"key": "seeds/lots", "name": "Lots"}`}}))
	_, err = s.OpenDraft(ctx, wide(e), "fernwire")
	require.NoError(t, err)
	_, err = s.NewPlatform(ctx, wide(e), pricelist.Platform{Name: "Not priced yet", Does: []string{"crm"}}, "EUR", "")
	require.NoError(t, err)
	file := exported(t, s, e.Workspace)

	other, w := testkit.Store(t)
	owner := testkit.As(t, other, w.ID, uuid.Nil, doors.Owner)
	_, err = other.ImportFile(ctx, owner, file)
	require.NoError(t, err)
	assert.Equal(t, string(file), string(exported(t, other, w.ID)))
	catalogue, _, _, err := other.Catalogue(ctx, w.ID)
	require.NoError(t, err)
	lots, ok := catalogue.Find("seeds/lots")
	assert.True(t, ok && lots.Own)
	_, _, err = other.Draft(ctx, w.ID, "fernwire")
	require.NoError(t, err)
	row, err := other.Platform(ctx, w.ID, "not-priced-yet")
	require.NoError(t, err)
	assert.Equal(t, "Not priced yet", row.Name)
	assert.True(t, row.Draft)

	broken := strings.Replace(string(file), `nine-coins/draft/1`, `nine-coins/draught/1`, 1)
	empty, w2 := testkit.Store(t)
	_, err = empty.ImportFile(ctx, testkit.As(t, empty, w2.ID, uuid.Nil, doors.Owner), []byte(broken))
	assert.ErrorContains(t, err, "holds a document that cannot be read")
}

// publish publishes a draft as it stands.
func publish(t *testing.T, s *store.Store, e store.Editing, platform string) (uuid.UUID, error) {
	t.Helper()
	d, _, err := s.Draft(t.Context(), e.Workspace, platform)
	if err != nil {
		return uuid.Nil, err
	}
	return s.Publish(t.Context(), e, platform, d.Revision)
}

// TestPublishingLosesNoEdit has one edit a draft as fast as edits are answered while another publishes
// what they see, over two processes: every edit that was answered is in the edition.
func TestPublishingLosesNoEdit(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	published, refusals := 0, 0
	for round := range 12 {
		day := e
		day.Today = e.Today.AddDate(0, 0, round-11)
		id, err := s.OpenDraft(ctx, wide(day), "brindlepost")
		require.NoError(t, err)
		d := day
		d.Study, d.Kind = id, store.ADraft
		answered := make(chan string, 1)
		go func() { // until the draft is gone
			last := ""
			for i := 0; ; i++ {
				note := fmt.Sprintf("note %d of %d", i, round)
				now, _, err := s.Draft(ctx, e.Workspace, "brindlepost")
				if err == nil {
					err = s.Edit(ctx, d, document.Change{{Do: document.Set, Path: "source", Was: now.Draft.Edition.Source, To: note}})
				}
				if err != nil {
					answered <- last
					return
				}
				last = note
			}
		}()
		for {
			edition, err := publish(t, s, wide(day), "brindlepost")
			var since *store.SinceError
			if errors.As(err, &since) {
				assert.NotEmpty(t, since.Changes)
				refusals++
				continue
			}
			require.NoError(t, err)
			published++
			_, list, err := s.Edition(ctx, e.Workspace, edition)
			require.NoError(t, err)
			if last := <-answered; last != "" {
				assert.Equal(t, last, list.Source, "the last edit that was answered")
			}
			break
		}
		gone, err := s.GoneDraft(ctx, e.Workspace, "brindlepost")
		require.NoError(t, err)
		assert.True(t, gone.Published)
		assert.Equal(t, e.Name, gone.By)
	}
	assert.Equal(t, 12, published)
	t.Logf("%d publishes were refused for edits since", refusals)
}
