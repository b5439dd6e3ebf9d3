// Package settle puts every control of a target where a plan needs it, takes what the plan does not use out of the sound, and works out what a school sets
// otherwise than by its number.
//
// It hands on positions and reason codes. Its neighbours: plan decides who plays what, gloss says what became of each reading.
package settle
