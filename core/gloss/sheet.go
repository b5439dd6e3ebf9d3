package gloss

import (
	"slices"

	"glossator/core/meaning"
	"glossator/core/plan"
	"glossator/core/quantity"
	"glossator/core/rules"
)

// Verdict says how a reading fared.
type Verdict string

// The verdicts. Idle is none: a line that has nothing to carry, as it does nothing in
// the source.
const (
	Held    Verdict = "held"     // within the target's step and tolerance
	Near    Verdict = "near"     // differs, below what is heard
	Bent    Verdict = "bent"     // same means, audibly off
	Recast  Verdict = "recast"   // other means, by a named rule
	LeftOut Verdict = "left out" // not carried
	Idle    Verdict = "idle"
)

// Verdicts lists the verdicts from best to worst, then Idle.
var Verdicts = []Verdict{Held, Near, Bent, Recast, LeftOut, Idle}

// Losses lists the verdicts that lose something.
var Losses = []Verdict{Bent, Recast, LeftOut}

// Reading is what one control shows.
type Reading struct {
	Control string `json:"control"`
	Label   string `json:"label"`
	Reading string `json:"reading"`
	// Init is set where this is what init holds.
	Init       bool `json:"init"`
	Overridden bool `json:"overridden,omitempty"`
	// ByEar is set where it has been found by comparing sounds.
	ByEar bool `json:"byEar,omitempty"`
	// Outside is set for a control of the outboard rack.
	Outside bool `json:"outside,omitempty"`
}

// Figure is a quantity with the texts a person reads.
type Figure struct {
	Quantity quantity.Quantity `json:"quantity"`
	Text     string            `json:"text"`
	Tol      string            `json:"tol"`
}

func figure(q quantity.Quantity) *Figure {
	return &Figure{Quantity: q, Text: q.String(), Tol: q.TolString()}
}

// Also is a second parameter that the same control sets.
type Also struct {
	Param   string  `json:"param"`
	Label   string  `json:"label"`
	Wanted  *Figure `json:"wanted" jsonschema:"nullable"`
	Reached *Figure `json:"reached" jsonschema:"nullable"`
	Verdict Verdict `json:"verdict"`
	Diff    string  `json:"diff"`
}

// Gloss is one line of a translation.
type Gloss struct {
	// ID names the line: the control of the source, or "fixed:..." and "target:..." for
	// lines that have none.
	ID      string       `json:"id"`
	Step    meaning.Step `json:"step"`
	Section string       `json:"section"`
	Label   string       `json:"label"`
	// Param is the parameter in the source's meaning; TargetParam where it went.
	Param       string    `json:"param"`
	TargetParam string    `json:"targetParam,omitempty"`
	Source      []Reading `json:"source"`
	Target      []Reading `json:"target"`
	Wanted      *Figure   `json:"wanted,omitempty"`
	Reached     *Figure   `json:"reached,omitempty"`
	Verdict     Verdict   `json:"verdict"`
	// Diff is the difference with its unit; JNDs the same in just-noticeable differences.
	Diff   string  `json:"diff"`
	JNDs   float64 `json:"jnds"`
	Reason string  `json:"reason"`
	// Rules are the ids of the rules by which the line goes over.
	Rules []string `json:"rules,omitempty"`
	// Open is set where the verdict hangs on what is not known well enough.
	Open bool `json:"open,omitempty"`
	// Taste is set where the source's readings are to taste: what is lost there comes last.
	Taste bool   `json:"taste,omitempty"`
	Also  []Also `json:"also,omitempty"`
	// Route is the target's route that the line's depth is of, for the audit.
	Route string `json:"-"`
	// beat says how often an interval beats, beatBy is the control of the target that sets it.
	beat, beatBy string
}

// RuleUsed is a rule that lines of a sheet go over by, for people.
type RuleUsed struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Why says what is lost by it.
	Why    string `json:"why"`
	Source string `json:"source"`
}

// rulesUsed lists the rules that the lines of a sheet name.
func (s *Sheet) rulesUsed() []RuleUsed {
	out, named := []RuleUsed{}, map[string]bool{}
	for i := range s.Glosses {
		for _, id := range s.Glosses[i].Rules {
			named[id] = true
		}
	}
	for _, list := range [][]*rules.Rule{rules.Table, rules.InPlace} {
		for _, r := range list {
			if named[r.ID] {
				out = append(out, RuleUsed{r.ID, r.Name, r.Why, r.Source})
			}
		}
	}
	return out
}

