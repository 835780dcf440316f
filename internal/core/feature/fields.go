package feature

import (
	"regexp"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/doors"
)

// Format is what the file of a catalogue says that it is.
const Format = "nine-coins/features/1"

// KeyForm is the form of a feature's key: "area/feature".
var KeyForm = regexp.MustCompile(`^[a-z0-9][a-z0-9_-]{0,59}/[a-z0-9][a-z0-9_-]{0,59}$`)

// Key is how features are named: "area/feature".
var Key = document.Matching(KeyForm, `a feature such as "automation/event-triggers"`)

// The bounds of a catalogue.
const (
	mostAreas    = 100
	mostFeatures = 2_000
)

// Table is the table of a workspace's catalogue.
func Table() *document.Table[Own] { return table }

var table = &document.Table[Own]{Format: Format, Title: "A catalogue of features of Nine Coins", Parts: document.Parts[Own]{
	document.List("areas", document.Of(func(o *Own) *[]Area { return &o.Areas }, document.Items[Own, Area]{
		Key: func(a *Area) string { return a.Key }, Name: func(_ *Own, a *Area) string { return orElse(a.Name, a.Key) }, One: "area", Most: mostAreas,
		Rekey: func(a *Area, key string) { a.Key = key }}), areaParts(), edits),
	document.List("features", document.Of(func(o *Own) *[]Feature { return &o.Features }, document.Items[Own, Feature]{
		Key: func(f *Feature) string { return f.Key }, Name: func(_ *Own, f *Feature) string { return orElse(f.Name, f.Key) }, One: "feature",
		Most: mostFeatures, Make: blank, Absent: "as it ships"}), featureParts(), edits),
	document.List("merged", document.Of(func(o *Own) *[]Merge { return &o.Merged }, document.Items[Own, Merge]{
		Key: func(m *Merge) string { return m.From }, Name: nameOfMerge, One: "merged feature", Most: mostFeatures,
		Here: "merged", Gone: "by itself again"}), mergeParts(), edits),
	document.Check(mergesEnd),
}}

// blank is a feature before it has a name: shipped ones get another name so.
func blank(key string) (Feature, bool) {
	_, err := Key.Parse(key)
	return Feature{Key: key}, err == nil
}

var edits = document.Needs(int(doors.ToEdit))

func areaParts() document.Parts[Area] {
	return document.Parts[Area]{
		document.Field("key", "key", document.Key, func(a *Area) *string { return &a.Key }, document.Must),
		document.Field("name", "name", notation.Title(60), func(a *Area) *string { return &a.Name }, document.Must, edits),
		document.Field("about", "about", notation.Note(200), func(a *Area) *string { return &a.About }, edits),
	}
}

func featureParts() document.Parts[Feature] {
	type f = *Feature
	return document.Parts[Feature]{
		document.Field("key", "key", Key, func(f f) *string { return &f.Key }, document.Must),
		document.Field("name", "name", notation.Title(80), func(f f) *string { return &f.Name }, document.Must, edits),
		document.Field("about", "what it means", notation.Note(200), func(f f) *string { return &f.About }, edits),
		document.Field("question", "question", notation.Note(200), func(f f) *string { return &f.Question }, edits),
		document.Field("unit", "unit of its number", notation.Title(30), func(f f) *string { return &f.Unit }, edits),
	}
}

func mergeParts() document.Parts[Merge] {
	return document.Parts[Merge]{
		document.Field("from", "feature", Key, func(m *Merge) *string { return &m.From }, document.Must),
		document.Field("into", "merged into", Key, func(m *Merge) *string { return &m.Into }, document.Must, edits),
	}
}

func nameOfMerge(o *Own, m *Merge) string {
	c := o.Catalogue()
	f, ok := c.features[m.From]
	if !ok {
		f.Name = m.From
	}
	return f.Name
}

// mergesEnd refuses features that are merged into themselves, by whichever way.
func mergesEnd(o *Own, tell document.Tell) {
	into := map[string]string{}
	for _, m := range o.Merged {
		into[m.From] = m.Into
	}
	for _, m := range o.Merged {
		at := m.Into
		for range len(into) + 1 {
			next, merged := into[at]
			if at == m.From {
				tell(document.Path("merged").To(m.From, "into"), "leads back to %q; a feature cannot be merged into itself", m.From)
				break
			}
			if !merged {
				break
			}
			at = next
		}
	}
}

// OwnArea is the key of the area in which features stand that were typed as needs.
const OwnArea = "own"

// Sharing puts features of that area into a workspace's catalogue, which has the others already.
func (c *Catalogue) Sharing(all []Feature) (change document.Change) {
	for _, f := range all {
		if _, there := c.Find(f.Key); there || f.Area() != OwnArea {
			continue
		}
		if len(change) == 0 && len(c.Of(OwnArea)) == 0 {
			area := areaItem.WriteItem(Area{Key: OwnArea, Name: "Our own"})
			change = append(change, document.Op{Do: document.Insert, Path: document.Path("areas").To(OwnArea), To: area})
		}
		change = append(change, document.Op{Do: document.Insert, Path: Path(f.Key), To: featureItem.WriteItem(f)})
	}
	return change
}

var (
	areaItem    = document.Item(areaParts())
	featureItem = document.Item(featureParts())
	mergeItem   = document.Item(mergeParts())
)

// WriteMerge writes a merge as a history holds it.
func WriteMerge(m Merge) string { return mergeItem.WriteItem(m) }
