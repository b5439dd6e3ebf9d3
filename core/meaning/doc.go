// Package meaning is the instrument-neutral form of a patch: modules with parameters in
// quantities, and the routes between them.
//
// Its vocabulary (Kinds) is the one list of what a module may be and which parameters
// it has; panels bind their controls to these parameters. Neighbours:
// panel reads a patch into a Meaning, translate sets a Meaning on another panel.
package meaning
