// Package panel describes an instrument as data: its controls, their scales, its modules
// and routes, and what init holds; and it reads a patch on it into a meaning.
//
// Nothing here knows any particular instrument. Neighbours: scale has the controls'
// laws, patch the readings, meaning what they stand for, translate the way to
// another panel.
package panel
