// Package standin holds small stand-ins for services outside.
package standin

import (
	"context"
	"fmt"
	"io"
	"sync"

	"ninecoins/internal/mail"
	"ninecoins/internal/store"
)

// Mailbox stands in for a mail server: it keeps every letter in the database,
// where the application shows them in demo mode.
type Mailbox struct{ Store *store.Store }

// Send implements [mail.Sender].
func (m Mailbox) Send(ctx context.Context, l mail.Letter) error {
	return m.Store.KeepLetter(ctx, l.To, l.Subject, l.Text)
}

// Console stands in for a mail server where none was told: it writes letters
// to the console, for whoever runs the application to pass on.
type Console struct {
	mu  sync.Mutex
	Out io.Writer
}

// Send implements [mail.Sender].
func (c *Console) Send(_ context.Context, l mail.Letter) error {
	c.mu.Lock()
	defer c.mu.Unlock()
	_, err := fmt.Fprintf(c.Out, "\nNo mail server was told (SMTP_URL), so here is a letter to pass on.\nTo: %s\nSubject: %s\n\n%s\n", l.To, l.Subject, l.Text)
	return err
}
