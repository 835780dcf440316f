// Package feature holds the catalogue of features by which plans are compared and
// needs are told: in two levels, areas and features. What ships is in trade
// terms; a workspace renames, adds its own, and merges two that mean the same.
package feature

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"
	"sync"

	"ninecoins/internal/core/document"
)

// Area is a part of the work that features belong to.
type Area struct {
	Key, Name, About string
}

// Feature is something that a plan has or has not.
type Feature struct {
	Key  string // "area/feature"
	Name string
	// What it means, in a line, and a question that tells having it from half-having
	// it.
	About, Question string
	Unit            string // of the number that is meant: "workflow"; "" where none is
	Own             bool   // added by the workspace
}

// Area returns the key of the feature's area.
func (f *Feature) Area() string { return AreaOf(f.Key) }

// AreaOf returns the key of the area in the key of a feature.
func AreaOf(key string) string {
	area, _, _ := strings.Cut(key, "/")
	return area
}

// Merge says that one feature means the same as another: whatever names the
// first is taken to name the second.
type Merge struct{ From, Into string }

// Own is what a workspace makes of the shipped features: the zero value takes
// them as they are.
type Own struct {
	Areas    []Area // its own, and shipped ones under other names
	Features []Feature
	Merged   []Merge
}

// Catalogue is what ships with what a workspace makes of it. A nil catalogue is
// what ships.
type Catalogue struct {
	areas    []Area
	features map[string]Feature
	of       map[string][]string // keys of features by area, in their order
	into     map[string]string
	place    map[string]int
}

//go:embed shipped.txt
var shippedText string

var shipped = sync.OnceValues(func() ([]Area, []Feature) {
	var areas []Area
	var features []Feature
	for line := range strings.Lines(shippedText) {
		line = strings.TrimSpace(line)
		area, isArea := strings.CutPrefix(line, "@ ")
		cells := strings.Split(area, " | ")
		switch {
		case line == "" || strings.HasPrefix(line, "#"):
		case isArea && len(cells) == 3:
			areas = append(areas, Area{cells[0], cells[1], cells[2]})
		case !isArea && (len(cells) == 4 || len(cells) == 5):
			f := Feature{Key: cells[0], Name: cells[1], About: cells[2], Question: cells[3]}
			if len(cells) == 5 {
				f.Unit = cells[4]
			}
			features = append(features, f)
		default:
			panic(fmt.Sprintf("feature: a shipped line has %d cells: %q", len(cells), line))
		}
	}
	return areas, features
})

// Shipped returns the areas and features that ship, in their order.
func Shipped() ([]Area, []Feature) { return shipped() }

var bare = sync.OnceValue(func() *Catalogue { return (&Own{}).Catalogue() })

func (c *Catalogue) all() *Catalogue {
	if c == nil {
		return bare()
	}
	return c
}

// Catalogue works out what a workspace's catalogue comes to.
func (o *Own) Catalogue() *Catalogue {
	areas, features := Shipped()
	c := &Catalogue{areas: slices.Clone(areas), features: map[string]Feature{}, of: map[string][]string{}, into: map[string]string{}, place: map[string]int{}}
	for _, own := range o.Areas {
		if at := slices.IndexFunc(c.areas, func(a Area) bool { return a.Key == own.Key }); at >= 0 {
			c.areas[at] = own
		} else {
			c.areas = append(c.areas, own)
		}
	}
	ships := len(features)
	for i, f := range append(slices.Clone(features), o.Features...) {
		was, there := c.features[f.Key]
		if !there {
			area := f.Area()
			c.of[area] = append(c.of[area], f.Key)
			if !slices.ContainsFunc(c.areas, func(a Area) bool { return a.Key == area }) {
				c.areas = append(c.areas, Area{Key: area, Name: spelled(area)})
			}
		}
		f.Own = i >= ships && (!there || was.Own)
		f.Name, f.About, f.Question, f.Unit = orElse(f.Name, was.Name), orElse(f.About, was.About), orElse(f.Question, was.Question), orElse(f.Unit, was.Unit)
		c.features[f.Key] = f
	}
	for _, m := range o.Merged {
		c.into[m.From] = m.Into
	}
	for _, a := range c.areas {
		for _, key := range c.of[a.Key] {
			c.place[key] = len(c.place)
		}
	}
	return c
}

func orElse(s, other string) string {
	if s == "" {
		return other
	}
	return s
}

