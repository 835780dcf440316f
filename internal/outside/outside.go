// Package outside asks services outside for news: price lists that are published in the
// open format, and daily reference rates of exchange. What it gets is bounded in bytes and
// time, and is checked before anything is made of it.
package outside

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"
)

// Service is a service outside.
type Service struct {
	Address string // http://…, without a slash at its end; "": there is none
	Client  *http.Client
	Within  time.Duration // how long one answer may take; 0: [Within]
}

// Within is how long an answer may take.
const Within = 5 * time.Second

// Problem says in words why a service gave nothing that can be used.
type Problem struct {
	What string
	Err  error
}

func (p *Problem) Error() string { return p.What }
func (p *Problem) Unwrap() error { return p.Err }

// ErrNone reports that no such service is set up.
var ErrNone = errors.New("no such service is set up")

// get fetches a file of at most so many bytes. Errors are a [*Problem].
func (s *Service) get(ctx context.Context, path string, most int64) ([]byte, error) {
	if s == nil || s.Address == "" {
		return nil, ErrNone
	}
	within := s.Within
	if within == 0 {
		within = Within
	}
	ctx, cancel := context.WithTimeout(ctx, within)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, s.Address+path, nil)
	if err != nil {
		return nil, &Problem{"its address cannot be read", err}
	}
	client := s.Client
	if client == nil {
		client = plain
	}
	resp, err := client.Do(req)
	if err != nil {
		return nil, told(ctx, within, err)
	}
	defer resp.Body.Close()
	if resp.StatusCode != http.StatusOK {
		return nil, &Problem{fmt.Sprintf("it answered with %d, not with a list", resp.StatusCode), nil}
	}
	if resp.ContentLength > most {
		return nil, &Problem{fmt.Sprintf("it says that %s holds %d bytes; at most %d are taken", name(path), resp.ContentLength, most), nil}
	}
	data, err := io.ReadAll(io.LimitReader(resp.Body, most+1))
	switch {
	case err != nil:
		return nil, told(ctx, within, err)
	case int64(len(data)) > most:
		return nil, &Problem{fmt.Sprintf("%s is longer than it said, past %d bytes", name(path), most), nil}
	}
	return data, nil
}

func name(path string) string { return path[strings.LastIndexByte(path, '/')+1:] }

// plain follows no redirects to elsewhere, and keeps few connections.
var plain = &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}

func told(ctx context.Context, within time.Duration, err error) error {
	switch {
	case errors.Is(err, context.DeadlineExceeded) && ctx.Err() != nil:
		return &Problem{fmt.Sprintf("it did not answer within %d seconds", int(within.Seconds())), err}
	case errors.Is(err, io.ErrUnexpectedEOF):
		return &Problem{"its answer broke off", err}
	}
	return &Problem{"it does not answer", err}
}

// Sum is the SHA-256 of a file, in hexadecimal digits.
func Sum(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}
