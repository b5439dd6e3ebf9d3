package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"
	"time"

	"glossator/core/dialin"
	"glossator/core/fault"
	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/show"
	"glossator/core/translate"
	"glossator/demo"
	"glossator/formats"
	"glossator/formats/paper"
	"glossator/store"
)

// ShowRow is a show in a list.
type ShowRow struct {
	ID       uint   `json:"id"`
	Name     string `json:"name"`
	Cues     int    `json:"cues"`
	Evenings int    `json:"evenings"`
	Houses   int    `json:"houses"`
	At       string `json:"at"`
}

// ShowList is all shows.
type ShowList struct {
	Shows   []ShowRow `json:"shows"`
	Pending Pending   `json:"pending"`
}

// ShowView is a show, with what its cues and houses can name.
type ShowView struct {
	tag string

	ID      uint       `json:"id"`
	Doc     show.Doc   `json:"doc"`
	Patches []IDName   `json:"patches"`
	Panels  []IDName   `json:"panels"`
	Racks   []IDName   `json:"racks"`
	Faults  fault.List `json:"faults"`
	Pending Pending    `json:"pending"`
}

// IDName is something that can be chosen by its id.
type IDName struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

func (v ShowView) version() string { return v.tag }

func (s *Server) showRow(x *store.Show) (ShowRow, error) {
	d, err := x.Doc()
	if err != nil {
		return ShowRow{}, err
	}
	return ShowRow{x.ID, x.Name, len(d.Cues), len(d.Evenings()), len(d.Houses), x.UpdatedAt.Format(time.RFC3339)}, nil
}

func (s *Server) shows(ctx context.Context, in None) (out ShowList, err error) {
	rows, err := s.store.Shows()
	if err != nil {
		return out, err
	}
	out.Shows = []ShowRow{}
	for i := range rows {
		r, err := s.showRow(&rows[i])
		if err != nil {
			return out, err
		}
		out.Shows = append(out.Shows, r)
	}
	out.Pending, err = s.pending()
	return out, err
}

// NameBody is what something is called.
type NameBody struct {
	Name string `json:"name"`
}

type showNewRequest struct{ Body NameBody }

// showNew begins a show: one house, no cue.
func (s *Server) showNew(ctx context.Context, in showNewRequest) (none ShowRow, err error) {
	name := strings.TrimSpace(in.Body.Name)
	if err := formats.CheckName(name); err != nil {
		return none, badRequest{err}
	}
	d := &show.Doc{Format: show.Format, Version: show.Version, Name: name, Cues: []show.CueDoc{}, Houses: []show.HouseDoc{{ID: "h1", Name: "The house", Hire: []show.HireDoc{}}}}
	row, err := s.store.NewShow("begin the show "+name, d)
	if err != nil {
		return none, err
	}
	return s.showRow(row)
}

type showImportRequest struct {
	File string `query:"file"`
	Body Upload[show.Doc]
}

func (s *Server) showImport(ctx context.Context, in showImportRequest) (none ShowRow, err error) {
	row, err := s.importShow(fileName(in.File, "show"), in.Body.Data)
	if err != nil {
		return none, err
	}
	return s.showRow(row)
}

func (s *Server) importShow(file string, data []byte) (*store.Show, error) {
	d, err := formats.ReadShow(file, data)
	if err != nil {
		return nil, err
	}
	d.Identify()
	return s.store.NewShow("import the show "+d.Name, d)
}

type ofShow struct {
	ID uint `path:"id"`
}

func (s *Server) showView(ctx context.Context, in ofShow) (none ShowView, err error) {
	row, err := s.store.Show(in.ID)
	if err != nil {
		return none, err
	}
	return s.viewOfShow(row)
}

