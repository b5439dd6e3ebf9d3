package show

import (
	"fmt"
	"math"
	"slices"

	"glossator/core/gloss"
)

// Planned is a show as it is planned for one house, in words and rounded, for page, documents and command line.
type Planned struct {
	Show  string `json:"show"`
	House string `json:"house"`
	Note  string `json:"note,omitempty"`
	// Heard tells that what is lost is in just-noticeable differences; else it is what weighs of the parts that are lost.
	Heard bool `json:"heard"`
	// Loss is the sum over what is played.
	Loss        float64      `json:"loss"`
	Instruments []Instrument `json:"instruments"`
	Cues        []PlannedCue `json:"cues"`
	// Dropped are cues by their number.
	Dropped   []int             `json:"dropped"`
	Conflicts []PlannedConflict `json:"conflicts"`
	// Aside are instruments that are left aside, with why.
	Aside  []string `json:"aside"`
	States int      `json:"states"`
	// Exact tells that no way is better.
	Exact bool `json:"exact"`
}

// Instrument is one that a house has.
type Instrument struct {
	Panel  string  `json:"panel"`
	Name   string  `json:"name"`
	Player string  `json:"player,omitempty"`
	Price  float64 `json:"price"`
	Note   string  `json:"note,omitempty"`
	Memory bool    `json:"memory"`
}

// PlannedCue is a cue as it is planned. Times are in seconds of its evening.
type PlannedCue struct {
	ID      string  `json:"id,omitempty"`
	Name    string  `json:"name"`
	Patch   string  `json:"patch"`
	Player  string  `json:"player,omitempty"`
	Evening int     `json:"evening"`
	Start   float64 `json:"start"`
	End     float64 `json:"end"`
	// On is the number of the instrument; -1 where it is dropped or left aside.
	On   int      `json:"on"`
	Loss *float64 `json:"loss,omitempty"`
	// From is the number of the cue that its instrument is changed over from; -1 for none.
	From  int     `json:"from"`
	Moves int     `json:"moves"`
	Takes float64 `json:"takes"`
	Gap   float64 `json:"gap"`
	// Work is when the player's hands are at it.
	Work []PlannedSpan `json:"work"`
	// Fault says why it is left aside.
	Fault string `json:"fault,omitempty"`
}

// PlannedSpan is a stretch of an evening in seconds.
type PlannedSpan struct {
	From float64 `json:"from"`
	To   float64 `json:"to"`
}

// PlannedConflict is a smallest set of cues of an evening, by their numbers, that cannot all be played: why, and what would let all be played. Least tells that no smaller set excludes itself.
type PlannedConflict struct {
	Evening int          `json:"evening"`
	Cues    []int        `json:"cues"`
	Least   bool         `json:"least"`
	Why     string       `json:"why"`
	Ways    []PlannedWay `json:"ways"`
}

// PlannedWay is one way to play all: without a cue, or with one that waits, in seconds.
type PlannedWay struct {
	Cue  int     `json:"cue"`
	Wait float64 `json:"wait"`
	Loss float64 `json:"loss"`
	Says string  `json:"says"`
}

// View gives a plan in words. Ways are looked for where something is dropped.
func (m *Made) View(x *Plan) (*Planned, error) {
	out := &Planned{Show: m.Doc.Name, House: m.House.Name, Note: m.House.Note, Heard: m.Heard, Loss: gloss.Round(x.Loss, 2), Instruments: []Instrument{}, Cues: []PlannedCue{},
		Dropped: some(x.Dropped), Conflicts: []PlannedConflict{}, Aside: m.Aside, States: x.States, Exact: x.Exact}
	if out.Aside == nil {
		out.Aside = []string{}
	}
	for k, h := range m.Hire {
		out.Instruments = append(out.Instruments, Instrument{h.Panel, m.Instruments[k], h.Player, h.Price, h.Note, m.panels[k].Memory})
	}
	run := m.Running(x)
	for i, c := range m.Cues {
		d := &m.Doc.Cues[i]
		y := PlannedCue{ID: d.ID, Name: c.Name, Patch: d.Patch, Player: c.Player, Evening: d.day() + 1, Start: c.Start, End: c.End, On: x.On[i], From: -1, Fault: m.Faults[i], Work: []PlannedSpan{}}
		if n := run[i]; n != nil {
			loss := gloss.Round(c.Loss[x.On[i]], 2)
			y.Loss = &loss
			if n.From >= 0 {
				y.From, y.Moves, y.Takes, y.Gap = n.From, n.Moves, gloss.Round(n.Takes, 1), gloss.Round(n.Gap, 1)
				for _, w := range n.Work {
					y.Work = append(y.Work, PlannedSpan(w))
				}
			}
		}
		out.Cues = append(out.Cues, y)
	}
	for _, x := range x.Conflicts {
		y := PlannedConflict{Evening: m.Cues[x.Cues[0]].Evening + 1, Cues: x.Cues, Least: x.Least, Why: m.Explain(x), Ways: []PlannedWay{}}
		ways, err := m.Ways(x)
		if err != nil {
			return nil, err
		}
		for _, w := range ways {
			z := PlannedWay{Cue: w.Cue, Wait: w.Wait, Loss: gloss.Round(w.Loss, 2), Says: fmt.Sprintf("Leave %s out.", m.Cues[w.Cue].Name)}
			if w.Wait > 0 {
				z.Says = fmt.Sprintf("Let %s wait %.0f s, to %s, and all after it on that evening.", m.Cues[w.Cue].Name, w.Wait, Clock(m.Cues[w.Cue].Start+w.Wait))
			}
			y.Ways = append(y.Ways, z)
		}
		out.Conflicts = append(out.Conflicts, y)
	}
	return out, nil
}

