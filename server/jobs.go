package server

import (
	"context"
	"errors"
	"sync"
)

// Long work goes through one queue: renders, searches by ear, rankings of a bank. So many run at a time, so many wait; more are refused, which tells the
// asker to come again, instead of taking the machine.
const (
	jobsAtOnce  = 4
	jobsWaiting = 64
)

// errBusy is returned where the queue is full.
var errBusy = errors.New("too much is being worked out at once")

// queue is the bounded queue of long work.
type queue struct {
	slots chan struct{}
	mu    sync.Mutex
	wait  int
}

func newQueue() *queue { return &queue{slots: make(chan struct{}, jobsAtOnce)} }

// run does work when its turn comes; it gives up waiting where the context ends.
func (q *queue) run(ctx context.Context, work func() error) error {
	q.mu.Lock()
	if q.wait >= jobsWaiting {
		q.mu.Unlock()
		return errBusy
	}
	q.wait++
	q.mu.Unlock()
	defer func() {
		q.mu.Lock()
		q.wait--
		q.mu.Unlock()
	}()
	select {
	case q.slots <- struct{}{}:
	case <-ctx.Done():
		return ctx.Err()
	}
	defer func() { <-q.slots }()
	return work()
}

// task is long work that goes on without a request: its state can be asked for, and it can be stopped. S is its state.
type task[S any] struct {
	mu     sync.Mutex
	state  S
	done   bool
	cancel context.CancelFunc
}

// change changes the state.
func (t *task[S]) change(f func(s *S)) {
	t.mu.Lock()
	defer t.mu.Unlock()
	f(&t.state)
}

// now gives the state as it is, and whether the task is done.
func (t *task[S]) now() (S, bool) {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.state, t.done
}

// tasks keeps the tasks of some kind by what they are of. Of those that are done only the last keptTasks are kept.
type tasks[S any] struct {
	mu    sync.Mutex
	of    map[uint]*task[S]
	order []uint // of those that are done, the oldest first
}

const keptTasks = 32

// find gives the task of something; nil where there is none.
func (k *tasks[S]) find(id uint) *task[S] {
	k.mu.Lock()
	defer k.mu.Unlock()
	return k.of[id]
}

// drop forgets a task.
func (k *tasks[S]) drop(id uint) {
	k.mu.Lock()
	defer k.mu.Unlock()
	delete(k.of, id)
}

// start runs work as the task of something, through the queue. One of it that runs already is left to run, and given; fresh is false then. over is told an error
// of the work, also one of the queue or a fault.
func (k *tasks[S]) start(q *queue, id uint, state S, work func(ctx context.Context, t *task[S]) error, over func(s *S, err error)) (t *task[S], fresh bool) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.of == nil {
		k.of = map[uint]*task[S]{}
	}
	if old := k.of[id]; old != nil {
		if _, done := old.now(); !done {
			return old, false
		}
	}
	ctx, cancel := context.WithCancel(context.Background())
	t = &task[S]{state: state, cancel: cancel}
	k.of[id] = t
	go func() {
		defer cancel()
		err := q.run(ctx, func() (err error) {
			defer func() {
				if fault := recover(); fault != nil {
					err = errFault{fault}
				}
			}()
			return work(ctx, t)
		})
		t.mu.Lock()
		over(&t.state, err)
		t.done = true
		t.mu.Unlock()
		k.forget(id)
	}()
	return t, true
}

// forget notes that a task is done and lets the oldest go.
func (k *tasks[S]) forget(id uint) {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.order = append(k.order, id)
	for len(k.order) > keptTasks {
		if t := k.of[k.order[0]]; t != nil && k.order[0] != id {
			if _, done := t.now(); done {
				delete(k.of, k.order[0])
			}
		}
		k.order = k.order[1:]
	}
}

// errFault is a fault of the program in long work.
type errFault struct{ fault any }

func (e errFault) Error() string { return "a fault of the program" }
