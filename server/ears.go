package server

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"hash/fnv"
	"math"
	"slices"
	"strings"
	"time"

	"glossator/core/audition"
	"glossator/core/ear"
	"glossator/core/gloss"
	"glossator/core/jnd"
	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/synth"
	"glossator/formats"
	"glossator/formats/wav"
	"glossator/store"
)

// EarDesk is where ear practice begins: who has practised and what was found, what there is to practise on, and whose ears judge the lines of sheets.
type EarDesk struct {
	// Listener names whose ears judge; empty for the published differences.
	Listener string       `json:"listener"`
	People   []Person     `json:"people"`
	Patches  []IDName     `json:"patches"`
	Sittings []EarSitting `json:"sittings"`
	Pending  Pending      `json:"pending"`
}

// Person is somebody who has practised, with how many published just-noticeable differences make one of theirs.
type Person struct {
	Who   string    `json:"who"`
	Finds []Finding `json:"finds"`
}

// Finding is one's own just-noticeable difference: the geometric mean of one's sittings.
type Finding struct {
	Differs string `json:"differs"`
	// Size is that of the published one, in words.
	Size   string  `json:"size"`
	Factor float64 `json:"factor"`
	Low    float64 `json:"low"`
	High   float64 `json:"high"`
	// Sittings counts those that it rests on; Unheard those in which nothing was heard.
	Sittings int `json:"sittings"`
	Unheard  int `json:"unheard"`
}

// EarSitting is a sitting in a list.
type EarSitting struct {
	ID      uint   `json:"id"`
	Who     string `json:"who"`
	Patch   string `json:"patch"`
	Parts   int    `json:"parts"`
	Answers int    `json:"answers"`
	At      string `json:"at"`
}

// factors of somebody's are kept within these bounds: what lies beyond says more of the room than of the ears.
const (
	leastFactor = 0.25
	mostFactor  = 8.0
)

// sizeOf says how large a published difference is.
func sizeOf(d jnd.Difference) string {
	if d.Share {
		return fmt.Sprintf("%.0f %%", 100*d.Size)
	}
	return strings.TrimSpace(fmt.Sprintf("%g %s", d.Size, d.Unit))
}

// people gathers what was found, by person.
func (s *Server) people() ([]Person, error) {
	rows, err := s.store.EarResults()
	if err != nil {
		return nil, err
	}
	out := []Person{}
	for _, r := range rows {
		if len(out) == 0 || out[len(out)-1].Who != r.Who {
			out = append(out, Person{Who: r.Who, Finds: []Finding{}})
		}
		p := &out[len(out)-1]
		if n := len(p.Finds); n == 0 || p.Finds[n-1].Differs != r.Differs {
			size := ""
			for _, d := range jnd.Table {
				if d.Name == r.Differs {
					size = sizeOf(*d)
				}
			}
			p.Finds = append(p.Finds, Finding{Differs: r.Differs, Size: size})
		}
		f := &p.Finds[len(p.Finds)-1]
		if !r.Heard {
			f.Unheard++
			continue
		}
		// the mean of logarithms, the bounds narrower by the root of how many there are
		n := float64(f.Sittings)
		mean := math.Log(r.Factor)
		if n > 0 {
			mean = (n*math.Log(f.Factor) + mean) / (n + 1)
		}
		f.Sittings++
		half := math.Log(r.High/r.Factor) / math.Sqrt(n+1)
		f.Factor, f.Low, f.High = math.Exp(mean), math.Exp(mean-half), math.Exp(mean+half)
	}
	for i := range out {
		for k := range out[i].Finds {
			f := &out[i].Finds[k]
			f.Factor, f.Low, f.High = gloss.Round(f.Factor, 2), gloss.Round(f.Low, 2), gloss.Round(f.High, 2)
		}
	}
	return out, nil
}

// ears gives whose ears judge the lines of sheets; nil for the published differences.
func (s *Server) ears() (*gloss.Ears, error) {
	return cached(s.cache, "ears", "", func() (*gloss.Ears, error) {
		who, err := s.store.Listener()
		if err != nil || who == "" {
			return nil, err
		}
		people, err := s.people()
		if err != nil {
			return nil, err
		}
		for _, p := range people {
			if p.Who != who {
				continue
			}
			e := &gloss.Ears{Who: who, Factors: map[string]float64{}}
			for _, f := range p.Finds {
				if f.Sittings > 0 {
					e.Factors[f.Differs] = min(mostFactor, max(leastFactor, f.Factor))
				}
			}
			return e, nil
		}
		return nil, nil
	})
}

