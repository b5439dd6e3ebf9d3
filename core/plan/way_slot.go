package plan

import (
	"fmt"
	"math"
	"slices"

	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
)

// inSlot is a slot of the matrix to one of its destinations; in a class of slots that are alike, and index -1 until one is picked.
type inSlot struct {
	class, dest, index int
	shared             *sharedWords // what the slot needs of controls that other slots have too; nil for none
}

// sharedWords are the words that controls have to stand at which choose for several slots at once.
type sharedWords map[int]string

func (w inSlot) of(t *Target) *panel.Slot { return &t.Matrix.Slots[w.index] }

func (w inSlot) Made(t *Target) (id, label string) { return w.of(t).ID, w.of(t).Label }

func (w inSlot) Sets(t *Target) string { return meaning.Ref(w.of(t).ID, meaning.PAmount) }

func (w inSlot) Depth(t *Target) []string { return []string{w.Sets(t)} }

func (w inSlot) Ends(t *Target) []string {
	id := w.of(t).ID
	return []string{meaning.Ref(id, meaning.PSource), meaning.Ref(id, meaning.PDest), meaning.Ref(id, meaning.PScaler), meaning.Ref(id, meaning.POn)}
}

func (w inSlot) When(t *Target) []panel.When { return w.of(t).When }

func (w inSlot) Means(*Target) Means { return BySlot }

func (w inSlot) Put(on Putter, t *Target, r *meaning.Route, player func(string) string) {
	slot, m := w.of(t), t.Matrix
	d := m.Destinations[w.dest]
	word := func(p meaning.ParamName, text string) { on.Put(meaning.Ref(slot.ID, p), q.Named(q.DimName, text)) }
	word(meaning.PSource, m.SourceName(player(r.From)))
	word(meaning.PDest, d.Name)
	if r.Via != "" && slot.Via == "" {
		word(meaning.PScaler, m.SourceName(player(r.Via)))
	}
	word(meaning.POn, "on")
	word(meaning.PPolarity, r.Polarity)
	on.Put(meaning.Ref(slot.ID, meaning.PAmount), q.Quantity{Dim: q.DimRatio, Value: r.Depth.Value / t.Full(d.Name).Value})
}

// free picks a slot of the class: the one of the same name where there is one, else the
// first that no other route of the source is named after, else the first.
func (w inSlot) free(s *moduleSearch, r *meaning.Route, u *taken) (Way, bool) {
	first, calm := -1, -1
	for _, i := range s.t.classes[w.class].slots {
		if u.slot[i] || !u.agree(s.wordsOf(i, w.dest, r)) {
			continue
		}
		id := s.t.Matrix.Slots[i].ID
		if id == r.ID {
			first, calm = i, i
			break
		}
		if first < 0 {
			first = i
		}
		if other := s.src.Route(id); calm < 0 && (other == nil || !other.Used()) {
			calm = i
		}
	}
	if w.index = first; calm >= 0 {
		w.index = calm
	}
	if w.index >= 0 {
		if words := s.wordsOf(w.index, w.dest, r); len(words) > 0 {
			w.shared = &words
		}
	}
	return w, w.index >= 0
}

func (w inSlot) take(u *taken, is bool) {
	mark(u.slot, w.index, is)
	if w.shared == nil {
		return
	}
	for k, word := range *w.shared {
		if is {
			u.words[k] = append(u.words[k], word)
		} else {
			u.words[k] = u.words[k][:len(u.words[k])-1]
		}
	}
}

// agree tells whether controls stand at no other words yet.
func (u *taken) agree(words sharedWords) bool {
	for k, word := range words {
		if len(u.words[k]) > 0 && u.words[k][0] != word {
			return false
		}
	}
	return true
}

// wordsOf lists what a slot needs of controls that other slots have too, for a route to a destination: two slots that share a source cannot carry two.
func (s *moduleSearch) wordsOf(slot, dest int, r *meaning.Route) sharedWords {
	shared := s.t.slotShares[slot]
	if len(shared) == 0 {
		return nil
	}
	m, out := s.t.Matrix, sharedWords{}
	for k, p := range shared {
		switch p {
		case meaning.PSource:
			out[k] = m.SourceName(s.source(r.From))
		case meaning.PDest:
			out[k] = m.Destinations[dest].Name
		case meaning.PScaler:
			out[k] = ""
			if r.Via != "" {
				out[k] = m.SourceName(s.source(r.Via))
			}
		}
	}
	return out
}

