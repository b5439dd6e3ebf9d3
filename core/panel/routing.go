package panel

import (
	"fmt"
	"strings"

	"glossator/core/fault"
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

func (c *Compiled) knownSource(from string) bool {
	_, ok := c.module[from]
	return ok || meaning.IsSource(from)
}

func (c *Compiled) routing(l *fault.List) {
	ends := func(path string, to []string) bool {
		ok := true
		for i, d := range to {
			p, err := c.Param(d)
			if err == nil && p.Dim == q.DimName {
				err = fmt.Errorf("expected something with an amount: %s of %s is a choice of words, which nothing moves by degrees; it is set by hand, or switched by a control", p.Label, d)
			}
			if err != nil {
				l.Add(fmt.Sprintf("%s/%d", path, i), "%v", err)
				ok = false
			}
		}
		if len(to) == 0 {
			l.Add(path, "expected at least one destination")
		}
		return ok && len(to) > 0
	}
	depth := func(path, key, text, dest string) {
		p, err := c.depthParam(dest)
		if err != nil {
			return
		}
		v, err := fixedValue(p, text)
		if err != nil {
			l.Add(path, "expected a depth in %s such as %q: %v", p.Dim, "50 %", err)
			return
		}
		c.depths[key] = v
	}
	for i := range c.Routes {
		r := &c.Routes[i]
		path := fmt.Sprintf("/routes/%d", i)
		if !c.knownSource(r.From) {
			l.Add(path+"/from", "expected a module or a source of play, got %q", r.From)
		}
		if r.Via != "" && !c.knownSource(r.Via) {
			l.Add(path+"/via", "expected a module or a source of play, got %q", r.Via)
		}
		if ends(path+"/to", r.To) {
			bound := len(c.binds[meaning.Ref(r.ID, meaning.PDepth)]) > 0
			switch {
			case r.Depth == "" && !bound:
				l.Add(path+"/depth", "expected a fixed depth, or a control bound to %s.depth", r.ID)
			case r.Depth != "":
				depth(path+"/depth", r.ID, r.Depth, r.To[0])
			}
		}
		if r.Normal != "" {
			if _, ok := c.point[r.Normal]; !ok {
				l.Add(path+"/normal", "expected the id of a patch point, got %q", r.Normal)
			}
		}
	}
	if m := c.Matrix; m != nil {
		for name, from := range m.Sources {
			if !c.knownSource(from) {
				l.Add("/matrix/sources"+fault.Path(name), "expected a module or a source of play, got %q", from)
			}
		}
		for i, d := range m.Destinations {
			path := fmt.Sprintf("/matrix/destinations/%d", i)
			if ends(path+"/to", d.To) {
				depth(path+"/full", "dest:"+d.Name, d.Full, d.To[0])
			}
		}
		for i, s := range m.Slots {
			path := fmt.Sprintf("/matrix/slots/%d", i)
			if s.Source != "" && !c.knownSource(s.Source) {
				l.Add(path+"/source", "expected a module or a source of play, got %q", s.Source)
			}
			if s.Via != "" && !c.knownSource(s.Via) {
				l.Add(path+"/via", "expected a module or a source of play, got %q", s.Via)
			}
			if _, ok := c.dest[s.Dest]; s.Dest != "" && !ok {
				l.Add(path+"/dest", "expected the name of a destination, got %q", s.Dest)
			}
		}
	}
	for i, p := range c.Points {
		path := fmt.Sprintf("/points/%d", i)
		switch {
		case p.Dir == "out":
			if !c.knownSource(p.Of) {
				l.Add(path+"/of", "expected a module or a source of play, got %q", p.Of)
			}
		case p.Dir == "in":
			if len(p.To) == 1 && strings.HasSuffix(p.To[0], ".in") {
				if id, _ := meaning.Split(p.To[0]); !c.isAttenuator(id) {
					l.Add(path+"/to/0", "expected an attenuator before .in, got %q: cables carry what moves a parameter, not sound; the way of the sound is described as it is wired, with what switches it", p.To[0])
				}
			} else if ends(path+"/to", p.To) {
				depth(path+"/full", "point:"+p.ID, p.Full, p.To[0])
			}
		default:
			l.Add(path+"/dir", "expected in or out, got %q", p.Dir)
		}
	}
	for i, e := range c.Audio {
		path := fmt.Sprintf("/audio/%d", i)
		if _, ok := c.module[e.From]; !ok {
			l.Add(path+"/from", "expected the id of a module, got %q", e.From)
		}
		if _, ok := c.module[e.To]; !ok && e.To != "out" {
			l.Add(path+"/to", "expected the id of a module or out, got %q", e.To)
		}
	}
}

func (c *Compiled) isAttenuator(id string) bool {
	i, ok := c.module[id]
	return ok && c.Modules[i].Kind == meaning.Atten
}

// loops finds audio paths that return to themselves other than through a feedback path.
func (c *Compiled) loops(l *fault.List) {
	next := map[string][]int{}
	for i, e := range c.Audio {
		if m, ok := c.module[e.To]; ok && c.Modules[m].Kind == meaning.Feedback {
			continue
		}
		next[e.From] = append(next[e.From], i)
	}
	state := map[string]int{}
	var walk func(id string)
	walk = func(id string) {
		state[id] = 1
		for _, i := range next[id] {
			switch to := c.Audio[i].To; state[to] {
			case 0:
				walk(to)
			case 1:
				l.Add(fmt.Sprintf("/audio/%d", i), "expected no way back: %s to %s closes a loop without a feedback module", id, to)
			}
		}
		state[id] = 2
	}
	for _, m := range c.Modules {
		if state[m.ID] == 0 {
			walk(m.ID)
		}
	}
}
