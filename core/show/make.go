package show

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"glossator/core/dialin"
	"glossator/core/fault"
	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/translate"
)

// Format and Version are what a file of a show says it is.
const (
	Format  = "glossator-show"
	Version = 1
)

// Doc is a show as somebody writes it down: the book of its cues, and the houses that it is played in.
type Doc struct {
	Format  string `json:"format"`
	Version int    `json:"version"`
	Name    string `json:"name"`
	// Pace is how long a hand takes for one control, in seconds; 0 for 4. Program is how long an instrument with memory takes to another program; 0 for 2.
	Pace    float64     `json:"pace,omitempty"`
	Program float64     `json:"program,omitempty"`
	Players []PlayerDoc `json:"players,omitempty"`
	Cues    []CueDoc    `json:"cues"`
	Houses  []HouseDoc  `json:"houses"`
}

// PlayerDoc is somebody who plays. A player who is named by a cue alone has the pace of the show.
type PlayerDoc struct {
	Name string  `json:"name"`
	Pace float64 `json:"pace,omitempty"`
}

// CueDoc is a cue; times are minutes and seconds of its evening, "12:30". Evening counts from 1, 0 is the first. ID tells it from others where its name or place changes.
type CueDoc struct {
	ID      string `json:"id,omitempty"`
	Name    string `json:"name"`
	Patch   string `json:"patch"`
	Evening int    `json:"evening,omitempty"`
	Start   string `json:"start"`
	End     string `json:"end"`
	Player  string `json:"player,omitempty"`
}

// HouseDoc is a house with what can be hired there. ID tells it from others where its name changes.
type HouseDoc struct {
	ID   string    `json:"id,omitempty"`
	Name string    `json:"name"`
	Note string    `json:"note,omitempty"`
	Hire []HireDoc `json:"instruments"`
}

// HireDoc is an instrument that can be hired. Where Player is given it stands with them, and nobody else plays it.
type HireDoc struct {
	Panel  string  `json:"panel"`
	Player string  `json:"player,omitempty"`
	Price  float64 `json:"price,omitempty"`
	Note   string  `json:"note,omitempty"`
}

// Bounds of a show.
const (
	MostCues        = 400
	MostEvenings    = 60
	MostHouses      = 40
	MostInstruments = 16
	MostPlayers     = 40
	mostText        = 200
	mostSeconds     = 600
)

// Valid says what of a show cannot be at all, as a fault.List. What is wrong with one cue is told when it is made, and the rest is planned.
func (d *Doc) Valid() error {
	var l fault.List
	text := func(at, s string, most int) {
		if len(s) > most {
			l.Add(at, "expected a text of at most %d bytes, got %d", most, len(s))
		}
	}
	called := func(at, s string, seen map[string]bool) {
		if text(at, s, mostText); strings.TrimSpace(s) == "" {
			l.Add(at, "expected a name")
		} else if seen[s] {
			l.Add(at, "%q is there already", s)
		}
		seen[s] = true
	}
	count := func(at string, n, most int) {
		if n > most {
			l.Add(at, "expected at most %d, got %d", most, n)
		}
	}
	number := func(at string, x, most float64) {
		if !(x >= 0 && x <= most) {
			l.Add(at, "expected 0 to %g, got %g", most, x)
		}
	}
	if d.Format != Format || d.Version != Version {
		l.Add("/format", "expected %q of version %d, got %q of version %d", Format, Version, d.Format, d.Version)
	}
	called("/name", d.Name, map[string]bool{})
	count("/cues", len(d.Cues), MostCues)
	count("/houses", len(d.Houses), MostHouses)
	count("/players", len(d.Players), MostPlayers)
	number("/pace", d.Pace, mostSeconds)
	number("/program", d.Program, mostSeconds)
	players, houses, ids := map[string]bool{}, map[string]bool{}, map[string]bool{}
	once := func(at, id string) {
		if text(at, id, 40); id != "" && ids[id] {
			l.Add(at, "%q is there already", id)
		}
		ids[id] = true
	}
	for i, p := range d.Players {
		called(fmt.Sprintf("/players/%d/name", i), p.Name, players)
		number(fmt.Sprintf("/players/%d/pace", i), p.Pace, mostSeconds)
	}
	for i, c := range d.Cues {
		at := fmt.Sprintf("/cues/%d", i)
		for _, x := range [][2]string{{"/name", c.Name}, {"/patch", c.Patch}, {"/player", c.Player}} {
			text(at+x[0], x[1], mostText)
		}
		for _, x := range [][2]string{{"/start", c.Start}, {"/end", c.End}} {
			text(at+x[0], x[1], 40)
		}
		once(at+"/id", c.ID)
	}
	ids = map[string]bool{}
	for i, h := range d.Houses {
		at := fmt.Sprintf("/houses/%d", i)
		once(at+"/id", h.ID)
		called(at+"/name", h.Name, houses)
		text(at+"/note", h.Note, 10*mostText)
		count(at+"/instruments", len(h.Hire), MostInstruments)
		for k, x := range h.Hire {
			at := fmt.Sprintf("%s/instruments/%d", at, k)
			number(at+"/price", x.Price, 1e9)
			text(at+"/note", x.Note, 10*mostText)
			text(at+"/player", x.Player, mostText)
			text(at+"/panel", x.Panel, mostText)
		}
	}
	return l.Err()
}

