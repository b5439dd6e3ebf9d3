package show_test

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"glossator/core/show"
)

// invented is a show of cues on instruments: settings are points on a line, a changeover takes as long as they lie apart (so that going by a third is never quicker), gaps are short.
func invented(r *rand.Rand, cues, instruments int, gap float64) *show.Problem {
	p := &show.Problem{}
	at := make([][]float64, instruments)
	for k := range instruments {
		p.Instruments = append(p.Instruments, fmt.Sprint("I", k))
		for range cues {
			at[k] = append(at[k], math.Round(60*r.Float64()))
		}
	}
	now := 0.0
	for i := range cues {
		c := show.Cue{Name: fmt.Sprint("C", i), Start: now, End: now + 20 + math.Round(40*r.Float64()), Player: fmt.Sprint("P", i%2)}
		if i%7 == 6 {
			c.Player = "" // whoever is free
		}
		for range instruments {
			loss := math.Round(100*r.Float64()) / 10
			if r.IntN(5) == 0 {
				loss = math.NaN()
			}
			c.Loss = append(c.Loss, loss)
		}
		if !slices.ContainsFunc(c.Loss, func(x float64) bool { return !math.IsNaN(x) }) {
			c.Loss[0] = 5
		}
		p.Cues = append(p.Cues, c)
		now = c.End + math.Round(gap*r.Float64())
		if r.IntN(4) == 0 && i%2 == 0 { // the other player begins before the end
			now = c.End - 10
		}
	}
	p.Change = func(k, from, to int) float64 { return math.Abs(at[k][from] - at[k][to]) }
	p.Hands = func(k, from, to int) bool { return k != 1 } // the second has a memory
	return p
}

// byHand tells whether cues can be played as they are put on instruments: each after the one before it on its instrument.
func byHand(p *show.Problem, on []int) bool {
	for i := range on {
		if on[i] < 0 {
			continue
		}
		if math.IsNaN(p.Cues[i].Loss[on[i]]) {
			return false
		}
		for j := i + 1; j < len(on); j++ {
			if on[j] != on[i] {
				continue
			}
			if gap := p.Cues[j].Start - p.Cues[i].End; gap < 0 || p.Change(on[i], i, j) > gap {
				return false
			}
			break
		}
	}
	return handsDo(p, on)
}

// handsDo goes through the evening second by second: who does not play works at the changeover that is due first. Times are whole seconds.
func handsDo(p *show.Problem, on []int) bool {
	type work struct{ from, until, left float64 }
	byPlayer := map[string][]*work{}
	for i, k := range on {
		for j := i + 1; k >= 0 && j < len(on); j++ {
			if on[j] == k {
				if who := p.Cues[j].Player; who != "" && p.Hands(k, i, j) {
					byPlayer[who] = append(byPlayer[who], &work{p.Cues[i].End, p.Cues[j].Start, p.Change(k, i, j)})
				}
				break
			}
		}
	}
	for who, all := range byPlayer {
		for t := 0.0; t <= p.Cues[len(p.Cues)-1].Start; t++ {
			plays := false
			for i, c := range p.Cues {
				plays = plays || on[i] >= 0 && c.Player == who && c.Start <= t && t < c.End
			}
			var due *work
			for _, w := range all {
				if w.left > 0 && t >= w.until {
					return false
				}
				if w.left > 0 && t >= w.from && (due == nil || w.until < due.until) {
					due = w
				}
			}
			if due != nil && !plays {
				due.left--
			}
		}
	}
	return true
}

// all goes through every way to put cues on instruments or to drop them.
func all(p *show.Problem, see func(on []int, dropped int, loss float64)) {
	on := make([]int, len(p.Cues))
	var place func(i, dropped int, loss float64)
	place = func(i, dropped int, loss float64) {
		if i == len(on) {
			if byHand(p, on) {
				see(on, dropped, loss)
			}
			return
		}
		on[i] = -1
		place(i+1, dropped+1, loss)
		for k, x := range p.Cues[i].Loss {
			if !math.IsNaN(x) {
				on[i] = k
				place(i+1, dropped, loss+x)
			}
		}
		on[i] = -1
	}
	place(0, 0, 0)
}

// possible tells by going through all ways whether a set of cues can be played.
func possible(p *show.Problem, set []int) bool {
	q := *p
	q.Cues = nil
	for _, i := range set {
		q.Cues = append(q.Cues, p.Cues[i])
	}
	q.Change = func(k, from, to int) float64 { return p.Change(k, set[from], set[to]) }
	q.Hands = func(k, from, to int) bool { return p.Hands(k, set[from], set[to]) }
	found := false
	all(&q, func(_ []int, dropped int, _ float64) { found = found || dropped == 0 })
	return found
}

