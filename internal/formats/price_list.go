package formats

import (
	"bytes"
	"context"
	"encoding/json"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
)

// PriceListFormat is the first word of a price list file.
const PriceListFormat = pricelist.Format

// ReadPriceList reads a price list on a day and checks it whole. A list at
// fault is refused with [Faults].
func ReadPriceList(ctx context.Context, data []byte, today time.Time) (*pricelist.Edition, error) {
	file, err := openUpTo(ctx, data, today, single)
	if err != nil {
		return nil, err
	}
	return file.PriceList()
}

// KeptPriceList reads a price list that was taken before, perhaps under wider
// rules than those of today: a published edition never changes, and goes on
// being read as it was.
func KeptPriceList(ctx context.Context, data []byte) (*pricelist.Edition, error) {
	file := &File{Data: data, r: &reader{ctx: ctx, kept: true}}
	if err := file.parse(whole); err != nil {
		return nil, err
	}
	file.r.faults = document.Gathering{} // what the letters of a kept text are is not judged again
	return file.PriceList()
}

// StatedPriceList reads a price list that was taken before as it states it: what plans
// take over from others is not filled in.
func StatedPriceList(ctx context.Context, data []byte) (pricelist.Edition, error) {
	file := &File{Data: data, r: &reader{ctx: ctx, kept: true}}
	if err := file.parse(whole); err != nil {
		return pricelist.Edition{}, err
	}
	file.r.faults = document.Gathering{}
	e := pricelist.Fields(pricelist.Rules{Latest: file.r.latest, Kept: true}).Read(ctx, file.root, "", &file.r.faults)
	return e, file.r.done()
}

// WritePriceList writes a price list as it is stated, as a file that [ReadPriceList]
// reads back equal.
func WritePriceList(e *pricelist.Edition) ([]byte, error) {
	var out bytes.Buffer
	err := json.Indent(&out, pricelist.Fields(pricelist.Rules{}).Write(*e), "", "  ")
	return out.Bytes(), err
}

// PriceList reads the file as a price list.
func (file *File) PriceList() (*pricelist.Edition, error) {
	r := file.r
	e := pricelist.Fields(pricelist.Rules{Latest: r.latest, Kept: r.kept}).Read(r.ctx, file.root, "", &r.faults)
	if r.faults.Count() == 0 && !r.ended() {
		for _, fault := range append(e.Inherit(), e.Check()...) {
			r.faults.Add(file.root.LineOf(fault.Path), fault.Path, "%s", fault.Problem)
		}
	}
	if err := r.done(); err != nil {
		return nil, err
	}
	return &e, nil
}
