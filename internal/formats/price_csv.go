package formats

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// PriceColumns are the columns of the flat part of a price list as CSV: what plans cost and
// hold, a row for each term, charge, band, price of a term of its own, and limit.
var PriceColumns = []string{"plan", "what", "key", "label", "term", "months", "paid", "off", "meter", "up_to", "price", "included", "at_least", "size", "each", "floor", "cap",
	"waived_on", "optional", "beyond", "note"}

// priceRow is a row by the names of its columns.
type priceRow map[string]string

// WritePrices writes the plans of a list as CSV.
func WritePrices(e *pricelist.Edition) ([]byte, error) {
	var b bytes.Buffer
	out := csv.NewWriter(&b)
	write := func(r priceRow) error {
		cells := make([]string, len(PriceColumns))
		for i, name := range PriceColumns {
			cells[i] = guarded(r[name])
		}
		return out.Write(cells)
	}
	if err := out.Write(PriceColumns); err != nil {
		return nil, err
	}
	for i := range e.Plans {
		p := &e.Plans[i]
		rows := []priceRow{{"plan": p.Name, "what": "plan", "key": p.Key, "note": string(p.Offered)}}
		for _, t := range p.Terms {
			months := strconv.Itoa(t.Months)
			if t.Months == pricelist.Lifetime {
				months = "lifetime"
			}
			rows = append(rows, priceRow{"plan": p.Name, "what": "term", "key": t.Key, "months": months, "paid": string(t.Paid), "off": blank(t.Off.String(), "0%")})
		}
		for j := range p.Charges {
			rows = append(rows, chargeRows(p.Name, &p.Charges[j])...)
		}
		for j := range p.Limits {
			l := &p.Limits[j]
			r := priceRow{"plan": p.Name, "what": "limit", "meter": l.Meter, "up_to": l.Most.String(), "beyond": string(l.Beyond), "note": l.Note}
			switch {
			case l.Unlimited:
				r["up_to"] = "unlimited"
			case l.OfMeter != "":
				r["up_to"] = l.Times.String() + " x " + l.OfMeter
			}
			rows = append(rows, r)
		}
		for _, r := range rows {
			if err := write(r); err != nil {
				return nil, err
			}
		}
	}
	out.Flush()
	return b.Bytes(), out.Error()
}

// guarded keeps a text from being taken for a formula by a spreadsheet.
func guarded(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t", rune(text[0])) {
		return "'" + text
	}
	return text
}

func blank(text, none string) string {
	if text == none {
		return ""
	}
	return text
}

func quantityText(q usage.Quantity) string { return blank(q.String(), "0") }

// chargeRows are the rows of a charge: the first with all that holds for it, then its
// bands, and the prices of single terms.
func chargeRows(plan string, c *pricelist.Charge) (rows []priceRow) {
	head := priceRow{"plan": plan, "what": string(c.Kind), "key": c.Key, "label": c.Label, "meter": c.Meter, "included": quantityText(c.Included), "at_least": quantityText(c.AtLeast),
		"size": quantityText(c.Size), "floor": blank(c.Floor.String(), "0"), "cap": blank(c.Cap.String(), "0"), "waived_on": strings.Join(c.WaivedOn, " ")}
	if c.Optional {
		head["optional"] = "yes"
	}
	if c.Each > 1 {
		head["each"] = strconv.FormatInt(c.Each, 10)
	}
	own := func(r priceRow, p pricelist.Price, say func(money.Amount) string) {
		for _, term := range slices.Sorted(maps.Keys(p.ByKey)) {
			one := maps.Clone(r)
			one["term"], one["price"] = term, say(p.ByKey[term])
			rows = append(rows, one)
		}
	}
	amount := func(a money.Amount) string { return a.String() }
	short := priceRow{"plan": plan, "what": string(c.Kind), "key": c.Key}
	switch {
	case c.Kind.Banded():
		rows = append(rows, head)
		for i := range c.Bands {
			b := &c.Bands[i]
			band := maps.Clone(short)
			band["what"], band["price"], band["up_to"] = "band", b.Price.Usual.String(), b.To.String()
			if b.Open {
				band["up_to"] = "more"
			}
			rows = append(rows, band)
			own(band, b.Price, amount)
		}
		if c.Above != nil {
			above := maps.Clone(short)
			above["what"], above["price"], above["each"] = "above", c.Above.Price.Usual.String(), strconv.FormatInt(c.Above.Each, 10)
			rows = append(rows, above)
			own(above, c.Above.Price, amount)
		}
	case c.Kind == pricelist.Share || c.Kind == pricelist.Once && c.Meter != "":
		share := func(a money.Amount) string { return money.Share(a).String() }
		head["price"] = share(c.Rate.Usual)
		rows = append(rows, head)
		own(short, c.Rate, share)
	default:
		head["price"] = c.Price.Usual.String()
		rows = append(rows, head)
		own(short, c.Price, amount)
	}
	return rows
}