// forgetEars has whose ears judge looked up again.
func (s *Server) forgetEars() { s.cache.kept.Remove("ears:") }

func (s *Server) earDesk(ctx context.Context, in None) (out EarDesk, err error) {
	if out.Listener, err = s.store.Listener(); err != nil {
		return out, err
	}
	if out.People, err = s.people(); err != nil {
		return out, err
	}
	out.Patches, out.Sittings = []IDName{}, []EarSitting{}
	rows, err := s.store.Patches()
	if err != nil {
		return out, err
	}
	for _, p := range rows {
		out.Patches = append(out.Patches, IDName{p.ID, p.Name})
	}
	list, err := s.store.EarSittings(20)
	if err != nil {
		return out, err
	}
	for _, x := range list {
		var parts []string
		var answers []ear.Answer
		if err := errors.Join(json.Unmarshal(x.Parts, &parts), json.Unmarshal(x.Answers, &answers)); err != nil {
			return out, err
		}
		out.Sittings = append(out.Sittings, EarSitting{x.ID, x.Who, x.PatchName, len(parts), len(answers), x.UpdatedAt.Format(time.RFC3339)})
	}
	out.Pending, err = s.pending()
	return out, err
}

// EarListener says whose ears are to judge.
type EarListener struct {
	Who string `json:"who"`
}

type earListenerRequest struct{ Body EarListener }

func (s *Server) earListener(ctx context.Context, in earListenerRequest) (none EarDesk, err error) {
	who := strings.TrimSpace(in.Body.Who)
	if who != "" {
		people, err := s.people()
		if err != nil {
			return none, err
		}
		if !slices.ContainsFunc(people, func(p Person) bool { return p.Who == who }) {
			return none, badRequest{fmt.Errorf("expected somebody who has finished a sitting, got %q", who)}
		}
	}
	if err := s.store.SetListener(who); err != nil {
		return none, err
	}
	s.forgetEars()
	return s.earDesk(ctx, None{})
}

// EarBegin says who sits down to which patch.
type EarBegin struct {
	Who   string `json:"who"`
	Patch string `json:"patch"`
	// Parts is how many things differ in turn, 1 to 6.
	Parts int `json:"parts"`
}

type earBeginRequest struct{ Body EarBegin }

// mostParts is how many things of a patch one sitting is about at most.
const mostParts = 6

// earBegin begins a sitting on a patch of one's own.
func (s *Server) earBegin(ctx context.Context, in earBeginRequest) (none EarView, err error) {
	b := in.Body
	b.Who = strings.TrimSpace(b.Who)
	if err := formats.CheckName(b.Who); err != nil {
		return none, badRequest{fmt.Errorf("who: %w", err)}
	}
	if b.Parts < 1 || b.Parts > mostParts {
		return none, badRequest{fmt.Errorf("parts: expected 1 to %d, got %d", mostParts, b.Parts)}
	}
	row, err := s.store.Patch(b.Patch)
	if err != nil {
		return none, err
	}
	m, transpose, notes, err := s.earMeaning(row.Document)
	if err != nil {
		return none, badRequest{err}
	}
	var parts []ear.Part
	err = s.queue.run(ctx, func() error {
		parts, err = ear.Heard(m, transpose, notes, b.Parts, func() bool { return ctx.Err() != nil })
		return err
	})
	if err != nil {
		if errors.Is(err, errBusy) || ctx.Err() != nil {
			return none, err
		}
		return none, badRequest{fmt.Errorf("%s cannot be practised on: %w", row.Name, err)}
	}
	if len(parts) == 0 {
		return none, badRequest{fmt.Errorf("%s cannot be practised on: nothing of it that a number sets is heard at one note", row.Name)}
	}
	var ids []string
	for _, x := range parts {
		ids = append(ids, x.ID)
	}
	list, err := json.Marshal(ids)
	if err != nil {
		return none, err
	}
	h := fnv.New64a() // another one at every sitting
	fmt.Fprint(h, time.Now().UnixNano(), b.Who, b.Patch)
	made, err := s.store.NewEarSitting(store.EarSitting{Who: b.Who, Patch: row.ID, PatchName: row.Name, Document: row.Document, Parts: list, Seed: h.Sum64() >> 1, Answers: []byte("[]")})
	if err != nil {
		return none, err
	}
	return s.earView(ctx, ofSitting{made.ID})
}

