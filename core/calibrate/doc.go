// Package calibrate finds out a control's own law by measuring: what to set and to play, at which readings, what a recording says of each, and the law that goes through them.
//
// A Bench is made of a panel, one of its controls and a Recipe that fits it. The bench sets everything else so that the control alone is heard, plays the panel's own model over the travel, and
// so knows which figure of a recording stands for which value of the law: what a recording's figure is biased by, the model's is too. Takes are fitted by every kind of law (Fit), and the next
// reading is where a take tells most (Next).
//
// Its neighbours: hear takes the figures, synth plays the model, scale has the laws, panel the controls; standin has instruments to try it on.
package calibrate
