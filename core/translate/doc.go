// Package translate sets a patch's meaning on another panel and says, line by line,
// what became of each reading.
//
// The pipeline is Translate: read, allocate (allocate.go), set (fit.go, settle.go), gloss
// (gloss.go), audit (audit.go). Neighbours: panel reads states into meanings;
// dialin turns a Sheet into the list to set the instrument by.
package translate
