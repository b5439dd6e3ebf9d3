package main

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"glossator/core/audition"
	"glossator/core/build"
	"glossator/core/fault"
	"glossator/core/heard"
	"glossator/core/nearest"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/quantity"
	"glossator/core/refine"
	"glossator/core/translate"
	"glossator/demo"
	"glossator/formats"
	"glossator/formats/paper"
)

func convertCommand() *cobra.Command {
	var to, note string
	var tempo float64
	var asJSON bool
	c := &cobra.Command{
		Use:   "convert EXPR",
		Short: "Evaluates a reading or quantity in another unit",
		Example: `  glossator convert "16'" --to ct
  glossator convert "1/8." --to Hz --tempo 96
  glossator convert "5 ct" --to Hz --note A4
  glossator convert "-9.5 dB" --to %`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			e, err := quantity.Parse(args[0])
			if err != nil {
				return err
			}
			ctx := quantity.Context{Tempo: quantity.Tempo(tempo)}
			if cmd.Flags().Changed("tempo") && !(tempo >= 1 && tempo <= 1000) {
				return fmt.Errorf("--tempo: expected 1 to 1000 quarter notes a minute, got %v", tempo)
			}
			if note != "" {
				n, err := quantity.Parse(note)
				if err != nil || n.Form != quantity.FormNote && n.Form != quantity.FormFreq {
					return fmt.Errorf("--note: expected a note such as A4 or a frequency, got %q", note)
				}
				ctx.At = quantity.Frequency(n.Value)
			}
			r, err := quantity.Convert(e, to, ctx)
			if err != nil {
				return err
			}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), r)
			}
			_, err = fmt.Fprintf(cmd.OutOrStdout(), "%s\n", r.Text)
			return err
		},
	}
	c.Flags().StringVar(&to, "to", "", "unit: "+strings.Join(quantity.ConvertUnits, ", "))
	c.Flags().Float64Var(&tempo, "tempo", 0, "quarter notes a minute, for note values")
	c.Flags().StringVar(&note, "note", "", "the note played, for beating and intervals")
	c.Flags().BoolVar(&asJSON, "json", false, "print value, unit and tolerance as JSON")
	return c
}

func panelCommand() *cobra.Command {
	c := &cobra.Command{Use: "panel", Short: "Works on panel files", Args: cobra.ArbitraryArgs,
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) > 0 {
				return usageError{fmt.Errorf("unknown command %q for %q", args[0], cmd.CommandPath())}
			}
			return usageError{errors.New("panel needs a command: check or make")}
		}}
	c.AddCommand(&cobra.Command{
		Use:   "check FILE...",
		Short: "Validates panel files, naming each fault by its place",
		Args:  cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			var all fault.List
			for _, file := range args {
				data, err := readFile(file)
				if err != nil {
					return err
				}
				p, err := formats.ReadPanel(file, data)
				if err != nil {
					var l fault.List
					if !errors.As(err, &l) {
						return err
					}
					all = append(all, l...)
					continue
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%s: %s, revision %d: %d controls, %d modules, in order\n", file, p.Name, p.Revision, len(p.Controls), len(p.Modules))
			}
			return all.Err()
		},
	})
	c.AddCommand(panelMakeCommand())
	return c
}

// panelMakeCommand makes a panel file of a table of controls, or of a starting point.
func panelMakeCommand() *cobra.Command {
	var name, start, printed string
	c := &cobra.Command{
		Use:   "make [TABLE]",
		Short: "Makes a panel of a table of controls (CSV or XLSX), or of a starting point, and prints it",
		Example: `  glossator panel make my-instrument.csv > my-instrument.json
  glossator panel make --start mono --name "My instrument" --printed "0 to 10" > my-instrument.json`,
		Args: cobra.MaximumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) == 0 {
				if strings.TrimSpace(name) == "" {
					return usageError{errors.New("a panel from a starting point needs --name")}
				}
				p, err := build.Begin(start, cmp.Or(build.Slug(name), "panel"), strings.TrimSpace(name), printed)
				if err != nil {
					return err
				}
				return writePanel(cmd, p)
			}
			data, err := readFile(args[0])
			if err != nil {
				return err
			}
			rows, detailed, err := formats.ReadRows(args[0], data)
			if err != nil {
				return err
			}
			if detailed {
				return fmt.Errorf("%s is the controls table of a panel: read it in that panel's workshop", args[0])
			}
			if name == "" {
				name = strings.TrimSuffix(filepath.Base(args[0]), filepath.Ext(args[0]))
			}
			p, taken, faults := build.FromRows(&panel.Panel{Format: panel.Format, Version: panel.Version, ID: cmp.Or(build.Slug(name), "panel"), Name: name, Revision: 1, Kind: "instrument", Memory: true}, rows)
			for _, f := range faults {
				fmt.Fprintln(cmd.ErrOrStderr(), f.Words)
			}
			if taken == 0 {
				return errors.New("no row of the table could be taken")
			}
			if err := writePanel(cmd, p); err != nil {
				return err
			}
			if len(faults) > 0 {
				return fmt.Errorf("%d rows did not go in; the panel was made of the other %d", len(faults), taken)
			}
			return nil
		},
	}
	c.Flags().StringVar(&name, "name", "", "name of the instrument (default: that of the file)")
	c.Flags().StringVar(&start, "start", "blank", "starting point where there is no table: "+strings.Join(build.StartIDs(), ", "))
	c.Flags().StringVar(&printed, "printed", "", `what is printed beside its knobs, as in "0 to 10" or "clock"`)
	return c
}

