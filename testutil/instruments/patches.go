package instruments

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	q "glossator/core/quantity"
)

// player is a patch on its way.
type player struct {
	*rand.Rand
	c        *panel.Compiled
	kind     string
	readings map[string]string
	set      map[int]bool
}

// Patch invents a patch that somebody would play: an audible bass, lead, pad or pluck. Every control that it moves is set by what it means.
func Patch(c *panel.Compiled, seed uint64) *patch.Patch {
	p := &player{Rand: rand.New(rand.NewPCG(seed, 733)), c: c, readings: map[string]string{}, set: map[int]bool{}}
	p.kind = []string{"bass", "lead", "pad", "pluck"}[p.IntN(4)]
	for i := range c.Modules {
		p.module(&c.Modules[i])
	}
	for i := range c.Routes {
		p.route(c.Routes[i].ID, c.Routes[i].From, c.Routes[i].To[0])
	}
	p.slots()
	octave := map[string]int{"bass": 2, "lead": 4, "pad": 4, "pluck": 4}[p.kind]
	long := map[string]string{"bass": "1/2", "lead": "1/2", "pad": "1/1", "pluck": "1/4"}[p.kind]
	notes := []patch.PhraseNote{{At: "0", For: long, Note: fmt.Sprintf("C%d", octave), Velocity: 100}}
	wheel := 0.0
	if p.Float64() < 0.3 {
		wheel = 0.5
	}
	return &patch.Patch{Format: patch.Format, Version: patch.Version, ID: fmt.Sprintf("played-%d", seed), Name: fmt.Sprintf("Played %d", seed), Panel: c.ID, Kind: p.kind, Tempo: 120, Wheel: wheel,
		Layers: []patch.Layer{{ID: "a", Readings: p.readings}}, Phrase: &patch.Phrase{Notes: notes}}
}

func (p *player) between(lo, hi float64) float64 { return lo + (hi-lo)*p.Float64() }

func (p *player) ratio(lo, hi float64) float64 { return lo * math.Pow(hi/lo, p.Float64()) }

// put sets a parameter to a number in its own unit, where a control is free for it.
func (p *player) put(ref string, part string, v float64) {
	for _, b := range p.c.Binds(ref) {
		bind := p.c.Bind(b)
		if p.set[b.Control] || bind.Part != part && part != "" {
			continue
		}
		d := bind.Law.Dim()
		s, err := p.c.Scale(b).Inverse(q.Quantity{Dim: d, Value: v})
		if err != nil {
			continue
		}
		p.set[b.Control], p.readings[p.c.Controls[b.Control].ID] = true, s.Reading
		return
	}
}

// any sets a control of words to any of its positions.
func (p *player) any(ref string) {
	for _, b := range p.c.Binds(ref) {
		if !p.set[b.Control] {
			list := p.c.Places(b.Control)
			p.set[b.Control], p.readings[p.c.Controls[b.Control].ID] = true, list[p.IntN(len(list))].Reading
		}
	}
}

