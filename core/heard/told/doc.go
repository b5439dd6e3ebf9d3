// Package told has the tests that listen to all sheets of the demo and to invented ones. They take minutes, and so stand in a package of their own: each package has its own
// ten minutes.
package told
