package pricelist

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"ninecoins/internal/core/usage"
)

// Fault is one thing wrong with a list: where it stands, as a path into the
// list such as "plans[0].charges[1].bands[2].to", and what was expected there.
type Fault struct {
	Path, Problem string
}

func (f Fault) String() string { return f.Path + ": " + f.Problem }

// Reserved names stand for fields of charges and bands, so no term may use
// one as its key: a term's own prices are stated under its key.
var Reserved = []string{"key", "label", "kind", "meter", "included", "at_least", "size", "each", "bands", "above", "optional", "price", "to",
	"waived_on", "rate", "floor", "cap"}

// driverKey is what a formula can name.
var driverKey = regexp.MustCompile(`^[a-z][a-z0-9_]*$`)

// checker gathers faults under a path.
type checker struct{ faults []Fault }

func (c *checker) add(path, format string, a ...any) {
	c.faults = append(c.faults, Fault{path, fmt.Sprintf(format, a...)})
}

// unique reports keys that stand twice.
func (c *checker) unique(path string, keys []string) {
	seen := map[string]int{}
	for i, key := range keys {
		if first, ok := seen[key]; ok {
			c.add(fmt.Sprintf("%s[%d].key", path, i), "%q is the key of %s[%d] already", key, path, first)
			continue
		}
		seen[key] = i
	}
}

// Check returns every fault of a list that was read: references to what is not
// there, bands that go backwards, kinds that are not priced yet. A list
// without faults can be quoted.
func (e *Edition) Check() []Fault {
	c := &checker{}
	if len(e.Plans) == 0 {
		c.add("plans", "a list needs at least one plan")
	}
	c.unique("drivers", keysOf(e.Drivers, func(d usage.Driver) string { return d.Key }))
	for i, d := range e.Drivers {
		if _, standard := usage.InCatalogue(d.Key); standard {
			c.add(fmt.Sprintf("drivers[%d].key", i), "%q is a standard driver: count that, or give this another key", d.Key)
		} else if !driverKey.MatchString(d.Key) {
			c.add(fmt.Sprintf("drivers[%d].key", i), "%q cannot stand in a formula: use small letters, digits and _, a letter first", d.Key)
		}
	}
	for i, m := range e.Meters {
		for _, name := range m.Counts.Names() {
			if _, standard := usage.InCatalogue(name); !standard && !slices.ContainsFunc(e.Drivers, func(d usage.Driver) bool { return d.Key == name }) {
				c.add(fmt.Sprintf("meters[%d].counts", i), "there is no driver %q, neither a standard one nor one of this list", name)
			}
		}
	}
	c.unique("meters", keysOf(e.Meters, func(m Meter) string { return m.Key }))
	c.unique("plans", keysOf(e.Plans, func(p Plan) string { return p.Key }))
	c.unique("add_ons", keysOf(e.AddOns, func(a AddOn) string { return a.Key }))
	c.unique("offers", keysOf(e.Offers, func(o Offer) string { return o.Key }))
	for i := range e.Plans {
		c.plan(e, i)
	}
	for i, a := range e.AddOns {
		c.addOn(e, fmt.Sprintf("add_ons[%d]", i), a)
	}
	for i, o := range e.Offers {
		c.offer(e, fmt.Sprintf("offers[%d]", i), o)
	}
	return c.faults
}

// addOn looks at an add-on. A price of its own may stand for any term of the
// plans that it is sold on.
func (c *checker) addOn(e *Edition, at string, a AddOn) {
	var terms []Term
	for field, keys := range map[string][]string{"plans": a.Plans, "included_on": a.IncludedOn} {
		for j, key := range keys {
			p, ok := e.Plan(key)
			if !ok {
				c.add(fmt.Sprintf("%s.%s[%d]", at, field, j), "there is no plan %q", key)
				continue
			}
			if field == "plans" && slices.Contains(a.IncludedOn, key) {
				c.add(fmt.Sprintf("%s.plans[%d]", at, j), "plan %q holds it already, by included_on", key)
			}
			terms = append(terms, p.Terms...)
		}
	}
	c.charges(e, at, a.Charges, terms)
	for j, r := range a.Raises {
		if _, ok := e.Meter(r.Meter); !ok {
			c.add(fmt.Sprintf("%s.raises[%d].meter", at, j), "there is no meter %q", r.Meter)
		}
	}
}