func (s *Server) viewOfShow(row *store.Show) (none ShowView, err error) {
	d, err := row.Doc()
	if err != nil {
		return none, err
	}
	if d.Cues == nil {
		d.Cues = []show.CueDoc{}
	}
	if d.Players == nil {
		d.Players = []show.PlayerDoc{}
	}
	out := ShowView{tag: row.Tag(), ID: row.ID, Doc: *d, Patches: []IDName{}, Panels: []IDName{}, Racks: []IDName{}, Faults: fault.List{}}
	patches, err := s.store.Patches()
	if err != nil {
		return none, err
	}
	here := map[string]bool{}
	for _, p := range patches {
		here[p.ID] = true
		out.Patches = append(out.Patches, IDName{p.ID, p.Name})
	}
	rows, err := s.store.Panels()
	if err != nil {
		return none, err
	}
	panels := map[string]bool{}
	for i := range rows {
		c, err := s.compiledRow(&rows[i])
		if err != nil {
			continue
		}
		if x := (IDName{c.ID, c.Name}); c.Kind == "instrument" {
			panels[c.ID] = true
			out.Panels = append(out.Panels, x)
		} else {
			out.Racks = append(out.Racks, x)
		}
	}
	for i, c := range d.Cues {
		if c.Patch != "" && !here[c.Patch] {
			out.Faults.Add(fmt.Sprintf("/cues/%d/patch", i), "there is no patch %q any more", c.Patch)
		}
	}
	for i, h := range d.Houses {
		for k, x := range h.Hire {
			if !panels[x.Panel] {
				out.Faults.Add(fmt.Sprintf("/houses/%d/instruments/%d/panel", i, k), "there is no instrument %q here", x.Panel)
			}
		}
	}
	out.Pending, err = s.pending()
	return out, err
}

type showPutRequest struct {
	ID   uint `path:"id"`
	Body show.Doc
}

// showPut changes a show: all of it, as it should be. What is wrong with a cue is told in its plan; only what cannot be kept is refused.
func (s *Server) showPut(ctx context.Context, in showPutRequest) (none ShowView, err error) {
	d := in.Body
	d.Name = strings.TrimSpace(d.Name)
	if d.Format == "" {
		d.Format, d.Version = show.Format, show.Version
	}
	d.Identify()
	check := func(d *show.Doc) error {
		if err := formats.CheckShow(d); err != nil {
			var l fault.List
			if errors.As(err, &l) {
				return l
			}
			return badRequest{err}
		}
		return nil
	}
	if err := check(&d); err != nil {
		return none, err
	}
	row, err := s.store.On(ctx).PutShow(in.ID, &d, check)
	if err != nil {
		return none, err
	}
	return s.viewOfShow(row)
}

func (s *Server) showDrop(ctx context.Context, in ofShow) (none Done, err error) {
	if err := s.store.On(ctx).DropShow(in.ID); err != nil {
		return none, err
	}
	none.Pending, err = s.pending()
	return none, err
}

func (s *Server) showExport(ctx context.Context, in ofShow) (none File[show.Doc], err error) {
	row, err := s.store.Show(in.ID)
	if err != nil {
		return none, err
	}
	d, err := row.Doc()
	if err != nil {
		return none, err
	}
	return downloadJSON(fmt.Sprintf("show-%d.json", in.ID), *d)
}

type inHouse struct {
	ID uint `path:"id"`
	// House is the id of a house of the show; its first where it is empty.
	House string `query:"house"`
}

// hearing is what listening to a translation has shown.
type hearing struct {
	Tuned *plan.Tuned `json:"tuned"`
	Apart float64     `json:"apart"`
}

// printed is an instrument with the hash of its document.
type printed struct {
	*panel.Compiled
	print string
}

// patched is a patch with its instrument and the hash of its document, or what is wrong with it.
type patched struct {
	patch *patch.Patch
	src   *printed
	print string
	err   error
}

// pair is a patch on an instrument, with a rack behind it where there is one.
type pair struct {
	*patched
	dst, rack *printed
}

// key names what is heard of it by what it is made from.
func (x *pair) key() string {
	rack := ""
	if x.rack != nil {
		rack = x.rack.print
	}
	return hashOf(engineVersion, x.print, x.src.print, x.dst.print, rack)
}

