package main

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/hear"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/sampled"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/formats"
	"glossator/formats/flac"
	"glossator/formats/sfz"
	"glossator/formats/smf"
	"glossator/formats/wav"
)

// rendered is what render tells with --json.
type rendered struct {
	File     string        `json:"file"`
	Seconds  float64       `json:"seconds"`
	Loudness float64       `json:"loudness"`
	Peak     float64       `json:"peak"`
	Limited  float64       `json:"limited"`
	Stages   []synth.Stage `json:"stages"`
	Assumed  []string      `json:"assumed"`
}

// rendering is what a patch is to be rendered with.
type rendering struct {
	patchFile, phraseFile, preset, to, panels, school, layer, flavour, out string
	octaves, bits                                                          int
	seed                                                                   uint64
	asJSON, force                                                          bool
}

func renderCommand() *cobra.Command {
	var a rendering
	c := &cobra.Command{
		Use:   "render --patch FILE --out FILE.wav",
		Short: "Plays a patch, or its translation, into a WAVE or FLAC file, or samples it (SFZ)",
		Example: `  glossator render --patch keel.json --out keel.wav
  glossator render --patch keel.json --to halyard --school ear --out keel-on-halyard.wav`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return a.run(cmd.OutOrStdout(), cmd.ErrOrStderr()) },
	}
	f := c.Flags()
	f.StringVar(&a.patchFile, "patch", "", "patch file (JSON)")
	f.StringVar(&a.out, "out", "", "file to write: .wav, .flac, or .sfz for an instrument of samples")
	f.StringVar(&a.phraseFile, "phrase", "", "Standard MIDI File to play in place of the patch's own phrase")
	f.StringVar(&a.preset, "preset", "", "a line to try it with: "+presetIDs())
	f.StringVar(&a.to, "to", "", "play the translation to this panel (id or file)")
	f.StringVar(&a.panels, "panels", "", "folder of panel files, beside those that ship with the program")
	f.StringVar(&a.school, "school", string(plan.Ear), "numbers, ear or feel, with --to")
	f.StringVar(&a.layer, "layer", "", "one layer of the patch; all where absent")
	f.StringVar(&a.flavour, "flavour", "", "a flavour of the patch; the patch as it stands where absent")
	f.IntVar(&a.octaves, "octaves", 0, "move the notes by octaves")
	f.IntVar(&a.bits, "bits", 24, "16, 24, or 32 for float")
	f.Uint64Var(&a.seed, "seed", 1, "for what is random: start phases, noise, drift")
	f.BoolVar(&a.asJSON, "json", false, "print what was rendered as JSON")
	f.BoolVar(&a.force, "force", false, "write over a file that is there")
	return c
}

func (a *rendering) run(w, warnings io.Writer) error {
	if a.patchFile == "" || a.out == "" {
		return usageError{errors.New("render needs --patch FILE and --out FILE.wav")}
	}
	if a.bits != 16 && a.bits != 24 && a.bits != 32 {
		return usageError{fmt.Errorf("--bits: expected 16, 24 or 32 (float), got %d", a.bits)}
	}
	switch end := strings.ToLower(filepath.Ext(a.out)); end {
	case "", ".wav", ".wave", ".flac", ".sfz":
	default:
		return usageError{fmt.Errorf("--out: expected a name that ends in .wav, .flac or .sfz, got %q", a.out)}
	}
	if err := notThere(a.out, a.force); err != nil {
		return err
	}
	rack, p, src, err := openPatch(a.patchFile, a.panels, warnings)
	if err != nil {
		return err
	}
	if p, err = flavoured(p, a.flavour); err != nil {
		return err
	}
	if p.Phrase, err = a.phrase(p, warnings); err != nil {
		return err
	}
	if a.preset != "" && p.Phrase != nil { // what is moved in its own phrase stands still
		p.Phrase.Moves = nil
	}
	notes, _, err := audition.Notes(p, a.preset, a.octaves)
	if err != nil {
		return err
	}
	layers, err := a.layers(rack, p, src)
	if err != nil {
		return err
	}
	if strings.EqualFold(filepath.Ext(a.out), ".sfz") {
		return a.samples(w, p, layers)
	}
	s, err := synth.Render(layers, notes, synth.Options{Seed: a.seed, Wheel: p.Wheel})
	if err != nil {
		return err
	}
	x := &wav.Sound{Rate: synth.Rate, Bits: a.bits, Float: a.bits == 32, Left: s.Left, Right: s.Right}
	var data []byte
	if strings.EqualFold(filepath.Ext(a.out), ".flac") {
		if data, err = flac.Bytes(x); err != nil {
			return usageError{fmt.Errorf("--bits: %w", err)}
		}
	} else {
		var b bytes.Buffer
		if err := wav.Write(&b, x); err != nil {
			return err
		}
		data = b.Bytes()
	}
	if err := os.WriteFile(a.out, data, 0o644); err != nil {
		return err
	}
	return a.report(w, s)
}