// earMeaning reads the patch of a sitting as it was: its first layer, and the note that is played.
func (s *Server) earMeaning(document []byte) (*meaning.Meaning, q.Interval, []phrase.Note, error) {
	p, err := patchOf(document)
	if err != nil {
		return nil, 0, nil, err
	}
	src, _, err := s.panelOf(p)
	if err != nil {
		return nil, 0, nil, err
	}
	layers, err := audition.Layers(src, p, "")
	if err != nil {
		return nil, 0, nil, err
	}
	notes, _, err := audition.Notes(p, "", 0)
	return layers[0].Meaning, layers[0].Transpose, ear.Note(notes), err
}

type ofSitting struct {
	ID uint `path:"id"`
}

// EarView is a sitting as it stands. What differs in the trial that is on is not told.
type EarView struct {
	ID    uint   `json:"id"`
	Who   string `json:"who"`
	Patch string `json:"patch"`
	// Parts are what may differ, with how the staircase of each stands.
	Parts []EarPart `json:"parts"`
	// Trial is the number of what is asked, from 1; 0 where the sitting has ended.
	Trial int `json:"trial"`
	// About is how many trials there will be, as far as can be told.
	About int `json:"about"`
	// Last tells how the trial before went.
	Last    *EarTold `json:"last,omitempty"`
	Pending Pending  `json:"pending"`
}

// EarPart is one thing that may differ.
type EarPart struct {
	ID      string `json:"id"`
	Label   string `json:"label"`
	Differs string `json:"differs"`
	// Published is that difference, in words.
	Published string `json:"published"`
	Answers   int    `json:"answers"`
	Done      bool   `json:"done"`
	// Found is what the staircase has found so far, in published just-noticeable differences.
	Found *ear.Threshold `json:"found,omitempty"`
	// Named of Asked times it was named rightly as what differs.
	Named int `json:"named"`
	Asked int `json:"asked"`
}

// EarTold tells how a trial went.
type EarTold struct {
	Right bool `json:"right"`
	// Second tells that the second sound was the other one.
	Second bool   `json:"second"`
	Part   string `json:"part"`
	Label  string `json:"label"`
	// By is how much it differed, and Size that in published just-noticeable differences.
	By    string  `json:"by"`
	Size  float64 `json:"size"`
	Named string  `json:"named"`
}

// sitting is one that has been looked up, with all that its sounds are made of.
type sitting struct {
	row       *store.EarSitting
	m         *meaning.Meaning
	transpose q.Interval
	notes     []phrase.Note
	parts     map[string]ear.Part
	answers   []ear.Answer
	*ear.Sitting
}

// most is the largest difference of a part that there is room for.
func (x *sitting) most(part string) float64 { return x.parts[part].Most }

func (s *Server) earSitting(id uint) (*sitting, error) {
	row, err := s.store.EarSitting(id)
	if err != nil {
		return nil, err
	}
	x := &sitting{row: row, parts: map[string]ear.Part{}}
	var ids []string
	if err := errors.Join(json.Unmarshal(row.Parts, &ids), json.Unmarshal(row.Answers, &x.answers)); err != nil {
		return nil, err
	}
	if x.m, x.transpose, x.notes, err = s.earMeaning(row.Document); err != nil {
		return nil, badRequest{fmt.Errorf("the patch of this sitting does not open any more: %w", err)}
	}
	for _, p := range ear.Parts(x.m) {
		x.parts[p.ID] = p
	}
	for _, id := range ids {
		if _, ok := x.parts[id]; !ok {
			return nil, badRequest{fmt.Errorf("the panel of %s has changed since: %s is not in it any more; begin another sitting", row.PatchName, id)}
		}
	}
	x.Sitting, err = ear.Replay(row.Seed, ids, x.most, x.answers)
	return x, err
}

func (s *Server) earView(ctx context.Context, in ofSitting) (none EarView, err error) {
	x, err := s.earSitting(in.ID)
	if err != nil {
		return none, err
	}
	out, err := x.view()
	if err != nil {
		return none, err
	}
	out.Pending, err = s.pending()
	return *out, err
}