// HireList is what the instruments of a house would carry of a book.
type HireList struct {
	Show  string        `json:"show"`
	House string        `json:"house"`
	Note  string        `json:"note,omitempty"`
	Heard bool          `json:"heard"`
	Each  []HireCarried `json:"each"`
	// Sets are sets of two and of three by Size, the best first: what plays the most of the book, then loses the least, as it can be played.
	Sets []HireSet `json:"sets"`
	// Rack names the rack that Saved counts; empty for none.
	Rack  string   `json:"rack,omitempty"`
	Cues  int      `json:"cues"`
	Aside []string `json:"aside"`
}

// HireCarried is what one instrument would carry.
type HireCarried struct {
	Instrument Instrument `json:"instrument"`
	// Loss is the sum over all cues that it can play, Cues are those, the worst first; Cannot names those that it cannot play.
	Loss   float64       `json:"loss"`
	Cues   []HireCueLoss `json:"cues"`
	Cannot []string      `json:"cannot"`
	// Saved is how much less is lost with the rack behind it.
	Saved *float64 `json:"saved,omitempty"`
	// Second is what adds the most to it: Plays cues more, Spares less lost of the others.
	Second string  `json:"second,omitempty"`
	Plays  int     `json:"plays"`
	Spares float64 `json:"spares"`
}

// HireCueLoss is what is lost of a cue.
type HireCueLoss struct {
	Name string  `json:"name"`
	Loss float64 `json:"loss"`
}

// HireSet is a set of instruments.
type HireSet struct {
	Size        int      `json:"size"`
	Instruments []string `json:"instruments"`
	Price       float64  `json:"price"`
	Loss        float64  `json:"loss"`
	// Worst is the cue of which it loses the most.
	Worst     string   `json:"worst,omitempty"`
	WorstLoss float64  `json:"worstLoss"`
	Dropped   []string `json:"dropped"`
	// Unused are those of the set that the plan does without.
	Unused []string `json:"unused"`
}

// ListHire makes the hire list of a show.
func (m *Made) ListHire(rack string, racked func(cue, on int) float64) (*HireList, error) {
	out := &HireList{Show: m.Doc.Name, House: m.House.Name, Note: m.House.Note, Heard: m.Heard, Rack: rack, Cues: len(m.Cues), Each: []HireCarried{}, Sets: []HireSet{}, Aside: m.Aside}
	if out.Aside == nil {
		out.Aside = []string{}
	}
	var by [4][]Hire
	for size := 1; size <= min(3, len(m.Instruments)); size++ {
		var err error
		if by[size], err = m.Hires(size); err != nil {
			return nil, err
		}
	}
	adds := m.Adds(by[1], by[2])
	for _, c := range m.Carry(racked) {
		k := c.Instrument
		h := m.Hire[k]
		y := HireCarried{Instrument: Instrument{h.Panel, m.Instruments[k], h.Player, h.Price, h.Note, m.panels[k].Memory}, Loss: gloss.Round(c.Loss, 2), Cues: []HireCueLoss{}, Cannot: m.names(c.Cannot)}
		for _, l := range c.Cues {
			y.Cues = append(y.Cues, HireCueLoss{m.Cues[l.Cue].Name, gloss.Round(l.Loss, 2)})
		}
		if !math.IsNaN(c.Saved) {
			saved := gloss.Round(c.Saved, 2)
			y.Saved = &saved
		}
		for _, a := range adds {
			if a.First == k {
				y.Second, y.Plays, y.Spares = m.Instruments[a.Second], a.Plays, gloss.Round(a.Spares, 2)
				break
			}
		}
		out.Each = append(out.Each, y)
	}
	for size := 2; size <= 3; size++ {
		for _, h := range by[size] {
			y := HireSet{Size: size, Instruments: []string{}, Price: gloss.Round(m.Price(h.Set), 2), Loss: gloss.Round(h.Plan.Loss, 2), Dropped: m.names(h.Plan.Dropped), Unused: []string{}}
			used := Needed(h)
			for _, k := range h.Set {
				y.Instruments = append(y.Instruments, m.Instruments[k])
				if !slices.Contains(used, k) {
					y.Unused = append(y.Unused, m.Instruments[k])
				}
			}
			if i, loss, ok := m.Worst(h.Plan); ok {
				y.Worst, y.WorstLoss = m.Cues[i].Name, gloss.Round(loss, 2)
			}
			out.Sets = append(out.Sets, y)
		}
	}
	return out, nil
}

func (m *Made) names(cues []int) []string {
	out := []string{}
	for _, i := range cues {
		out = append(out, m.Cues[i].Name)
	}
	return out
}

func some(x []int) []int {
	if x == nil {
		return []int{}
	}
	return x
}
