package server

import (
	"context"
	"fmt"
	"math"
	"strings"
	"time"

	"glossator/core/dialin"
	"glossator/core/gloss"
	"glossator/formats"
	"glossator/store"
)

// RunView is a rehearsal of an evening of a show in a house: the plan with what changes before each cue, the clock and the ticks.
type RunView struct {
	ID        uint   `json:"id"`
	Name      string `json:"name"`
	HouseID   string `json:"houseId"`
	HouseName string `json:"houseName"`
	Evening   int    `json:"evening"`
	// Evenings and Houses are what there is to rehearse.
	Evenings []int    `json:"evenings"`
	Houses   []IDName `json:"houses"`
	Players  []string `json:"players"`
	Cues     []RunCue `json:"cues"`
	// Dropped are the names of cues that the plan drops or leaves aside, with why.
	Dropped []string `json:"dropped"`
	State   RunState `json:"state"`
	Pending Pending  `json:"pending"`
}

// RunCue is a cue with what is to be done before it.
type RunCue struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Patch  string  `json:"patch"`
	Player string  `json:"player"`
	On     string  `json:"on"`
	Panel  string  `json:"panel"`
	Start  float64 `json:"start"`
	End    float64 `json:"end"`
	// From is the cue that was on its instrument before, with when it ends; empty where it is set beforehand.
	From    string  `json:"from"`
	FromEnd float64 `json:"fromEnd"`
	// Takes is how long the changeover is thought to take; Begin when hands are to begin.
	Takes float64   `json:"takes"`
	Begin float64   `json:"begin"`
	Moves []RunMove `json:"moves"`
	// Over is by how much it last ran over its gap, in seconds, in an earlier rehearsal.
	Over float64 `json:"over"`
}

// RunMove is one thing to do before a cue.
type RunMove struct {
	Key     string `json:"key"`
	Section string `json:"section"`
	Label   string `json:"label"`
	From    string `json:"from"`
	To      string `json:"to"`
	Caution string `json:"caution"`
}

// RunState is what changes of a rehearsal while it runs.
type RunState struct {
	// Run is its number; 0 where none was begun.
	Run   uint `json:"run"`
	Going bool `json:"going"`
	// Clock is where its clock stands now, in seconds of the evening.
	Clock float64   `json:"clock"`
	Ticks []RunDone `json:"ticks"`
}

// RunDone is a move that is done.
type RunDone struct {
	Cue string `json:"cue"`
	Key string `json:"key"`
	// Clock is where the clock stood.
	Clock float64 `json:"clock"`
	Who   string  `json:"who"`
}

type runRequest struct {
	ID      uint   `path:"id"`
	House   string `query:"house"`
	Evening int    `query:"evening"`
}

func (s *Server) runView(ctx context.Context, in runRequest) (none RunView, err error) {
	x, err := s.onStage(in.ID, in.House)
	if err != nil {
		return none, err
	}
	v, err := x.planned(ctx)
	if err != nil {
		return none, err
	}
	out := RunView{ID: in.ID, Name: x.doc.Name, HouseID: v.HouseID, HouseName: v.House, Evening: in.Evening, Evenings: x.doc.Evenings(), Houses: []IDName{}, Players: []string{}, Cues: []RunCue{}, Dropped: []string{}}
	if out.Evenings == nil {
		out.Evenings = []int{}
	}
	if in.Evening == 0 && len(out.Evenings) > 0 {
		out.Evening = out.Evenings[0]
	}
	for _, h := range x.doc.Houses {
		out.Houses = append(out.Houses, IDName{h.ID, h.Name})
	}
	past, err := s.store.PastTicks(in.ID)
	if err != nil {
		return none, err
	}
	overs := oversOf(past)
	seen := map[string]bool{}
	for i := range v.Cues {
		c := &v.Cues[i]
		if c.Evening != out.Evening {
			continue
		}
		if c.On < 0 {
			why := c.Fault
			if why == "" {
				why = "dropped: there is no time for its changeover"
			}
			out.Dropped = append(out.Dropped, fmt.Sprintf("%s: %s", c.Name, why))
			continue
		}
		if c.Player != "" && !seen[c.Player] {
			seen[c.Player] = true
			out.Players = append(out.Players, c.Player)
		}
		y := RunCue{ID: c.ID, Name: c.Name, Patch: c.Patch, Player: c.Player, On: v.Instruments[c.On].Name, Panel: v.Instruments[c.On].Panel, Start: c.Start, End: c.End, Takes: c.Takes, Begin: c.Start - math.Ceil(c.Takes), Moves: []RunMove{}, Over: overs[c.ID]}
		if len(c.Work) > 0 {
			y.Begin = c.Work[0].From
		}
		if c.From >= 0 {
			y.From, y.FromEnd = v.Cues[c.From].Name, v.Cues[c.From].End
			if v.Instruments[c.On].Memory && c.Takes > 0 {
				y.Moves = append(y.Moves, RunMove{Key: "program", Label: "Program", From: v.Cues[c.From].Patch, To: c.Patch})
			}
		}
		y.Moves = append(y.Moves, movesOf(&v.Overs[i])...)
		out.Cues = append(out.Cues, y)
	}
	run, err := s.store.Run(in.ID, out.HouseID, out.Evening)
	if err != nil {
		return none, err
	}
	if out.State, err = s.stateOf(run); err != nil {
		return none, err
	}
	out.Pending, err = s.pending()
	return out, err
}