// Action says what to do with a control of the target.
type Action string

// The actions.
const (
	Set   Action = "set"   // set it to the reading
	Off   Action = "off"   // switch it off, or set it to where it does nothing
	Leave Action = "leave" // it stands right at init
)

// Setting is where one control of the target is to stand.
type Setting struct {
	Control    string       `json:"control"`
	Label      string       `json:"label"`
	Section    string       `json:"section"`
	Step       meaning.Step `json:"step"`
	Reading    string       `json:"reading"`
	Init       string       `json:"init"`
	Action     Action       `json:"action"`
	Why        string       `json:"why"`
	Caution    string       `json:"caution,omitempty"`
	Hidden     bool         `json:"hidden,omitempty"`
	Overridden bool         `json:"overridden,omitempty"`
	ByEar      bool         `json:"byEar,omitempty"`
	Expects    string       `json:"expects"`
	// Listen says what to listen for when it is set, Where how to get to what the panel does not show; Place is where it stands on the panel, from 0.
	Listen string `json:"listen,omitempty"`
	Where  string `json:"where,omitempty"`
	Place  int    `json:"place"`
	// Part is the part of the target that the control belongs to, where that sounds by itself: it can be heard alone.
	Part string `json:"part,omitempty"`
	Idle bool   `json:"-"` // stands at init and does nothing as the target is set
}

// Connection is a cable to make on the target by hand.
type Connection struct {
	From      string `json:"from"`
	To        string `json:"to"`
	FromLabel string `json:"fromLabel"`
	ToLabel   string `json:"toLabel"`
}

// Pair says which part of the target plays a part of the source; Target is empty where
// none does.
type Pair struct {
	Source      string `json:"source"`
	SourceLabel string `json:"sourceLabel"`
	Target      string `json:"target,omitempty"`
	TargetLabel string `json:"targetLabel,omitempty"`
	// Cost is what it costs to be played so, Weight what it would cost to be left out.
	Cost   float64 `json:"cost"`
	Weight float64 `json:"weight"`
	Reason string  `json:"reason,omitempty"`
	// Outside is the module of the outboard rack that plays it.
	Outside string `json:"outside,omitempty"`
	// Rule is the id of the rule by which it is made by other means.
	Rule string `json:"rule,omitempty"`
}

// Plan is the allocation.
type Plan struct {
	Modules []Pair  `json:"modules"`
	Routes  []Pair  `json:"routes"`
	Cost    float64 `json:"cost"`
	// Whole is what it would cost to lose everything.
	Whole float64 `json:"whole"`
	// Nodes counts what the search looked at; Exact is false where it met its limit.
	Nodes int  `json:"nodes"`
	Exact bool `json:"exact"`
	// Sets is how many sets of uses of rules were looked at; Cut is set where that search met a limit.
	Sets int  `json:"sets"`
	Cut  bool `json:"cut"`
}

// Check is one finding of the audit.
type Check struct {
	ID     string `json:"id"`
	What   string `json:"what"`
	OK     bool   `json:"ok"`
	Detail string `json:"detail,omitempty"`
}

// PanelRef names a panel as it was used.
type PanelRef struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Revision int    `json:"revision"`
	Memory   bool   `json:"memory"`
}

