package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"os"
	"os/signal"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"glossator/core/calibrate"
	"glossator/core/panel"
	"glossator/core/phrase"
	"glossator/core/quantity"
	"glossator/core/scale"
	"glossator/formats/smf"
	"glossator/formats/wav"
	"glossator/standin"
)

// standingIn are the flags of the stand-in command.
type standingIn struct {
	panels, out, note, serve string
	set                      []string
	unit, velocity           int
	seconds                  float64
	truth, asJSON, force     bool
}

func standInCommand() *cobra.Command {
	var a standingIn
	c := &cobra.Command{
		Use:   "stand-in PANEL",
		Short: "A simulated unit of a panel: plays a note into a WAVE file, or takes MIDI bytes on a local socket",
		Long: `A stand-in is a simulated unit of a panel, with laws of its own that differ from
what the panel says, within and now and then beyond the stated uncertainty. It is
reached as an instrument is: controls are set by hand to about a reading (--set),
or by MIDI bytes on a local socket (--serve), and it plays notes. --truth tells
the laws that a bench has to find out.`,
		Example: `  glossator stand-in kedge --unit 7 --set mix.noise=3:00 --note A2 --seconds 2 --out take.wav
  glossator stand-in bowline --unit 7 --serve 127.0.0.1:7700
  glossator stand-in kedge --unit 7 --truth --json`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error { return a.run(cmd, args[0]) },
	}
	f := c.Flags()
	f.StringVar(&a.panels, "panels", "", "folder of panel files, beside those that ship with the program")
	f.IntVar(&a.unit, "unit", 1, "serial number of the unit")
	f.StringArrayVar(&a.set, "set", nil, "a control set by hand, such as filter.cutoff=40; once for each")
	f.StringVar(&a.note, "note", "A3", "note that is played")
	f.Float64Var(&a.seconds, "seconds", 2, "how long the key is held")
	f.IntVar(&a.velocity, "velocity", 100, "how hard it is struck, 1 to 127")
	f.StringVar(&a.out, "out", "", "file to write (WAVE)")
	f.StringVar(&a.serve, "serve", "", "address on this machine to take MIDI bytes at, such as 127.0.0.1:7700")
	f.BoolVar(&a.truth, "truth", false, "print the laws that it really has")
	f.BoolVar(&a.asJSON, "json", false, "print them as JSON")
	f.BoolVar(&a.force, "force", false, "write over a file that is there")
	return c
}

// panelNamed finds a panel by its id or its file.
func panelNamed(name, panels string, warnings io.Writer) (*panel.Compiled, error) {
	rack, err := loadPanels(panels, warnings)
	if err != nil {
		return nil, err
	}
	return targetPanel(rack, name)
}

func (a *standingIn) run(cmd *cobra.Command, name string) error {
	if !a.truth && a.out == "" && a.serve == "" {
		return usageError{errors.New("stand-in needs --out FILE.wav, --serve ADDRESS or --truth")}
	}
	c, err := panelNamed(name, a.panels, cmd.ErrOrStderr())
	if err != nil {
		return err
	}
	u, err := standin.New(c, a.unit)
	if err != nil {
		return err
	}
	if a.truth {
		return a.tell(cmd.OutOrStdout(), u)
	}
	for _, x := range a.set {
		control, reading, ok := strings.Cut(x, "=")
		if !ok {
			return usageError{fmt.Errorf("--set: expected CONTROL=READING, got %q", x)}
		}
		if err := u.Hand(strings.TrimSpace(control), strings.TrimSpace(reading)); err != nil {
			return fmt.Errorf("--set %s: %w", x, err)
		}
	}
	if a.serve != "" {
		return a.midi(cmd, u)
	}
	return a.play(cmd.OutOrStdout(), u)
}

func (a *standingIn) tell(w io.Writer, u *standin.Unit) error {
	t := u.Truth()
	if a.asJSON {
		return writeJSON(w, t)
	}
	for k := range u.Panel.Controls {
		all := t.Controls[u.Panel.Controls[k].ID]
		for _, v := range all {
			if v.Value == nil {
				fmt.Fprintf(w, "%s\t%s\tnone\n", u.Panel.Controls[k].ID, v.Reading)
				continue
			}
			fmt.Fprintf(w, "%s\t%s\t%.5g %s\n", u.Panel.Controls[k].ID, v.Reading, *v.Value, v.Unit)
		}
	}
	return nil
}