// onStage is a show with what it is made from, in one house.
type onStage struct {
	s     *Server
	row   *store.Show
	doc   *show.Doc
	house int
	paces map[string]dialin.Pace
	// what has been looked up, each once
	patches map[string]*patched
	panels  map[string]*printed
}

func (s *Server) onStage(id uint, house string) (*onStage, error) {
	row, err := s.store.Show(id)
	if err != nil {
		return nil, err
	}
	x := &onStage{s: s, row: row, house: -1, patches: map[string]*patched{}, panels: map[string]*printed{}}
	if x.doc, err = row.Doc(); err != nil {
		return nil, err
	}
	for i := range x.doc.Houses {
		if x.doc.Houses[i].ID == house || house == "" && i == 0 {
			x.house = i
		}
	}
	if x.house < 0 {
		return nil, store.ErrNotFound
	}
	x.paces, err = s.pacesOf(id)
	return x, err
}

// find finds what a cue names.
func (x *onStage) find(id string) *patched {
	if p := x.patches[id]; p != nil {
		return p
	}
	p := &patched{}
	x.patches[id] = p
	if id == "" {
		p.err = errors.New("it has no patch")
		return p
	}
	row, err := x.s.store.Patch(id)
	switch {
	case errors.Is(err, store.ErrNotFound):
		p.err = fmt.Errorf("there is no patch %q any more", id)
		return p
	case err != nil:
		p.err = err
		return p
	}
	var on *panel.Compiled
	if p.patch, on, p.err = x.s.patchOn(id); p.err != nil {
		return p
	}
	p.print = hashOf(row.Document)
	p.src = &printed{on, x.print(on)}
	return p
}

func (x *onStage) patch(id string) (*patch.Patch, *panel.Compiled, error) {
	p := x.find(id)
	if p.err != nil {
		return nil, nil, p.err
	}
	return p.patch, p.src.Compiled, nil
}

func (x *onStage) print(c *panel.Compiled) string {
	row, err := x.s.store.Panel(c.ID, c.Revision)
	if err != nil {
		return hashOf(c.Panel)
	}
	return hashOf(row.Document)
}

// on finds an instrument or a rack; nil where there is none.
func (x *onStage) on(id string) *printed {
	if p, ok := x.panels[id]; ok {
		return p
	}
	x.panels[id] = nil
	if c, err := x.s.compiled(id, 0); err == nil {
		x.panels[id] = &printed{c, x.print(c)}
	}
	return x.panels[id]
}

func (x *onStage) panel(id string) *panel.Compiled {
	if p := x.on(id); p != nil {
		return p.Compiled
	}
	return nil
}

// pairs lists each patch on each instrument of some houses, once; of its own instrument, too: it may be another one of the kind.
func (x *onStage) pairs(houses []int, rack *printed) (out []pair) {
	seen := map[[2]string]bool{}
	for _, h := range houses {
		for _, c := range x.doc.Cues {
			p := x.find(c.Patch)
			if p.err != nil {
				continue
			}
			for _, i := range x.doc.Houses[h].Hire {
				dst := x.on(i.Panel)
				if key := [2]string{c.Patch, i.Panel}; dst != nil && dst.Kind == "instrument" && !seen[key] {
					seen[key] = true
					out = append(out, pair{p, dst, rack})
				}
			}
		}
	}
	return out
}

// keptHearing gives what has been heard of a pair; nil where nobody has listened.
func (s *Server) keptHearing(x *pair) (*hearing, error) {
	data, err := s.store.Hearing(x.key())
	if err != nil || data == nil {
		return nil, err
	}
	var h hearing
	return &h, json.Unmarshal(data, &h)
}

