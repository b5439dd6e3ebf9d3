// Package plan decides who plays what: it assigns every part of a wanted meaning to a module of a target, or to a use of a rule, or to nobody, and every
// route to a way of the target, at least cost.
//
// The search is exact up to its limits (Problem.Find, allocate) and hands on values: choices, costs and reason codes. Sentences are made by gloss. Its
// neighbours: rules has the ways to make a part by other means, settle puts the controls, gloss says what became of each reading.
package plan
