package feature_test

import (
	"context"
	"strings"
	"testing"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/feature"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestShippedFeaturesAreWhole(t *testing.T) {
	areas, features := feature.Shipped()
	assert.GreaterOrEqual(t, len(features), 150)
	known, names, keys := map[string]int{}, map[string]string{}, map[string]bool{}
	for _, a := range areas {
		known[a.Key] = 0
		assert.NotEmpty(t, a.About, a.Key)
	}
	for _, f := range features {
		assert.Regexp(t, feature.KeyForm, f.Key)
		assert.Contains(t, known, f.Area(), f.Key)
		known[f.Area()]++
		assert.False(t, keys[f.Key], "%s stands twice", f.Key)
		assert.Empty(t, names[strings.ToLower(f.Name)], "%s is called like another", f.Key)
		keys[f.Key], names[strings.ToLower(f.Name)] = true, f.Key
		assert.True(t, strings.HasSuffix(f.About, "."), "%s: %q", f.Key, f.About)
		assert.True(t, strings.HasSuffix(f.Question, "?"), "%s: %q", f.Key, f.Question)
		assert.LessOrEqual(t, len(f.Name), 60, f.Key)
	}
	for area, n := range known {
		assert.GreaterOrEqual(t, n, 5, area)
	}
}

func TestAWorkspaceRenamesAddsAndMerges(t *testing.T) {
	own := feature.Own{
		Areas: []feature.Area{{Key: "lists", Name: "Who gets it"}, {Key: "seeds", Name: "Seed trade"}},
		Features: []feature.Feature{{Key: "automation/event-triggers", Name: "Letters by themselves"}, {Key: "seeds/lots", Name: "Lots", Unit: "lot"},
			{Key: "stray/thing-of-old", Name: "Thing of old"}},
		Merged: []feature.Merge{{From: "social/queue", Into: "social/scheduling"}, {From: "social/bulk", Into: "social/queue"}},
	}
	c := own.Catalogue()
	renamed, ok := c.Find("automation/event-triggers")
	assert.True(t, ok)
	assert.Equal(t, "Letters by themselves", renamed.Name)
	assert.Contains(t, renamed.Question, "purchase", "what is not said anew stays")
	assert.False(t, renamed.Own)
	lots, ok := c.Find("seeds/lots")
	assert.True(t, ok && lots.Own)
	assert.Equal(t, "Who gets it", c.Name("lists"))
	assert.Equal(t, "Stray", c.Name("stray"), "an area that nobody described has its features all the same")
	assert.Equal(t, "social/scheduling", c.Key("social/bulk"), "a merge of a merge")
	for _, f := range c.Of("social") {
		assert.NotContains(t, []string{"social/queue", "social/bulk"}, f.Key)
	}
	byName, ok := c.Named("  letters BY themselves ")
	assert.True(t, ok)
	assert.Equal(t, "automation/event-triggers", byName.Key)
	_, ok = c.Named("No such thing")
	assert.False(t, ok)
	unknown, ok := c.Find("nowhere/odd_thing")
	assert.False(t, ok)
	assert.Equal(t, "Odd thing", unknown.Name)
	assert.Less(t, c.Place("letters/builder"), c.Place("lists/segments"))
	assert.Less(t, c.Place("support/status"), c.Place("nowhere/odd_thing"))
	assert.Equal(t, c.Place("social/scheduling"), c.Place("social/bulk"))
}

func TestNoCatalogueIsTheShippedOne(t *testing.T) {
	var c *feature.Catalogue
	areas, _ := feature.Shipped()
	assert.Equal(t, areas, c.Areas())
	assert.False(t, c.Merges())
	f, ok := c.Find("letters/polls")
	assert.True(t, ok)
	assert.Equal(t, "letters", f.Area())
}

func TestACatalogueIsADocument(t *testing.T) {
	own := feature.Own{Features: []feature.Feature{{Key: "seeds/lots", Name: "Lots", About: "What came in together.", Question: "By lot?", Unit: "lot"}}}
	table := feature.Table()
	pieces := table.Pieces(own)
	again, err := table.Join(context.Background(), pieces)
	require.NoError(t, err)
	assert.Equal(t, own, again)
	merge, err := table.Add(own, "merged", map[string]string{"from": "social/queue", "into": "social/bulk"})
	require.NoError(t, err)
	after, made, err := table.Apply(own, document.Change{merge})
	require.NoError(t, err)
	assert.Equal(t, "social/bulk", after.Catalogue().Key("social/queue"))
	before, _, err := table.Apply(after, made.Inverse())
	require.NoError(t, err)
	assert.Equal(t, "social/queue", before.Catalogue().Key("social/queue"))
	assert.Equal(t, []document.Said{{Label: "Merged feature Queue", Was: "–", To: "merged"}}, table.Say(own, document.Change{merge}))
}

func TestMergesInACircleAreTold(t *testing.T) {
	own := feature.Own{Merged: []feature.Merge{{From: "social/queue", Into: "social/bulk"}, {From: "social/bulk", Into: "social/queue"}}}
	var told []string
	feature.Table().Check(own, func(at document.Path, _ string, _ ...any) { told = append(told, string(at)) })
	assert.Equal(t, []string{"merged.social/queue.into", "merged.social/bulk.into"}, told)
	assert.NotEmpty(t, own.Catalogue().Key("social/queue"), "and reading it ends")
}
