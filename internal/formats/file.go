// Package formats reads the open file formats. A file is checked whole: it is
// taken, or refused with its faults listed by line and field. How much of a
// file is read is bounded: bytes, depth, values, fields of an object, faults
// told; and reading ends with its context.
package formats

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"time"

	"ninecoins/internal/core/document"
)

// The bounds of a file of one study, price list or usage, and those of a
// whole workspace. A file of ours has 20 bytes a value or more.
var (
	single = document.Bounds{Bytes: MostBytes, Values: 250_000}
	whole  = document.Bounds{Bytes: MostWorkspaceBytes, Values: 3_000_000}
)

// MostBytes is the size up to which a file of one study, price list or usage
// is read.
const MostBytes = 5 << 20

// Faults and Fault are what is wrong with a file.
type (
	Faults = document.Faults
	Fault  = document.Fault
)

// MostFaults is how many faults are told.
const MostFaults = document.MostFaults

// File is a file that was opened: JSON, and in one of the formats.
type File struct {
	// Data is the file without a byte order mark.
	Data   []byte
	format string
	root   *document.Node
	r      *reader
}

// reader is what all parts of a file are read with.
type reader struct {
	ctx    context.Context
	latest time.Time // the last day that is not in the future, wherever on earth
	kept   bool      // the file was taken before, perhaps under wider rules
	faults document.Gathering
}

// ended reports whether reading is to stop.
func (r *reader) ended() bool { return r.ctx.Err() != nil }

// done returns what stands against taking the file; nil for nothing.
func (r *reader) done() error {
	if r.ended() {
		return r.ctx.Err()
	}
	return r.faults.Err()
}

// marks are how files begin that are not saved as UTF-8.
var marks = map[string]string{"\xff\xfe": "UTF-16", "\xfe\xff": "UTF-16"}

// Open opens a file, on a day in universal time. One that is no JSON, and one
// that is too large for its format, is refused with [Faults]; the error is the
// context's where that has ended.
func Open(ctx context.Context, data []byte, today time.Time) (*File, error) {
	b := single
	if len(data) > single.Bytes {
		b = whole
	}
	f, err := openUpTo(ctx, data, today, b)
	if err == nil && len(data) > single.Bytes && f.format != WorkspaceFormat && f.format != WorkspaceFormatV1 {
		return nil, sizeFault(len(data), single)
	}
	return f, err
}

// openUpTo is [Open] within some document.Bounds.
func openUpTo(ctx context.Context, data []byte, today time.Time, b document.Bounds) (*File, error) {
	if len(data) > b.Bytes {
		return nil, sizeFault(len(data), b)
	}
	for mark, name := range marks {
		if bytes.HasPrefix(data, []byte(mark)) {
			return nil, Faults{{Line: 1, Problem: "the file is saved as " + name + "; save it as UTF-8"}}
		}
	}
	f := &File{Data: bytes.TrimPrefix(data, []byte("\ufeff")), r: &reader{ctx: ctx, latest: today.AddDate(0, 0, 1)}}
	return f, f.parse(b)
}

func (f *File) parse(b document.Bounds) error {
	var err error
	if f.root, err = document.Parse(f.r.ctx, f.Data, b, &f.r.faults); err != nil {
		return err
	}
	if f.root == nil {
		return f.r.done()
	}
	if n := f.root.Field("format"); n != nil && n.Shape == document.IsText {
		f.format = n.Text
	}
	return nil
}

func sizeFault(size int, b document.Bounds) Faults {
	return Faults{{Line: 1, Problem: fmt.Sprintf("the file has %.1f MB; at most %d MB are read", float64(size)/(1<<20), b.Bytes>>20)}}
}

// Format returns what the file says that it is; "" where it does not say.
func (f *File) Format() string { return f.format }

// Misplaced refuses a file that is in none of the formats that are asked for.
func (f *File) Misplaced(formats ...string) error {
	want := "one of " + strings.Join(formats, ", ")
	switch n := f.root.Field("format"); {
	case f.root.Shape != document.IsObject:
		f.r.faults.Add(int(f.root.Line), "", "expected an object, found %s", f.root.Describe())
	case n == nil:
		f.r.faults.Add(int(f.root.Line), "format", "is missing; expected %s", want)
	default:
		f.r.faults.Add(int(n.Line), "format", "expected %s, found %s", want, n.Describe())
	}
	return f.r.done()
}