// Sheet is all the glosses of one patch on one target, in working order.
type Sheet struct {
	Patch     string      `json:"patch"`
	PatchName string      `json:"patchName"`
	PatchKind string      `json:"patchKind"`
	Layer     string      `json:"layer"`
	Layers    int         `json:"layers"`
	Tempo     float64     `json:"tempo"`
	Source    PanelRef    `json:"source"`
	Target    PanelRef    `json:"target"`
	School    plan.School `json:"school"`
	// Ears names who judges the lines by their own just-noticeable differences; empty for the published ones.
	Ears string `json:"ears,omitempty"`
	Plan Plan   `json:"plan"`
	// Recasts lists what is made by other means, in the order in which it was decided.
	Recasts []Recasting `json:"recasts"`
	// Hands is how the line is played on the target where that is otherwise than it stands.
	Hands *meaning.Hands `json:"hands,omitempty"`
	// Rules lists what the lines name by id, in the order of the catalogue.
	Rules     []RuleUsed        `json:"rules"`
	Glosses   []Gloss           `json:"glosses"`
	Settings  []Setting         `json:"settings"`
	Cables    []Connection      `json:"cables"`
	Summary   map[Verdict]int   `json:"summary"`
	Audit     []Check           `json:"audit"`
	Overrides map[string]string `json:"overrides"`
	// Choices are what somebody has decided about parts of the patch.
	Choices plan.Choices `json:"choices"`
	// Mark names the plan: what has been found by ear holds for no other.
	Mark string `json:"mark"`
	// Measure lists what to measure to settle the lines that are open, the most useful first.
	Measure []ToMeasure `json:"measure"`
	// Rig is the outboard rack, where one plays a part.
	Rig *Rig `json:"rig,omitempty"`
	// Moves list what is moved while the phrase is played, in its order.
	Moves []Moving `json:"moves,omitempty"`
	// Flavours list the variants of the patch, in its order.
	Flavours []Flavoured `json:"flavours,omitempty"`
	// Notes say what holds for the whole sheet.
	Notes []string `json:"notes"`
}

// Clean tells whether the audit found nothing.
func (s *Sheet) Clean() bool {
	for _, c := range s.Audit {
		if !c.OK {
			return false
		}
	}
	return true
}

// Recasting is one use of a rule, for people.
type Recasting struct {
	Rule string `json:"rule"`
	Name string `json:"name"`
	// Parts are the labels of what is made by other means, By those of what makes it.
	Parts   []string `json:"parts"`
	By      []string `json:"by"`
	Text    string   `json:"text"`
	Why     string   `json:"why"`
	Source  string   `json:"source"`
	Penalty float64  `json:"penalty"`
	// Player is set where the player has something to do while playing.
	Player bool `json:"player"`
	// Key names the use where its rule has other ways with its parts, the first of which is Part; both are for those who look for other plans.
	Key  string `json:"-"`
	Part string `json:"-"`
}

// ToMeasure is a scale that is not known well enough to be sure of some lines.
type ToMeasure struct {
	Panel   string `json:"panel"`
	Control string `json:"control"`
	Label   string `json:"label"`
	// Lines are the ids of the lines that hang on it.
	Lines []string `json:"lines"`
	// Share is how much of the doubt of those lines is this scale's.
	Share float64 `json:"share"`
	// Weight is how much the lines matter, for the order.
	Weight float64 `json:"weight"`
	Why    string  `json:"why"`
}

// OutboardRule is the id under which a sheet says that a part is played by the outboard rack (see rules.InPlace).
const OutboardRule = "outboard"

// Rig is the outboard rack beside the target: what it plays, and where its controls are to stand.
type Rig struct {
	Rack PanelRef `json:"rack"`
	// Parts are the labels of what it plays.
	Parts    []string  `json:"parts"`
	Settings []Setting `json:"settings"`
}

// Share gives how much of the patch is carried, by the weights of its parts: 1 for all of it, 0 for none.
func (s *Sheet) Share() float64 {
	if s.Plan.Whole <= 0 {
		return 1
	}
	return Round(max(0, 1-s.Plan.Cost/s.Plan.Whole), 4)
}

// Pair finds who plays a part of the source; nil for a part that is not in the plan.
func (p *Plan) Pair(source string) *Pair {
	for _, list := range [][]Pair{p.Modules, p.Routes} {
		for i := range list {
			if list[i].Source == source {
				return &list[i]
			}
		}
	}
	return nil
}

// sounding are the kinds that a second layer can bring in.
var sounding = []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Noise, meaning.Operator}

// Missing lists the sources of sound that a sheet leaves out, and Played those that it plays: what a second layer
// would bring in, and what it would leave to the first.
func (s *Sheet) Missing(kindOf func(id string) meaning.Kind) (missing, played []string) {
	missing, played = []string{}, []string{}
	for _, x := range s.Plan.Modules {
		switch {
		case !slices.Contains(sounding, kindOf(x.Source)):
		case x.Target == "" && x.Rule == "":
			missing = append(missing, x.Source)
		default:
			played = append(played, x.Source)
		}
	}
	return missing, played
}
