package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"

	"github.com/spf13/cobra"

	"glossator/core/audition"
	"glossator/core/gloss"
	"glossator/core/heard"
	"glossator/core/nearest"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/show"
	"glossator/core/translate"
	"glossator/demo"
	"glossator/formats"
)

// showCommand plans a show.
func showCommand() *cobra.Command {
	var patches, panels, school string
	var listen, asJSON bool
	var hire int
	c := &cobra.Command{
		Use:   "show FILE",
		Short: "Plans which hired instrument plays which cue of a show, so that each changeover fits its gap",
		Long: `Plans which hired instrument plays which cue of a show (JSON, docs/formats), so that each changeover fits its gap and the least is lost.
It is exact. Where not all cues can be played it says which exclude each other and drops as few as can be. --hire 2 tells what each two of the instruments carry of it.
With --listen what is lost is how far the translation sounds from the patch, in just-noticeable differences (seconds a pair); else what the parts weigh that are lost.`,
		Example: "  glossator show lamp.json --patches patches --hire 2",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			data, err := readFile(args[0])
			if err != nil {
				return err
			}
			var d show.Doc
			dec := json.NewDecoder(strings.NewReader(string(data)))
			dec.DisallowUnknownFields()
			if err := dec.Decode(&d); err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			rack, err := loadPanels(panels, cmd.ErrOrStderr())
			if err != nil {
				return err
			}
			if hire < 0 || hire > len(d.Hire) {
				return usageError{fmt.Errorf("--hire: expected 0 to %d, got %d", len(d.Hire), hire)}
			}
			ctx, stop := signal.NotifyContext(cmd.Context(), syscall.SIGINT, syscall.SIGTERM)
			defer stop()
			opt := show.Options{School: plan.School(school), Panels: func(id string) *panel.Compiled { return rack[id] }, Patches: patchesIn(patches, rack)}
			if listen {
				opt.Apart = func(p *patch.Patch, src, dst *panel.Compiled) (*gloss.Sheet, float64, error) {
					return apart(ctx, p, src, dst)
				}
				opt.Told = func(done, all int) { fmt.Fprintf(cmd.ErrOrStderr(), "%d of %d cues listened to\n", done, all) }
			}
			m, err := show.Make(&d, opt)
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			m.Stop = func() bool { return ctx.Err() != nil }
			x, err := m.Solve()
			if err != nil {
				return err
			}
			var hires []show.Hire
			if hire > 0 {
				if hires, err = m.Hires(hire); err != nil {
					return err
				}
			}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), plannedOf(m, x, hires))
			}
			return tellShow(cmd.OutOrStdout(), m, x, hires, listen)
		},
	}
	f := c.Flags()
	f.StringVar(&patches, "patches", "", "folder of the patches that cues name; those that ship with the program where absent")
	f.StringVar(&panels, "panels", "", "folder of panel files, beside those that ship with the program")
	f.StringVar(&school, "school", string(plan.Ear), "ear, numbers or feel")
	f.IntVar(&hire, "hire", 0, "tell what each so many of the instruments carry of the show")
	f.BoolVar(&listen, "listen", false, "render and compare: what is lost in sound")
	f.BoolVar(&asJSON, "json", false, "print the plan as JSON")
	return c
}

// patchesIn finds patches in a folder, or among those that ship with the program.
func patchesIn(dir string, rack map[string]*panel.Compiled) func(name string) (*patch.Patch, *panel.Compiled, error) {
	return func(name string) (*patch.Patch, *panel.Compiled, error) {
		file := strings.TrimSuffix(name, ".json") + ".json"
		var data []byte
		if dir != "" {
			if !filepath.IsLocal(file) {
				return nil, nil, fmt.Errorf("expected a patch in %s, got %q", dir, name)
			}
			var err error
			if data, err = readFile(filepath.Join(dir, file)); err != nil {
				return nil, nil, fmt.Errorf("there is no patch %q: %w", name, err)
			}
		} else {
			for _, f := range demo.Patches() {
				if f.Name == file {
					data = f.Data
				}
			}
			if data == nil {
				return nil, nil, fmt.Errorf("there is no patch %q", name)
			}
		}
		return formats.ReadPatchOn(file, data, func(id string) *panel.Compiled { return rack[id] })
	}
}

// apart translates by ear and tells how far the two sound apart.
func apart(ctx context.Context, p *patch.Patch, src, dst *panel.Compiled) (*gloss.Sheet, float64, error) {
	stop := func() bool { return ctx.Err() != nil }
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		return nil, 0, err
	}
	opt := translate.Options{School: plan.Ear}
	if opt.Choices.Tuned, err = nearest.Find(nearest.Task{Source: src, Target: dst, Patch: p, Notes: notes, Stop: stop}); err != nil {
		return nil, 0, err
	}
	in, s, err := translate.Made(src, p, dst, opt)
	if err != nil {
		return nil, 0, err
	}
	r, err := heard.Of(heard.Task{In: in, Sheet: s, Notes: notes, Stop: stop})
	if ctx.Err() != nil {
		err = errors.New("stopped")
	}
	if err != nil {
		return nil, 0, err
	}
	return s, r.Apart.Total, nil
}

