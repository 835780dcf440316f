package store

import (
	"context"
	"errors"
	"io"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/puddle/v2"
)

// Full reports whether an error says that the database has no room left on
// its disk. Nothing was saved.
func Full(err error) bool {
	var said *pgconn.PgError
	return errors.As(err, &said) && said.Code == "53100"
}

// Away reports whether an error says that the database cannot be reached, or
// went away while it was asked. What was asked may or may not have been done.
func Away(err error) bool {
	var connecting *pgconn.ConnectError
	var network net.Error
	var said *pgconn.PgError
	switch {
	case err == nil || errors.Is(err, context.Canceled):
		return false
	case errors.As(err, &connecting), errors.As(err, &network), errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF),
		errors.Is(err, net.ErrClosed), errors.Is(err, puddle.ErrClosedPool), errors.Is(err, context.DeadlineExceeded):
		return true
	case Full(err):
		return false
	case errors.As(err, &said):
		// Classes 08 (connection), 57P (shutdown, starting up) and 53 (no more
		// connections), appendix A of PostgreSQL's manual.
		return strings.HasPrefix(said.Code, "08") || strings.HasPrefix(said.Code, "57P") || strings.HasPrefix(said.Code, "53")
	}
	return strings.Contains(err.Error(), "conn closed")
}
