// Package steps has the tests that take back every step of dial-in lists and every control of a source, and listen. They take minutes, and so stand in a package of their
// own: each package has its own ten minutes.
package steps
