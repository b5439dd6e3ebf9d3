package server

import (
	"context"
	"errors"
	"runtime/debug"
	"slices"
	"sync"

	"golang.org/x/sync/semaphore"
)

// Long work goes through one queue: renders, searches by ear, analyses, rankings of a bank. So much runs at a time, in the order in which it was asked for; so many
// wait, and are told their place; more are refused, which tells the asker to come again, instead of taking the machine.
const (
	jobsAtOnce  = 4
	jobsWaiting = 64
)

// errBusy is returned where the queue is full.
var errBusy = errors.New("too much is being worked out at once")

// queue is the bounded queue of long work.
type queue struct {
	slots *semaphore.Weighted // first come, first served
	mu    sync.Mutex
	wait  []*waiting // the first first
}

type waiting struct{ told func(place int) }

func newQueue() *queue { return &queue{slots: semaphore.NewWeighted(jobsAtOnce)} }

// run does work when its turn comes; it gives up waiting where the context ends.
func (q *queue) run(ctx context.Context, work func() error) error {
	return q.runAs(ctx, 1, nil, work)
}

// runAs is run for work that takes the place of weight others (at most jobsAtOnce). told, where it is not nil, is called with its place among those that wait (1 is
// next), at once and whenever that changes, and with 0 when it begins.
func (q *queue) runAs(ctx context.Context, weight int64, told func(place int), work func() error) error {
	if err := ctx.Err(); err != nil {
		return err
	}
	weight = max(1, min(weight, jobsAtOnce))
	if !q.slots.TryAcquire(weight) { // nothing waits before it
		w := &waiting{told}
		q.mu.Lock()
		if len(q.wait) >= jobsWaiting {
			q.mu.Unlock()
			return errBusy
		}
		q.wait = append(q.wait, w)
		q.tell()
		q.mu.Unlock()
		err := q.slots.Acquire(ctx, weight)
		q.mu.Lock()
		q.wait = slices.DeleteFunc(q.wait, func(x *waiting) bool { return x == w })
		q.tell()
		q.mu.Unlock()
		if err != nil {
			return err
		}
	}
	defer q.slots.Release(weight)
	if told != nil {
		told(0)
	}
	return work()
}

// tell tells all that wait their places.
func (q *queue) tell() {
	for i, w := range q.wait {
		if w.told != nil {
			w.told(i + 1)
		}
	}
}

// waits gives how many wait.
func (q *queue) waits() int {
	q.mu.Lock()
	defer q.mu.Unlock()
	return len(q.wait)
}

// weightOf is what the analysis of so many samples weighs in the queue: a minute in stereo at 192 kHz takes some 270 MB, and goes alone.
func weightOf(samples int) int64 { return int64(1 + samples/3_000_000) }

// task is long work that goes on without a request: its state can be asked for, and it can be stopped. S is its state.
type task[S any] struct {
	mu     sync.Mutex
	state  S
	done   bool
	over   chan struct{} // closed when it is done and what is kept of tasks has been looked over
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

// start runs work as the task of something, through the queue. One of it that runs already is left to run, and given; fresh is false then. placed is told its place in
// the queue, over an error of the work, also one of the queue or a fault.
func (k *tasks[S]) start(q *queue, id uint, state S, work func(ctx context.Context, t *task[S]) error, placed func(s *S, place int), over func(s *S, err error)) (t *task[S], fresh bool) {
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
	t = &task[S]{state: state, cancel: cancel, over: make(chan struct{})}
	k.of[id] = t
	go func() {
		defer cancel()
		err := q.runAs(ctx, 1, func(place int) { t.change(func(s *S) { placed(s, place) }) }, func() (err error) {
			defer func() {
				if fault := recover(); fault != nil {
					err = errFault{fault, debug.Stack()}
				}
			}()
			return work(ctx, t)
		})
		t.mu.Lock()
		over(&t.state, err)
		t.done = true
		t.mu.Unlock()
		k.forget(id)
		close(t.over)
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
type errFault struct {
	fault any
	stack []byte
}

func (e errFault) Error() string { return "a fault of the program" }
