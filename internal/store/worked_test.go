package store

import (
	"testing"
	"time"

	"ninecoins/internal/core/study"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
)

func TestOutcomesAreKeptForTheirRevisionAndDay(t *testing.T) {
	k := studiesOf(&Store{})
	day := time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC)
	beside := uuid.New()
	rev := func(own int64) revision { return revision{own, uuid.NewSHA1(beside, []byte{byte(own)}), beside} }
	at := func(own int64, o *study.Outcome) worked[study.Study, *study.Outcome] {
		return worked[study.Study, *study.Outcome]{at: rev(own), today: day, outcome: o}
	}
	get := func(id uuid.UUID, own int64, today time.Time) *study.Outcome {
		one, ok := k.get(id, rev(own), today)
		if !ok {
			return nil
		}
		return one.outcome
	}
	id, second := uuid.New(), &study.Outcome{Study: &study.Study{}}
	assert.Nil(t, get(id, 1, day))
	k.put(id, at(2, second))
	assert.Same(t, second, get(id, 2, day))
	assert.Nil(t, get(id, 1, day))
	_, ok := k.get(id, revision{2, rev(2).stamp, uuid.New()}, day)
	assert.False(t, ok, "what it is worked out from beside it has changed")
	_, ok = k.get(id, revision{2, uuid.New(), beside}, day)
	assert.False(t, ok, "a backup was restored, and changed to the same number")
	assert.Nil(t, get(id, 3, day), "what was changed since is computed anew")
	assert.Nil(t, get(id, 2, day.AddDate(0, 0, 1)), "and so is what is a day older")
	heavy := &study.Outcome{Study: &study.Study{}, Results: make([]study.Result, 12)}
	for range 2 * mostOutcomes / int(heavy.Weight()) {
		k.put(uuid.New(), at(1, heavy))
		get(id, 2, day)
	}
	assert.LessOrEqual(t, k.kept.Weight(), int64(mostOutcomes))
	assert.NotNil(t, get(id, 2, day), "what is looked at stays")
}