// Identify gives cues and houses without an id one, so that what is kept of them stays with them; what has one keeps it.
func (d *Doc) Identify() {
	ids := map[string]bool{}
	for i := range d.Cues {
		ids[d.Cues[i].ID] = true
	}
	free := func(begin string) string {
		for n := 1; ; n++ {
			if id := fmt.Sprint(begin, n); !ids[id] {
				ids[id] = true
				return id
			}
		}
	}
	for i := range d.Cues {
		if d.Cues[i].ID == "" {
			d.Cues[i].ID = free("c")
		}
	}
	ids = map[string]bool{}
	for i := range d.Houses {
		ids[d.Houses[i].ID] = true
	}
	for i := range d.Houses {
		if d.Houses[i].ID == "" {
			d.Houses[i].ID = free("h")
		}
	}
}

// Texts gives the texts of a show, each with its place.
func (d *Doc) Texts() (out [][2]string) {
	add := func(at, s string) { out = append(out, [2]string{at, s}) }
	add("/name", d.Name)
	for i, p := range d.Players {
		add(fmt.Sprintf("/players/%d/name", i), p.Name)
	}
	for i, c := range d.Cues {
		at := fmt.Sprintf("/cues/%d", i)
		add(at+"/name", c.Name)
		add(at+"/patch", c.Patch)
		add(at+"/player", c.Player)
		add(at+"/id", c.ID)
	}
	for i, h := range d.Houses {
		at := fmt.Sprintf("/houses/%d", i)
		add(at+"/id", h.ID)
		add(at+"/name", h.Name)
		add(at+"/note", h.Note)
		for k, x := range h.Hire {
			at := fmt.Sprintf("%s/instruments/%d", at, k)
			add(at+"/panel", x.Panel)
			add(at+"/player", x.Player)
			add(at+"/note", x.Note)
		}
	}
	return out
}

// day counts the evening of a cue from 0.
func (c *CueDoc) day() int { return max(1, c.Evening) - 1 }

// Evenings gives the evenings that have cues, in their order.
func (d *Doc) Evenings() (out []int) {
	for i := range d.Cues {
		if e := d.Cues[i].day() + 1; !slices.Contains(out, e) {
			out = append(out, e)
		}
	}
	slices.Sort(out)
	return out
}

// Defaults of a show (common practice, no source).
const (
	pace    = 4.0
	program = 2.0
)

var clock = regexp.MustCompile(`^(?:(\d{1,2}):)?(\d{1,3}):([0-5]\d)$`)

// Seconds reads a time of the evening: "12:30" or "1:02:30".
func Seconds(text string) (float64, error) {
	m := clock.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil {
		return 0, fmt.Errorf("expected a time such as 12:30 or 1:02:30, got %q", text)
	}
	h, _ := strconv.Atoi("0" + m[1])
	min, _ := strconv.Atoi(m[2])
	s, _ := strconv.Atoi(m[3])
	return float64(3600*h + 60*min + s), nil
}

// Clock writes a time of the evening.
func Clock(seconds float64) string {
	n := int(math.Round(seconds))
	if n >= 3600 {
		return fmt.Sprintf("%d:%02d:%02d", n/3600, n/60%60, n%60)
	}
	return fmt.Sprintf("%d:%02d", n/60, n%60)
}