func (a *standingIn) play(w io.Writer, u *standin.Unit) error {
	e, err := quantity.Parse(a.note)
	if err != nil || e.Form != quantity.FormNote {
		return usageError{fmt.Errorf("--note: expected a note such as A3, got %q", a.note)}
	}
	if !(a.seconds > 0 && a.seconds <= 60) {
		return usageError{fmt.Errorf("--seconds: expected more than 0 and at most 60, got %g", a.seconds)}
	}
	if a.velocity < 1 || a.velocity > 127 {
		return usageError{fmt.Errorf("--velocity: expected 1 to 127, got %d", a.velocity)}
	}
	if info, err := os.Stat(a.out); err == nil && info.Mode().IsRegular() && !a.force {
		return usageError{fmt.Errorf("%s is there: name another file, or write over it with --force", a.out)}
	}
	s, err := u.Play([]phrase.Note{{End: a.seconds, Key: float64(quantity.Frequency(e.Value).Note()), Velocity: a.velocity}}, 0)
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if err := wav.Write(&b, &wav.Sound{Rate: int(s.Rate), Bits: 24, Left: s.Left, Right: s.Right}); err != nil {
		return err
	}
	if err := os.WriteFile(a.out, b.Bytes(), 0o644); err != nil {
		return err
	}
	fmt.Fprintf(w, "%s: %.1f s of unit %d of %s\n", a.out, s.Seconds(), u.Number, u.Panel.Name)
	return nil
}

// midi takes MIDI bytes on a socket, one connection after another, until it is interrupted.
func (a *standingIn) midi(cmd *cobra.Command, u *standin.Unit) error {
	host, _, err := net.SplitHostPort(a.serve)
	if err != nil {
		return usageError{fmt.Errorf("--serve: expected an address such as 127.0.0.1:7700: %w", err)}
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return usageError{fmt.Errorf("--serve: expected an address on this machine such as 127.0.0.1:7700, got %q", host)}
	}
	ctx, stop := signal.NotifyContext(cmd.Context(), os.Interrupt)
	defer stop()
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", a.serve)
	if err != nil {
		return err
	}
	context.AfterFunc(ctx, func() { l.Close() })
	fmt.Fprintf(cmd.OutOrStdout(), "Unit %d of %s takes MIDI bytes at %s. Ctrl+C ends.\n", u.Number, u.Panel.Name, l.Addr())
	for {
		conn, err := l.Accept()
		if err != nil {
			if ctx.Err() != nil {
				return nil
			}
			return err
		}
		done := context.AfterFunc(ctx, func() { conn.Close() })
		serveBytes(conn, u)
		done()
		conn.Close()
	}
}

// serveBytes hands the bytes of a connection to a unit as whole messages, and writes its answers.
func serveBytes(conn io.ReadWriter, u *standin.Unit) {
	var stream smf.Receiver
	buf := make([]byte, 4096)
	for {
		n, err := conn.Read(buf)
		if all := stream.Take(buf[:n]); len(all) > 0 {
			if answer := u.MIDI(all); len(answer) > 0 {
				if _, err := conn.Write(smf.Bytes(answer)); err != nil {
					return
				}
			}
		}
		if err != nil {
			return
		}
	}
}

// benching are the flags of the bench command.
type benching struct {
	panels, control, recipe string
	files                   []string
	standIn, takes          int
	asJSON                  bool
}

func benchCommand() *cobra.Command {
	var a benching
	c := &cobra.Command{
		Use:   "bench PANEL --control ID",
		Short: "Measures the law of a control: says what to set and to play, and fits the takes",
		Long: `The bench finds out a control's own law. Without takes it says what to set, what
to play and at which readings to begin. With --take it measures recordings, one
for each reading; with --stand-in it measures a simulated unit.`,
		Example: `  glossator bench kedge --control lfo.rate
  glossator bench kedge --control lfo.rate --stand-in 7 --json
  glossator bench kedge --control lowpass.amount --take "12:00=a.wav" --take "2:00=b.wav"`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if a.control == "" {
				return usageError{errors.New("bench needs --control ID")}
			}
			if a.takes < 0 || a.takes > 2*calibrate.MostTakes {
				return usageError{fmt.Errorf("--takes: expected at most %d, got %d", 2*calibrate.MostTakes, a.takes)}
			}
			if len(a.files) > 0 && cmd.Flags().Changed("stand-in") {
				return usageError{errors.New("--take and --stand-in: expected one or the other")}
			}
			if a.recipe != "" && calibrate.RecipeOf(a.recipe) == nil {
				return usageError{fmt.Errorf("--recipe: expected one of %s, got %q", strings.Join(calibrate.RecipeNames(), ", "), a.recipe)}
			}
			c, err := panelNamed(args[0], a.panels, cmd.ErrOrStderr())
			if err != nil {
				return err
			}
			b, err := calibrate.Begin(c, a.control, a.recipe)
			if err != nil {
				return err
			}
			var r *calibrate.Result
			switch {
			case cmd.Flags().Changed("stand-in"):
				u, err := standin.New(c, a.standIn)
				if err != nil {
					return err
				}
				if r, err = u.Sit(b, a.takes); err != nil {
					return err
				}
			default:
				if r, err = a.measured(b); err != nil {
					return err
				}
			}
			if a.asJSON {
				return writeJSON(cmd.OutOrStdout(), reportOf(b, r))
			}
			writeBench(cmd.OutOrStdout(), b, r)
			return nil
		},
	}
	f := c.Flags()
	f.StringVar(&a.panels, "panels", "", "folder of panel files, beside those that ship with the program")
	f.StringVar(&a.control, "control", "", "id of the control")
	f.StringVar(&a.recipe, "recipe", "", "how it is measured; the first that fits where absent")
	f.StringArrayVar(&a.files, "take", nil, "a recording of a reading, such as 40=take40.wav; once for each")
	f.IntVar(&a.standIn, "stand-in", 0, "measure the simulated unit of this number")
	f.IntVar(&a.takes, "takes", 0, "how many takes; as many as are worth it where absent")
	f.BoolVar(&a.asJSON, "json", false, "print the law as JSON")
	return c
}