func movesOf(x *dialin.Changeover) (out []RunMove) {
	for _, c := range x.Pull {
		out = append(out, RunMove{Key: "pull " + c, Section: "Cables", Label: "pull " + c})
	}
	for _, m := range x.Moves {
		from := m.From
		if from == "" {
			from = "anywhere"
		}
		out = append(out, RunMove{m.Control, m.Section, m.Label, from, m.To, m.Caution})
	}
	for _, c := range x.Run {
		out = append(out, RunMove{Key: "run " + c, Section: "Cables", Label: "run " + c})
	}
	return out
}

// oversOf tells by cue by how much its changeover last ran over: the last of its moves was done so long after it began.
func oversOf(ticks []store.RunTick) map[string]float64 {
	type done struct {
		run  uint
		n    int
		last float64
		of   int
		end  float64
	}
	by := map[string]*done{}
	out := map[string]float64{}
	for _, t := range ticks { // run by run
		d := by[t.Cue]
		if d == nil || d.run != t.RunID {
			d = &done{run: t.RunID}
			by[t.Cue] = d
		}
		d.n, d.last, d.of, d.end = d.n+1, max(d.last, t.Clock), t.Of, t.End
		if d.n >= d.of && d.of > 0 {
			out[t.Cue] = max(0, gloss.Round(d.last-d.end, 1))
		}
	}
	return out
}

// pacesOf tells how long players have taken for a control in the rehearsals of a show.
func (s *Server) pacesOf(id uint) (map[string]dialin.Pace, error) {
	ticks, err := s.store.PastTicks(id)
	if err != nil {
		return nil, err
	}
	type list struct {
		run      uint
		cue, who string
	}
	times := map[list][]float64{}
	var order []list
	for _, t := range ticks {
		k := list{t.RunID, t.Cue, t.Who}
		if t.Who == "" || t.Key == "program" {
			continue
		}
		if times[k] == nil {
			order = append(order, k)
		}
		times[k] = append(times[k], float64(t.At.UnixMilli())/1000)
	}
	by := map[string][][]float64{}
	for _, k := range order {
		by[k.who] = append(by[k.who], times[k])
	}
	out := map[string]dialin.Pace{}
	for who, all := range by {
		if p := dialin.PaceOf(all); p.Each > 0 {
			out[who] = p
		}
	}
	return out, nil
}

func (s *Server) stateOf(run *store.Run) (out RunState, err error) {
	out.Ticks = []RunDone{}
	if run == nil {
		return out, nil
	}
	out.Run, out.Going, out.Clock = run.ID, run.Going, gloss.Round(run.Clock(time.Now()), 2)
	ticks, err := s.store.RunTicks(run.ID)
	for _, t := range ticks {
		out.Ticks = append(out.Ticks, RunDone{t.Cue, t.Key, t.Clock, t.Who})
	}
	return out, err
}

// runState tells the clock and the ticks of a rehearsal; that of another one where it was begun anew elsewhere.
func (s *Server) runState(ctx context.Context, in runRequest) (none RunState, err error) {
	if _, err := s.store.Show(in.ID); err != nil {
		return none, err
	}
	run, err := s.store.Run(in.ID, in.House, in.Evening)
	if err != nil {
		return none, err
	}
	return s.stateOf(run)
}