// samples writes an instrument of samples: the text, and a folder of samples beside it.
func (a *rendering) samples(w io.Writer, p *patch.Patch, layers []synth.Layer) error {
	low, high := sampled.Range(p)
	set, err := sampled.Make(sampled.Task{Name: p.Name, Layers: layers, Low: low, High: high, Wheel: p.Wheel, Seed: a.seed})
	if err != nil {
		return err
	}
	base := filepath.Base(a.out)
	files, err := sfz.Files(strings.TrimSuffix(base, filepath.Ext(base)), set)
	if err != nil {
		return err
	}
	for i, f := range files {
		at := a.out
		if i > 0 {
			at = filepath.Join(filepath.Dir(a.out), filepath.FromSlash(f.Name))
		}
		if err := notThere(at, a.force); err != nil {
			return err
		}
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return err
		}
		if err := os.WriteFile(at, f.Data, 0o644); err != nil {
			return err
		}
	}
	fmt.Fprintf(w, "%s: %d samples, keys %d to %d\n", a.out, len(set.Regions), low, high)
	for _, l := range set.Left {
		fmt.Fprintf(w, "  %s\n", l)
	}
	return nil
}

// phrase gives the phrase of the patch, or that of a MIDI file in its place.
func (a *rendering) phrase(p *patch.Patch, warnings io.Writer) (*patch.Phrase, error) {
	if a.phraseFile == "" {
		return p.Phrase, nil
	}
	data, err := readFile(a.phraseFile)
	if err != nil {
		return nil, err
	}
	read, err := smf.Read(data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", a.phraseFile, err)
	}
	phrase, tempo, err := read.Phrase()
	if err != nil {
		return nil, fmt.Errorf("%s: %w", a.phraseFile, err)
	}
	if tempo >= 10 && tempo <= 400 && math.Abs(float64(tempo)-p.Tempo) > 0.01 { // the line as the file has it
		fmt.Fprintf(warnings, "played at the tempo of the file, %.4g\n", float64(tempo))
		p.Tempo = float64(tempo)
	}
	if n := len(read.Tempos()); n > 1 {
		fmt.Fprintf(warnings, "the file changes its tempo: of %d the first counts\n", n)
	}
	return phrase, nil
}

// layers gives what sounds: the patch, or its translation.
func (a *rendering) layers(rack map[string]*panel.Compiled, p *patch.Patch, src *panel.Compiled) ([]synth.Layer, error) {
	layers, err := audition.Played(src, p, a.layer)
	if err != nil || a.to == "" {
		return layers, err
	}
	dst, err := targetPanel(rack, a.to)
	if err != nil {
		return nil, err
	}
	for i := range layers {
		id := a.layer
		if id == "" {
			id = p.Layers[i].ID
		}
		opt := translate.Options{School: plan.School(a.school), Layer: id}
		if err := tune(src, p, dst, &opt, ""); err != nil {
			return nil, err
		}
		sheet, err := translate.Translate(src, p, dst, opt)
		if err != nil {
			return nil, err
		}
		if layers[i], err = audition.PlayedTarget(dst, p, sheet); err != nil {
			return nil, err
		}
	}
	return layers, nil
}

// report says what was rendered.
func (a *rendering) report(w io.Writer, s *synth.Sound) error {
	e := hear.Listen(hear.Wave{Rate: synth.Rate, Left: s.Left, Right: s.Right})
	r := rendered{File: a.out, Seconds: e.Seconds(), Loudness: e.Loudness().Value, Peak: e.Peak().Value, Limited: s.Limited, Stages: s.Stages, Assumed: append([]string{}, s.Assumed...)}
	if a.asJSON {
		return writeJSON(w, r)
	}
	fmt.Fprintf(w, "%s: %.2f s, %.1f LUFS, peak %.1f dBFS\n", r.File, r.Seconds, r.Loudness, r.Peak)
	for _, x := range r.Stages {
		over := ""
		if x.Over {
			over = "  over its headroom"
		}
		fmt.Fprintf(w, "  %-24s %6.1f dB%s\n", x.Name, x.Peak, over)
	}
	for _, x := range r.Assumed {
		fmt.Fprintf(w, "  assumed: %s\n", x)
	}
	return nil
}

