package document_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/document"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A shed holds pots in rows, and marks that people give them.
type shed struct {
	Name  string
	Pots  []pot
	Marks []mark
}

type pot struct {
	Key, Name, Kind string
	Size            int
}

type mark struct {
	Who, Pot string
	Value    int
}

var word = document.Line(20, func(rune) bool { return false })

func shedFields() *document.Table[shed] {
	return &document.Table[shed]{Format: "sheds/3", Title: "A shed", Apart: []string{"marks"},
		Earlier: []document.Version{
			{Format: "sheds/1", Upgrade: func(n *document.Node) error { return rename(n, "called", "label") }},
			{Format: "sheds/2", Upgrade: func(n *document.Node) error { return rename(n, "label", "name") }},
		},
		Parts: document.Parts[shed]{
			document.Field("name", "Name", word, func(s *shed) *string { return &s.Name }, document.Must, document.Needs(2)),
			document.List("pots", document.Of(func(s *shed) *[]pot { return &s.Pots }, document.Items[shed, pot]{
				Key: func(p *pot) string { return p.Key }, Name: func(_ *shed, p *pot) string { return p.Name }, One: "pot", Most: 4,
				New: func(*shed) pot { return pot{Kind: "clay"} }, Rekey: func(p *pot, key string) { p.Key = key }}), document.Parts[pot]{
				document.Field("key", "key", document.Key, func(p *pot) *string { return &p.Key }, document.Must),
				document.Field("name", "name", word, func(p *pot) *string { return &p.Name }, document.Must, document.Needs(2)),
				document.Field("kind", "kind", document.Among("clay", "tin"), func(p *pot) *string { return &p.Kind }, document.Must, document.Needs(2)),
				document.When([2]string{"kind", "tin"}, func(p *pot) bool { return p.Kind == "tin" },
					document.Field("size", "size", document.Whole(1, 9), func(p *pot) *int { return &p.Size }, document.Must, document.Needs(2))),
			}, document.Needs(2)),
			document.List("marks", document.Of(func(s *shed) *[]mark { return &s.Marks }, document.Items[shed, mark]{
				Key: func(m *mark) string { return m.Who + "/" + m.Pot }, Name: func(_ *shed, m *mark) string { return m.Pot }, One: "mark", Most: 10, Absent: "none", Owner: func(m *mark) string { return m.Who },
				Make: func(key string) (mark, bool) {
					who, pot, ok := strings.Cut(key, "/")
					return mark{Who: who, Pot: pot}, ok
				}}), document.Parts[mark]{
				document.Field("who", "who", word, func(m *mark) *string { return &m.Who }, document.Must),
				document.Field("pot", "pot", word, func(m *mark) *string { return &m.Pot }, document.Must),
				document.Field("value", "", document.Whole(0, 9), func(m *mark) *int { return &m.Value }, document.Must, document.Needs(1)),
			}, document.Needs(1)),
		}}
}

func rename(n *document.Node, from, to string) error {
	for i, name := range n.Names {
		if name == from {
			n.Names[i] = to
			return nil
		}
	}
	return errors.New("there is no " + from)
}

var two = shed{Name: "North", Pots: []pot{{"a", "Ash", "clay", 0}, {"b", "Birch", "tin", 3}}, Marks: []mark{{"rue", "a", 5}}}

// TestWhatWasKeptInAnyVersionIsRead joins documents of every version; one of a
// later version is left alone.
func TestWhatWasKeptInAnyVersionIsRead(t *testing.T) {
	fields := shedFields()
	pieces := fields.Pieces(two)
	assert.Equal(t, `{"format":"sheds/3","marks":[{"who":"rue","pot":"a","value":5}]}`, pieces["marks"], "apart")
	assert.NotContains(t, pieces[document.Main], "rue")
	assert.Equal(t, "marks", fields.PieceOf("marks.rue/a.value"))
	assert.Equal(t, document.Main, fields.PieceOf("pots.a"))
	for format, name := range map[string]string{"sheds/1": "called", "sheds/2": "label", "sheds/3": "name"} {
		main := strings.NewReplacer("sheds/3", format, `"name":"North"`, fmt.Sprintf(`"%s":"North"`, name)).Replace(pieces[document.Main])
		back, err := fields.Join(t.Context(), map[string]string{document.Main: main, "marks": pieces["marks"]})
		require.NoError(t, err, format)
		assert.Equal(t, two, back, format)
		var faults document.Gathering
		root, err := document.Parse(t.Context(), []byte(main), document.Bounds{Bytes: 1 << 16, Values: 1000}, &faults)
		require.NoError(t, err)
		assert.Equal(t, "North", fields.Read(t.Context(), root, "", &faults).Name, "files of that version too")
		assert.NoError(t, faults.Err())
	}
	var newer *document.NewerError
	_, err := fields.Join(t.Context(), map[string]string{document.Main: strings.Replace(pieces[document.Main], "sheds/3", "sheds/4", 1)})
	require.ErrorAs(t, err, &newer)
	assert.Contains(t, err.Error(), "newer version")
	for _, broken := range []string{`{"format": "sheds/1", "title": "x"}`, `{"format": "barns/3"}`, "[]", "{", ""} {
		_, err := fields.Join(t.Context(), map[string]string{document.Main: broken})
		assert.Error(t, err, broken)
	}
}

