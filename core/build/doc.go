// Package build describes an instrument in the trade's words: by building blocks (an oscillator, a four-stage envelope, a matrix of slots) that come with
// module, controls, usual faces and laws, and wire themselves into what stands there; by whole starting points; and by lines, each a control with its
// label, what is printed beside it and what it sets. Laws that nobody stated are marked assumed, with an uncertainty that says how little is known.
//
// Everything works on a panel.Panel, which it leaves as it is, and gives a new one.
package build