func presetIDs() string {
	var ids []string
	for _, p := range phrase.Presets {
		ids = append(ids, p.ID)
	}
	return strings.Join(ids, ", ")
}

// notThere refuses to write over a file, unless it is asked to.
func notThere(out string, force bool) error {
	if info, err := os.Stat(out); out != "" && err == nil && info.Mode().IsRegular() && !force {
		return usageError{fmt.Errorf("%s is there: name another file, or write over it with --force", out)}
	}
	return nil
}

// targetPanel finds a panel by its id or reads it from a file.
func targetPanel(rack map[string]*panel.Compiled, to string) (*panel.Compiled, error) {
	if dst := rack[strings.ToLower(strings.TrimSpace(to))]; dst != nil {
		return dst, nil
	}
	data, err := readAtMost(to, formats.MaxSize)
	if err != nil {
		return nil, fmt.Errorf("--to: expected the id of a panel (%s) or a panel file, got %q", names(rack), to)
	}
	return formats.ReadPanel(to, data)
}

// readWave reads a WAVE file.
func readWave(file string) (hear.Wave, error) {
	info, err := os.Stat(file)
	if err != nil {
		return hear.Wave{}, err
	}
	if info.IsDir() || info.Size() > wav.MaxSize {
		return hear.Wave{}, fmt.Errorf("%s: expected a WAVE file of at most %d MB", file, wav.MaxSize>>20)
	}
	if info.Size() > 16<<20 {
		debug.SetMemoryLimit(mostMemory) // a minute at 192 kHz is measured in this, rather than in what is quickest
	}
	data, err := readAtMost(file, wav.MaxSize)
	if err != nil {
		return hear.Wave{}, err
	}
	s, err := wav.ReadFor(data, hear.Fastest)
	if err != nil {
		return hear.Wave{}, fmt.Errorf("%s: %w", file, err)
	}
	return hear.Wave{Rate: float64(s.Rate), Left: s.Left, Right: s.Right, Peak: s.Peak}, nil
}

// mostMemory is what measuring a long file is to keep within, in bytes.
const mostMemory = 250 << 20

// offFlag reads a time such as "1.2 s", empty for none.
func offFlag(text string) (float64, error) {
	if text == "" {
		return 0, nil
	}
	e, err := q.Parse(text)
	if err != nil || e.Form != q.FormDuration {
		return 0, fmt.Errorf("--off: expected a time such as 1.5 s, got %q", text)
	}
	return e.Value, nil
}

func measureCommand() *cobra.Command {
	var what, off, source, velocity string
	var asJSON bool
	c := &cobra.Command{
		Use:     "measure FILE.wav [FILE.wav ...]",
		Short:   "Measures a recording: pitch, level, times, wave, filter, motion, echoes; several of one patch: how it follows key and velocity",
		Example: "  glossator measure keel.wav --what decay --off '1.5 s'\n  glossator measure low.wav high.wav --velocity 100,100",
		Args:    cobra.RangeArgs(1, 32),
		RunE: func(cmd *cobra.Command, args []string) error {
			if what != "" && !slices.Contains(hear.Whats, what) {
				return usageError{fmt.Errorf("--what: expected one of %s, got %q", strings.Join(hear.Whats, ", "), what)}
			}
			if source != "" && source != "saw" && source != "noise" {
				return usageError{fmt.Errorf("--source: expected saw or noise, got %q", source)}
			}
			let, err := offFlag(off)
			if err != nil {
				return usageError{err}
			}
			hard, err := velocities(velocity, len(args))
			if err != nil {
				return usageError{err}
			}
			if len(args) > 1 {
				if what != "" || source != "" || off != "" {
					return usageError{errors.New("several recordings tell how one patch follows key and velocity: --what, --source and --off are for one")}
				}
				return responses(cmd, args, hard, asJSON)
			}
			w, err := readWave(args[0])
			if err != nil {
				return err
			}
			e := hear.Listen(w)
			var list []hear.Measured
			switch {
			case what == "cutoff":
				list = e.Cutoff(source)
			case what != "":
				list = e.Measure(what, let)
				if what == "spectrum" && len(list) > 0 && list[0].Known {
					list = append(list, e.Spectrum()...)
				}
			default:
				list = e.All(let)
			}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), list)
			}
			for _, f := range list {
				fmt.Fprintln(cmd.OutOrStdout(), figureText(f))
			}
			return nil
		},
	}
	f := c.Flags()
	f.StringVar(&what, "what", "", "one of "+strings.Join(hear.Whats, ", ")+"; all where absent")
	f.StringVar(&off, "off", "", "when the key was let go, such as 1.5 s, for decay, release and t60")
	f.StringVar(&velocity, "velocity", "", "of several recordings, how hard the key was struck in each, such as 40,100 (1 to 127)")
	f.StringVar(&source, "source", "", "what goes through the filter: saw or noise; found by itself where absent")
	f.BoolVar(&asJSON, "json", false, "print the figures as JSON")
	return c
}

