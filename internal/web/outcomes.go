package web

import (
	"context"
	"time"

	"ninecoins/internal/core/study"
	"ninecoins/internal/keep"
	"ninecoins/internal/store"

	"github.com/google/uuid"
)

// outcomes keeps what was computed last for the studies that are looked at,
// each with the revision that it was computed from. An outcome is not changed
// once it is computed, so many pages may show it at once.
type outcomes struct {
	kept *keep.Cache[uuid.UUID, keptOutcome]
}

type keptOutcome struct {
	revision int64
	today    time.Time
	outcome  *study.Outcome
}

// mostOutcomes bounds the memory for outcomes, in bytes, with the price lists
// that they hold.
const mostOutcomes = 128 << 20

func newOutcomes() *outcomes {
	return &outcomes{keep.New[uuid.UUID, keptOutcome](mostOutcomes)}
}

func (k *outcomes) get(id uuid.UUID, revision int64, today time.Time) *study.Outcome {
	one, ok := k.kept.Get(id)
	if !ok || one.revision != revision || !one.today.Equal(today) {
		return nil
	}
	return one.outcome
}

func (k *outcomes) put(id uuid.UUID, revision int64, today time.Time, o *study.Outcome) {
	// Somebody may have computed a later one meanwhile.
	k.kept.Put(id, keptOutcome{revision, today, o}, o.Weight(), func(there keptOutcome) bool { return there.revision > revision })
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
