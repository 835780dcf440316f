package web

import (
	"errors"
	"fmt"
	"io"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/formats"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// grow takes the edits of Growth that are more than one field: a course that is led
// through a value, a history that comes in or is taken over, a season that is evened.
func (s *Server) grow(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	st, err := s.store.Study(c, at.Workspace, at.Study, at.Today)
	if err != nil {
		return nil, err
	}
	driver := strings.TrimPrefix(ch.Path, "drivers.")
	var all document.Change
	field := ch.Path
	switch ch.Op {
	case "even":
		all = st.EvenSeason(driver)
	case "take-over":
		all = st.TakeOver(driver)
	case "bend":
		field = bendField
		month, err := typedMonth(ch.Before)
		if err != nil {
			return refuse(bendField, ch.Value, fmt.Sprintf("%s is not a month such as 2027-01 or Jan 2027; nothing was changed.", quoted(ch.Before))), nil
		}
		plain, err := money.Plain(ch.Value)
		if err != nil {
			return mistyped(bendField, ch.Value, err, "a number from 0 up", nil), nil
		}
		q, err := usage.ParseQuantity(plain)
		if err != nil {
			return refuse(bendField, ch.Value, fmt.Sprintf("%s is not a number from 0 to %s; nothing was changed.", quoted(ch.Value), usage.Most.Format())), nil
		}
		if all, err = st.Bend(driver, month, q); err != nil {
			return refuse(bendField, ch.Value, capital(err.Error())+"; nothing was changed."), nil
		}
	case "history":
		field = historyField
		text, err := historyText(c, ch)
		if err != nil {
			return nil, err
		}
		h, err := formats.ReadHistory(text, s.historyDrivers(st.Own), ch.Value)
		var faults formats.Faults
		if errors.As(err, &faults) {
			return refuse(historyField, text, "Nothing was kept. "+sayLines(faults)), nil
		}
		if err != nil {
			return nil, err
		}
		all = st.KeepHistory(h.Records)
	}
	if len(all) == 0 {
		return nil, nil
	}
	return saved(c, s.store.Edit(c, at, all), field, ch.Value)
}

const bendField = "bend"

// historyText is what was pasted, or the file that was brought.
func historyText(c *gin.Context, ch change) (string, error) {
	if strings.TrimSpace(ch.Rows) != "" || c.Request.MultipartForm == nil {
		return ch.Rows, nil
	}
	files := c.Request.MultipartForm.File["file"]
	if len(files) == 0 {
		return "", nil
	}
	f, err := files[0].Open()
	if err != nil {
		return "", err
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, mostForm))
	return string(data), err
}

// historyDrivers are those that a history can be of.
func (s *Server) historyDrivers(own []usage.Driver) []usage.Driver {
	return append(usage.Catalogue(), own...)
}

// mostFaultsSaid is how many faults are told at once.
const mostFaultsSaid = 4

func sayLines(faults formats.Faults) string {
	var texts []string
	for i, f := range faults {
		if i == mostFaultsSaid {
			texts = append(texts, fmt.Sprintf("and %d more", len(faults)-i))
			break
		}
		text := f.Problem
		if f.Line > 0 {
			text = fmt.Sprintf("Line %d: %s", f.Line, f.Problem)
		}
		texts = append(texts, text)
	}
	return strings.Join(texts, "; ") + "."
}