func (p *player) module(d *panel.Module) {
	at := func(name meaning.ParamName) string { return meaning.Ref(d.ID, name) }
	maybe := func(share float64, name meaning.ParamName, v float64) {
		if p.Float64() < share {
			p.put(at(name), "", v)
		}
	}
	slow := map[string]float64{"bass": 0.01, "lead": 0.02, "pad": 0.6, "pluck": 0.003}[p.kind]
	switch d.Kind {
	case meaning.Osc:
		p.any(at(meaning.PWave))
		maybe(0.6, meaning.PWidth, p.between(0.1, 0.5))
		first := d.ID == "osc1"
		if !first || p.Float64() < 0.3 {
			if p.Float64() < 0.5 {
				p.put(at(meaning.PInterval), "octave", 1200*float64(p.IntN(3)-1))
			}
			if !first && p.Float64() < 0.25 {
				p.put(at(meaning.PInterval), "semi", 100*float64([]int{7, -5, 5}[p.IntN(3)]))
			}
			if !first && p.Float64() < 0.8 {
				p.put(at(meaning.PInterval), "fine", p.between(3, 14))
			}
		}
		if first || p.Float64() < 0.75 {
			p.put(at(meaning.PLevel), "", p.between(-8, 0))
		}
		if p.Float64() < 0.4 {
			p.any(at(meaning.PSync))
		}
	case meaning.Sub:
		maybe(0.5, meaning.PLevel, p.between(-12, -2))
	case meaning.Noise:
		maybe(0.35, meaning.PLevel, p.between(-30, -8))
	case meaning.Mixer:
		maybe(0.4, meaning.PDrive, p.between(2, 12))
	case meaning.Operator:
		maybe(0.8, meaning.PLevel, p.between(-18, 0))
		if strings.HasSuffix(d.ID, "1") || d.Fixed[meaning.POutput] != "" {
			p.put(at(meaning.PLevel), "", 0)
		}
		if p.Float64() < 0.6 {
			p.any(at(meaning.PInterval))
		}
	case meaning.Filter:
		p.any(at(meaning.PMode))
		p.any(at(meaning.PRouting))
		if d.Fixed[meaning.PMode] == "highpass" {
			maybe(0.6, meaning.PCutoff, p.ratio(40, 400))
		} else {
			lo, hi := 250.0, 4000.0
			if p.kind == "bass" {
				lo, hi = 100, 1200
			}
			p.put(at(meaning.PCutoff), "", p.ratio(lo, hi))
		}
		maybe(0.7, meaning.PResonance, p.between(0, 0.75))
		maybe(0.5, meaning.PTrack, p.between(0, 1))
	case meaning.Env:
		p.put(at(meaning.PAttack), "", slow*p.ratio(0.5, 2))
		p.put(at(meaning.PDecay), "", p.ratio(0.1, 1.5))
		p.put(at(meaning.PSustain), "", map[string]float64{"bass": p.between(0.2, 1), "lead": p.between(0.5, 1), "pad": p.between(0.6, 1), "pluck": p.between(0, 0.2)}[p.kind])
		p.put(at(meaning.PRelease), "", map[string]float64{"bass": p.ratio(0.03, 0.3), "lead": p.ratio(0.05, 0.5), "pad": p.ratio(0.5, 3), "pluck": p.ratio(0.1, 0.8)}[p.kind])
	case meaning.LFO:
		p.any(at(meaning.PWave))
		p.put(at(meaning.PRate), "", p.ratio(0.3, 8))
		maybe(0.4, meaning.PFade, p.ratio(0.2, 1))
	case meaning.Voice:
		maybe(0.3, meaning.PTranspose, 1200*float64(p.IntN(3)-1))
		maybe(0.3, meaning.PGlide, p.ratio(0.03, 0.2))
		if p.Float64() < 0.3 {
			p.put(at(meaning.PUnison), "", float64(2+p.IntN(3)))
			p.put(at(meaning.PSpread), "", p.between(5, 25))
		}
	case meaning.Amp:
		p.put(at(meaning.PLevel), "", p.between(-8, -1))
	case meaning.Chorus, meaning.Phaser:
		if p.Float64() < 0.5 {
			p.put(at(meaning.PMix), "", p.between(0.2, 0.5))
			p.put(at(meaning.PRate), "", p.ratio(0.2, 2))
			if d.Kind == meaning.Chorus {
				p.put(at(meaning.PDepth), "", p.ratio(0.0005, 0.003))
			} else {
				p.put(at(meaning.PDepth), "", p.between(0.2, 0.8))
			}
		}
	case meaning.Delay:
		if p.Float64() < 0.4 {
			p.put(at(meaning.PMix), "", p.between(0.1, 0.4))
			p.put(at(meaning.PTime), "", p.ratio(0.1, 0.6))
			p.put(at(meaning.PFeedback), "", p.between(0.1, 0.6))
			p.put(at(meaning.PDepth), "", p.ratio(0.0005, 0.003))
			p.put(at(meaning.PRate), "", p.ratio(0.2, 2))
		}
	case meaning.Reverb:
		if p.Float64() < 0.4 {
			p.put(at(meaning.PMix), "", p.between(0.1, 0.4))
			p.put(at(meaning.PT60), "", p.ratio(0.5, 4))
		}
	case meaning.Drive:
		maybe(0.5, meaning.PGain, p.between(3, 18))
	}
}

// depthOf gives how deep somebody would let something move a parameter.
func (p *player) depthOf(from, to string) float64 {
	_, param := meaning.Split(to)
	env := false
	if i, ok := p.c.ModuleIndex(from); ok {
		env = p.c.Modules[i].Kind == meaning.Env
	}
	switch param {
	case meaning.PCutoff:
		if env {
			return p.between(0.5, 4)
		}
		return p.between(0.2, 1.5)
	case meaning.PTune, meaning.PInterval:
		return p.ratio(5, 40)
	case meaning.PLevel:
		return p.between(0.2, 0.8)
	}
	return p.between(0.1, 0.35)
}

func (p *player) route(id, from, to string) {
	share := 0.4
	if i, ok := p.c.ModuleIndex(from); ok && p.c.Modules[i].Kind == meaning.Env {
		share = 0.8
	}
	if p.Float64() < share {
		p.put(meaning.Ref(id, meaning.PDepth), "", p.depthOf(from, to))
	}
}

func (p *player) slots() {
	if p.c.Matrix == nil {
		return
	}
	for i := range p.c.Matrix.Slots {
		if p.Float64() < 0.5 {
			continue
		}
		id := p.c.Matrix.Slots[i].ID
		p.any(meaning.Ref(id, meaning.PSource))
		p.any(meaning.Ref(id, meaning.PDest))
		p.put(meaning.Ref(id, meaning.PAmount), "", p.between(0.02, 0.3))
	}
}