// ReadPrices reads the flat part of a price list, as [WritePrices] writes it, into a list:
// plans that it names get the terms, charges and limits that it tells, whatever they had;
// new ones are added, the others stay. All of it is taken or none: the error is [Faults],
// each with its row and column.
func ReadPrices(data []byte, into pricelist.Edition) (pricelist.Edition, error) {
	in := &priceReader{e: into, at: map[string]int{}, fresh: map[string]bool{}}
	in.e.Plans = slices.Clone(into.Plans)
	in.e.Meters = slices.Clone(into.Meters)
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))))
	r.FieldsPerRecord = -1
	head, err := r.Read()
	if err != nil {
		return into, Faults{{Line: 1, Field: "head", Problem: "a table of prices begins with a head: " + strings.Join(PriceColumns, ",")}}
	}
	for i, name := range head {
		head[i] = strings.ToLower(strings.TrimSpace(name))
		if !slices.Contains(PriceColumns, head[i]) {
			in.fault(1, head[i], "there is no such column; those that there are: "+strings.Join(PriceColumns, ", "))
		}
	}
	for line := 2; ; line++ {
		cells, err := r.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			in.fault(line, "", "is no row of a CSV file: "+err.Error())
			break
		}
		if len(cells) > len(head) {
			in.fault(line, "", fmt.Sprintf("has %d cells; the head has %d", len(cells), len(head)))
			continue
		}
		row := priceRow{}
		for i, cell := range cells {
			row[head[i]] = strings.TrimSpace(strings.TrimPrefix(cell, "'"))
		}
		in.row(line, row)
		if len(in.faults) >= MostFaults {
			break
		}
	}
	if len(in.at) == 0 && len(in.faults) == 0 {
		in.fault(2, "plan", "no plan is told")
	}
	if len(in.faults) > 0 {
		return into, in.faults
	}
	whole := in.e
	whole.Plans = slices.Clone(in.e.Plans)
	for _, f := range whole.Check() {
		in.fault(1, f.Path, f.Problem)
	}
	if len(in.faults) > 0 {
		return into, in.faults
	}
	return in.e, nil
}

// priceReader puts rows into a list.
type priceReader struct {
	e      pricelist.Edition
	at     map[string]int  // of the plans that were told, by their names in small letters
	fresh  map[string]bool // keys of the plans that the list has not got
	faults Faults
}

func (in *priceReader) fault(line int, field, problem string) {
	in.faults = append(in.faults, Fault{Line: line, Field: field, Problem: problem})
}

// plan is the plan that a row tells of, emptied when it is told of first.
func (in *priceReader) plan(line int, name string) *pricelist.Plan {
	low := strings.ToLower(name)
	if i, told := in.at[low]; told {
		return &in.e.Plans[i]
	}
	if name == "" || len(name) > 60 {
		in.fault(line, "plan", "needs the name of a plan, of 60 characters at most")
		return nil
	}
	i := slices.IndexFunc(in.e.Plans, func(p pricelist.Plan) bool { return strings.EqualFold(p.Name, name) })
	if i < 0 {
		i = len(in.e.Plans)
		key := document.KeyFor(name, func(key string) bool { _, there := in.e.Plan(key); return there })
		in.e.Plans = append(in.e.Plans, pricelist.Plan{Key: key, Name: name, Offered: pricelist.Public})
		in.fresh[key] = true
	}
	in.at[low] = i
	p := &in.e.Plans[i]
	p.Terms, p.Charges, p.Limits = nil, nil, nil
	return p
}

// meter makes sure that the list has a meter: that of a driver is made.
func (in *priceReader) meter(line int, key string) {
	if _, there := in.e.Meter(key); there || key == "" {
		return
	}
	d, ok := usage.InCatalogue(key)
	if !ok {
		in.fault(line, "meter", fmt.Sprintf("%q is neither a meter of this list nor a driver of the catalogue", document.Shorten(key, 40)))
		return
	}
	f, _ := usage.ParseFormula(d.Key)
	unit, _, _ := strings.Cut(d.Unit, " a month")
	in.e.Meters = append(in.e.Meters, pricelist.Meter{Key: d.Key, Unit: unit, Kind: d.Kind, Counts: f})
}

// cells reads the cells of one row.
type cells struct {
	in   *priceReader
	line int
	row  priceRow
}

// cell reads a cell; nought where it is empty or at fault.
func cell[T ~int64](c *cells, name, wanted string, parse func(string) (T, error), least, most T) (none T) {
	if c.row[name] == "" {
		return none
	}
	v, err := parse(c.row[name])
	if err != nil || v < least || v > most {
		c.in.fault(c.line, name, fmt.Sprintf("expected %s, found %q", wanted, document.Shorten(c.row[name], 40)))
	}
	return v
}

func (c *cells) amount(name string) money.Amount {
	return cell(c, name, "an amount such as 12.00", money.ParseAmount, 0, math.MaxInt64)
}

func (c *cells) share(name string) money.Share {
	return cell(c, name, "a share from 0% to 100%", money.ParseShare, 0, money.Whole)
}

func (c *cells) quantity(name string) usage.Quantity {
	return cell(c, name, "a number such as 2500", usage.ParseQuantity, math.MinInt64, math.MaxInt64)
}

func (c *cells) each() int64 {
	if c.row["each"] == "" {
		return 1
	}
	n, err := strconv.ParseInt(c.row["each"], 10, 64)
	if err != nil || n < 1 || n > 1_000_000_000 {
		c.in.fault(c.line, "each", fmt.Sprintf("expected a whole number from 1 to 1000000000, found %q", document.Shorten(c.row["each"], 40)))
		return 1
	}
	return n
}
