// Package core holds the computation, one package a question; see docs/design.md. It has no
// code of its own beside the test of what the packages below may import.
package core