// Made is a show in one of its houses with its translations, ready to be planned.
type Made struct {
	*Problem
	Doc   *Doc
	House *HouseDoc
	// Faults are what is wrong with a cue, by its number: it is left aside.
	Faults map[int]string
	// Aside are instruments of the house that are left aside, with why.
	Aside []string
	// Sheets are the translations by cue and instrument; nil where there is none.
	Sheets [][]*gloss.Sheet
	// Hire are the instruments as the house has them, in the order of Instruments.
	Hire []HireDoc
	// Heard tells that losses are how far sounds lie apart; else they are what weighs of the parts that are lost.
	Heard  bool
	panels []*panel.Compiled
	paces  map[string]float64
	counts map[change]int
}

// change is a changeover of an instrument between two patches.
type change struct {
	on       int
	from, to string
}

// Options are what a show is made with. Patches and Panels find what is named, nil where it is not there. Apart gives how far a translation sounds from its patch, in just-noticeable differences; where it is nil the loss is what the sheet says weighs in parts that are lost.
type Options struct {
	Patches func(name string) (*patch.Patch, *panel.Compiled, error)
	Panels  func(id string) *panel.Compiled
	School  plan.School
	Apart   func(p *patch.Patch, src, dst *panel.Compiled) (*gloss.Sheet, float64, error)
	// Sheet translates; nil for the translation of core/translate by School.
	Sheet func(p *patch.Patch, src, dst *panel.Compiled) (*gloss.Sheet, error)
	Told  func(done, all int)
	// Paces are how long players have taken for a control, in seconds, where that is known; it counts before what the show says.
	Paces map[string]float64
}

// Make translates every cue of a show to every instrument of a house, by its number. A cue that cannot be is named, and the others are made.
func Make(d *Doc, house int, opt Options) (*Made, error) {
	if err := d.Valid(); err != nil {
		return nil, err
	}
	if house < 0 || house >= len(d.Houses) {
		return nil, errors.New("expected a house of the show")
	}
	m := &Made{Problem: &Problem{}, Doc: d, House: &d.Houses[house], Faults: map[int]string{}, Heard: opt.Apart != nil, paces: map[string]float64{}, counts: map[change]int{}}
	for _, h := range m.House.Hire {
		c := opt.Panels(h.Panel)
		if c == nil || c.Kind != "instrument" {
			m.Aside = append(m.Aside, fmt.Sprintf("%s: there is no instrument of this id here", h.Panel))
			continue
		}
		name, n := c.Name, 1
		for slices.Contains(m.Instruments, name) { // a second one
			n++
			name = fmt.Sprintf("%s %d", c.Name, n)
		}
		m.panels, m.Hire, m.Instruments = append(m.panels, c), append(m.Hire, h), append(m.Instruments, name)
	}
	for _, p := range d.Players {
		m.paces[p.Name] = p.Pace
	}
	for who, x := range opt.Paces {
		m.paces[who] = x
	}
	known := map[string][]*gloss.Sheet{} // by patch
	losses := map[string][]float64{}
	failed := map[string]error{}
	for i, c := range d.Cues {
		cue := Cue{Name: c.Name, Player: c.Player}
		var err error
		if cue.Start, err = Seconds(c.Start); err == nil {
			cue.End, err = Seconds(c.End)
		}
		cue.Evening = c.day()
		if c.Evening < 0 || c.Evening > MostEvenings {
			err = fmt.Errorf("expected an evening of 1 to %d, got %d", MostEvenings, c.Evening)
		}
		if err == nil {
			err = failed[c.Patch]
		}
		if err == nil && known[c.Patch] == nil {
			known[c.Patch], losses[c.Patch], err = m.translate(c.Patch, opt)
			failed[c.Patch] = err
		}
		if err != nil {
			m.Faults[i] = err.Error()
		}
		cue.Loss, cue.Why = m.mine(losses[c.Patch], c.Player)
		m.Cues, m.Sheets = append(m.Cues, cue), append(m.Sheets, known[c.Patch])
		if opt.Told != nil {
			opt.Told(i+1, len(d.Cues))
		}
	}
	for i := range m.Faults { // before others are looked at: what cannot be played is in nobody's way
		m.Cues[i].Loss = nil
	}
	for i, said := range m.Check() {
		if m.Faults[i] == "" {
			m.Faults[i] = said
		}
	}
	for i := range m.Faults { // it is left aside
		m.Cues[i].Loss = nil
	}
	m.Change, m.Problem.Hands = m.change, func(k, from, to int) bool { return !m.panels[k].Memory }
	return m, nil
}

