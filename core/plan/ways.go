package plan

import (
	"cmp"
	"slices"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	q "glossator/core/quantity"
)

// Way is a means by which a target makes a route: wired in the instrument, a slot of its matrix, or a cable put in by hand.
type Way interface {
	// Made gives the id and the label under which the route stands in the target's meaning.
	Made(t *Target) (id, label string)
	// Sets names what sets the depth; empty where nothing does.
	Sets(t *Target) string
	// Depth and Ends list the parameters that make the depth, and the switch, source and destination.
	Depth(t *Target) []string
	Ends(t *Target) []string
	// When lists the conditions under which the way is there.
	When(t *Target) []panel.When
	// Means says how the route is made.
	Means(t *Target) Means
	// Put sets on the target what makes a route of the source; player gives who plays a part of the source.
	Put(on Putter, t *Target, r *meaning.Route, player func(id string) string)

	// free tells whether nothing that is taken stands in the way, and gives the way that is to be taken where that is another.
	free(s *moduleSearch, r *meaning.Route, u *taken) (Way, bool)
	// take marks what the way uses as taken, or free again.
	take(u *taken, is bool)
}

// Putter sets controls and plugs cables.
type Putter interface {
	// Put sets a parameter as near as it goes; false where no control is free for it.
	Put(ref string, want q.Quantity) bool
	Plug(c patch.Cable)
}

// Means says how a route is made.
type Means string

// The means of routes.
const (
	ByWire   Means = "wired"
	BySwitch Means = "switch" // wired, where a switch has it so
	BySlot   Means = "slot"
	ByCable  Means = "cable"
)

// Choice is how one route of the source is made on the target; Way is nil where it is left out.
type Choice struct {
	Way  Way
	Cost float64
	// Why says what is in the way of a route that is left out.
	Why Why
}

// Made tells whether the route is made.
func (c *Choice) Made() bool { return c.Way != nil }

// Why is the reason for which a route is left out.
type Why struct {
	Code WhyCode
	// From and Via are labels: of the source that has no place, or of where a way would have to begin and what would have to scale it.
	From, Via string
}

// WhyCode says what is in the way of a route.
type WhyCode int

// The reasons for which a route is left out.
const (
	NoReason      WhyCode = iota
	NoSource              // what drives it has no place
	NoScaler              // what scales it has no place
	NoDestination         // what it moves has no place
	NoWay                 // nothing leads there
	Taken                 // what there is is taken by another route: From is its label, where one alone is in the way
	Further               // what there is would be further off than nothing
	TooFine               // its depth is finer than the first step of what sets it: From is what makes it
	Deaf                  // what it would move does nothing as the target stands: From is the module
)

// taken is what of the target's means for routes is taken.
type taken struct {
	route, slot, point, atten map[int]bool
	words                     map[int][]string // by control that chooses for several slots: what each that is taken needs
}

func newTaken() *taken {
	return &taken{route: map[int]bool{}, slot: map[int]bool{}, point: map[int]bool{}, atten: map[int]bool{}, words: map[int][]string{}}
}

func mark(m map[int]bool, k int, is bool) {
	if is {
		m[k] = true
	} else {
		delete(m, k)
	}
}

// take takes a way for a route, where it is free.
func (s *moduleSearch) take(o *Choice, r *meaning.Route, u *taken, l Locks) (Locks, bool) {
	way, ok := o.Way.free(s, r, u)
	if !ok {
		return nil, false
	}
	if way == nil {
		way = o.Way
	}
	if when := way.When(s.t); len(when) > 0 {
		l = l.copy()
		if !l.Add(s.t.Compiled, when) {
			return nil, false
		}
	}
	o.Way = way
	way.take(u, true)
	return l, true
}

// ends are those of a route of the source on the target, as far as they are placed.
type ends struct {
	r         *meaning.Route
	from, via string
	to        []string
	may       []string // what else is moved there without being heard: no matter here
	loose     bool
}

// shape gives how badly destinations and a polarity fit, as a share of losing the route; false where they do not reach all that is wanted.
func (s *moduleSearch) shape(e *ends, have []string, polarity string) (float64, bool) {
	extra, ok := s.covers(have, e.to, e.may, e.loose)
	c := 0.3 * float64(min(extra, 2))
	if !slices.Equal(have, e.to) {
		c += 1e-5 // of equals, the one that names just what is wanted
	}
	if polarity != "" && polarity != e.r.Polarity {
		c += 0.3
	}
	return c, ok
}

