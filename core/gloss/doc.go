// Package gloss says what became of each reading of a patch on a target: the sheet, line by line, in words.
//
// All sentences of a translation are made here, from the values and reason codes that plan and settle hand on; nothing reads them back. Its neighbours:
// audit checks a sheet by reading it afresh, translate joins the stages.
package gloss