// planned is what show tells with --json.
type planned struct {
	Name     string        `json:"name"`
	Loss     float64       `json:"loss"`
	Cues     []plannedCue  `json:"cues"`
	Dropped  []string      `json:"dropped"`
	Conflict []string      `json:"conflict"`
	Why      string        `json:"why,omitempty"`
	Hires    []plannedHire `json:"hires,omitempty"`
	States   int           `json:"states"`
}

type plannedCue struct {
	Name       string   `json:"name"`
	Start      string   `json:"start"`
	End        string   `json:"end"`
	Player     string   `json:"player,omitempty"`
	Instrument string   `json:"instrument,omitempty"`
	Loss       *float64 `json:"loss,omitempty"`
	From       string   `json:"from,omitempty"`
	Moves      int      `json:"moves"`
	Takes      float64  `json:"takes"`
	Gap        float64  `json:"gap"`
	Fault      string   `json:"fault,omitempty"`
}

type plannedHire struct {
	Instruments []string `json:"instruments"`
	Price       float64  `json:"price"`
	Loss        float64  `json:"loss"`
	Worst       string   `json:"worst,omitempty"`
	Dropped     []string `json:"dropped"`
}

func plannedOf(m *show.Made, x *show.Plan, hires []show.Hire) planned {
	names := func(all []int) []string {
		out := []string{}
		for _, i := range all {
			out = append(out, m.Cues[i].Name)
		}
		return out
	}
	out := planned{Name: m.Doc.Name, Loss: gloss.Round(x.Loss, 2), Dropped: names(x.Dropped), Conflict: names(x.Conflict), Why: m.Explain(x), States: x.States}
	run := m.Running(x)
	for i, c := range m.Cues {
		y := plannedCue{Name: c.Name, Start: m.Doc.Cues[i].Start, End: m.Doc.Cues[i].End, Player: c.Player, Fault: m.Faults[i]}
		if n := run[i]; n != nil {
			loss := gloss.Round(c.Loss[x.On[i]], 2)
			y.Instrument, y.Loss, y.Moves, y.Takes, y.Gap = m.Instruments[x.On[i]], &loss, n.Moves, gloss.Round(n.Takes, 1), gloss.Round(n.Gap, 1)
			if n.From >= 0 {
				y.From = m.Cues[n.From].Name
			}
		}
		out.Cues = append(out.Cues, y)
	}
	for _, h := range hires {
		y := plannedHire{Loss: gloss.Round(h.Plan.Loss, 2), Dropped: names(h.Plan.Dropped)}
		worst := -1.0
		for _, k := range h.Set {
			y.Instruments, y.Price = append(y.Instruments, m.Instruments[k]), y.Price+m.Doc.Hire[k].Price
		}
		for i, k := range h.Plan.On {
			if k >= 0 && m.Cues[i].Loss[k] > worst {
				worst, y.Worst = m.Cues[i].Loss[k], m.Cues[i].Name
			}
		}
		out.Hires = append(out.Hires, y)
	}
	return out
}

// tellShow prints a plan as Markdown.
func tellShow(w io.Writer, m *show.Made, x *show.Plan, hires []show.Hire, listened bool) error {
	p := plannedOf(m, x, hires)
	unit := "weight of what is lost"
	if listened {
		unit = "just-noticeable differences"
	}
	var b strings.Builder
	fmt.Fprintf(&b, "# %s\n\n", p.Name)
	if p.Why != "" {
		fmt.Fprintf(&b, "%s\n\n", p.Why)
	}
	fmt.Fprintf(&b, "| cue | from | to | player | on | lost (%s) | change over from | moves | takes | there is |\n|---|---|---|---|---|---|---|---|---|---|\n", unit)
	for _, c := range p.Cues {
		switch {
		case c.Fault != "":
			fmt.Fprintf(&b, "| %s | %s | %s | %s | left aside: %s | | | | | |\n", c.Name, c.Start, c.End, c.Player, c.Fault)
		case c.Instrument == "":
			fmt.Fprintf(&b, "| %s | %s | %s | %s | **dropped** | | | | | |\n", c.Name, c.Start, c.End, c.Player)
		default:
			from, moves, takes, gap := "", "", "", ""
			if c.From != "" {
				from, takes, gap = c.From, show.Clock(math.Ceil(c.Takes)), show.Clock(c.Gap)
				if moves = "program"; c.Moves > 0 {
					moves = fmt.Sprint(c.Moves)
				}
			}
			fmt.Fprintf(&b, "| %s | %s | %s | %s | %s | %.1f | %s | %s | %s | %s |\n", c.Name, c.Start, c.End, c.Player, c.Instrument, *c.Loss, from, moves, takes, gap)
		}
	}
	if len(p.Hires) > 0 {
		fmt.Fprintf(&b, "\n## What to hire\n\n| instruments | price | lost | worst | dropped |\n|---|---|---|---|---|\n")
		for _, h := range p.Hires {
			fmt.Fprintf(&b, "| %s | %g | %.1f | %s | %s |\n", strings.Join(h.Instruments, ", "), h.Price, h.Loss, h.Worst, strings.Join(h.Dropped, ", "))
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}