// measured hears the recordings that are named.
func (a *benching) measured(b *calibrate.Bench) (*calibrate.Result, error) {
	var all []calibrate.Recorded
	for _, x := range a.files {
		i := strings.LastIndex(x, "=")
		if i < 0 {
			return nil, usageError{fmt.Errorf("--take: expected READING=FILE, got %q", x)}
		}
		reading, file := strings.TrimSpace(x[:i]), x[i+1:]
		w, err := readWave(file)
		if err != nil {
			return nil, err
		}
		got, err := b.Hear(reading, &calibrate.Sound{Wave: w})
		if err != nil {
			return nil, fmt.Errorf("--take %s: %w", x, err)
		}
		all = append(all, got)
	}
	return b.Fit(b.Takes(all)), nil
}

// benchReport is what the bench command prints as JSON.
type benchReport struct {
	Panel     string             `json:"panel"`
	Control   string             `json:"control"`
	Recipe    string             `json:"recipe"`
	Figure    string             `json:"figure"`
	Takes     []calibrate.Take   `json:"takes"`
	Law       scale.Law          `json:"law"`
	RunnersUp []calibrate.Fitted `json:"runners_up"`
	Band      []calibrate.Band   `json:"band"`
	Odd       int                `json:"odd"`
	Unsure    float64            `json:"unsure"`
	Note      string             `json:"note,omitempty"`
	Next      calibrate.Next     `json:"next"`
	Settings  []calibrate.Stand  `json:"settings"`
}

func reportOf(b *calibrate.Bench, r *calibrate.Result) benchReport {
	return benchReport{Panel: b.Panel.ID, Control: b.Panel.Controls[b.Control].ID, Recipe: b.Recipe.Name, Figure: b.Figure, Takes: r.Takes, Law: r.Law, RunnersUp: r.All[1:],
		Band: r.Band(), Odd: r.Odd, Unsure: r.Unsure(), Note: r.Note, Next: r.Next(), Settings: b.Settings()}
}

func writeBench(w io.Writer, b *calibrate.Bench, r *calibrate.Result) {
	x := &b.Panel.Controls[b.Control]
	fmt.Fprintf(w, "%s, %s: %s\n", b.Panel.Name, x.Label, b.Recipe.Label)
	next := r.Next()
	if len(r.Takes) == 0 {
		fmt.Fprintln(w, "\nTurn monitors and headphones down before anything is played.")
		if b.Recipe.Caution != "" {
			fmt.Fprintln(w, b.Recipe.Caution)
		}
		fmt.Fprintln(w, "\nSet first:")
		for _, s := range b.Settings() {
			if !s.Init {
				fmt.Fprintf(w, "  %s %s: %s\n", s.Section, s.Label, s.Reading)
			}
		}
		if _, hold := b.Held(); hold != "" {
			fmt.Fprintf(w, "  %s: all the way\n", hold)
		}
		fmt.Fprintln(w, "  everything else as init leaves it")
		for _, t := range b.Recipe.Traps {
			fmt.Fprintf(w, "Mind: %s\n", t)
		}
	}
	for _, t := range r.Takes {
		if t.Why != "" {
			fmt.Fprintf(w, "  %-10s not used: %s\n", t.Reading, t.Why)
			continue
		}
		fmt.Fprintf(w, "  %-10s %.4g ± %.2g %s\n", t.Reading, t.Value, t.U, t.Unit)
		if t.Doubt != "" {
			fmt.Fprintf(w, "  %-10s %s\n", "", t.Doubt)
		}
	}
	if slices.ContainsFunc(r.Takes, func(t calibrate.Take) bool { return t.Why == "" }) {
		fmt.Fprintf(w, "\n%s\n", r.Law.String())
		for _, f := range r.All[:min(4, len(r.All))] {
			fmt.Fprintf(w, "  %-40s criterion %.1f, residuals %.1f of what they may be\n", f.Label, f.AICc, f.Chi)
		}
	}
	if r.Note != "" {
		fmt.Fprintln(w, r.Note)
	}
	fmt.Fprintf(w, "Known to %.2g just-noticeable differences on average.\n", r.Unsure())
	if next.Done {
		fmt.Fprintf(w, "Done: %s.\n", next.Why)
		return
	}
	fmt.Fprintf(w, "Next: set it to %s (%s)", next.Reading, next.Why)
	for i, n := range next.Notes {
		fmt.Fprintf(w, "%s %s for %.2g s at velocity %d", map[bool]string{true: ", play", false: ", then"}[i == 0], quantity.Note(n.Key).NoteName(), n.End-n.Start, n.Velocity)
	}
	fmt.Fprintln(w, ".")
}
