package store

import (
	"context"
	"encoding/json"
	"fmt"
	"sync"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Notice says that a study was changed, deleted or brought back, by whichever
// process. Tab is what [Editing] carried.
type Notice struct {
	Study uuid.UUID `json:"study"`
	Tab   string    `json:"tab"`
}

const channel = "studies"

// notify puts a notice on the channel; it is heard when the transaction is
// committed, and not at all when it is not.
func notify(ctx context.Context, tx pgx.Tx, n Notice) error {
	text, err := json.Marshal(n)
	if err != nil {
		return err
	}
	_, err = tx.Exec(ctx, "select pg_notify($1, $2)", channel, string(text))
	return err
}

// Watcher hands notices to whoever follows a study. [Store.Watch] makes one.
type Watcher struct {
	mu        sync.Mutex
	followers map[uuid.UUID]map[chan Notice]bool
}

// Watch listens to the database until the context ends. When the connection is
// lost it is made again, and every follower is sent a notice, since one may
// have been missed.
func (s *Store) Watch(ctx context.Context) *Watcher {
	w := &Watcher{followers: map[uuid.UUID]map[chan Notice]bool{}}
	go func() {
		for wait := time.Duration(0); ctx.Err() == nil; wait = time.Second {
			select {
			case <-ctx.Done():
				return
			case <-time.After(wait):
			}
			_ = s.listen(ctx, w)
		}
	}()
	return w
}

// listen hears notices on a connection of its own until it is lost.
func (s *Store) listen(ctx context.Context, w *Watcher) error {
	conn, err := pgx.ConnectConfig(ctx, s.pool.Config().ConnConfig)
	if err != nil {
		return err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := conn.Exec(ctx, "listen "+channel); err != nil {
		return fmt.Errorf("listening for changes: %w", err)
	}
	w.tellAll() // who follows already may have missed something
	for {
		heard, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		var n Notice
		if json.Unmarshal([]byte(heard.Payload), &n) == nil {
			w.tell(n)
		}
	}
}

// Follow returns a channel of a study's notices, and what ends it. A follower
// that is slow misses notices but never the last one.
func (w *Watcher) Follow(study uuid.UUID) (<-chan Notice, func()) {
	c := make(chan Notice, 1)
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.followers[study] == nil {
		w.followers[study] = map[chan Notice]bool{}
	}
	w.followers[study][c] = true
	return c, func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		delete(w.followers[study], c)
		if len(w.followers[study]) == 0 {
			delete(w.followers, study)
		}
	}
}

func (w *Watcher) tell(n Notice) {
	w.mu.Lock()
	defer w.mu.Unlock()
	for c := range w.followers[n.Study] {
		select {
		case c <- n:
		default: // one waits already: it becomes one of nobody's own, so that it is looked at
			select {
			case <-c:
			default:
			}
			c <- Notice{Study: n.Study}
		}
	}
}

func (w *Watcher) tellAll() {
	w.mu.Lock()
	studies := make([]uuid.UUID, 0, len(w.followers))
	for study := range w.followers {
		studies = append(studies, study)
	}
	w.mu.Unlock()
	for _, study := range studies {
		w.tell(Notice{Study: study})
	}
}
