package show

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"glossator/core/dialin"
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

// Doc is a show as somebody writes it down.
type Doc struct {
	Format  string `json:"format"`
	Version int    `json:"version"`
	Name    string `json:"name"`
	// Pace is how long a hand takes for one control, in seconds; 0 for 4. Program is how long an instrument with memory takes to another program; 0 for 2.
	Pace    float64   `json:"pace,omitempty"`
	Program float64   `json:"program,omitempty"`
	Cues    []CueDoc  `json:"cues"`
	Hire    []HireDoc `json:"instruments"`
}

// CueDoc is a cue; times are minutes and seconds of the evening, "12:30".
type CueDoc struct {
	Name   string `json:"name"`
	Patch  string `json:"patch"`
	Start  string `json:"start"`
	End    string `json:"end"`
	Player string `json:"player,omitempty"`
}

// HireDoc is an instrument that can be hired.
type HireDoc struct {
	Panel string  `json:"panel"`
	Price float64 `json:"price,omitempty"`
	Note  string  `json:"note,omitempty"`
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

// Made is a show with its translations, ready to be planned.
type Made struct {
	*Problem
	Doc *Doc
	// Faults are what is wrong with a cue, by its number: it is left aside.
	Faults map[int]string
	// Sheets are the translations by cue and instrument; nil where there is none.
	Sheets [][]*gloss.Sheet
	panels []*panel.Compiled
}

// Options are what a show is made with. Patches and Panels find what is named, nil where it is not there. Apart gives how far a translation sounds from its patch, in just-noticeable differences; where it is nil the loss is what the sheet says weighs in parts that are lost.
type Options struct {
	Patches func(name string) (*patch.Patch, *panel.Compiled, error)
	Panels  func(id string) *panel.Compiled
	School  plan.School
	Apart   func(p *patch.Patch, src, dst *panel.Compiled) (*gloss.Sheet, float64, error)
	Told    func(done, all int)
}

// Make translates every cue to every instrument. A cue that cannot be is named, and the others are made.
func Make(d *Doc, opt Options) (*Made, error) {
	if d.Format != Format || d.Version != Version {
		return nil, fmt.Errorf("expected %q of version %d, got %q of version %d", Format, Version, d.Format, d.Version)
	}
	if len(d.Hire) == 0 {
		return nil, errors.New("expected at least one instrument")
	}
	m := &Made{Problem: &Problem{}, Doc: d, Faults: map[int]string{}}
	for _, h := range d.Hire {
		c := opt.Panels(h.Panel)
		if c == nil {
			return nil, fmt.Errorf("expected the id of a panel that is here, got %q", h.Panel)
		}
		m.panels, m.Instruments = append(m.panels, c), append(m.Instruments, c.Name)
	}
	known := map[string][]*gloss.Sheet{} // by patch
	losses := map[string][]float64{}
	for i, c := range d.Cues {
		cue := Cue{Name: c.Name, Player: c.Player}
		var err error
		if cue.Start, err = Seconds(c.Start); err == nil {
			cue.End, err = Seconds(c.End)
		}
		if err == nil && known[c.Patch] == nil {
			known[c.Patch], losses[c.Patch], err = m.translate(c.Patch, opt)
		}
		if err != nil {
			m.Faults[i] = err.Error()
		}
		cue.Loss = losses[c.Patch]
		m.Cues, m.Sheets = append(m.Cues, cue), append(m.Sheets, known[c.Patch])
		if opt.Told != nil {
			opt.Told(i+1, len(d.Cues))
		}
	}
	for i, said := range m.Check() {
		if m.Faults[i] == "" {
			m.Faults[i] = said
		}
	}
	for i := range m.Faults { // it is left aside
		m.Cues[i].Loss = nil
	}
	m.Change = m.change
	return m, nil
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
		s, err := translate.Translate(src, p, dst, translate.Options{School: opt.School})
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
	x, err := m.Over(k, from, to)
	if err != nil {
		return math.Inf(1)
	}
	return float64(x.Count()) * or(m.Doc.Pace, pace)
}

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
}

// Running gives the running order of a plan: what each cue begins with. A cue that is not played has none.
func (m *Made) Running(x *Plan) []*Next {
	out := make([]*Next, len(m.Cues))
	for i, k := range x.On {
		if k < 0 {
			continue
		}
		n := &Next{From: -1}
		for j, on := range x.On {
			if on == k && j != i && m.Cues[j].End <= m.Cues[i].Start && (n.From < 0 || m.Cues[j].End > m.Cues[n.From].End) {
				n.From = j
			}
		}
		if n.From >= 0 {
			n.Takes, n.Gap = m.change(k, n.From, i), m.Cues[i].Start-m.Cues[n.From].End
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
