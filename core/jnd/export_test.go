package jnd

// Figures are the differences of what is measured, for the test beside.
var Figures = figures
