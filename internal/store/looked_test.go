package store

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestWhoHasLeftLeavesNothingBehind asks for a study after the request has ended.
func TestWhoHasLeftLeavesNothingBehind(t *testing.T) {
	k := studiesOf(&Store{})
	ctx, leave := context.WithCancel(t.Context())
	leave()
	_, err := k.look(ctx, nil, uuid.New(), uuid.New(), revision{}, time.Time{})
	require.ErrorIs(t, err, context.Canceled)
	k.under.Range(func(key, _ any) bool { assert.Fail(t, "something is under way", "%v", key); return true })
}