// writePanel prints a panel that has been checked.
func writePanel(cmd *cobra.Command, p *panel.Panel) error {
	if l := formats.CheckPanel(p); len(l) > 0 {
		return p.Told(l)
	}
	b, err := formats.Write(p)
	if err != nil {
		return err
	}
	_, err = cmd.OutOrStdout().Write(b)
	return err
}

func translateCommand() *cobra.Command {
	var patchFile, to, panels, school, layer, flavour, aim, out string
	var force bool
	var asJSON, asMarkdown, byEar, listen bool
	c := &cobra.Command{
		Use:     "translate --patch FILE --to PANEL",
		Short:   "Translates a patch file to another panel and prints the sheet",
		Example: "  glossator translate --patch keel.json --to halyard --markdown",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if patchFile == "" || to == "" {
				return usageError{errors.New("translate needs --patch FILE and --to PANEL")}
			}
			if asJSON && asMarkdown {
				return usageError{errors.New("--json and --markdown exclude each other")}
			}
			form := strings.TrimPrefix(strings.ToLower(filepath.Ext(out)), ".")
			if _, ok := paper.Forms[form]; out != "" && !ok {
				return usageError{fmt.Errorf("--out: expected a name that ends in .md, .csv, .xlsx or .pdf, got %q", out)}
			}
			if err := notThere(out, force); err != nil {
				return err
			}
			rack, p, src, err := openPatch(patchFile, panels, cmd.ErrOrStderr())
			if err != nil {
				return err
			}
			if p, err = flavoured(p, flavour); err != nil {
				return err
			}
			dst, err := targetPanel(rack, to)
			if err != nil {
				return err
			}
			opt := translate.Options{School: plan.School(school), Layer: layer, Flavours: true}
			if byEar {
				notes, _, err := audition.Notes(p, "", 0)
				if err != nil {
					return err
				}
				heard, err := refine.Heard(src, p, layer, notes, nil)
				if err != nil {
					return err
				}
				opt.Heard, opt.Choices.ByEar = refine.Weights(heard), true
			}
			if aim != "" && opt.School != plan.Ear {
				return usageError{errors.New("--aim needs --school ear: no other school listens")}
			}
			if err := tune(src, p, dst, &opt, aim); err != nil {
				return err
			}
			in, s, err := translate.Made(src, p, dst, opt)
			if err != nil {
				return err
			}
			var report *heard.Report
			if listen {
				notes, _, err := audition.Notes(p, "", 0)
				if err != nil {
					return err
				}
				if report, err = heard.Of(heard.Task{In: in, Sheet: s, Notes: notes, Lines: true, Held: true}); err != nil {
					return err
				}
			}
			if out != "" && form != "md" {
				b, err := paper.Sheet(s).Write(form)
				if err != nil {
					return err
				}
				return os.WriteFile(out, b, 0o644)
			}
			if out != "" {
				return os.WriteFile(out, []byte(formats.SheetMarkdown(s)+formats.HeardMarkdown(s, report)), 0o644)
			}
			switch {
			case asJSON && listen:
				return writeJSON(cmd.OutOrStdout(), formats.Listened{Sheet: s, Heard: report})
			case asJSON:
				return writeJSON(cmd.OutOrStdout(), s)
			}
			_, err = io.WriteString(cmd.OutOrStdout(), formats.SheetMarkdown(s)+formats.HeardMarkdown(s, report))
			return err
		},
	}
	f := c.Flags()
	f.StringVar(&patchFile, "patch", "", "patch file (JSON)")
	f.StringVar(&to, "to", "", "target: the id of a panel, or a panel file")
	f.StringVar(&panels, "panels", "", "folder of panel files, beside those that ship with the program")
	f.StringVar(&school, "school", string(plan.Ear), "ear, numbers or feel; by ear compares renderings and takes a second or two")
	f.StringVar(&aim, "aim", "", "recording (WAVE) of the source playing the patch's phrase: the search comes near to it instead of to a rendering")
	f.BoolVar(&listen, "listen", false, "render both sides: how far apart they sound, what each line makes of it, and whether the lines tell it all")
	f.StringVar(&flavour, "flavour", "", "a flavour of the patch; the patch as it stands where absent")
	f.StringVar(&layer, "layer", "", "layer of the patch; the first where absent")
	f.BoolVar(&byEar, "heard", false, "let parts count for as much as they are heard (renders the patch)")
	f.BoolVar(&asJSON, "json", false, "print the whole sheet as JSON")
	f.StringVar(&out, "out", "", "write the sheet into a file instead: .md, .csv, .xlsx or .pdf")
	f.BoolVar(&force, "force", false, "write over a file that is there")
	f.BoolVar(&asMarkdown, "markdown", false, "print the sheet as Markdown (the default)")
	return c
}

