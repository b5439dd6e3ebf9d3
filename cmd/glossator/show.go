package main

import (
	"context"
	"errors"
	"fmt"
	"math"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"glossator/core/audition"
	"glossator/core/gloss"
	"glossator/core/heard"
	"glossator/core/meaning"
	"glossator/core/nearest"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/show"
	"glossator/core/translate"
	"glossator/demo"
	"glossator/formats"
	"glossator/formats/paper"
)

// showCommand plans a show.
func showCommand() *cobra.Command {
	var patches, panels, school, house, form, out, rack string
	var listen, asJSON, hire bool
	c := &cobra.Command{
		Use:   "show FILE",
		Short: "Plans which hired instrument plays which cue of a show, so that each changeover fits its gap",
		Long: `Plans for each house of a show (JSON, docs/formats) which of its instruments plays which cue, so that each changeover fits its gap, hands do one thing at a time, and the least is lost.
It is exact. Where not all cues can be played it says which exclude each other, drops as few as can be, and says what would let all be played. --hire tells instead what each instrument carries of the book, what a second one adds, and which two or three carry it best.
With --listen what is lost is how far the translation sounds from the patch, in just-noticeable differences (seconds a pair); else what the parts weigh that are lost.`,
		Example: "  glossator show lamp.json --house 'The town hall'\n  glossator show lamp.json --hire --form pdf --out hire.pdf",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			data, err := readFile(args[0])
			if err != nil {
				return err
			}
			d, err := formats.ReadShow(args[0], data)
			if err != nil {
				return err
			}
			if form != "" && (paper.Forms[form] == "" || asJSON) {
				return usageError{fmt.Errorf("--form: expected md, csv, xlsx or pdf, and no --json, got %q", form)}
			}
			if (form == "pdf" || form == "xlsx") && out == "" {
				return usageError{fmt.Errorf("--form %s: expected --out FILE", form)}
			}
			all, err := loadPanels(panels, cmd.ErrOrStderr())
			if err != nil {
				return err
			}
			if rack != "" && (all[rack] == nil || all[rack].Kind != "rack") {
				return usageError{fmt.Errorf("--rack: expected the id of a rack, got %q", rack)}
			}
			if rack != "" && !(hire && listen) {
				return usageError{errors.New("--rack: expected --hire and --listen beside it")}
			}
			ctx, stop := signal.NotifyContext(cmd.Context(), syscall.SIGINT, syscall.SIGTERM)
			defer stop()
			opt := show.Options{School: plan.School(school), Panels: func(id string) *panel.Compiled { return all[id] }, Patches: patchesIn(patches, all)}
			if listen {
				known := map[[3]string]listenedTo{}
				opt.Apart = func(p *patch.Patch, src, dst *panel.Compiled) (*gloss.Sheet, float64, error) {
					x, err := apartOnce(ctx, known, p, src, dst, nil)
					return x.sheet, x.apart, err
				}
				opt.Told = func(done, all int) { fmt.Fprintf(cmd.ErrOrStderr(), "%d of %d cues listened to\n", done, all) }
			}
			behind := map[[3]string]listenedTo{} // with the rack
			var docs []*paper.Paper
			var views []any
			for i := range d.Houses {
				if house != "" && d.Houses[i].Name != house {
					continue
				}
				m, err := show.Make(d, i, opt)
				if err != nil {
					return fmt.Errorf("%s: %w", args[0], err)
				}
				m.Stop = func() bool { return ctx.Err() != nil }
				told := time.Now()
				m.Progress = func(cues, states, limit int) {
					if time.Since(told) > time.Second {
						told = time.Now()
						fmt.Fprintf(cmd.ErrOrStderr(), "%s: %d of %d cues planned, %d of %d ways looked at\n", d.Houses[i].Name, cues, len(d.Cues), states, limit)
					}
				}
				if hire {
					var racked func(cue, on int) float64
					name := ""
					if rack != "" {
						name = all[rack].Name
						racked = func(cue, on int) float64 {
							p, src, err := opt.Patches(d.Cues[cue].Patch)
							if err != nil {
								return math.NaN()
							}
							x, err := apartOnce(ctx, behind, p, src, m.Panel(on), all[rack])
							if err != nil {
								return math.NaN()
							}
							return x.apart
						}
					}
					l, err := m.ListHire(name, racked)
					if err != nil {
						return err
					}
					docs, views = append(docs, paper.Hire(l)), append(views, l)
					continue
				}
				x, err := m.Solve()
				if err != nil {
					return err
				}
				v, err := m.View(x)
				if err != nil {
					return err
				}
				docs, views = append(docs, paper.RunningOrder(v, 0)), append(views, v)
			}
			if len(docs) == 0 {
				return usageError{fmt.Errorf("--house: expected a house of the show, got %q", house)}
			}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), views)
			}
			if form == "" {
				form = "md"
			}
			if len(docs) > 1 && form != "md" {
				return usageError{fmt.Errorf("--form %s: expected --house, one of %d", form, len(docs))}
			}
			for i, p := range docs {
				b, err := p.Write(form)
				if err == nil && out != "" {
					err = appendTo(out, b, i > 0)
				} else if err == nil {
					if i > 0 {
						b = append([]byte("\n"), b...)
					}
					_, err = cmd.OutOrStdout().Write(b)
				}
				if err != nil {
					return err
				}
			}
			return nil
		},
	}
	f := c.Flags()
	f.StringVar(&patches, "patches", "", "folder of the patches that cues name; those that ship with the program where absent")
	f.StringVar(&panels, "panels", "", "folder of panel files, beside those that ship with the program")
	f.StringVar(&school, "school", string(plan.Ear), "ear, numbers or feel")
	f.StringVar(&house, "house", "", "the house to plan for; all where absent")
	f.BoolVar(&hire, "hire", false, "tell what to hire: what each instrument carries, what a second one adds, the best two and three")
	f.StringVar(&rack, "rack", "", "with --hire --listen: how much less is lost with this rack of effects behind each")
	f.BoolVar(&listen, "listen", false, "render and compare: what is lost in sound")
	f.StringVar(&form, "form", "", "md, csv, xlsx or pdf; Markdown where absent")
	f.StringVar(&out, "out", "", "file to write instead of printing")
	f.BoolVar(&asJSON, "json", false, "print as JSON, one entry a house")
	return c
}