func (c *checker) plan(e *Edition, i int) {
	p, at := &e.Plans[i], fmt.Sprintf("plans[%d]", i)
	if len(p.Terms) == 0 && p.Offered != OnRequest {
		c.add(at+".terms", "plan %q needs at least one term, such as {\"key\": \"monthly\", \"months\": 1}", p.Key)
	}
	if len(p.Charges) == 0 && p.Offered != OnRequest {
		c.add(at+".charges", "plan %q has no charge; a free plan has a flat charge of 0", p.Key)
	}
	c.unique(at+".terms", keysOf(p.Terms, func(t Term) string { return t.Key }))
	for j, t := range p.Terms {
		if slices.Contains(Reserved, t.Key) {
			c.add(fmt.Sprintf("%s.terms[%d].key", at, j), "%q is the name of a field; call the term otherwise", t.Key)
		}
		if t.Months == Lifetime && t.Paid == Monthly {
			c.add(fmt.Sprintf("%s.terms[%d].paid", at, j), "a lifetime is paid once, not monthly")
		}
		if t.Months == Lifetime && t.Off != 0 {
			c.add(fmt.Sprintf("%s.terms[%d].off", at, j), "a lifetime is no share off a month; state its price under %q", t.Key)
		}
	}
	c.charges(e, at, p.Charges, p.Terms)
	for j, l := range p.Limits {
		c.limit(e, p, fmt.Sprintf("%s.limits[%d]", at, j), l)
	}
	for _, key := range sortedKeys(p.Features) {
		f := p.Features[key]
		if f.Has != AsAddOn || !f.Direct {
			continue
		}
		path := fmt.Sprintf("%s.features.%s.add_on", at, key)
		a, ok := e.AddOn(f.AddOn)
		switch {
		case !ok:
			c.add(path, "there is no add-on %q", f.AddOn)
		case !slices.Contains(a.Plans, p.Key):
			c.add(path, "add-on %q cannot be bought on plan %q", f.AddOn, p.Key)
		case !slices.Contains(a.Gives, key):
			c.add(path, "add-on %q does not give %q", f.AddOn, key)
		}
	}
}

func (c *checker) charges(e *Edition, at string, charges []Charge, terms []Term) {
	c.unique(at+".charges", keysOf(charges, func(ch Charge) string { return ch.Key }))
	for i, ch := range charges {
		path := fmt.Sprintf("%s.charges[%d]", at, i)
		if _, ok := e.Meter(ch.Meter); ch.Kind != Flat && (ch.Kind != Once || ch.Meter != "") && !ok {
			c.add(path+".meter", "there is no meter %q", ch.Meter)
		}
		c.termKeys(path, ch.Price, terms)
		c.termKeys(path, ch.Rate, terms)
		for j, key := range ch.WaivedOn {
			if !slices.ContainsFunc(terms, func(t Term) bool { return t.Key == key }) {
				c.add(fmt.Sprintf("%s.waived_on[%d]", path, j), "there is no term %q here", key)
			}
		}
		if ch.Cap > 0 && ch.Cap < ch.Floor {
			c.add(path+".cap", "the most, %s, is below the least, %s", ch.Cap, ch.Floor)
		}
		if ch.Above != nil {
			c.termKeys(path+".above", ch.Above.Price, terms)
		}
		for j, b := range ch.Bands {
			here := fmt.Sprintf("%s.bands[%d]", path, j)
			c.termKeys(here, b.Price, terms)
			if j > 0 && !b.Open && b.To <= ch.Bands[j-1].To {
				c.add(here+".to", "band %d ends at %s, not above band %d, which ends at %s", j+1, b.To.Format(), j, ch.Bands[j-1].To.Format())
			}
			if b.Open && j < len(ch.Bands)-1 {
				c.add(here+".to", "only the last band may be without an end")
			}
			if b.Open && ch.Above != nil {
				c.add(path+".above", "the last band has no end, so nothing lies above it")
			}
		}
	}
}

// termKeys reports prices stated for terms that the plan does not have.
func (c *checker) termKeys(path string, p Price, terms []Term) {
	for _, key := range sortedKeys(p.ByKey) {
		if !slices.ContainsFunc(terms, func(t Term) bool { return t.Key == key }) {
			c.add(path+"."+key, "is neither a field of a charge nor a term it is sold on")
		}
	}
}