// runBegin begins a rehearsal anew.
func (s *Server) runBegin(ctx context.Context, in runRequest) (none RunState, err error) {
	x, err := s.onStage(in.ID, in.House)
	if err != nil {
		return none, err
	}
	if in.Evening < 1 {
		return none, badRequest{fmt.Errorf("evening: expected 1 or more, got %d", in.Evening)}
	}
	run, err := s.store.BeginRun(in.ID, x.doc.Houses[x.house].ID, in.Evening)
	if err != nil {
		return none, err
	}
	return s.stateOf(run)
}

// ClockBody is where the clock of a rehearsal is put.
type ClockBody struct {
	Run   uint    `json:"run"`
	Going bool    `json:"going"`
	Clock float64 `json:"clock"`
}

type clockRequest struct {
	ID      uint   `path:"id"`
	House   string `query:"house"`
	Evening int    `query:"evening"`
	Body    ClockBody
}

// latest is the latest that a clock may stand, in seconds.
const latest = 86400

// ofRun gives a rehearsal that is meant; ErrNotFound where another one was begun since.
func (s *Server) ofRun(id uint, house string, evening int, run uint) (*store.Run, error) {
	r, err := s.store.Run(id, house, evening)
	if err != nil {
		return nil, err
	}
	if r == nil || r.ID != run {
		return nil, store.ErrNotFound
	}
	return r, nil
}

// runClock stops the clock or lets it go, at a time.
func (s *Server) runClock(ctx context.Context, in clockRequest) (none RunState, err error) {
	b := in.Body
	if !(b.Clock >= -3600 && b.Clock <= latest) {
		return none, badRequest{fmt.Errorf("clock: expected a time of the evening in seconds, got %v", b.Clock)}
	}
	if _, err := s.ofRun(in.ID, in.House, in.Evening, b.Run); err != nil {
		return none, err
	}
	if err := s.store.SetClock(b.Run, b.Going, b.Clock); err != nil {
		return none, err
	}
	return s.runState(ctx, runRequest{in.ID, in.House, in.Evening})
}

// RunTickBody is a move that is done, or is not after all.
type RunTickBody struct {
	Run  uint   `json:"run"`
	Cue  string `json:"cue"`
	Key  string `json:"key"`
	Done bool   `json:"done"`
	Who  string `json:"who"`
	// Clock is where the clock stood, Ago how many seconds ago that was: a device without a network tells it later.
	Clock float64 `json:"clock"`
	Ago   float64 `json:"ago"`
	// Of is how many moves there are before the cue, Start when the cue begins: its gap ends there.
	Of    int     `json:"of"`
	Start float64 `json:"start"`
}

type runTickRequest struct {
	ID      uint   `path:"id"`
	House   string `query:"house"`
	Evening int    `query:"evening"`
	Body    RunTickBody
}

// mostKey is the longest that names of moves and players are.
const mostKey = 300

// runTick ticks a move, or takes the tick off. A tick of a rehearsal that has been begun anew since is not taken.
func (s *Server) runTick(ctx context.Context, in runTickRequest) (none RunState, err error) {
	b := in.Body
	for _, text := range []string{b.Cue, b.Key, b.Who} {
		if len(text) > mostKey || formats.Unfit(text) != "" {
			return none, badRequest{fmt.Errorf("expected plain texts of at most %d bytes", mostKey)}
		}
	}
	if b.Cue == "" || b.Key == "" || b.Of < 0 || b.Of > maxItems {
		return none, badRequest{fmt.Errorf("expected a cue and a key, and the number of moves")}
	}
	for name, x := range map[string]float64{"clock": b.Clock, "start": b.Start} {
		if !(x >= -3600 && x <= latest) {
			return none, badRequest{fmt.Errorf("%s: expected a time of the evening in seconds, got %v", name, x)}
		}
	}
	if !(b.Ago >= 0 && b.Ago <= 7*latest) {
		return none, badRequest{fmt.Errorf("ago: expected seconds, up to a week, got %v", b.Ago)}
	}
	if _, err := s.ofRun(in.ID, in.House, in.Evening, b.Run); err != nil {
		return none, err
	}
	at := time.Now().Add(-time.Duration(b.Ago * float64(time.Second)))
	tick := store.RunTick{RunID: b.Run, Cue: b.Cue, Key: b.Key, At: at, Clock: gloss.Round(b.Clock, 2), Who: strings.TrimSpace(b.Who), Of: b.Of, End: b.Start}
	if err := s.store.SetRunTick(tick, b.Done); err != nil {
		return none, err
	}
	return s.runState(ctx, runRequest{in.ID, in.House, in.Evening})
}