// hear listens to a pair, and keeps it.
func (s *Server) hear(ctx context.Context, x *pair) (*hearing, error) {
	if h, err := s.keptHearing(x); h != nil || err != nil {
		return h, err
	}
	opt := translate.Options{School: plan.Ear}
	if x.rack != nil {
		opt.Rack = x.rack.Compiled
	}
	tuned, err := s.tunedWith(ctx, x.src.Compiled, x.patch, x.dst.Compiled, opt)
	if err != nil {
		return nil, err
	}
	opt.Choices.Tuned = tuned
	r, err := s.listened(ctx, x.src.Compiled, x.patch, x.dst.Compiled, opt, false)
	if err != nil {
		return nil, err
	}
	h := &hearing{tuned, r.Apart.Total}
	data, err := json.Marshal(h)
	if err != nil {
		return nil, err
	}
	return h, s.store.KeepHearing(x.key(), data)
}

// options are what the show is made with: by what was heard where all of the house has been listened to, else by what the sheets say weighs in parts that are lost.
func (x *onStage) options(heard map[string]*hearing) show.Options {
	opt := show.Options{School: plan.Ear, Panels: x.panel, Patches: x.patch, Paces: map[string]float64{}}
	for who, p := range x.paces {
		if p.Each > 0 {
			opt.Paces[who] = p.Each
		}
	}
	opt.Sheet = func(p *patch.Patch, src, dst *panel.Compiled) (*gloss.Sheet, error) {
		return x.s.showSheet(&pair{x.find(p.ID), x.on(dst.ID), nil}, nil)
	}
	if heard != nil {
		opt.Apart = func(p *patch.Patch, src, dst *panel.Compiled) (*gloss.Sheet, float64, error) {
			y := pair{x.find(p.ID), x.on(dst.ID), nil}
			h := heard[y.key()]
			if h == nil {
				return nil, 0, errors.New("nobody has listened to it yet")
			}
			sheet, err := x.s.showSheet(&y, h.Tuned)
			return sheet, h.Apart, err
		}
	}
	return opt
}

// showSheet translates for a show, and keeps it: a show is planned again with every change.
func (s *Server) showSheet(x *pair, tuned *plan.Tuned) (*gloss.Sheet, error) {
	return cached(s.cache, "show sheet", hashOf(x.key(), tuned), func() (*gloss.Sheet, error) {
		return translate.Translate(x.src.Compiled, x.patch, x.dst.Compiled, translate.Options{School: plan.Ear, Choices: plan.Choices{Tuned: tuned}})
	})
}

// ShowPlan is a show as it is planned for a house.
type ShowPlan struct {
	show.Planned
	ID      uint   `json:"id"`
	HouseID string `json:"houseId"`
	// Listened of Pairs translations have been listened to; what is lost is in sound where all have.
	Listened int `json:"listened"`
	Pairs    int `json:"pairs"`
	// Paces are how long players have taken for a control in rehearsals.
	Paces []PlayerPace `json:"paces"`
	// Overs are the changeovers, by cue; those without one are empty.
	Overs []dialin.Changeover `json:"overs"`
}

// PlayerPace is how long a player has taken for a control.
type PlayerPace struct {
	Player string      `json:"player"`
	Pace   dialin.Pace `json:"pace"`
}

// heard gives what was heard of a house, nil where some of it was not; and how much of it was.
func (x *onStage) heard(pairs []pair) (all map[string]*hearing, n int, err error) {
	all = map[string]*hearing{}
	for i := range pairs {
		h, err := x.s.keptHearing(&pairs[i])
		if err != nil {
			return nil, 0, err
		}
		if h != nil {
			n++
			all[pairs[i].key()] = h
		}
	}
	if n < len(pairs) {
		all = nil
	}
	return all, n, nil
}

// makes makes a show in its house; what makes no sense is told at its place in the plan.
func (x *onStage) makes(ctx context.Context) (m *show.Made, listened, pairs int, err error) {
	all := x.pairs([]int{x.house}, nil)
	heard, n, err := x.heard(all)
	if err != nil {
		return nil, 0, 0, err
	}
	err = x.s.queue.run(ctx, func() (err error) {
		m, err = show.Make(x.doc, x.house, x.options(heard))
		return err
	})
	if err != nil {
		return nil, 0, 0, err
	}
	m.Stop = func() bool { return ctx.Err() != nil }
	return m, n, len(all), nil
}

