// Package quantity says what a number of this trade is: its dimension, its
// unit, how well it is known, and how people write it.
//
// It has one type per physical quantity, so that mixing two of them does not
// compile, and one carrier, Quantity, for places where data decides the
// dimension. Neighbours: scale turns a control's travel into a Quantity;
// meaning collects quantities into the instrument-neutral form of a patch.
package quantity
