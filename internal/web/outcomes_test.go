package web

import (
	"testing"
	"time"

	"ninecoins/internal/core/study"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
)

func TestOutcomesAreKeptForTheirRevisionAndDay(t *testing.T) {
	var k outcomes
	day := time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC)
	id, first, second := uuid.New(), &study.Outcome{}, &study.Outcome{}
	assert.Nil(t, k.get(id, 1, day))
	k.put(id, 2, day, second)
	k.put(id, 1, day, first)
	assert.Same(t, second, k.get(id, 2, day), "an older one does not push a later one out")
	assert.Nil(t, k.get(id, 1, day))
	assert.Nil(t, k.get(id, 3, day), "what was changed since is computed anew")
	assert.Nil(t, k.get(id, 2, day.AddDate(0, 0, 1)), "and so is what is a day older")
	for range mostOutcomes {
		k.put(uuid.New(), 1, day, first)
		k.get(id, 2, day)
	}
	assert.Len(t, k.kept, mostOutcomes)
	assert.NotNil(t, k.get(id, 2, day), "what is looked at stays")
}