func (s *Server) showPlan(ctx context.Context, in inHouse) (none ShowPlan, err error) {
	x, err := s.onStage(in.ID, in.House)
	if err != nil {
		return none, err
	}
	v, err := x.planned(ctx)
	if err != nil {
		return none, err
	}
	return *v, nil
}

// planned plans a show in its house, and keeps the plan as long as nothing changes that it hangs on.
func (x *onStage) planned(ctx context.Context) (*ShowPlan, error) {
	key := x.key()
	return cached(x.s.cache, "show plan", key, func() (*ShowPlan, error) {
		m, n, pairs, err := x.makes(ctx)
		if err != nil {
			return nil, err
		}
		out := &ShowPlan{ID: x.row.ID, HouseID: x.doc.Houses[x.house].ID, Listened: n, Pairs: pairs, Paces: []PlayerPace{}, Overs: []dialin.Changeover{}}
		err = x.s.queue.run(ctx, func() error {
			p, err := m.Solve()
			if err != nil {
				return err
			}
			v, err := m.View(p)
			if err != nil {
				return err
			}
			out.Planned = *v
			for i := range v.Cues {
				c := &v.Cues[i]
				over := dialin.Changeover{Moves: []dialin.Turn{}, Pull: []string{}, Run: []string{}, To: c.Name}
				if c.On >= 0 && c.From >= 0 && !v.Instruments[c.On].Memory {
					if over, err = m.Over(c.On, c.From, i); err != nil {
						return err
					}
				}
				out.Overs = append(out.Overs, over)
			}
			return nil
		})
		if err != nil {
			if errors.Is(err, show.ErrTooMany) {
				return nil, badRequest{fmt.Errorf("%w: leave some cues or instruments out", err)}
			}
			return nil, err
		}
		var who []string
		for name := range x.paces {
			who = append(who, name)
		}
		slices.Sort(who)
		for _, name := range who {
			out.Paces = append(out.Paces, PlayerPace{name, x.paces[name]})
		}
		return out, ctx.Err()
	})
}

// key names what a plan is made from.
func (x *onStage) key() string {
	var parts []any
	all := x.pairs([]int{x.house}, nil)
	for i := range all {
		parts = append(parts, all[i].key())
	}
	_, n, _ := x.heard(all)
	return hashOf(x.row.Document, x.house, x.paces, n, parts)
}

// ShowHire is what the instruments of a house would carry of a show.
type ShowHire struct {
	show.HireList
	ID       uint     `json:"id"`
	HouseID  string   `json:"houseId"`
	RackID   string   `json:"rackId"`
	Racks    []IDName `json:"racks"`
	Listened int      `json:"listened"`
	Pairs    int      `json:"pairs"`
	// RackListened of RackPairs translations have been listened to with the rack behind them.
	RackListened int     `json:"rackListened"`
	RackPairs    int     `json:"rackPairs"`
	Pending      Pending `json:"pending"`
}

type hireRequest struct {
	ID    uint   `path:"id"`
	House string `query:"house"`
	// Rack is the id of a rack whose help is counted; none where it is empty.
	Rack string `query:"rack"`
}

func (s *Server) showHire(ctx context.Context, in hireRequest) (none ShowHire, err error) {
	x, err := s.onStage(in.ID, in.House)
	if err != nil {
		return none, err
	}
	v, err := x.hire(ctx, in.Rack)
	if err != nil {
		return none, err
	}
	out := *v
	rows, err := s.store.Panels()
	if err != nil {
		return none, err
	}
	out.Racks = []IDName{}
	for i := range rows {
		if c, err := s.compiledRow(&rows[i]); err == nil && c.Kind == "rack" {
			out.Racks = append(out.Racks, IDName{c.ID, c.Name})
		}
	}
	out.Pending, err = s.pending()
	return out, err
}

