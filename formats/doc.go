// Package formats reads and writes what leaves the program: panels, patches and sheets as
// JSON, sheets as Markdown.
//
// Reading is strict: every fault is named by file and place, and nothing is guessed.
// Neighbours: panel and patch have the data and their own checks; docs/formats has
// the JSON Schemas.
package formats
