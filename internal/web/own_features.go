package web

import (
	"context"
	"errors"
	"strings"

	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/store"

	"github.com/google/uuid"
)

// shareFeatures puts what a study needs in words of its own into the workspace's catalogue, so that
// every price list can answer it and other studies can need it. What somebody else put there meanwhile
// stands.
func (s *Server) shareFeatures(ctx context.Context, at store.Editing) error {
	st, err := s.store.Study(ctx, at.Workspace, at.Study, at.Today)
	if err != nil {
		return err
	}
	catalogue, _, id, err := s.store.Catalogue(ctx, at.Workspace)
	if err != nil {
		return err
	}
	var needed []feature.Feature
	for _, n := range st.Needs {
		f := feature.Feature{Key: n.Feature, Name: n.Name}
		if n.Number > 0 {
			f.Unit = strings.TrimSuffix(usage.LowerFirst(n.Name), "s")
		}
		needed = append(needed, f)
	}
	change := catalogue.Sharing(needed)
	if len(change) == 0 {
		return nil
	}
	if id == uuid.Nil {
		if id, err = s.store.OpenCatalogue(ctx, at); err != nil {
			return err
		}
	}
	at.Kind, at.Study = store.ACatalogue, id
	err = s.store.Edit(ctx, at, change)
	if there := (*store.ChangedError)(nil); errors.As(err, &there) {
		return nil
	}
	return err
}