// Areas returns the areas that have features, in their order.
func (c *Catalogue) Areas() []Area {
	c = c.all()
	return slices.DeleteFunc(slices.Clone(c.areas), func(a Area) bool { return len(c.Of(a.Key)) == 0 })
}

// Of returns the features of an area, in their order, without those that were
// merged into another.
func (c *Catalogue) Of(area string) (all []Feature) {
	c = c.all()
	for _, key := range c.of[area] {
		if c.into[key] == "" {
			all = append(all, c.features[key])
		}
	}
	return all
}

// Key returns the feature that a key means: itself, or what it was merged into.
func (c *Catalogue) Key(key string) string {
	c = c.all()
	for range len(c.into) { // merges of merges; a circle ends
		into, merged := c.into[key]
		if !merged {
			break
		}
		key = into
	}
	return key
}

// Merges reports whether any feature was merged into another.
func (c *Catalogue) Merges() bool { return len(c.all().into) > 0 }

// Find returns the feature that a key means; false where the catalogue has none.
// Then its name is made from the key.
func (c *Catalogue) Find(key string) (Feature, bool) {
	c = c.all()
	key = c.Key(key)
	if f, ok := c.features[key]; ok {
		return f, true
	}
	_, name, _ := strings.Cut(key, "/")
	return Feature{Key: key, Name: spelled(name), Own: true}, false
}

// Name returns what an area is called.
func (c *Catalogue) Name(area string) string {
	for _, a := range c.all().areas {
		if a.Key == area {
			return a.Name
		}
	}
	return spelled(area)
}

// Named finds a feature by its key, or by its name whatever its capitals.
func (c *Catalogue) Named(text string) (Feature, bool) {
	text = strings.TrimSpace(text)
	if f, ok := c.Find(text); ok {
		return f, true
	}
	for _, area := range c.Areas() {
		for _, f := range c.Of(area.Key) {
			if strings.EqualFold(f.Name, text) {
				return f, true
			}
		}
	}
	return Feature{}, false
}

// Place orders features as the catalogue does: by area, then within it. Those that
// it has not come last.
func (c *Catalogue) Place(key string) int {
	c = c.all()
	if at, ok := c.place[c.Key(key)]; ok {
		return at
	}
	return len(c.place)
}

// spelled makes a name from a key.
func spelled(key string) string {
	r := []rune(strings.NewReplacer("-", " ", "_", " ").Replace(key))
	if len(r) == 0 {
		return key
	}
	return strings.ToUpper(string(r[:1])) + string(r[1:])
}

// Path is where a feature is edited in a workspace's catalogue.
func Path(key string) document.Path { return document.Path("features").To(key) }

// areasOf are the areas that what a platform does is usually compared by; what every
// platform is asked about comes last.
var areasOf = map[string][]string{
	"email": {"letters", "lists", "automation", "growth", "messages", "shop"}, "newsletter": {"letters", "lists", "growth"}, "crm": {"crm", "sales", "lists"},
	"search": {"search", "site", "content"}, "automation": {"automation"}, "social": {"social", "listening", "content"}, "conversation": {"messages", "listening"},
	"content helper": {"content"}, "ad protection": {"ads"}, "courses and shop": {"shop", "growth"},
	"all in one": {"letters", "lists", "automation", "growth", "messages", "crm", "sales", "social", "shop"},
}

var everywhere = []string{"links", "reports", "team", "privacy", "support"}

func shipsArea(key string) bool {
	areas, _ := Shipped()
	return slices.ContainsFunc(areas, func(a Area) bool { return a.Key == key })
}

// AreasFor returns the keys of the areas that platforms of some categories are usually
// compared by, and those of the workspace's own, in the order of the catalogue; of none that it
// knows, all areas.
func (c *Catalogue) AreasFor(does []string) (keys []string) {
	wanted := map[string]bool{}
	for _, one := range does {
		for _, area := range areasOf[one] {
			wanted[area] = true
		}
	}
	if len(wanted) == 0 {
		for _, a := range c.Areas() {
			keys = append(keys, a.Key)
		}
		return keys
	}
	for _, area := range everywhere {
		wanted[area] = true
	}
	for _, a := range c.Areas() {
		if wanted[a.Key] || !shipsArea(a.Key) {
			keys = append(keys, a.Key)
		}
	}
	return keys
}
