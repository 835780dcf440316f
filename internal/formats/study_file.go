package formats

import (
	"bytes"
	"context"
	"encoding/json"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
)

// StudyFormat is the first word of a study file.
const StudyFormat = study.Format

// FindEdition returns the edition of a platform that was read on a day.
type FindEdition func(platform string, observedOn time.Time) (*pricelist.Edition, bool)

// ReadStudy reads a study on a day and checks it whole. A file at fault is
// refused with [Faults]; one that cannot be computed is taken, as it can be
// mended on the pages.
func ReadStudy(ctx context.Context, data []byte, today time.Time, find FindEdition) (*study.Study, error) {
	file, err := openUpTo(ctx, data, today, single)
	if err != nil {
		return nil, err
	}
	return file.Study(find)
}

// Study reads the file as a study.
func (file *File) Study(find FindEdition) (*study.Study, error) {
	s := readStudy(file.r, file.root, "", study.Sources{Latest: file.r.latest, Find: find})
	if err := file.r.done(); err != nil {
		return nil, err
	}
	return s, nil
}

// readStudy reads a study that stands at a path of a file.
func readStudy(r *reader, n *document.Node, path string, from study.Sources) *study.Study {
	s := study.Fields(from).Read(r.ctx, n, path, &r.faults)
	return &s
}

// WriteStudy writes a study as a file that [ReadStudy] reads back equal.
func WriteStudy(s *study.Study) ([]byte, error) {
	var out bytes.Buffer
	err := json.Indent(&out, study.Fields(study.Sources{}).Write(*s.Named()), "", "  ")
	return out.Bytes(), err
}