// tight makes shows in which it is the hands that are short: long gaps on many instruments, one player.
func tight(r *rand.Rand, cues int) *show.Problem {
	p := invented(r, cues, 3, 20)
	for i := range p.Cues {
		p.Cues[i].Player = "P"
		if i > 0 && p.Cues[i].Start < p.Cues[i-1].End {
			p.Cues[i].End += p.Cues[i-1].End - p.Cues[i].Start
			p.Cues[i].Start = p.Cues[i-1].End
		}
	}
	p.Hands = func(k, from, to int) bool { return true }
	return p
}

// Of 200 small shows the plan drops as few cues, and loses as little, as any way there is; it can be played; and where cues are dropped, the set that is named cannot be played, and no smaller one is without being possible. By exhaustion.
func TestPlansAgainstAllWays(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	dropped := 0
	for n := range 200 {
		p := invented(r, 3+n%5, 1+n%3, []float64{15, 40, 80}[n%3])
		if n%4 == 3 {
			p = tight(r, 3+n%4)
		}
		got, err := p.Solve()
		if err != nil {
			t.Fatal(err)
		}
		few, least := math.MaxInt, math.Inf(1)
		all(p, func(_ []int, d int, loss float64) {
			if d < few || d == few && loss < least {
				few, least = d, loss
			}
		})
		if len(got.Dropped) != few || math.Abs(got.Loss-least) > 1e-9 {
			t.Errorf("show %d: %d dropped, %.2f lost; %d and %.2f can be", n, len(got.Dropped), got.Loss, few, least)
		}
		if !got.Exact || !byHand(p, got.On) {
			t.Errorf("show %d: the plan cannot be played: %v", n, got.On)
		}
		if few == 0 {
			if len(got.Conflicts) > 0 {
				t.Errorf("show %d: a conflict where there is none", n)
			}
			continue
		}
		dropped++
		smallest := len(p.Cues)
		for set := 1; set < 1<<len(p.Cues); set++ {
			var cues []int
			for i := range p.Cues {
				if set>>i&1 == 1 {
					cues = append(cues, i)
				}
			}
			if len(cues) < smallest && !possible(p, cues) {
				smallest = len(cues)
			}
		}
		if len(got.Conflicts) != 1 || possible(p, got.Conflicts[0].Cues) || got.Conflicts[0].Least && len(got.Conflicts[0].Cues) != smallest {
			t.Errorf("show %d: %v is named as what excludes itself; the smallest has %d", n, got.Conflicts, smallest)
		}
		if text := p.Explain(got.Conflicts[0]); !strings.Contains(text, p.Cues[got.Conflicts[0].Cues[0]].Name) || !strings.Contains(text, "cannot all be played") {
			t.Errorf("show %d: %q", n, text)
		}
	}
	if dropped < 30 || dropped > 170 {
		t.Errorf("%d of 200 shows cannot be played whole", dropped)
	}
}

// What is said to let all be played does: by going through all ways; nothing that is shorter to wait for does so with the same cue.
func TestWaysOut(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	tried := 0
	for n := 0; n < 60; n++ {
		p := invented(r, 4+n%3, 2, 15)
		got, err := p.Solve()
		if err != nil {
			t.Fatal(err)
		}
		if len(got.Conflicts) == 0 {
			continue
		}
		ways, err := p.Ways(got.Conflicts[0])
		if err != nil {
			t.Fatal(err)
		}
		if len(got.Dropped) == 1 && !slices.ContainsFunc(ways, func(w show.Way) bool { return w.Wait == 0 && w.Cue == got.Dropped[0] }) && slices.Contains(got.Conflicts[0].Cues, got.Dropped[0]) {
			t.Errorf("show %d: leaving %d out is not said: %v", n, got.Dropped[0], ways)
		}
		for _, w := range ways {
			tried++
			set := []int{}
			for i := range p.Cues {
				if w.Wait > 0 || i != w.Cue {
					set = append(set, i)
				}
			}
			later := func(wait float64) *show.Problem {
				q := *p
				q.Cues = slices.Clone(p.Cues)
				for i := range q.Cues {
					if q.Cues[i].Start >= p.Cues[w.Cue].Start {
						q.Cues[i].Start, q.Cues[i].End = q.Cues[i].Start+wait, q.Cues[i].End+wait
					}
				}
				return &q
			}
			if !possible(later(w.Wait), set) {
				t.Errorf("show %d: %+v does not let all be played", n, w)
			}
			for _, wait := range []float64{1, w.Wait / 2, w.Wait - 1} {
				if wait = math.Floor(wait); w.Wait > 1 && wait > 0 && possible(later(wait), set) {
					t.Errorf("show %d: %+v, but %v s do", n, w, wait)
				}
			}
		}
	}
	if tried < 30 {
		t.Errorf("%d ways tried", tried)
	}
}

