package store

import (
	"errors"
	"fmt"
	"testing"
	"time"

	"glossator/core/show"
)

func night(name string) *show.Doc {
	return &show.Doc{Format: show.Format, Version: show.Version, Name: name, Cues: []show.CueDoc{{ID: "a", Name: "One", Patch: "keel", Start: "0:10", End: "1:00"}, {ID: "b", Name: "Two", Patch: "keel", Start: "2:00", End: "3:00"}},
		Houses: []show.HouseDoc{{ID: "h", Name: "hall", Hire: []show.HireDoc{{Panel: "halyard"}}}}}
}

// A show that two change in different places keeps both, in the same place the second is refused; every step is undone; a rehearsal is not, and is there again where its show is brought back.
func TestShows(t *testing.T) {
	s, _, _ := filled(t)
	fine := func(*show.Doc) error { return nil }
	row, err := s.NewShow("begin", night("A"))
	must(t, err)
	tag := row.Tag()
	one, two := night("A"), night("A")
	one.Cues[0].Name, two.Cues[1].Name = "First", "Second"
	_, err = s.PutShow(row.ID, one, fine)
	must(t, err)
	old := *s
	old.based = tag
	now, err := old.PutShow(row.ID, two, fine)
	must(t, err)
	d, err := now.Doc()
	must(t, err)
	if d.Cues[0].Name != "First" || d.Cues[1].Name != "Second" {
		t.Errorf("%+v", d.Cues)
	}
	two.Cues[0].Name = "Overture"
	if _, err := old.PutShow(row.ID, two, fine); err == nil {
		t.Error("what both have changed is written over")
	} else if stale, ok := IsStale(err); !ok || len(stale.Clashes) != 1 {
		t.Errorf("%v", err)
	}
	refused := errors.New("no")
	if _, err := s.PutShow(row.ID, night("B"), func(*show.Doc) error { return refused }); !errors.Is(err, refused) {
		t.Error(err)
	}
	run, err := s.BeginRun(row.ID, "h", 1)
	must(t, err)
	must(t, s.SetRunTick(RunTick{RunID: run.ID, Cue: "b", Key: "filter.cutoff", At: time.Now(), Clock: 61}, true))
	must(t, s.SetRunTick(RunTick{RunID: run.ID, Cue: "b", Key: "filter.cutoff", At: time.Now(), Clock: 99}, true)) // told twice
	must(t, s.DropShow(row.ID))
	if _, err := s.Show(row.ID); !errors.Is(err, ErrNotFound) {
		t.Error(err)
	}
	if _, err := s.BeginRun(row.ID, "h", 1); !errors.Is(err, ErrNotFound) {
		t.Error(err)
	}
	for _, want := range []string{"A", "A", "A"} { // deleted, merged, changed
		_, err := s.Undo(0, "")
		must(t, err)
		back, err := s.Show(row.ID)
		must(t, err)
		if back.Name != want {
			t.Errorf("%q", back.Name)
		}
	}
	if back, _ := s.Show(row.ID); back.Tag() != tag {
		t.Error("undo does not end where it began")
	}
	ticks, err := s.RunTicks(run.ID)
	must(t, err)
	if len(ticks) != 1 || ticks[0].Clock != 61 {
		t.Errorf("%+v", ticks)
	}
	must(t, s.SetClock(run.ID, true, 30))
	if r, err := s.Run(row.ID, "h", 1); err != nil || r.ID != run.ID || r.Clock(r.Since.Add(12*time.Second)) != 42 {
		t.Errorf("%+v, %v", r, err)
	}
	must(t, s.SetClock(run.ID, false, 30))
	if r, _ := s.Run(row.ID, "h", 1); r.Clock(time.Now().Add(time.Hour)) != 30 {
		t.Error("a clock that is held goes on")
	}
	if err := s.SetClock(99, true, 0); !errors.Is(err, ErrNotFound) {
		t.Error(err)
	}
	if err := s.SetRunTick(RunTick{RunID: 99, Cue: "b", Key: "x"}, true); !errors.Is(err, ErrNotFound) {
		t.Error(err)
	}
}

// Of what was heard only so much is kept, the oldest goes first.
func TestHearingsAreBounded(t *testing.T) {
	s, _, _ := filled(t)
	must(t, s.KeepHearing("first", []byte("1")))
	if b, err := s.Hearing("first"); err != nil || string(b) != "1" {
		t.Error(string(b), err)
	}
	must(t, s.w.Exec("UPDATE hearings SET made_at = '2020-01-01'").Error)
	must(t, s.w.Exec(fmt.Sprintf("WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < %d) INSERT INTO hearings SELECT 'k' || i, 'x', '2026-01-01' FROM n", keptHearings)).Error)
	must(t, s.KeepHearing("last", []byte("2")))
	if b, _ := s.Hearing("first"); b != nil {
		t.Error("the oldest is kept")
	}
	if b, _ := s.Hearing("last"); b == nil {
		t.Error("the newest is gone")
	}
}

// A sitting takes its answers one after another: who answers what has been answered elsewhere is refused.
func TestEarSittingsAreKept(t *testing.T) {
	s, _, keel := filled(t)
	x, err := s.NewEarSitting(EarSitting{Who: "a", Patch: keel.ID, Document: []byte("{}"), Parts: []byte(`["p"]`), Seed: 1<<62 + 3, Answers: []byte("[]")})
	must(t, err)
	must(t, s.AnswerEar(x.ID, 0, []byte(`[{"right":true}]`), []EarResult{{Who: "a", Differs: "level", Factor: 2, Heard: true}}))
	if _, ok := IsStale(s.AnswerEar(x.ID, 0, []byte(`[{"right":false}]`), nil)); !ok {
		t.Error("an answer is written over")
	}
	back, err := s.EarSitting(x.ID)
	must(t, err)
	if back.Seed != 1<<62+3 || string(back.Answers) != `[{"right":true}]` {
		t.Errorf("%+v", back)
	}
	must(t, s.SetListener("a"))
	if who, err := s.Listener(); err != nil || who != "a" {
		t.Error(who, err)
	}
	must(t, s.DropEarSitting(x.ID))
	if all, err := s.EarResults(); err != nil || len(all) != 0 {
		t.Error(all, err)
	}
	if err := s.DropEarSitting(x.ID); !errors.Is(err, ErrNotFound) {
		t.Error(err)
	}
}
