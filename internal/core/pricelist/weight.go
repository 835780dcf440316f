package pricelist

// What the parts of an edition take in memory, in bytes: the struct with its
// short texts, and the share of the map that it stands in.
const (
	listBytes    = 1_000
	planBytes    = 400
	chargeBytes  = 440
	bandBytes    = 48
	ownBytes     = 350 // a map of prices by term
	limitBytes   = 200
	featureBytes = 240
)

// Weight returns about how much memory the edition takes, in bytes: right to a
// factor of two on lists that are large.
func (e *Edition) Weight() int64 {
	n := listBytes + planBytes*(len(e.AddOns)+len(e.Offers)+len(e.Meters))
	for _, a := range e.AddOns {
		n += weighCharges(a.Charges) + 32*(len(a.Plans)+len(a.Gives))
	}
	for _, o := range e.Offers {
		n += 32 * (len(o.Plans) + len(o.Terms))
	}
	for _, p := range e.Plans {
		n += planBytes + limitBytes*len(p.Limits) + weighCharges(p.Charges) + featureBytes*len(p.Features)
		for _, l := range p.Limits {
			n += len(l.Note)
		}
		for _, f := range p.Features {
			if f.Direct { // others share their texts with it
				n += len(f.Note)
			}
		}
	}
	return int64(n)
}

func weighCharges(charges []Charge) int {
	n := 0
	for _, c := range charges {
		n += chargeBytes + weighPrice(c.Price) + weighPrice(c.Rate)
		for _, b := range c.Bands {
			n += bandBytes + weighPrice(b.Price)
		}
		if c.Above != nil {
			n += bandBytes + weighPrice(c.Above.Price)
		}
	}
	return n
}

func weighPrice(p Price) int {
	if p.ByKey == nil {
		return 0
	}
	return ownBytes + 32*len(p.ByKey)
}
