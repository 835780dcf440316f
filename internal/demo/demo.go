// Package demo ships Marl & Thistle: a made-up seed and bulb house with a
// study of made-up platforms, as files in the open formats. They are loaded
// through the same import as anyone's.
package demo

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"slices"

	"ninecoins/internal/doors"
	"ninecoins/internal/formats"
	"ninecoins/internal/store"

	"github.com/google/uuid"
)

//go:embed files/*.json
var files embed.FS

// PriceListNames are the price lists that the first study of the demo goes by.
var PriceListNames = []string{"brindlepost", "osier-mail", "fernwire", "quirebird", "tallowpost"}

// FurtherNames are the other price lists of the demo's shelf.
var FurtherNames = []string{"larkspur-post", "mossline", "thrumwire", "siskin", "perchline", "hearthbox", "alderdesk", "copsebook", "hedgerank", "tarnwatch",
	"lintel-talk", "quillwort", "sedgeguard", "orchard-lane"}

// EarlierNames are price lists of before, which the newer ones of the same platforms
// took the place of.
var EarlierNames = []string{"brindlepost-2024", "brindlepost-2025", "osier-mail-2024", "osier-mail-2025", "mossline-2025"}

// StudyNames are the studies of the demo.
var StudyNames = []string{"spring-list", "trade-desk", "search-watch", "glue-and-social"}

// PriceLists returns the price list files that the first study goes by.
func PriceLists() [][]byte { return filesOf(PriceListNames) }

// Shelf returns all price list files of the demo.
func Shelf() [][]byte { return filesOf(slices.Concat(EarlierNames, PriceListNames, FurtherNames)) }

// Newest returns the newest price list file of each platform of the demo.
func Newest() [][]byte { return filesOf(slices.Concat(PriceListNames, FurtherNames)) }

// Studies returns all study files of the demo.
func Studies() [][]byte { return filesOf(StudyNames) }

func filesOf(names []string) (all [][]byte) {
	for _, name := range names {
		all = append(all, read(name))
	}
	return all
}

// Study returns the first study file of the demo.
func Study() []byte { return read("spring-list") }

func read(name string) []byte {
	data, err := files.ReadFile("files/" + name + ".json")
	if err != nil {
		panic(err) // the files are part of the binary
	}
	return data
}

// Workspace is the name of the demo's workspace.
const Workspace = "Marl & Thistle"

// Person is somebody in the demo.
type Person struct {
	Name, Email string
	Role        doors.Role
}

// People work at Marl & Thistle; the first owns the workspace. None has a
// password.
var People = []Person{
	{"Imke Vroom", "imke@marl-thistle.example", doors.Owner},
	{"Dov Amsel", "dov@marl-thistle.example", doors.Editor},
	{"Hedy Larch", "hedy@marl-thistle.example", doors.Rater},
}

// Load brings the demo's first study into a workspace, with the price lists that it goes
// by, and returns it.
func Load(ctx context.Context, db *store.Store, workspace uuid.UUID) (uuid.UUID, error) {
	return bring(ctx, db, store.Editing{Workspace: workspace}, PriceLists(), [][]byte{Study()})
}

// Bring brings all of the demo into a workspace by somebody of it, and returns its first
// study.
func Bring(ctx context.Context, db *store.Store, by store.Editing) (uuid.UUID, error) {
	return bring(ctx, db, by, Shelf(), Studies())
}

func bring(ctx context.Context, db *store.Store, by store.Editing, lists, studies [][]byte) (first uuid.UUID, err error) {
	for _, file := range lists {
		var there formats.Faults // it is on the shelf already: then the study finds it there
		if _, err := db.ImportPriceList(ctx, by, file); err != nil && !errors.As(err, &there) {
			return uuid.Nil, fmt.Errorf("loading the demo's prices: %w", err)
		}
	}
	for _, file := range slices.Backward(studies) { // the first comes in last, and stands first on the Desk
		if first, err = db.ImportStudy(ctx, by, file); err != nil {
			return first, fmt.Errorf("loading the demo's studies: %w", err)
		}
	}
	return first, nil
}

// Settle gives the demo's people their seats in a workspace.
func Settle(ctx context.Context, db *store.Store, workspace uuid.UUID) error {
	for _, p := range People {
		if _, err := db.NewAccount(ctx, workspace, p.Name, p.Email, "", p.Role); err != nil {
			return fmt.Errorf("seating %s: %w", p.Name, err)
		}
	}
	return nil
}