// appendTo writes a file, or adds to it.
func appendTo(file string, b []byte, more bool) error {
	if !more {
		return os.WriteFile(file, b, 0o644)
	}
	f, err := os.OpenFile(file, os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	_, err = f.Write(append([]byte("\n"), b...))
	return errors.Join(err, f.Close())
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

// listenedTo is a translation by ear, and how far it sounds from its patch.
type listenedTo struct {
	sheet *gloss.Sheet
	apart float64
}

// apartOnce is apart, kept for the next house that has the same instrument.
func apartOnce(ctx context.Context, known map[[3]string]listenedTo, p *patch.Patch, src, dst, rack *panel.Compiled) (listenedTo, error) {
	key := [3]string{p.ID, src.ID, dst.ID}
	if x, ok := known[key]; ok {
		return x, nil
	}
	x, err := apart(ctx, p, src, dst, rack)
	if err == nil {
		known[key] = x
	}
	return x, err
}

// apart translates by ear and tells how far the two sound apart.
func apart(ctx context.Context, p *patch.Patch, src, dst, rack *panel.Compiled) (none listenedTo, err error) {
	stop := func() bool { return ctx.Err() != nil }
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		return none, err
	}
	opt := translate.Options{School: plan.Ear, Rack: rack}
	if opt.Choices.Tuned, err = nearest.Find(nearest.Task{Source: src, Target: dst, Patch: p, Options: opt, Notes: notes, Stop: stop}); err != nil {
		return none, err
	}
	in, s, err := translate.Made(src, p, dst, opt)
	if err != nil {
		return none, err
	}
	task := heard.Task{In: in, Sheet: s, Notes: notes, Stop: stop}
	if rack != nil && s.Rig != nil {
		task.Rack = func(m *meaning.Meaning) (*meaning.Meaning, error) { return audition.WithRack(m, rack, s.Rig, m.Tempo) }
	}
	r, err := heard.Of(task)
	if ctx.Err() != nil {
		err = errors.New("stopped")
	}
	if err != nil {
		return none, err
	}
	return listenedTo{s, r.Apart.Total}, nil
}
