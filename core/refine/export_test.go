package refine

// Joint moves all controls of a task together once, with so many renders, and gives what the search lessens before and after.
func Joint(t *Task, renders int) (before, after float64, err error) {
	w, err := Begin(t, nil)
	if err != nil {
		return 0, 0, err
	}
	before = w.Score()
	w.most = w.out.Renders + renders
	_, err = w.joint()
	return before, w.Score(), err
}

// Tried gives what a search reckons for one render as the target stands, and for one with a control at a place of its own.
func Tried(t *Task, control, place int) (stands, tried float64, err error) {
	w, err := Begin(t, nil)
	if err != nil {
		return 0, 0, err
	}
	before := w.spent
	_, err = w.measure(w.with(control, place))
	return w.cost, w.spent - before, err
}
