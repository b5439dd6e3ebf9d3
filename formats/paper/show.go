package paper

import (
	"fmt"
	"math"
	"strings"

	"glossator/core/show"
)

// lost says in what the losses of a show are.
func lost(heard bool) string {
	if heard {
		return "in just-noticeable differences, as heard"
	}
	return "by what the parts weigh that are lost, not yet as heard"
}

// RunningOrder is the running order of a show in a house as a document, large, with boxes to tick; of one evening, or of all where evening is 0.
func RunningOrder(v *show.Planned, evening int) *Paper {
	p := &Paper{Title: fmt.Sprintf("%s: running order, %s", v.Show, v.House), Ticks: true, Large: true, Wide: true,
		Columns: []string{"Time", "Cue", "Player", "On", "Before it", "Takes", "There is", "Begin by", "Patch", "Lost"}, Widths: []float64{14, 28, 18, 18, 30, 11, 12, 12, 0, 0}}
	p.About = append(p.About, fmt.Sprintf("What is lost adds up to %.1f, %s. Times are those of the evening. Turn down before a changeover.", v.Loss, lost(v.Heard)))
	if !v.Exact {
		p.About = append(p.About, "The show has more ways to be played than could be looked at: another may be better.")
	}
	for _, c := range v.Conflicts {
		if evening != 0 && c.Evening != evening {
			continue
		}
		p.About = append(p.About, fmt.Sprintf("Evening %d: %s", c.Evening, c.Why))
		for _, w := range c.Ways {
			p.About = append(p.About, "It can be played so: "+w.Says)
		}
	}
	for _, a := range v.Aside {
		p.About = append(p.About, "Left aside: "+a)
	}
	evenings, parts := []int{}, map[int]*Part{}
	for i := range v.Cues {
		c := &v.Cues[i]
		if evening != 0 && c.Evening != evening {
			continue
		}
		x := parts[c.Evening]
		if x == nil {
			x = &Part{Title: fmt.Sprintf("Evening %d", c.Evening)}
			parts[c.Evening] = x
			evenings = append(evenings, c.Evening)
		}
		on, before, takes, gap, by, loss := "", "", "", "", "", ""
		switch {
		case c.Fault != "":
			on = "left aside: " + c.Fault
		case c.On < 0:
			on = "DROPPED"
		default:
			on, loss = v.Instruments[c.On].Name, fmt.Sprintf("%.1f", *c.Loss)
			switch {
			case c.From < 0:
				before = "set beforehand"
			case c.Moves > 0:
				before = fmt.Sprintf("%d to change from %s", c.Moves, v.Cues[c.From].Name)
			case c.Takes > 0:
				before = "program, from " + v.Cues[c.From].Name
			default:
				before = "stands from " + v.Cues[c.From].Name
			}
			if c.From >= 0 {
				takes, gap = show.Clock(math.Ceil(c.Takes)), show.Clock(c.Gap)
				if c.Takes > 0 {
					by = show.Clock(c.Start - math.Ceil(c.Takes))
				}
			}
			if len(c.Work) > 0 {
				by = show.Clock(c.Work[0].From)
			}
		}
		x.Rows = append(x.Rows, []string{show.Clock(c.Start), c.Name, c.Player, on, before, takes, gap, by, c.Patch, loss})
	}
	for _, e := range evenings {
		p.add(*parts[e])
	}
	return p
}

// Hire is a hire list as a document to send.
func Hire(l *show.HireList) *Paper {
	p := &Paper{Title: fmt.Sprintf("%s: what to hire, %s", l.Show, l.House), Columns: []string{"Instruments", "Price", "Lost", "Worst", "Not played", "Notes"}, Widths: []float64{30, 10, 10, 28, 30, 30}, Wide: true}
	p.About = append(p.About, fmt.Sprintf("%d cues. What is lost is %s; less is better.", l.Cues, lost(l.Heard)))
	if l.Note != "" {
		p.About = append(p.About, l.Note)
	}
	for _, a := range l.Aside {
		p.About = append(p.About, "Left aside: "+a)
	}
	worst := func(cues []show.HireCueLoss) string {
		var out []string
		for _, c := range cues[:min(3, len(cues))] {
			out = append(out, fmt.Sprintf("%s %.1f", c.Name, c.Loss))
		}
		return strings.Join(out, ", ")
	}
	each := Part{Title: "What each carries of the whole book"}
	for _, h := range l.Each {
		var notes []string
		if h.Second != "" && (h.Plays > 0 || h.Spares > 0) {
			adds := fmt.Sprintf("%s beside it spares %.1f", h.Second, h.Spares)
			if h.Plays > 0 {
				adds += fmt.Sprintf(" and plays %d more", h.Plays)
			}
			notes = append(notes, adds)
		}
		if h.Saved != nil {
			notes = append(notes, fmt.Sprintf("%s behind it saves %.1f", l.Rack, *h.Saved))
		}
		if h.Instrument.Player != "" {
			notes = append(notes, "stands with "+h.Instrument.Player)
		}
		if h.Instrument.Note != "" {
			notes = append(notes, h.Instrument.Note)
		}
		each.Rows = append(each.Rows, []string{h.Instrument.Name, fmt.Sprintf("%g", h.Instrument.Price), fmt.Sprintf("%.1f", h.Loss), worst(h.Cues), strings.Join(h.Cannot, ", "), strings.Join(notes, "; ")})
	}
	p.add(each)
	p.add(sets(l, 2, "Two together, as the evening can be played"))
	p.add(sets(l, 3, "Three together, as the evening can be played"))
	return p
}

func sets(l *show.HireList, size int, title string) Part {
	x := Part{Title: title}
	for _, s := range l.Sets {
		if s.Size != size || len(x.Rows) == 10 {
			continue
		}
		notes := ""
		if len(s.Unused) > 0 {
			notes = strings.Join(s.Unused, ", ") + " not needed"
		}
		x.Rows = append(x.Rows, []string{strings.Join(s.Instruments, " + "), fmt.Sprintf("%g", s.Price), fmt.Sprintf("%.1f", s.Loss), fmt.Sprintf("%s %.1f", s.Worst, s.WorstLoss), strings.Join(s.Dropped, ", "), notes})
	}
	return x
}
