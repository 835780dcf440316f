// Package formats describes the open file formats: JSON Schema, draft 2020-12.
package formats

import "embed"

// Schemas are the schemas by their names, such as price-list.schema.json.
//
//go:embed *.schema.json
var Schemas embed.FS
