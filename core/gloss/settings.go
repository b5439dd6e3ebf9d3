package gloss

import (
	"fmt"
	"math"
	"slices"

	"glossator/core/meaning"
	"glossator/core/plan"
)

// settings lists every control of the target in working order.
func (in *Input) settings() []Setting {
	t, out := in.Target, make([]Setting, 0, len(in.Target.Controls))
	for _, k := range t.Order {
		c := &t.Controls[k]
		at, init := in.Set.State.At[k], t.Init(k)
		s := Setting{Control: c.ID, Label: c.Label, Section: t.SectionLabel(k), Step: t.StepOf(k), Reading: at.Reading, Init: init.Reading,
			Hidden: c.Hidden, Overridden: in.Over[k], ByEar: in.byEar(k), Expects: t.Expects(k), Why: in.why(k, at.Reading)}
		same := t.AtInit(k, at)
		live := in.alive(k)
		switch {
		case in.Over[k]:
			s.Action = Set
		case in.Set.Off[k] && (!same || !t.Memory && live):
			s.Action = Off
			if !same && t.Memory {
				s.Why = fmt.Sprintf("init holds %s; the patch has none", init.Reading)
			}
		case same && (t.Memory || !live):
			s.Action = Leave
			s.Idle = !live
			if !live && s.Why == "" {
				s.Why = "does nothing here"
			}
		default:
			s.Action = Set
		}
		s.Place, s.Where, s.Part = k, in.where(k), in.part(k)
		if s.Action == Set {
			s.Listen = in.listen(k)
			s.Caution = caution(t, k, in.Got)
		}
		out = append(out, s)
	}
	return out
}

// why says why a control was moved.
func (in *Input) why(k int, reading string) string {
	if in.Over[k] || in.byEar(k) {
		return in.byHand(Reading{Control: in.Target.Controls[k].ID, Reading: reading, ByEar: in.byEar(k)})
	}
	return moved(in.Set.Why[k])
}

// alive tells whether a control of the target does anything as the target is set: it sets what is heard, or it is what keeps something silent.
func (in *Input) alive(k int) bool {
	t := in.Target
	if len(t.Controls[k].Means) == 0 {
		return true
	}
	for i := range t.Controls[k].Means {
		b := &t.Controls[k].Means[i]
		if !t.Holds(b.When, in.Set.State) {
			continue
		}
		id, name := meaning.Split(b.Param)
		if m := in.Got.Module(id); m != nil {
			if m.Used() && m.Heard(name) || !m.Used() && in.silencer(m) == name {
				return true
			}
			continue
		}
		if r := in.Got.Route(id); r != nil && (r.Used() || in.stopper(r) == name) {
			return true
		}
	}
	return false
}

// silencer is what keeps an idle module of the target silent; of several, the switch first: one is enough.
func (in *Input) silencer(m *meaning.Module) meaning.ParamName {
	list := meaning.SpecOf(m.Kind).Silence
	if slices.Contains(list, meaning.POn) {
		list = append([]meaning.ParamName{meaning.POn}, list...)
	}
	for _, name := range list {
		if m.SilencedBy(name) != "" && len(in.Target.Binds(meaning.Ref(m.ID, name))) > 0 {
			return name
		}
	}
	return ""
}

// stopper is what keeps a route of the target from moving what sounds: of a slot its destination, its source or its amount, one of them; "" where nothing has to,
// as what it would move is silent.
func (in *Input) stopper(r *meaning.Route) meaning.ParamName {
	if r.Deaf || len(r.To) > 0 && !slices.ContainsFunc(r.To, func(to string) bool {
		id, _ := meaning.Split(to)
		m := in.Got.Module(id)
		return m == nil || m.Used()
	}) {
		return ""
	}
	for _, name := range []meaning.ParamName{meaning.PDest, meaning.PSource, meaning.POn, meaning.PDepth, meaning.PAmount} {
		if len(in.Target.Binds(meaning.Ref(r.ID, name))) == 0 {
			continue
		}
		v, ok := r.Extra[name]
		switch name {
		case meaning.PDepth, meaning.PAmount:
			if r.Depth.Off || r.Depth.Value == 0 {
				return name
			}
		case meaning.POn:
			if r.On != nil && r.On.Name == "off" {
				return name
			}
		default:
			if ok && v.Name == "none" {
				return name
			}
		}
	}
	return ""
}

// caution warns of steps that can jump in level.
func caution(t *plan.Target, k int, r *meaning.Meaning) string {
	for i := range t.Controls[k].Means {
		id, param := meaning.Split(t.Controls[k].Means[i].Param)
		m := r.Module(id)
		if m == nil || !m.Used() {
			continue
		}
		v, ok := m.Params[param]
		if !ok || v.Off {
			continue
		}
		const first = "turn the monitors and headphones down first"
		switch {
		case param == meaning.PResonance && v.Value >= 1:
			return "The filter oscillates by itself here: " + first + "."
		case param == meaning.PResonance && v.Value >= 0.75:
			return "Close to self-oscillation: " + first + "."
		case m.Kind == meaning.Feedback && param == meaning.PLevel:
			return "A feedback path can jump in level: " + first + ", raise it slowly."
		case param == meaning.PFeedback && v.Value > 0.85:
			return "High feedback can build up: " + first + "."
		case param == meaning.PUnison && v.Value > 1:
			return fmt.Sprintf("Unison of %g voices is louder: %s.", math.Round(v.Value), first)
		case (param == meaning.PDrive || m.Kind == meaning.Drive && param == meaning.PGain) && v.Value > 6:
			return "Drive raises the level: " + first + "."
		}
	}
	return ""
}