func (x *onStage) hire(ctx context.Context, rackID string) (*ShowHire, error) {
	var rack *printed
	if rackID != "" {
		if rack = x.on(rackID); rack == nil || rack.Kind != "rack" {
			return nil, badRequest{fmt.Errorf("expected the id of a rack, got %q", rackID)}
		}
	}
	racked := map[string]float64{}
	rackPairs := 0
	if rack != nil {
		for _, y := range x.pairs([]int{x.house}, rack) {
			rackPairs++
			h, err := x.s.keptHearing(&y)
			if err != nil {
				return nil, err
			}
			if h != nil {
				racked[y.patch.ID+" "+y.dst.ID] = h.Apart
			}
		}
	}
	return cached(x.s.cache, "show hire", hashOf(x.key(), rackID, len(racked)), func() (*ShowHire, error) {
		m, n, pairs, err := x.makes(ctx)
		if err != nil {
			return nil, err
		}
		out := &ShowHire{ID: x.row.ID, HouseID: x.doc.Houses[x.house].ID, RackID: rackID, Listened: n, Pairs: pairs, RackListened: len(racked), RackPairs: rackPairs}
		err = x.s.queue.run(ctx, func() error {
			name := ""
			var saves func(cue, on int) float64
			if rack != nil && m.Heard {
				name = rack.Name
				saves = func(cue, on int) float64 {
					if apart, ok := racked[x.doc.Cues[cue].Patch+" "+m.Panel(on).ID]; ok {
						return apart
					}
					return math.NaN()
				}
			}
			l, err := m.ListHire(name, saves)
			if err == nil {
				out.HireList = *l
			}
			return err
		})
		if errors.Is(err, show.ErrTooMany) {
			err = badRequest{fmt.Errorf("%w: leave some cues or instruments out", err)}
		}
		return out, err
	})
}

type showPaperRequest struct {
	ID   uint   `path:"id"`
	Name string `path:"name"`
	// House, Evening (0 for all) and Rack are as elsewhere.
	House   string `query:"house"`
	Evening int    `query:"evening"`
	Rack    string `query:"rack"`
}

// showPaper gives a running order or a hire list as a document: order or hire, and .md, .csv, .xlsx or .pdf.
func (s *Server) showPaper(ctx context.Context, in showPaperRequest) (none File[None], err error) {
	what, form, _ := strings.Cut(in.Name, ".")
	media, ok := paper.Forms[form]
	if !ok || what != "order" && what != "hire" {
		return none, store.ErrNotFound
	}
	x, err := s.onStage(in.ID, in.House)
	if err != nil {
		return none, err
	}
	var p *paper.Paper
	if what == "order" {
		v, err := x.planned(ctx)
		if err != nil {
			return none, err
		}
		p = paper.RunningOrder(&v.Planned, in.Evening)
	} else {
		v, err := x.hire(ctx, in.Rack)
		if err != nil {
			return none, err
		}
		p = paper.Hire(&v.HireList)
	}
	b, err := p.Write(form)
	if err != nil {
		return none, err
	}
	return download(fmt.Sprintf("%s-%d-%s.%s", what, in.ID, x.doc.Houses[x.house].ID, form), media, b)
}

// Hearing is how far listening to a show is.
type Hearing struct {
	Running bool `json:"running"`
	// Place is its place among what waits for its turn; 0 where it runs.
	Place int `json:"place"`
	// Done of Most translations; Of is which is listened to now. Left is how long that takes on, in seconds; 0 where that is not known yet.
	Done  int     `json:"done"`
	Most  int     `json:"most"`
	Of    string  `json:"of"`
	Left  float64 `json:"left"`
	Error string  `json:"error,omitempty"`
}

type listenRequest struct {
	ID uint `path:"id"`
	// House is the id of one house; all where it is empty. Rack puts a rack behind each instrument.
	House string `query:"house"`
	Rack  string `query:"rack"`
}