// findSlotShares finds, for each slot, the controls of its source, destination and scaler that other slots have too.
func (t *Target) findSlotShares() {
	if t.Matrix == nil {
		return
	}
	users := map[int][]int{}
	each := func(do func(slot, control int, p meaning.ParamName)) {
		for i := range t.Matrix.Slots {
			for _, p := range []meaning.ParamName{meaning.PSource, meaning.PDest, meaning.PScaler} {
				for _, b := range t.Binds(meaning.Ref(t.Matrix.Slots[i].ID, p)) {
					do(i, b.Control, p)
				}
			}
		}
	}
	each(func(slot, control int, _ meaning.ParamName) {
		if !slices.Contains(users[control], slot) {
			users[control] = append(users[control], slot)
		}
	})
	t.slotShares = make([]map[int]meaning.ParamName, len(t.Matrix.Slots))
	each(func(slot, control int, p meaning.ParamName) {
		if len(users[control]) > 1 {
			if t.slotShares[slot] == nil {
				t.slotShares[slot] = map[int]meaning.ParamName{}
			}
			t.slotShares[slot][control] = p
		}
	})
}

// unwired is what it costs, as a share of a route, to make it by a slot or a cable where the instrument may have it wired.
const unwired = 0.01

// slots adds the slots that can make a route.
func (s *moduleSearch) slots(out []Choice, e *ends) []Choice {
	m := s.t.Matrix
	if m == nil {
		return out
	}
	for n := range s.t.classes {
		k := &s.t.classes[n]
		slot := &m.Slots[k.slots[0]]
		if slot.Source != "" && slot.Source != e.from || slot.Source == "" && !k.sources[m.SourceName(e.from)] {
			continue
		}
		if slot.Via != e.via && (e.via == "" || !k.scalers[m.SourceName(e.via)]) {
			continue
		}
		for j := range m.Destinations {
			d := &m.Destinations[j]
			if slot.Dest != "" && slot.Dest != d.Name || slot.Dest == "" && !k.dests[d.Name] {
				continue
			}
			full := s.t.fulls[j]
			if full.Dim != e.r.Depth.Dim || full.Value == 0 {
				continue
			}
			polarity := d.Polarity
			if k.polarity {
				polarity = "" // the slot can be set to either
			}
			c, ok := s.shape(e, d.To, polarity)
			if !ok {
				continue
			}
			if over := math.Abs(e.r.Depth.Value/full.Value) - 1; over > 0 {
				c += loss(over * 20)
			}
			if !slices.ContainsFunc(k.slots, func(i int) bool { return m.Slots[i].ID == e.r.ID }) {
				c += unwired
			}
			out = append(out, Choice{Way: k.ways[j], Cost: c})
		}
	}
	return out
}

// slotClass is a set of slots that are alike.
type slotClass struct {
	slots                   []int
	sources, dests, scalers map[string]bool
	polarity                bool
	ways                    []Way // by destination, no slot being picked
}

// slotClasses groups the slots of a panel's matrix by what they can do.
func (t *Target) slotClasses() []slotClass {
	if t.Matrix == nil {
		return nil
	}
	var out []slotClass
	index := map[string]int{}
	for i := range t.Matrix.Slots {
		d := &t.Matrix.Slots[i]
		word := func(p meaning.ParamName) map[string]bool { return t.Words(meaning.Ref(d.ID, p)) }
		c := slotClass{slots: []int{i}, sources: word(meaning.PSource), dests: word(meaning.PDest), scalers: word(meaning.PScaler), polarity: len(t.Binds(meaning.Ref(d.ID, meaning.PPolarity))) > 0}
		key := fmt.Sprint(d.Source, "|", d.Dest, "|", d.Via, "|", d.When, "|", c.sources, c.dests, c.scalers, c.polarity)
		if n, ok := index[key]; ok {
			out[n].slots = append(out[n].slots, i)
			continue
		}
		for j := range t.Matrix.Destinations {
			c.ways = append(c.ways, inSlot{class: len(out), dest: j, index: -1})
		}
		index[key] = len(out)
		out = append(out, c)
	}
	return out
}