// Which two of four instruments carry the show best: as the best of all plans in which only two are used.
func TestHires(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	for n := range 25 {
		p := invented(r, 6, 4, 60)
		list, err := p.Hires(2)
		if err != nil || len(list) != 6 {
			t.Fatal(len(list), err)
		}
		few, least := math.MaxInt, math.Inf(1)
		all(p, func(on []int, d int, loss float64) {
			used := map[int]bool{}
			for _, k := range on {
				if k >= 0 {
					used[k] = true
				}
			}
			if len(used) <= 2 && (d < few || d == few && loss < least) {
				few, least = d, loss
			}
		})
		if best := list[0].Plan; len(best.Dropped) != few || math.Abs(best.Loss-least) > 1e-9 {
			t.Errorf("show %d: %v drops %d and loses %.2f; %d and %.2f can be", n, list[0].Set, len(best.Dropped), best.Loss, few, least)
		}
		for i := 1; i < len(list); i++ {
			a, b := list[i-1].Plan, list[i].Plan
			if len(a.Dropped) > len(b.Dropped) || len(a.Dropped) == len(b.Dropped) && a.Loss > b.Loss {
				t.Errorf("show %d: they are out of order", n)
			}
		}
	}
}

// What makes no sense is named at its place, and the rest is planned; planning can be stopped, and gives up where there is no end.
func TestBadShows(t *testing.T) {
	p := invented(rand.New(rand.NewPCG(3, 3)), 6, 2, 500)
	p.Cues[1].End = p.Cues[1].Start - 5
	p.Cues[2].Player, p.Cues[3].Player, p.Cues[3].Start = "A", "A", p.Cues[2].End-1
	p.Cues[4].Loss = []float64{math.NaN(), math.NaN()}
	p.Cues[5].Loss = nil
	bad := p.Check()
	for i, says := range map[int]string{1: "ends before", 3: "A plays", 4: "no instrument", 5: "not known"} {
		if !strings.Contains(bad[i], says) {
			t.Errorf("cue %d: %q", i, bad[i])
		}
	}
	got, err := p.Solve()
	if err != nil || len(bad) != 4 || got.On[0] < 0 && !slices.Contains(got.Dropped, 0) || got.On[1] >= 0 || slices.Contains(got.Dropped, 1) {
		t.Errorf("%v, %+v, %v", bad, got, err)
	}
	p = invented(rand.New(rand.NewPCG(4, 4)), 40, 5, 10)
	p.Limit = 50
	if got, err := p.Solve(); err != nil || got.Exact || !byHand(p, got.On) {
		t.Errorf("%+v, %v", got, err)
	}
	p.Limit, p.Stop = 0, func() bool { return true }
	if _, err := p.Solve(); !errors.Is(err, show.ErrStopped) {
		t.Error(err)
	}
	empty := show.Problem{Instruments: []string{"I"}}
	if got, err := empty.Solve(); err != nil || len(got.On) != 0 {
		t.Errorf("%+v, %v", got, err)
	}
}

// BenchmarkShow plans shows of growing size.
func BenchmarkShow(b *testing.B) {
	for _, x := range [][2]int{{20, 4}, {40, 6}, {60, 6}} {
		b.Run(fmt.Sprintf("%dx%d", x[0], x[1]), func(b *testing.B) {
			p := invented(rand.New(rand.NewPCG(1, 2)), x[0], x[1], 60)
			for b.Loop() {
				if _, err := p.Solve(); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// BenchmarkHands plans shows of three players whose hands are short.
func BenchmarkHands(b *testing.B) {
	for _, n := range []int{20, 40, 60} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			p := invented(rand.New(rand.NewPCG(1, 2)), n, 6, 30)
			for i := range p.Cues {
				p.Cues[i].Player = fmt.Sprint("P", i%3)
			}
			p.Hands = func(k, from, to int) bool { return true }
			for b.Loop() {
				x, err := p.Solve()
				if err != nil {
					b.Fatal(err)
				}
				b.ReportMetric(float64(x.States), "states")
			}
		})
	}
}