// showListen listens to all translations of a show that nobody has listened to yet; one that runs is left to run.
func (s *Server) showListen(ctx context.Context, in listenRequest) (none Hearing, err error) {
	x, err := s.onStage(in.ID, in.House)
	if err != nil {
		return none, err
	}
	var rack *printed
	if in.Rack != "" {
		if rack = x.on(in.Rack); rack == nil || rack.Kind != "rack" {
			return none, badRequest{fmt.Errorf("expected the id of a rack, got %q", in.Rack)}
		}
	}
	houses := []int{x.house}
	if in.House == "" {
		houses = houses[:0]
		for i := range x.doc.Houses {
			houses = append(houses, i)
		}
	}
	var todo []pair
	for _, p := range x.pairs(houses, rack) {
		h, err := s.keptHearing(&p)
		if err != nil {
			return none, err
		}
		if h == nil {
			todo = append(todo, p)
		}
	}
	t, _ := s.hearings.start(newQueue(), in.ID, Hearing{Running: true, Most: len(todo)}, func(ctx context.Context, t *task[Hearing]) error {
		return s.hearAll(ctx, t, todo)
	}, func(h *Hearing, place int) { h.Place = place }, func(h *Hearing, err error) {
		h.Running, h.Place, h.Of, h.Left = false, 0, "", 0
		switch {
		case err != nil && !errors.Is(err, context.Canceled):
			h.Error = err.Error()
			s.log.Error("listening to a show", "error", err)
		}
	})
	now, _ := t.now()
	return now, nil
}

// hearAll listens to pairs, two at a time; what is heard is kept at once, so that stopping loses nothing.
func (s *Server) hearAll(ctx context.Context, t *task[Hearing], todo []pair) error {
	began := time.Now()
	work := make(chan *pair)
	var first error
	var mu sync.Mutex
	var wait sync.WaitGroup
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	for range 2 {
		wait.Go(func() {
			for p := range work {
				t.change(func(h *Hearing) { h.Of = p.patch.Name + " on " + p.dst.Name })
				_, err := s.hear(ctx, p)
				if err != nil {
					mu.Lock()
					if first == nil {
						first = err
					}
					mu.Unlock()
					stop()
					continue
				}
				t.change(func(h *Hearing) {
					h.Done++
					h.Left = gloss.Round(time.Since(began).Seconds()/float64(h.Done)*float64(h.Most-h.Done), 0)
				})
			}
		})
	}
	for i := range todo {
		if ctx.Err() != nil {
			break
		}
		work <- &todo[i]
	}
	close(work)
	wait.Wait()
	if first != nil {
		return first
	}
	return ctx.Err()
}

func (s *Server) showHeard(ctx context.Context, in ofShow) (none Hearing, err error) {
	if _, err := s.store.Show(in.ID); err != nil {
		return none, err
	}
	t := s.hearings.find(in.ID)
	if t == nil {
		return none, nil
	}
	now, _ := t.now()
	return now, nil
}

func (s *Server) showListenStop(ctx context.Context, in ofShow) (none Hearing, err error) {
	if t := s.hearings.find(in.ID); t != nil {
		t.cancel()
		<-t.over
		now, _ := t.now()
		return now, nil
	}
	return none, nil
}

// sampleShows gives the shows of the sample that are not here yet, by name.
func sampleShows(st *store.Store) (out []*show.Doc, err error) {
	rows, err := st.Shows()
	if err != nil {
		return nil, err
	}
	for _, f := range demo.Shows() {
		d, err := formats.ReadShow(f.Name, f.Data)
		if err != nil {
			return nil, err
		}
		d.Identify()
		if !slices.ContainsFunc(rows, func(x store.Show) bool { return x.Name == d.Name }) {
			out = append(out, d)
		}
	}
	return out, nil
}

// isSampleShow tells whether a show is that of the sample, as it came.
func isSampleShow(doc []byte) bool {
	for _, f := range demo.Shows() {
		d, err := formats.ReadShow(f.Name, f.Data)
		if err != nil {
			continue
		}
		d.Identify()
		if store.TagFor(d) == store.TagOf[show.Doc](doc) {
			return true
		}
	}
	return false
}