// tune finds by comparing sounds what a sheet by ear is made with; of other schools nothing. aim is a recording to come near to, or empty.
func tune(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt *translate.Options, aim string) error {
	if opt.School != plan.Ear || src.Kind != "instrument" || dst.Kind != "instrument" {
		return nil
	}
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		return err
	}
	task := nearest.Task{Source: src, Target: dst, Patch: p, Options: *opt, Notes: notes}
	if aim != "" {
		w, err := readWave(aim)
		if err != nil {
			return err
		}
		task.Aim = &w
	}
	opt.Choices.Tuned, err = nearest.Find(task)
	return err
}

// readFile reads a file no larger than the importers take.
func readFile(file string) ([]byte, error) {
	info, err := os.Stat(file)
	if err != nil {
		return nil, err
	}
	if info.IsDir() {
		return nil, fmt.Errorf("%s: expected a file, got a folder", file)
	}
	if info.Size() > formats.MaxSize {
		return nil, fault.List{{File: file, Message: fmt.Sprintf("expected at most %d MB, got %.1f MB", formats.MaxSize>>20, float64(info.Size())/(1<<20))}}
	}
	return readAtMost(file, formats.MaxSize)
}

// readAtMost reads a file, or what a pipe or device gives, of at most so many bytes.
func readAtMost(file string, most int64) ([]byte, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, most+1))
	if err == nil && int64(len(data)) > most {
		return nil, fmt.Errorf("%s: expected at most %d MB", file, most>>20)
	}
	return data, err
}

// loadPanels gives the panels that ship with the program and those of a folder or a file, by id; these go before
// one that ships. A file of a folder that is at fault is named in the warnings and left aside.
func loadPanels(dir string, warnings io.Writer) (map[string]*panel.Compiled, error) {
	rack := map[string]*panel.Compiled{}
	for _, f := range demo.Panels() {
		c, err := formats.ReadPanel(f.Name, f.Data)
		if err != nil {
			return nil, err
		}
		rack[c.ID] = c
	}
	if dir == "" {
		return rack, nil
	}
	info, err := os.Stat(dir)
	if err != nil {
		return nil, err
	}
	files := []string{dir}
	if info.IsDir() {
		if files, err = filepath.Glob(filepath.Join(dir, "*.json")); err != nil {
			return nil, err
		}
	}
	for _, file := range files {
		data, err := readFile(file)
		if err == nil {
			if info.IsDir() && !isPanel(data) { // patches may lie beside
				continue
			}
			var c *panel.Compiled
			if c, err = formats.ReadPanel(file, data); err == nil {
				rack[c.ID] = c
				continue
			}
		}
		if !info.IsDir() {
			return nil, err
		}
		fmt.Fprintf(warnings, "left aside: %v\n", err) // the others can be used
	}
	return rack, nil
}

// isPanel tells whether a file says that it is a panel.
func isPanel(data []byte) bool {
	var head struct {
		Format string `json:"format"`
	}
	return json.Unmarshal(data, &head) != nil || head.Format == panel.Format
}

// openPatch reads a patch file with the panels that it may stand on.
func openPatch(file, panels string, warnings io.Writer) (rack map[string]*panel.Compiled, p *patch.Patch, src *panel.Compiled, err error) {
	if rack, err = loadPanels(panels, warnings); err != nil {
		return nil, nil, nil, err
	}
	data, err := readFile(file)
	if err != nil {
		return nil, nil, nil, err
	}
	p, src, err = formats.ReadPatchOn(file, data, func(id string) *panel.Compiled { return rack[id] })
	return rack, p, src, err
}

// flavoured gives a patch as it stands in one of its flavours; as it is where none is named.
func flavoured(p *patch.Patch, name string) (*patch.Patch, error) {
	if name == "" {
		return p, nil
	}
	as, err := p.As(name)
	if err != nil {
		return nil, usageError{fmt.Errorf("--flavour: %w", err)}
	}
	return as, nil
}

func names(rack map[string]*panel.Compiled) string {
	ids := make([]string, 0, len(rack))
	for id := range rack {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	return strings.Join(ids, ", ")
}

func writeJSON(w io.Writer, v any) error {
	b, err := formats.Write(v)
	if err != nil {
		return err
	}
	_, err = w.Write(b)
	return err
}
