package study

import "ninecoins/internal/core/pricelist"

// What the parts of an outcome take in memory, in bytes, measured on the demo
// and on 12 options over 120 months.
const (
	outcomeBytes = 20_000
	resultBytes  = 4_000
	monthBytes   = 1_400 // of one option
	receiptBytes = 1_500
	cellBytes    = 200
	valueBytes   = 8
)

// Weight returns about how much memory the outcome takes, in bytes, with its
// study and the price lists that it holds on to.
func (o *Outcome) Weight() int64 {
	n, seen := int64(outcomeBytes), map[*pricelist.Edition]bool{}
	n += int64(valueBytes * o.Values.Rows() * o.Values.Drivers())
	for i := range o.Results {
		r := &o.Results[i]
		n += resultBytes + int64(monthBytes*o.Study.Horizon+receiptBytes+cellBytes*len(r.Coverage))
		if e := r.Option.Edition; e != nil && !seen[e] {
			seen[e] = true
			n += e.Weight()
		}
	}
	return n + int64(cellBytes*len(o.Study.Ratings))
}
