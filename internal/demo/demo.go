// Package demo ships Marl & Thistle: a made-up seed and bulb house with a
// study of made-up platforms, as files in the open formats. They are loaded
// through the same import as anyone's.
package demo

import (
	"context"
	"embed"
	"errors"
	"fmt"

	"ninecoins/internal/doors"
	"ninecoins/internal/formats"
	"ninecoins/internal/store"

	"github.com/google/uuid"
)

//go:embed files/*.json
var files embed.FS

// PriceListNames are the price lists of the demo.
var PriceListNames = []string{"brindlepost", "osier-mail", "fernwire", "quirebird", "tallowpost"}

// PriceLists returns the price list files of the demo.
func PriceLists() [][]byte {
	var all [][]byte
	for _, name := range PriceListNames {
		all = append(all, read(name))
	}
	return all
}

// Study returns the study file of the demo.
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

// Load brings the demo's files into a workspace and returns its study.
func Load(ctx context.Context, db *store.Store, workspace uuid.UUID) (uuid.UUID, error) {
	return Bring(ctx, db, store.Editing{Workspace: workspace})
}

// Bring brings the demo's files into a workspace by somebody of it, and returns its
// study.
func Bring(ctx context.Context, db *store.Store, by store.Editing) (uuid.UUID, error) {
	for _, file := range PriceLists() {
		var there formats.Faults // it is on the shelf already: then the study finds it there
		if _, err := db.ImportPriceList(ctx, by, file); err != nil && !errors.As(err, &there) {
			return uuid.Nil, fmt.Errorf("loading the demo's prices: %w", err)
		}
	}
	id, err := db.ImportStudy(ctx, by, Study())
	if err != nil {
		return id, fmt.Errorf("loading the demo's study: %w", err)
	}
	return id, nil
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
