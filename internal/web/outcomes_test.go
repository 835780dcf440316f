package web

import (
	"testing"
	"time"

	"ninecoins/internal/core/study"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
)

func TestOutcomesAreKeptForTheirRevisionAndDay(t *testing.T) {
	k := newOutcomes()
	day := time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC)
	id, first, second := uuid.New(), &study.Outcome{Study: &study.Study{}}, &study.Outcome{Study: &study.Study{}}
	assert.Nil(t, k.get(id, 1, day))
	k.put(id, 2, day, second)
	k.put(id, 1, day, first)
	assert.Same(t, second, k.get(id, 2, day), "an older one does not push a later one out")
	assert.Nil(t, k.get(id, 1, day))
	assert.Nil(t, k.get(id, 3, day), "what was changed since is computed anew")
	assert.Nil(t, k.get(id, 2, day.AddDate(0, 0, 1)), "and so is what is a day older")
	heavy := &study.Outcome{Study: &study.Study{}, Results: make([]study.Result, 12)}
	for range 2 * mostOutcomes / int(heavy.Weight()) {
		k.put(uuid.New(), 1, day, heavy)
		k.get(id, 2, day)
	}
	assert.LessOrEqual(t, k.kept.Weight(), int64(mostOutcomes))
	assert.NotNil(t, k.get(id, 2, day), "what is looked at stays")
}