// mine gives what is lost on the instruments that a player may play.
func (m *Made) mine(loss []float64, player string) (out []float64, why string) {
	if loss == nil {
		return nil, ""
	}
	some := false
	out = slices.Clone(loss)
	for k := range out {
		if with := m.Hire[k].Player; with != "" && player != with {
			out[k] = math.NaN()
		} else {
			some = true
		}
	}
	switch {
	case len(out) == 0:
		why = "there is no instrument in this house"
	case !some && player == "":
		why = "every instrument here stands with somebody else: name who plays it"
	case !some:
		why = fmt.Sprintf("%s has no instrument here", player)
	}
	return out, why
}

func (m *Made) translate(name string, opt Options) ([]*gloss.Sheet, []float64, error) {
	p, src, err := opt.Patches(name)
	if err != nil {
		return nil, nil, err
	}
	sheets, loss := make([]*gloss.Sheet, len(m.panels)), make([]float64, len(m.panels))
	for k, dst := range m.panels {
		loss[k] = math.NaN()
		if opt.Apart != nil {
			s, apart, err := opt.Apart(p, src, dst)
			if err != nil {
				return nil, nil, err
			}
			sheets[k], loss[k] = s, apart
			continue
		}
		made := opt.Sheet
		if made == nil {
			made = func(p *patch.Patch, src, dst *panel.Compiled) (*gloss.Sheet, error) {
				return translate.Translate(src, p, dst, translate.Options{School: opt.School})
			}
		}
		s, err := made(p, src, dst)
		if err != nil {
			return nil, nil, err
		}
		sheets[k], loss[k] = s, s.Plan.Cost
	}
	return sheets, loss, nil
}

// change is how long a changeover takes: by hand the controls that change, by the pace; on an instrument with memory a change of program.
func (m *Made) change(k, from, to int) float64 {
	if m.panels[k].Memory {
		if m.Doc.Cues[from].Patch == m.Doc.Cues[to].Patch {
			return 0
		}
		return or(m.Doc.Program, program)
	}
	key := change{k, m.Doc.Cues[from].Patch, m.Doc.Cues[to].Patch}
	n, ok := m.counts[key]
	if !ok {
		x, err := m.Over(k, from, to)
		if err != nil {
			return math.Inf(1)
		}
		n = x.Count()
		m.counts[key] = n
	}
	return float64(n) * m.Pace(m.Doc.Cues[to].Player)
}

// Pace gives how long a player takes for a control, in seconds.
func (m *Made) Pace(player string) float64 { return or(m.paces[player], or(m.Doc.Pace, pace)) }

// Over lists the changeover of an instrument from one cue to another.
func (m *Made) Over(k, from, to int) (dialin.Changeover, error) {
	a, b := m.Sheets[from], m.Sheets[to]
	if a == nil || b == nil {
		return dialin.Changeover{}, errors.New("one of the cues has no translation")
	}
	return dialin.Between(m.panels[k], a[k], b[k])
}

// Panel gives an instrument.
func (m *Made) Panel(k int) *panel.Compiled { return m.panels[k] }

func or(a, b float64) float64 {
	if a > 0 {
		return a
	}
	return b
}

// Next is the changeover that a cue begins with: from which cue on its instrument, how many moves, how long it takes and how long there is. From is -1 where it is the first there.
type Next struct {
	From       int
	Moves      int
	Takes, Gap float64
	// Work is when the player's hands are at it; none where it takes none, or nobody in particular plays the cue.
	Work []Span
}

// Running gives the running order of a plan: what each cue begins with. A cue that is not played has none.
func (m *Made) Running(x *Plan) []*Next {
	out := make([]*Next, len(m.Cues))
	var cues []int
	for i, k := range x.On {
		if k >= 0 {
			cues = append(cues, i)
		}
	}
	work := map[int][]Span{}
	for _, evening := range m.evenings(cues) {
		maps.Copy(work, m.work(evening, x.On))
	}
	m.order(cues)
	last := slices.Repeat([]int{-1}, len(m.Instruments))
	for at, i := range cues {
		if at > 0 && m.Cues[i].Evening != m.Cues[cues[at-1]].Evening { // set beforehand
			last = slices.Repeat([]int{-1}, len(m.Instruments))
		}
		k := x.On[i]
		n := &Next{From: last[k]}
		last[k] = i
		if n.From >= 0 {
			n.Takes, n.Gap, n.Work = m.change(k, n.From, i), m.Cues[i].Start-m.Cues[n.From].End, work[i]
			if !m.panels[k].Memory {
				if over, err := m.Over(k, n.From, i); err == nil {
					n.Moves = over.Count()
				}
			}
		}
		out[i] = n
	}
	return out
}
