package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/feature"
	"ninecoins/internal/keep"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// besideRevision is how far what studies d are worked out from is beside them: the
// workspace's catalogue of features.
const besideRevision = "coalesce((select c.stamp from documents c where c.workspace_id = $1 and c.kind = 'catalogue' and c.deleted_at is null limit 1), '00000000-0000-0000-0000-000000000000')"

// theCatalogue is the key of a workspace's catalogue.
const theCatalogue = "features"

// cataloguesOf is how catalogues of features are kept.
func cataloguesOf() *kind[feature.Own, *feature.Catalogue] {
	return &kind[feature.Own, *feature.Catalogue]{
		name: "catalogue", table: feature.Table(),
		settle: func(_ feature.Own, c document.Change) (document.Change, error) { return c, nil },
		complete: func(context.Context, querier, uuid.UUID, *feature.Own, time.Time) ([]uuid.UUID, error) {
			return nil, nil
		},
		compute: func(_ context.Context, o *feature.Own, _ *feature.Catalogue) (*feature.Catalogue, error) {
			return o.Catalogue(), nil
		},
		weight: func(*feature.Catalogue) int64 { return 200_000 },
		title:  func(*feature.Own) string { return "Features" },
		owner:  func(feature.Own, document.Path) (string, string) { return "", "" },
		// Studies are worked out anew where they are asked for.
		after: func(b *pgx.Batch, e Editing) {
			b.Queue("update documents set facts = null where workspace_id = $1 and kind = 'study' and facts is not null", e.Workspace)
		},
		kept: keep.New[uuid.UUID, worked[feature.Own, *feature.Catalogue]](32 << 20),
	}
}

// catalogue returns a workspace's catalogue; nil while it has made nothing of its own.
func (s *Store) catalogue(ctx context.Context, q querier, workspace uuid.UUID) (*feature.Catalogue, error) {
	var id uuid.UUID
	var at revision
	err := q.QueryRow(ctx, "select id, revision, stamp from documents where workspace_id = $1 and kind = 'catalogue' and deleted_at is null", workspace).Scan(&id, &at.own, &at.stamp)
	if missing(err) == ErrMissing {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	one, err := s.catalogues.work(ctx, q, workspace, id, at, time.Time{})
	return one.outcome, err
}

// Catalogue returns a workspace's catalogue of features, what the workspace has made
// of it, and the id of its document; nil while there is none.
func (s *Store) Catalogue(ctx context.Context, workspace uuid.UUID) (*feature.Catalogue, feature.Own, uuid.UUID, error) {
	var id uuid.UUID
	var at revision
	err := s.pool.QueryRow(ctx, "select id, revision, stamp from documents where workspace_id = $1 and kind = 'catalogue' and deleted_at is null", workspace).Scan(&id, &at.own, &at.stamp)
	if missing(err) == ErrMissing {
		return nil, feature.Own{}, uuid.Nil, nil
	}
	if err != nil {
		return nil, feature.Own{}, uuid.Nil, err
	}
	one, err := s.catalogues.work(ctx, s.pool, workspace, id, at, time.Time{})
	return one.outcome, one.value, id, err
}

// OpenCatalogue returns the document of a workspace's catalogue, which is begun where
// there is none.
func (s *Store) OpenCatalogue(ctx context.Context, e Editing) (id uuid.UUID, err error) {
	e.Study = uuid.Nil
	err = s.locked(ctx, e, func(tx pgx.Tx) error {
		err := tx.QueryRow(ctx, "select id from documents where workspace_id = $1 and kind = 'catalogue' and deleted_at is null", e.Workspace).Scan(&id)
		if missing(err) != ErrMissing {
			return err
		}
		id = newID()
		return s.catalogues.insert(ctx, tx, e.Workspace, id, theCatalogue, feature.Own{}, time.Time{})
	})
	return id, err
}

// Use is a place that names a feature.
type Use struct {
	Kind  string // "study", "draft", "price list"
	Title string
	Link  string // of a study, its id; of a draft, the platform's key; of a price list, its edition
}

// mostUses is how many places are told that name a feature.
const mostUses = 20

// FeatureUses lists where a feature is named: by needs of studies, in drafts, and in
// price lists, also of what rests in the bin.
func (s *Store) FeatureUses(ctx context.Context, workspace uuid.UUID, key string) ([]Use, error) {
	quoted := likeAny(`"` + key + `"`)
	rows, err := s.pool.Query(ctx, `select * from (
			select d.kind, d.title, case when d.kind = 'draft' then d.key else d.id::text end from documents d join document_parts p on p.document_id = d.id
				where d.workspace_id = $1 and d.kind in ('study', 'draft') and p.body like $2
			union all select 'price list', p.name || ', read ' || to_char(e.observed_on, 'FMDD Mon YYYY'), e.id::text from editions e join platforms p on p.id = e.platform_id
				where e.workspace_id = $1 and e.document like $2
			union all select 'study', d.title, d.id::text from documents d join document_parts p on p.document_id = d.id
				where d.workspace_id = $1 and d.kind = 'study' and p.body like $3) uses limit $4`, workspace, quoted, likeAny("/"+key+`"`), mostUses)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Use])
}

// FeatureInUseError reports a feature that cannot go because it is named somewhere.
type FeatureInUseError struct{ Uses []Use }

func (e *FeatureInUseError) Error() string {
	one := e.Uses[0]
	text := fmt.Sprintf("it is named in %s %s", one.Kind, one.Title)
	if n := len(e.Uses) - 1; n > 0 {
		text += fmt.Sprintf(" and %d more", n)
	}
	return text + "; merge it into another instead"
}

// RemoveFeature takes a workspace's own feature out of the catalogue. One that is
// named anywhere is refused with a [*RefusedError] of a [*FeatureInUseError].
func (s *Store) RemoveFeature(ctx context.Context, e Editing, key string) error {
	uses, err := s.FeatureUses(ctx, e.Workspace, key)
	if err != nil {
		return err
	}
	if len(uses) > 0 {
		return &RefusedError{&FeatureInUseError{uses}}
	}
	e.Kind = ACatalogue
	return s.Edit(ctx, e, document.Change{{Do: document.Remove, Path: feature.Path(key)}})
}

// IsFeatureInUse reports whether an error says that a feature is in use, and where.
func IsFeatureInUse(err error) ([]Use, bool) {
	var in *FeatureInUseError
	if errors.As(err, &in) {
		return in.Uses, true
	}
	return nil, false
}
