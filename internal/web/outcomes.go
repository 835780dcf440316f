package web

import (
	"context"
	"sync"
	"time"

	"ninecoins/internal/core/study"
	"ninecoins/internal/store"

	"github.com/google/uuid"
)

// outcomes keeps what was computed last for the studies that are looked at,
// each with the revision that it was computed from. An outcome is not changed
// once it is computed, so many pages may show it at once.
type outcomes struct {
	mu   sync.Mutex
	kept map[uuid.UUID]keptOutcome
}

type keptOutcome struct {
	revision int64
	today    time.Time
	outcome  *study.Outcome
	used     time.Time
}

// mostOutcomes bounds the memory: an outcome of 12 options over 120 months has
// about 2 MB.
const mostOutcomes = 50

func (k *outcomes) get(id uuid.UUID, revision int64, today time.Time) *study.Outcome {
	k.mu.Lock()
	defer k.mu.Unlock()
	one, ok := k.kept[id]
	if !ok || one.revision != revision || !one.today.Equal(today) {
		return nil
	}
	one.used = time.Now()
	k.kept[id] = one
	return one.outcome
}

func (k *outcomes) put(id uuid.UUID, revision int64, today time.Time, o *study.Outcome) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.kept == nil {
		k.kept = map[uuid.UUID]keptOutcome{}
	}
	if there, ok := k.kept[id]; ok && there.revision > revision {
		return // somebody computed a later one meanwhile
	}
	k.kept[id] = keptOutcome{revision, today, o, time.Now()}
	if len(k.kept) <= mostOutcomes {
		return
	}
	oldest := id
	for other, one := range k.kept {
		if one.used.Before(k.kept[oldest].used) {
			oldest = other
		}
	}
	delete(k.kept, oldest)
}

// outcome returns what follows from a study of a workspace as it stands: the
// database is asked for its revision, and for the rest only where that is new.
// A study that cannot be computed is [*store.RefusedError].
func (s *Server) outcome(ctx context.Context, workspace, id uuid.UUID) (*study.Outcome, error) {
	revision, err := s.store.Revision(ctx, workspace, id)
	if err != nil {
		return nil, err
	}
	today := s.today()
	if o := s.outcomes.get(id, revision, today); o != nil {
		return o, nil
	}
	// What is loaded now is of this revision or of a later one, under which it
	// is then not found: never the other way round.
	st, err := s.store.Study(ctx, workspace, id, today)
	if err != nil {
		return nil, err
	}
	o, err := study.Compute(st)
	if err != nil {
		return nil, &store.RefusedError{Err: err}
	}
	s.outcomes.put(id, revision, today, o)
	return o, nil
}
