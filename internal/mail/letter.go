// Package mail hands letters to whatever delivers them: a mail server, or a
// stand-in that ships with the application.
package mail

import "context"

// Letter is one message in plain text.
type Letter struct {
	To      string // an email address
	Subject string
	Text    string
}

// Sender delivers letters. Send returns when the letter was taken over, or
// with the reason why not; it keeps to the context's deadline. A Sender is
// safe for concurrent use.
type Sender interface {
	Send(ctx context.Context, l Letter) error
}
