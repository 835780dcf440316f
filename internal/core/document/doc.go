// Package document describes what can be edited: one table of fields for each
// kind of document, from which follow how it is read and written, the schema
// that is published, how a field is addressed and edited, and the words for it.
// It knows nothing of studies, databases or pages.
package document