// options lists the ways to make a route on the target with the modules as they are now
// assigned; cost is a share of the route's weight. why says what is missing if none is. A
// loose look takes no account of what else the ways move, for a bound before all is assigned.
func (s *moduleSearch) options(r *meaning.Route, loose bool) (out []Choice, why Why) {
	e := ends{r: r, loose: loose}
	if e.from = s.source(r.From); e.from == "" {
		return nil, Why{Code: NoSource, From: s.label(r.From)}
	}
	if r.Via != "" {
		if e.via = s.source(r.Via); e.via == "" {
			return nil, Why{Code: NoScaler}
		}
	}
	for _, d := range r.To {
		id, param := meaning.Split(d)
		if m := s.src.Module(id); m != nil && !m.Used() {
			continue
		}
		if j, ok := s.at(id); ok {
			if to := meaning.Ref(s.t.Modules[j].ID, param); s.src.Deaf(d) {
				e.may = append(e.may, to)
			} else {
				e.to = append(e.to, to)
			}
		}
	}
	if len(e.to) == 0 {
		return nil, Why{Code: NoDestination}
	}
	out = s.wires(out, &e)
	out = s.slots(out, &e)
	out = s.cables(out, &e)
	if len(out) == 0 {
		why = Why{Code: NoWay, From: s.targetLabel(e.from)}
		if e.via != "" {
			why.Via = s.targetLabel(e.via)
		}
	}
	slices.SortStableFunc(out, func(a, b Choice) int { return cmp.Compare(a.Cost, b.Cost) })
	return out, why
}

// source gives the target's name for what drives a route, or "" where it is not there.
func (s *moduleSearch) source(from string) string {
	if meaning.IsSource(from) {
		return from
	}
	if j, ok := s.at(from); ok {
		return s.t.Modules[j].ID
	}
	return ""
}

// covers tells whether destinations have reach all that is wanted, and how many used
// modules beyond it they move. The tuning of the whole voice is the same as the pitch of
// every oscillator in use.
func (s *moduleSearch) covers(have, want, may []string, loose bool) (extra int, ok bool) {
	if loose {
		return 0, s.couldCover(have, want)
	}
	h, w := s.expand(have), s.expand(want)
	for _, r := range w {
		if !slices.Contains(h, r) {
			return 0, false
		}
	}
	for _, r := range h {
		id, _ := meaning.Split(r)
		if i, is := s.t.ModuleIndex(id); is && s.busy[i] && !slices.Contains(w, r) && !slices.Contains(may, r) {
			extra++
		}
	}
	return extra, true
}

// expand writes the tuning of the voice as the pitch of every oscillator in use.
func (s *moduleSearch) expand(refs []string) []string {
	for n, r := range refs {
		if !s.isTune(r) {
			continue
		}
		out := append(make([]string, 0, len(refs)+4), refs[:n]...)
		for _, r := range refs[n:] {
			if !s.isTune(r) {
				out = append(out, r)
				continue
			}
			for j, busy := range s.busy {
				if ref := s.t.pitchRef[j]; busy && ref != "" {
					out = append(out, ref)
				}
			}
		}
		return out
	}
	return refs
}

func (s *moduleSearch) isTune(ref string) bool {
	id, param := meaning.Split(ref)
	if param != meaning.PTune {
		return false
	}
	i, ok := s.t.ModuleIndex(id)
	return ok && s.t.Modules[i].Kind == meaning.Voice
}

// couldCover tells whether destinations may have reach all that is wanted, once it is known
// which oscillators are in use.
func (s *moduleSearch) couldCover(have, want []string) bool {
	for _, w := range want {
		ok := false
		for _, h := range have {
			ok = ok || h == w || s.pitch(h) && s.pitch(w)
		}
		if !ok {
			return false
		}
	}
	return true
}

// pitch tells whether a destination is the pitch of an oscillator or of the whole voice.
func (s *moduleSearch) pitch(ref string) bool {
	id, param := meaning.Split(ref)
	i, ok := s.t.ModuleIndex(id)
	return ok && (param == meaning.PInterval || param == meaning.PTune && s.t.Modules[i].Kind == meaning.Voice)
}

func (s *moduleSearch) label(source string) string {
	if m := s.src.Module(source); m != nil {
		return m.Label
	}
	return source
}

func (s *moduleSearch) targetLabel(id string) string {
	if i, ok := s.t.ModuleIndex(id); ok {
		return s.t.Modules[i].Label
	}
	return id
}
