// Package invented has the test that listens to invented patches on invented instruments. It takes minutes, and so stands in a package of its own: each package has its
// own ten minutes.
package invented