// velocities reads how hard the key was struck in each of some recordings; 0 where it is not said.
func velocities(text string, n int) ([]float64, error) {
	out := make([]float64, n)
	if text == "" {
		return out, nil
	}
	list := strings.Split(text, ",")
	if len(list) != n {
		return nil, fmt.Errorf("--velocity: expected %d numbers, one for each recording, got %q", n, text)
	}
	for i, x := range list {
		v, err := strconv.Atoi(strings.TrimSpace(x))
		if err != nil || v < 1 || v > 127 {
			return nil, fmt.Errorf("--velocity: expected whole numbers of 1 to 127, got %q", x)
		}
		out[i] = float64(v)
	}
	return out, nil
}

// responses tells from several recordings how a patch follows key and velocity.
func responses(cmd *cobra.Command, files []string, velocity []float64, asJSON bool) error {
	var takes []hear.Take
	for i, name := range files {
		w, err := readWave(name)
		if err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		takes = append(takes, hear.Take{Ear: hear.Listen(w), Velocity: velocity[i]})
	}
	list := hear.Responses(takes)
	if asJSON {
		return writeJSON(cmd.OutOrStdout(), list)
	}
	for _, f := range list {
		fmt.Fprintln(cmd.OutOrStdout(), figureText(f))
	}
	return nil
}

// figureText writes a figure with its expanded uncertainty (k = 2, JCGM 100:2008).
func figureText(f hear.Measured) string {
	if !f.Known {
		return fmt.Sprintf("%-24s %s", f.Label, f.Why)
	}
	if f.Word != "" {
		return fmt.Sprintf("%-24s %s", f.Label, f.Word)
	}
	u := q.Cover * f.Uncertainty
	digits := 1
	if f.Value == math.Trunc(f.Value) { // a count
		digits = 0
	}
	if u > 0 {
		digits = min(max(int(math.Ceil(-math.Log10(u)))+1, 0), 5)
	}
	text := fmt.Sprintf("%-24s %.*f %s +/- %.*f", f.Label, digits, f.Value, f.Unit, digits, u)
	if f.Why != "" {
		text += ": " + f.Why
	}
	return text
}

// compared is what compare tells with --json.
type compared struct {
	Distance compare.Distance   `json:"distance"`
	Rows     []compare.Contrast `json:"rows"`
}

func compareCommand() *cobra.Command {
	var off string
	var asJSON bool
	c := &cobra.Command{
		Use:     "compare A.wav B.wav",
		Short:   "Says what differs between two recordings",
		Example: "  glossator compare keel.wav keel-on-halyard.wav",
		Args:    cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			let, err := offFlag(off)
			if err != nil {
				return usageError{err}
			}
			a, err := readWave(args[0])
			if err != nil {
				return err
			}
			b, err := readWave(args[1])
			if err != nil {
				return err
			}
			r := compared{Distance: compare.Recordings(a, b), Rows: compare.Table(a, b, compare.Times{Off: let})}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), r)
			}
			writeCompared(cmd.OutOrStdout(), r)
			return nil
		},
	}
	c.Flags().StringVar(&off, "off", "", "when the key was let go, such as 1.5 s")
	c.Flags().BoolVar(&asJSON, "json", false, "print distance and table as JSON")
	return c
}

func writeCompared(w io.Writer, r compared) {
	d := r.Distance
	fmt.Fprintf(w, "distance %.2f: level %.2f, colour %.2f, shape %.2f, brightness %.2f, motion %.2f, pitch %.2f (just-noticeable differences)\n", d.Total, d.Level, d.Colour, d.Shape, d.Brightness, d.Motion, d.Pitch)
	fmt.Fprintf(w, "shifted by %.3f s, %+.1f dB to be as loud\n", d.Shift, d.Gain)
	for _, x := range r.Rows {
		if !x.Known {
			why := x.A.Why
			if why == "" {
				why = x.B.Why
			}
			fmt.Fprintf(w, "%-24s %s\n", x.Label, why)
			continue
		}
		sure := ""
		if !x.Sure {
			sure = " (no more than the measuring may be off by)"
		}
		fmt.Fprintf(w, "%-24s %10.4g %10.4g %-7s %+9.3g %-3s %6.1f JND%s\n", x.Label, x.A.Value, x.B.Value, x.A.Unit, x.Diff, x.Unit, x.JNDs, sure)
	}
}
