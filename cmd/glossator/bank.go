package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"regexp"
	"runtime"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"glossator/core/plan"
	"glossator/library"
)

var shardOf = regexp.MustCompile(`^([0-9]{1,6})/([0-9]{1,6})$`)

// bankCommand translates folders of patches.
func bankCommand() *cobra.Command {
	var dir, to, out, panels, school, shard string
	var cores int
	var listen, asJSON bool
	c := &cobra.Command{
		Use:   "bank --patches DIR --to PANEL,PANEL --out DIR",
		Short: "Translates folders of patches; stops and goes on where it was, and ends with one table",
		Long: `Translates every patch file of a folder, and of the folders in it, to the panels named, and writes a sheet for each and one table (table.csv).
Interrupted, it goes on where it was when it is run again; what has changed since is made again. With --shard 3/16 it does the third of sixteen shares, on this machine or
another that sees the same folders: the files are the same whatever the number of shards or cores, and the last shard to end writes the table.`,
		Example: `  glossator bank --patches patches --to halyard,kedge --out translated
  glossator bank --patches patches --to halyard --out translated --listen --shard 3/16`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if dir == "" || to == "" || out == "" {
				return usageError{errors.New("bank needs --patches DIR, --to PANEL,PANEL and --out DIR")}
			}
			t := library.Task{Patches: dir, Out: out, School: plan.School(school), Listen: listen, JSON: asJSON, Shard: 1, Of: 1, Workers: cores, Program: Version}
			switch t.School {
			case plan.Ear, plan.Numbers, plan.Feel:
			default:
				return usageError{fmt.Errorf("--school: expected ear, numbers or feel, got %q", school)}
			}
			if cores < 1 {
				return usageError{fmt.Errorf("--cores: expected 1 or more, got %d", cores)}
			}
			if shard != "" {
				m := shardOf.FindStringSubmatch(shard)
				if m == nil {
					return usageError{fmt.Errorf(`--shard: expected a share such as 3/16, got %q`, shard)}
				}
				t.Shard, _ = strconv.Atoi(m[1])
				t.Of, _ = strconv.Atoi(m[2])
				if t.Shard < 1 || t.Shard > t.Of {
					return usageError{fmt.Errorf("--shard: expected 1/%d to %d/%d, got %q", max(1, t.Of), max(1, t.Of), max(1, t.Of), shard)}
				}
			}
			var err error
			if t.Panels, err = loadPanels(panels, cmd.ErrOrStderr()); err != nil {
				return err
			}
			seen := map[string]bool{}
			for _, id := range strings.Split(to, ",") {
				dst, err := targetPanel(t.Panels, strings.TrimSpace(id))
				if err != nil {
					return err
				}
				if !seen[dst.ID] {
					t.Targets, seen[dst.ID] = append(t.Targets, dst), true
				}
			}
			told := &teller{cmd: cmd, start: time.Now()}
			t.Progress = told.tell
			ctx, stop := signal.NotifyContext(cmd.Context(), os.Interrupt, syscall.SIGTERM)
			defer stop()
			r, err := library.Run(ctx, t)
			told.end()
			switch {
			case errors.Is(err, context.Canceled):
				return fmt.Errorf("stopped: %d of %d patches are through; the same command goes on from there", r.Done, r.All)
			case err != nil:
				return err
			case r.Table == "":
				fmt.Fprintf(cmd.OutOrStdout(), "%d patches are through; %d of other shards are still to come, after which the table is written\n", r.Done, r.Missing)
			default:
				fmt.Fprintf(cmd.OutOrStdout(), "%d patches are through, %d of them before; the table is %s\n", r.Done, r.Before, r.Table)
			}
			if r.Faults > 0 {
				return fmt.Errorf("%d of %d patches could not be translated: the table says why", r.Faults, r.All)
			}
			return nil
		},
	}
	f := c.Flags()
	f.StringVar(&dir, "patches", "", "folder of patch files (JSON), with the folders in it")
	f.StringVar(&to, "to", "", "targets: ids of panels, or panel files, with commas between")
	f.StringVar(&out, "out", "", "folder for the sheets and the table: empty, or one of an earlier run")
	f.StringVar(&panels, "panels", "", "folder of panel files, beside those that ship with the program")
	f.StringVar(&school, "school", string(plan.Ear), "ear, numbers or feel; by ear compares renderings only with --listen, else it plans by how parts count for the ear")
	f.StringVar(&shard, "shard", "", "a share of the work, such as 3/16")
	f.IntVar(&cores, "cores", runtime.GOMAXPROCS(0), "how many patches are worked on at once")
	f.BoolVar(&listen, "listen", false, "render both sides of each: search by ear, and fill in how far they sound apart (seconds a pair)")
	f.BoolVar(&asJSON, "json", false, "write the sheets as JSON instead of Markdown")
	return c
}

// teller prints how far a run is, once a second on a terminal and every half minute elsewhere.
type teller struct {
	cmd         *cobra.Command
	start, last time.Time
	wrote       bool
}

func (t *teller) tell(p library.Progress) {
	terminal := false
	if f, ok := t.cmd.ErrOrStderr().(*os.File); ok {
		info, err := f.Stat()
		terminal = err == nil && info.Mode()&os.ModeCharDevice != 0
	}
	now, every := time.Now(), 30*time.Second
	if terminal {
		every = time.Second
	}
	if p.Done < p.All && now.Sub(t.last) < every {
		return
	}
	t.last = now
	line := fmt.Sprintf("%d of %d patches", p.Done, p.All)
	if made := p.Done - p.Before; made > 0 && p.Done < p.All {
		left := time.Duration(float64(now.Sub(t.start)) / float64(made) * float64(p.All-p.Done))
		line += fmt.Sprintf(", about %s left", left.Round(time.Second))
	}
	if p.Faults > 0 {
		line += fmt.Sprintf(", %d could not be translated", p.Faults)
	}
	if terminal {
		fmt.Fprintf(t.cmd.ErrOrStderr(), "\r\033[K%s", line)
		t.wrote = true
		return
	}
	fmt.Fprintln(t.cmd.ErrOrStderr(), line)
}

func (t *teller) end() {
	if t.wrote {
		fmt.Fprintln(t.cmd.ErrOrStderr())
	}
}
