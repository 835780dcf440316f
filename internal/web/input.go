package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"strings"
	"unicode/utf8"

	"ninecoins/internal/formats"

	"github.com/gin-gonic/gin"
)

// How much of a request is read. docs/decisions/2026-11-25-bounded-input.md
// tells the whole of it.
const (
	mostForm   = 64 << 10                              // bytes of a form
	mostFields = 500                                   // values in a form
	mostFile   = formats.MostWorkspaceBytes + mostForm // bytes of a form with a file
	mostParts  = 10                                    // of a form with a file
)

// places bound how many files are in memory and are read at the same time. Who
// finds none free waits, as long as the request may take.
type places struct {
	held  chan struct{} // large files, from when they come in until they are taken
	large chan struct{} // large files that are read
	small chan struct{} // others that are read
}

func newPlaces() places {
	return places{make(chan struct{}, 2), make(chan struct{}, 1), make(chan struct{}, 4)}
}

// isLarge reports whether so many bytes are more than a price list or a study
// has.
func isLarge(size int) bool { return size > formats.MostBytes }

// take waits for a place and returns how to leave it.
func take(ctx context.Context, place chan struct{}) (leave func(), err error) {
	select {
	case place <- struct{}{}:
		return func() { <-place }, nil
	case <-ctx.Done():
		return func() {}, ctx.Err()
	}
}

const (
	urlencoded = "application/x-www-form-urlencoded"
	multipart  = "multipart/form-data"
)

// formsOnly lets nothing through but the two ways in which browsers send forms,
// and bounds how much of them is read; it looks at headers alone.
func (s *Server) formsOnly(c *gin.Context) {
	r := c.Request
	safe := r.Method == http.MethodGet || r.Method == http.MethodHead
	kind, _, err := mime.ParseMediaType(r.Header.Get("Content-Type"))
	wanted := kind == urlencoded || kind == multipart
	if withFile(c) {
		wanted = kind == multipart
	}
	encoding := r.Header.Get("Content-Encoding")
	switch {
	case r.ContentLength == 0 && (safe || r.Header.Get("Content-Type") == ""): // nothing is sent
	case err != nil || !wanted || encoding != "" && encoding != "identity":
		c.Header("Accept", urlencoded+", "+multipart)
		s.fail(c, &failure{status: http.StatusUnsupportedMediaType, What: "This was sent in a way that is not read here.",
			Do: "Nothing was changed. Send it as a form does: " + urlencoded + ", or with a file " + multipart + "."})
		c.Abort()
		return
	}
	most := int64(mostForm)
	switch c.FullPath() {
	case "/files":
		most = mostFile
	case readAt:
		most = 2*formats.LargestPage + mostForm // as it was pasted, once as text and once as HTML
	}
	r.Body = http.MaxBytesReader(c.Writer, r.Body, most)
}

// unfit says what is wrong with a form that is too large, cannot be read, or
// holds what is no text; nil where nothing is. A form with a file is read where
// it is taken.
func unfit(c *gin.Context) *failure {
	r := c.Request
	for name, values := range r.URL.Query() {
		if !isText(name) || !allText(values) {
			return &failure{status: http.StatusBadRequest, What: "This address holds what is no text.",
				Do: "Nothing was changed. Type it again, or go on from the Desk."}
		}
	}
	if r.Method != http.MethodPost || withFile(c) {
		return nil
	}
	err := r.ParseForm()
	if kind, _, _ := mime.ParseMediaType(r.Header.Get("Content-Type")); err == nil && kind == multipart {
		err = r.ParseMultipartForm(mostForm) // all of it fits, so that nothing is put on the disk
	}
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large):
		return tooMuch()
	case err != nil:
		return unreadable()
	}
	fields := 0
	for name, values := range r.PostForm {
		if fields += len(values); fields > mostFields {
			return tooMuch()
		}
		if !isText(name) || !allText(values) {
			return &failure{status: http.StatusBadRequest, What: "This form holds what is no text: bytes that are no UTF-8, or a NUL.",
				Do: "Nothing was changed. Type it again rather than pasting it."}
		}
	}
	return nil
}

// readAt is where price pages are read.
const readAt = "/shelf/read"

// withFile reports whether a request brings a file, which is read where it is taken.
func withFile(c *gin.Context) bool { return c.FullPath() == "/files" || c.FullPath() == readAt }

func tooMuch() *failure {
	return &failure{status: http.StatusRequestEntityTooLarge, What: "That was too much to send.",
		Do: fmt.Sprintf("A form may hold %d KB and %d fields. Nothing was changed.", mostForm>>10, mostFields)}
}

func isText(s string) bool { return utf8.ValidString(s) && !strings.ContainsRune(s, 0) }

func allText(values []string) bool {
	for _, value := range values {
		if !isText(value) {
			return false
		}
	}
	return true
}

// upload is a file that came in; a large one holds a place until it is left.
type upload struct {
	data  []byte
	leave func()
}

// uploaded reads the file that a form carries, as it comes: nothing of it is
// put on the disk. Whoever gets it leaves it in the end.
func (s *Server) uploaded(c *gin.Context, most int) (upload, error) {
	f := upload{leave: func() {}}
	none := &failure{status: http.StatusBadRequest, What: "No file came along.", Do: "Choose a file and send the form again. Nothing was taken."}
	large := &failure{status: http.StatusRequestEntityTooLarge, What: "That file is too large.",
		Do: fmt.Sprintf("A price list or a study may hold %d MB, and a whole workspace, which an owner brings in, %d MB. Nothing was taken.",
			formats.MostBytes>>20, formats.MostWorkspaceBytes>>20)}
	form, err := c.Request.MultipartReader()
	if err != nil {
		return f, none
	}
	for range mostParts {
		part, err := form.NextPart()
		here := err == nil && part.FormName() == "file"
		if here {
			err = s.fill(c, &f, part, most)
		}
		var tooLarge *http.MaxBytesError
		switch {
		case len(f.data) > most || errors.As(err, &tooLarge):
			return f, large
		case c.Request.Context().Err() != nil:
			return f, c.Request.Context().Err()
		case err != nil:
			return f, none
		case here:
			return f, nil
		}
	}
	return f, none
}

// fill reads a part of a form into a file, up to one byte more than is taken.
func (s *Server) fill(ctx context.Context, f *upload, part io.Reader, most int) (err error) {
	f.data, err = io.ReadAll(io.LimitReader(part, formats.MostBytes+1))
	if err != nil || !isLarge(len(f.data)) || most <= formats.MostBytes {
		return err
	}
	if f.leave, err = take(ctx, s.places.held); err != nil {
		return err
	}
	whole := bytes.NewBuffer(f.data)
	_, err = whole.ReadFrom(io.LimitReader(part, int64(most+1-len(f.data))))
	f.data = whole.Bytes()
	return err
}
