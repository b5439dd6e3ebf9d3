// Package translate joins the stages of a translation: read the source (panel), decide who plays what (plan), put the controls (settle), say what
// became of each reading (gloss), and check the sheet afresh (audit).
//
// It also has what takes several translations: ranking targets, other ways for a part, next plans and the outboard rack.
package translate