func (x *sitting) view() (*EarView, error) {
	out := &EarView{ID: x.row.ID, Who: x.row.Who, Patch: x.row.PatchName, Parts: []EarPart{}, About: 50 * len(x.Parts)}
	for _, id := range x.Parts {
		p := x.parts[id]
		st := x.Stair(id)
		y := EarPart{ID: id, Label: p.Label, Differs: p.Differs.Name, Published: sizeOf(p.Differs), Answers: st.Answers(), Done: st.Done()}
		y.Named, y.Asked = x.Named(id)
		if t, ok := st.Threshold(); ok {
			t.Size, t.Low, t.High = gloss.Round(t.Size, 2), gloss.Round(t.Low, 2), gloss.Round(t.High, 2)
			y.Found = &t
		}
		out.Parts = append(out.Parts, y)
	}
	if t, ok := x.Next(); ok {
		out.Trial = t.Number + 1
	}
	if n := len(x.answers); n > 0 {
		before, err := ear.Replay(x.Seed, x.Parts, x.most, x.answers[:n-1])
		if err != nil {
			return nil, err
		}
		t, _ := before.Next()
		p := x.parts[t.Part]
		_, did := ear.Changed(x.m, p, t.Size, t.Up)
		out.Last = &EarTold{Right: x.answers[n-1].Right, Second: t.Second, Part: t.Part, Label: p.Label, By: ear.Says(p, did), Size: gloss.Round(math.Abs(did)/p.Differs.Size, 2), Named: x.answers[n-1].Named}
	}
	return out, nil
}

// EarAnswer is an answer: which of the two sounds is the other one, and what differs, where one says.
type EarAnswer struct {
	// Trial is the number of what is answered.
	Trial  int    `json:"trial"`
	Second bool   `json:"second"`
	Named  string `json:"named"`
}

type earAnswerRequest struct {
	ID   uint `path:"id"`
	Body EarAnswer
}

// earAnswer takes an answer, and tells how it was.
func (s *Server) earAnswer(ctx context.Context, in earAnswerRequest) (none EarView, err error) {
	x, err := s.earSitting(in.ID)
	if err != nil {
		return none, err
	}
	t, ok := x.Next()
	if !ok || in.Body.Trial != t.Number+1 {
		return none, store.ErrStale{}
	}
	if in.Body.Named != "" && !slices.Contains(x.Parts, in.Body.Named) {
		return none, badRequest{fmt.Errorf("named: expected one of what may differ, got %q", in.Body.Named)}
	}
	done := x.Stair(t.Part).Done()
	x.Answer(ear.Answer{Right: in.Body.Second == t.Second, Named: in.Body.Named})
	had := len(x.answers)
	x.answers = x.Answers
	list, err := json.Marshal(x.answers)
	if err != nil {
		return none, err
	}
	var results []store.EarResult
	if st := x.Stair(t.Part); st.Done() && !done {
		if found, ok := st.Threshold(); ok {
			results = append(results, store.EarResult{Who: x.row.Who, Differs: x.parts[t.Part].Differs.Name, Part: t.Part, Factor: found.Size, Low: found.Low, High: found.High, Turns: found.Turns, Heard: found.Heard})
		}
	}
	if err := s.store.AnswerEar(in.ID, had, list, results); err != nil {
		return none, err
	}
	if len(results) > 0 {
		s.forgetEars()
	}
	out, err := x.view()
	if err != nil {
		return none, err
	}
	out.Pending, err = s.pending()
	return *out, err
}

func (s *Server) earDrop(ctx context.Context, in ofSitting) (none EarDesk, err error) {
	if err := s.store.DropEarSitting(in.ID); err != nil {
		return none, err
	}
	s.forgetEars()
	return s.earDesk(ctx, None{})
}

type earSoundRequest struct {
	ID    uint   `path:"id"`
	Trial int    `path:"trial"`
	Which string `path:"which"`
}

// earSound gives a sound of the trial that is on: the patch as it is (x), or one of the two of which one is the same (a, b). All are as loud, and quiet.
func (s *Server) earSound(ctx context.Context, in earSoundRequest) (none File[None], err error) {
	x, err := s.earSitting(in.ID)
	if err != nil {
		return none, err
	}
	t, ok := x.Next()
	if !ok || in.Trial != t.Number+1 || !slices.Contains([]string{"x", "a", "b"}, in.Which) {
		return none, store.ErrNotFound
	}
	m := x.m
	if in.Which == "a" && !t.Second || in.Which == "b" && t.Second {
		p := x.parts[t.Part]
		m, _ = ear.Changed(x.m, p, t.Size, t.Up)
	}
	var left, right []float64
	err = s.queue.run(ctx, func() error {
		left, right, err = ear.Sound(m, x.transpose, x.notes)
		return err
	})
	if err != nil {
		return none, err
	}
	var b bytes.Buffer
	if err := wav.Write(&b, &wav.Sound{Rate: synth.Rate, Bits: 24, Left: left, Right: right}); err != nil {
		return none, err
	}
	return File[None]{Media: "audio/wav", Data: b.Bytes()}, nil
}
