// Package told has the test that listens to all sheets of the demo. It takes minutes, and so stands in a package of its own: each package has its own
// ten minutes.
package told
