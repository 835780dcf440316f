package outside

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"time"

	"ninecoins/internal/core/document"
)

// IndexFormat is what the index of a feed says that it is.
const IndexFormat = "nine-coins/price-feed/1"

// Index lists what a feed publishes.
type Index struct {
	Format string  `json:"format"`
	Lists  []Entry `json:"lists"`
}

// Entry is one price list of a feed.
type Entry struct {
	Platform   string `json:"platform"` // its key
	Name       string `json:"name"`
	ObservedOn string `json:"observed_on"` // a day, 2026-11-26
	Path       string `json:"path"`        // of the file, from the feed's address on
	Bytes      int64  `json:"bytes"`
	SHA256     string `json:"sha256"`
}

// The bounds of what is taken from a feed.
const (
	mostIndex = 1 << 20
	mostList  = 5 << 20
	mostLists = 5_000
)

var pathForm = regexp.MustCompile(`^/[a-zA-Z0-9][a-zA-Z0-9/_.-]{0,200}$`)

// News returns what a feed publishes, in its order, with what is wrong with it left out and
// told. The error is a [*Problem], or [ErrNone].
func (s *Service) News(ctx context.Context) (entries []Entry, wrong []string, err error) {
	data, err := s.get(ctx, "/index.json", mostIndex)
	if err != nil {
		return nil, nil, err
	}
	var index Index
	if err := json.Unmarshal(data, &index); err != nil {
		return nil, nil, &Problem{"what it sends is no index of price lists", err}
	}
	if index.Format != IndexFormat {
		return nil, nil, &Problem{fmt.Sprintf("its index is of the format %q, not %q", document.Shorten(index.Format, 40), IndexFormat), nil}
	}
	if len(index.Lists) > mostLists {
		return nil, nil, &Problem{fmt.Sprintf("its index has %d lists; at most %d are taken", len(index.Lists), mostLists), nil}
	}
	seen := map[string]bool{}
	for i, e := range index.Lists {
		_, day := time.Parse(time.DateOnly, e.ObservedOn)
		switch {
		case !document.KeyForm.MatchString(e.Platform):
			wrong = append(wrong, fmt.Sprintf("entry %d names no platform by its key", i+1))
		case day != nil:
			wrong = append(wrong, fmt.Sprintf("the list of %s has no day such as 2026-11-26", e.Platform))
		case !pathForm.MatchString(e.Path) || slices.Contains(regexp.MustCompile(`[/]`).Split(e.Path, -1), ".."):
			wrong = append(wrong, fmt.Sprintf("the list of %s has no path of the feed", e.Platform))
		case e.Bytes <= 0 || e.Bytes > mostList:
			wrong = append(wrong, fmt.Sprintf("the list of %s says that it holds %d bytes; at most %d are taken", e.Platform, e.Bytes, mostList))
		case seen[e.Platform+e.ObservedOn]:
			wrong = append(wrong, fmt.Sprintf("the list of %s of %s stands there twice", e.Platform, e.ObservedOn))
		default:
			seen[e.Platform+e.ObservedOn] = true
			entries = append(entries, e)
		}
	}
	return entries, wrong, nil
}

// List fetches one list of a feed, as long as it says and with the sum that it says. The
// error is a [*Problem].
func (s *Service) List(ctx context.Context, e Entry) ([]byte, error) {
	data, err := s.get(ctx, e.Path, e.Bytes)
	switch {
	case err != nil:
		return nil, err
	case int64(len(data)) != e.Bytes:
		return nil, &Problem{fmt.Sprintf("its list of %s has %d bytes, and the index says %d", e.Platform, len(data), e.Bytes), nil}
	case Sum(data) != e.SHA256:
		return nil, &Problem{fmt.Sprintf("its list of %s is not the one that the index tells of", e.Platform), nil}
	}
	return data, nil
}