func (c *checker) limit(e *Edition, p *Plan, at string, l Limit) {
	for field, key := range map[string]string{"meter": l.Meter, "most.meter": l.OfMeter} {
		if _, ok := e.Meter(key); key != "" && !ok {
			c.add(at+"."+field, "there is no meter %q", key)
		}
	}
	if l.Beyond == BuyPack && !slices.ContainsFunc(p.Charges, func(ch Charge) bool { return ch.Kind == Pack && ch.Meter == l.Meter }) {
		c.add(at+".beyond", "plan %q sells no pack on meter %q", p.Key, l.Meter)
	}
}

func (c *checker) offer(e *Edition, at string, o Offer) {
	for i, key := range o.Plans {
		if _, ok := e.Plan(key); !ok {
			c.add(fmt.Sprintf("%s.plans[%d]", at, i), "there is no plan %q", key)
		}
	}
	for i, key := range o.Terms {
		if !slices.ContainsFunc(e.Plans, func(p Plan) bool { _, ok := p.Term(key); return ok }) {
			c.add(fmt.Sprintf("%s.terms[%d]", at, i), "no plan has a term %q", key)
		}
	}
}

// FeatureForm is the form of a feature's key: "area/feature".
var FeatureForm = regexp.MustCompile(`^[a-z0-9][a-z0-9_-]{0,59}/[a-z0-9][a-z0-9_-]{0,59}$`)

// MostPlans is how many plans a list may have.
const MostPlans = 500

// MostFeatures is how many features a plan may have, its own and those of the
// plans that it includes.
const MostFeatures = 1_000

// Inherit fills in the features that plans take over from the plans they
// include, and reports includes that point nowhere or forward.
func (e *Edition) Inherit() []Fault {
	c := &checker{}
	for i := range e.Plans {
		p := &e.Plans[i]
		if p.Includes == "" {
			continue
		}
		j := slices.IndexFunc(e.Plans, func(o Plan) bool { return o.Key == p.Includes })
		if j < 0 || j >= i {
			c.add(fmt.Sprintf("plans[%d].includes", i), "plan %q must stand before plan %q, which includes it", p.Includes, p.Key)
			continue
		}
		for _, key := range sortedKeys(e.Plans[j].Features) {
			f := e.Plans[j].Features[key]
			if len(p.Features) >= MostFeatures {
				c.add(fmt.Sprintf("plans[%d].includes", i), "plan %q comes to more than %d features with those of plan %q", p.Key, MostFeatures, p.Includes)
				break
			}
			if f.Has == AsAddOn && !e.soldOn(f.AddOn, p.Key) {
				continue // what the list does not say of this plan is not known of it
			}
			if _, own := p.Features[key]; !own {
				f.Direct = false
				if p.Features == nil {
					p.Features = map[string]Feature{}
				}
				p.Features[key] = f
			}
		}
	}
	e.included()
	return c.faults
}

// soldOn reports whether an add-on can be bought on a plan.
func (e *Edition) soldOn(addOn, plan string) bool {
	a, ok := e.AddOn(addOn)
	return ok && slices.Contains(a.Plans, plan)
}

// included makes what add-ons bring a part of the plans that hold them already, and an add-on
// of those on which they can be bought, where the list says nothing else of it.
func (e *Edition) included() {
	for _, a := range e.AddOns {
		for i := range e.Plans {
			p := &e.Plans[i]
			if !slices.Contains(a.Plans, p.Key) {
				continue
			}
			for _, feature := range a.Gives {
				if _, stated := p.Features[feature]; stated { // of it, or of a plan that it includes
					continue
				}
				if p.Features == nil {
					p.Features = map[string]Feature{}
				}
				p.Features[feature] = Feature{Has: AsAddOn, AddOn: a.Key}
			}
		}
	}
	for _, a := range e.AddOns {
		for _, key := range a.IncludedOn {
			p, ok := e.Plan(key)
			for _, feature := range a.Gives {
				if f, stated := p.Features[feature]; ok && (!stated || !f.Direct) {
					if p.Features == nil {
						p.Features = map[string]Feature{}
					}
					p.Features[feature] = Feature{Has: Yes, Note: a.Name + " is included"}
				}
			}
		}
	}
}

// FeatureName writes a feature's key for people: "event triggers" for
// "automation/event-triggers".
func FeatureName(key string) string {
	_, name, ok := strings.Cut(key, "/")
	if !ok {
		name = key
	}
	return strings.ReplaceAll(name, "-", " ")
}

func keysOf[T any](list []T, key func(T) string) []string {
	keys := make([]string, len(list))
	for i, v := range list {
		keys[i] = key(v)
	}
	return keys
}

func sortedKeys[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}