func TestItemsAreAddedFromWhatIsTyped(t *testing.T) {
	fields := shedFields()
	s := two
	add := func(typed map[string]string) error {
		op, err := fields.Add(s, "pots", typed)
		if err == nil {
			s, _, err = fields.Apply(s, document.Change{op})
		}
		return err
	}
	require.NoError(t, add(map[string]string{"name": "Äsh & Oak"}))
	assert.Equal(t, pot{"ash-oak", "Äsh & Oak", "clay", 0}, s.Pots[2], "under a key that follows from its name")
	require.NoError(t, add(map[string]string{"name": "ash oak", "kind": "tin", "size": "4"}))
	assert.Equal(t, pot{"ash-oak-2", "ash oak", "tin", 4}, s.Pots[3])
	var invalid *document.InvalidError
	require.ErrorAs(t, add(map[string]string{"name": "One more"}), &invalid)
	assert.Contains(t, invalid.Problem, "at most 4 are taken")
	for field, typed := range map[string]map[string]string{"name": {"kind": "clay"}, "kind": {"name": "x", "kind": "wood"}, "size": {"name": "x", "kind": "tin", "size": "40"}, "weight": {"name": "x", "weight": "1"}} {
		var at *document.TypedError
		require.ErrorAs(t, add(typed), &at, field)
		assert.Equal(t, field, at.Name)
	}
	_, err := fields.Add(s, "name", nil)
	assert.ErrorAs(t, err, &invalid)
	c, ok := fields.Columns(s, "pots")
	require.True(t, ok)
	assert.Equal(t, "pot", c.One)
	assert.Len(t, c.Fields, 4)
	_, ok = fields.Columns(s, "pots.a")
	assert.False(t, ok)
}

// TestACellIsThereOnceItIsSet sets, changes and empties what springs from its
// key, and takes each back.
func TestACellIsThereOnceItIsSet(t *testing.T) {
	fields := shedFields()
	path := document.Path("marks").To("sam/b", "value")
	spot, _ := fields.Spot(two, path)
	assert.Equal(t, document.Spot{Path: path, Label: "b", Said: "none", Want: "a whole number from 0 to 9", Input: document.Input{Decimal: true, Longest: 12}, Need: 1, Owner: "sam"}, spot)
	s := two
	var made []document.Change
	for _, step := range [][2]string{{"", "4"}, {"4", "6"}, {"6", ""}} {
		said := fields.Say(s, document.Change{{Do: document.Set, Path: path, Was: step[0], To: step[1]}})
		none := func(text string) string {
			if text == "" {
				return "none"
			}
			return text
		}
		assert.Equal(t, []document.Said{{Label: "b", Was: none(step[0]), To: none(step[1])}}, said)
		after, c, err := fields.Apply(s, document.Change{{Do: document.Set, Path: path, Was: step[0], To: step[1]}})
		require.NoError(t, err)
		s, made = after, append(made, c)
	}
	assert.Equal(t, two, s)
	assert.Equal(t, document.Insert, made[0][0].Do)
	assert.Equal(t, document.Remove, made[2][0].Do)
	for n := len(made) - 1; n >= 0; n-- {
		var err error
		s, _, err = fields.Apply(s, made[n].Inverse())
		require.NoError(t, err)
	}
	assert.Equal(t, two, s)
	var changed *document.ChangedError
	for _, op := range []document.Op{{Do: document.Set, Path: path, Was: "4", To: "5"}, {Do: document.Set, Path: path, To: ""}, {Do: document.Set, Path: "marks.rue/a.value", Was: "", To: "4"}, {Do: document.Set, Path: "marks.rue/a.value", Was: "4", To: ""}} {
		_, _, err := fields.Apply(two, document.Change{op})
		assert.ErrorAs(t, err, &changed, op)
	}
	text, err := fields.Typed(two, "marks.rue/a.value", "")
	assert.NoError(t, err)
	assert.Empty(t, text, "an emptied cell goes")
}

func TestEditsTellWhatTheyNeed(t *testing.T) {
	fields := shedFields()
	for path, need := range map[document.Path]int{"name": 2, "pots": 2, "pots.x": 2, "pots.x.size": 2, "pots.x.key": 0, "marks.rue/a.value": 1, "marks.rue/a": 1, "nothing": 0, "": 0, "name.x": 0} {
		assert.Equal(t, need, fields.NeedOf(path), path)
	}
	var schema map[string]any
	require.NoError(t, json.Unmarshal(fields.Schema(), &schema))
	assert.Equal(t, "A shed", schema["title"])
}

func TestADayThatNeedNotBeThereMayBeEmptied(t *testing.T) {
	type thing struct{ By, On time.Time }
	table := document.Table[thing]{Format: "thing/1", Parts: document.Parts[thing]{
		document.Field("by", "By", document.Day, func(t *thing) *time.Time { return &t.By }),
		document.Field("on", "On", document.Day, func(t *thing) *time.Time { return &t.On }, document.Must)}}
	day := time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC)
	p := thing{day, day}
	spot, _ := table.Spot(thing{}, "by")
	assert.Empty(t, spot.Shown)
	to, err := table.Typed(p, "by", "")
	require.NoError(t, err)
	after, made, err := table.Apply(p, document.Change{{Do: document.Set, Path: "by", Was: "2026-11-26", To: to}})
	require.NoError(t, err)
	assert.True(t, after.By.IsZero())
	back, _, err := table.Apply(after, made.Inverse())
	require.NoError(t, err)
	assert.Equal(t, p, back)
	_, err = table.Typed(p, "on", "")
	assert.Error(t, err, "one that must be there may not")
}
