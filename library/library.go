// Package library translates folders of patches to instruments, into a folder: it stops and goes on where it was, and gives the same files whatever the number of cores or of shards.
package library

import (
	"context"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"

	"glossator/core/audition"
	"glossator/core/fault"
	"glossator/core/gloss"
	"glossator/core/heard"
	"glossator/core/nearest"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/translate"
	"glossator/formats"
)

// Task is what is to be translated.
type Task struct {
	// Patches is a folder of patch files (JSON), with the folders in it.
	Patches string
	// Out is where the sheets and the table go: empty, not there yet, or one of an earlier run.
	Out string
	// Panels are what patches stand on, by id; Targets what they are translated to. A patch on a target stays as it is there: it gets no sheet.
	Panels  map[string]*panel.Compiled
	Targets []*panel.Compiled
	// School is how, ear where it is empty. Unless it listens, nothing is rendered.
	School plan.School
	// Listen renders both sides, searches by ear, and fills in how far they sound apart.
	Listen bool
	// JSON writes sheets as JSON, else Markdown.
	JSON bool
	// Shard of Of is the share that is done, 1 to Of: every so manieth patch in the order of their names.
	Shard, Of int
	// Workers is how many patches are worked on at once.
	Workers int
	// Program is the program's version: what another one has made is made again.
	Program string
	// Progress is told how far it is, from several goroutines, one at a time.
	Progress func(Progress)
}

// Progress is how far a run is.
type Progress struct {
	// Done of All patches of the shard are through, Before of them since an earlier run.
	Done, Before, All int
	// Faults counts the files that could not be translated.
	Faults int
}

// Result is how a run has ended.
type Result struct {
	Progress
	// Table is the file of the table; empty where other shards are still to come, of which Missing patches wait.
	Table   string
	Missing int
}

// marker says that a folder is one of these.
const (
	marker = "glossator-bank.json"
	making = ".making-" // how files begin that are not whole yet
)

// run is a task on its way.
type run struct {
	*Task
	files []string // of all shards, relative, in order, with / between folders
	base  string   // what the print of each patch begins with
}

// ErrForeign is returned for an output folder that holds something else.
var ErrForeign = errors.New("holds something else: name an empty folder, or one that an earlier run has made")

// Run translates what is not translated yet. A patch that cannot be is named in the table, and the others go on; when ctx ends, what was done stays.
func Run(ctx context.Context, t Task) (Result, error) {
	if t.School == "" {
		t.School = plan.Ear
	}
	if t.Of < 1 {
		t.Shard, t.Of = 1, 1
	}
	if t.Shard < 1 || t.Shard > t.Of {
		return Result{}, fmt.Errorf("expected a shard from 1 to %d, got %d", t.Of, t.Shard)
	}
	if len(t.Targets) == 0 {
		return Result{}, errors.New("there is no instrument to translate to")
	}
	r := &run{Task: &t}
	if err := r.find(); err != nil {
		return Result{}, err
	}
	if err := r.claim(); err != nil {
		return Result{}, err
	}
	r.base = r.print()
	p := Progress{}
	var mine []string
	for i, f := range r.files {
		if i%t.Of == t.Shard-1 {
			mine = append(mine, f)
		}
	}
	p.All = len(mine)
	var mu sync.Mutex
	tell := func(change func()) {
		mu.Lock()
		defer mu.Unlock()
		change()
		if t.Progress != nil {
			t.Progress(p)
		}
	}
	tell(func() {})
	var g errgroup.Group
	g.SetLimit(max(1, t.Workers))
	for _, f := range mine {
		if ctx.Err() != nil {
			break
		}
		g.Go(func() error {
			if ctx.Err() != nil {
				return nil
			}
			rows, before, err := r.one(ctx, f)
			if err != nil {
				if ctx.Err() != nil {
					return nil
				}
				return err
			}
			tell(func() {
				p.Done++
				if before {
					p.Before++
				}
				if len(rows) > 0 && rows[0].Fault != "" {
					p.Faults++
				}
			})
			return nil
		})
	}
	err := g.Wait()
	out := Result{Progress: p}
	if err == nil {
		err = ctx.Err()
	}
	if err == nil {
		out.Table, out.Missing, err = r.table()
	}
	return out, err
}

// find lists the files.
func (r *run) find() error {
	info, err := os.Stat(r.Patches)
	if err != nil {
		return err
	}
	if !info.IsDir() {
		return fmt.Errorf("%s: expected a folder of patches, got a file", r.Patches)
	}
	out, err := filepath.Abs(r.Out)
	if err != nil {
		return err
	}
	return filepath.WalkDir(r.Patches, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() {
			if abs, err := filepath.Abs(path); err == nil && abs == out {
				if path == r.Patches {
					return fmt.Errorf("%s: the sheets cannot go among the patches themselves: name another folder", r.Out)
				}
				return filepath.SkipDir
			}
			return nil
		}
		if strings.ToLower(filepath.Ext(path)) != ".json" || strings.HasPrefix(d.Name(), ".") {
			return nil
		}
		rel, err := filepath.Rel(r.Patches, path)
		r.files = append(r.files, filepath.ToSlash(rel))
		return err
	})
}

// claim makes the folder, or takes one that a run has made.
func (r *run) claim() error {
	if err := os.MkdirAll(r.Out, 0o755); err != nil {
		return err
	}
	there, err := os.ReadDir(r.Out)
	if err != nil {
		return err
	}
	there = slices.DeleteFunc(there, func(e fs.DirEntry) bool { return strings.HasPrefix(e.Name(), making) }) // another shard makes it just now
	mine := slices.ContainsFunc(there, func(e fs.DirEntry) bool { return e.Name() == marker })
	if len(there) > 0 && !mine {
		return fmt.Errorf("%s %w", r.Out, ErrForeign)
	}
	if mine {
		return nil
	}
	return write(filepath.Join(r.Out, marker), []byte(`{"format": "glossator-bank", "version": 1}`+"\n"))
}

// print is what all translations of the run hang on.
func (r *run) print() string {
	h := sha256.New()
	e := json.NewEncoder(h)
	_ = e.Encode([]any{r.Program, r.School, r.Listen, r.JSON})
	for _, t := range r.Targets {
		_ = e.Encode(t.Panel)
	}
	return string(h.Sum(nil))
}

// done is what is kept of a patch that is through.
type done struct {
	Print string `json:"print"`
	Rows  []Row  `json:"rows"`
}

func (r *run) keptAt(file string) string {
	return filepath.Join(r.Out, "rows", filepath.FromSlash(file))
}

// kept gives what an earlier run has made of a patch, if that still holds.
func (r *run) kept(file, print string) ([]Row, bool) {
	data, err := os.ReadFile(r.keptAt(file))
	var d done
	if err != nil || json.Unmarshal(data, &d) != nil || d.Print != print {
		return nil, false
	}
	for _, x := range d.Rows {
		if x.Sheet == "" {
			continue
		}
		if _, err := os.Stat(filepath.Join(r.Out, filepath.FromSlash(x.Sheet))); err != nil {
			return nil, false
		}
	}
	return d.Rows, true
}

// read gives a patch file with the print of what its translations are made from; one that cannot be read has a print, too.
func (r *run) read(file string) (data []byte, print string, err error) {
	h := sha256.New()
	h.Write([]byte(r.base))
	data, err = read(filepath.Join(r.Patches, filepath.FromSlash(file)))
	h.Write(data)
	var head struct {
		Panel string `json:"panel"`
	}
	if json.Unmarshal(data, &head) == nil && r.Panels[head.Panel] != nil {
		_ = json.NewEncoder(h).Encode(r.Panels[head.Panel].Panel)
	}
	return data, hex.EncodeToString(h.Sum(nil)), err
}

// isPanel tells whether a file is a panel, which may lie beside patches.
func isPanel(data []byte) bool {
	var head struct {
		Format string `json:"format"`
	}
	return json.Unmarshal(data, &head) == nil && head.Format == panel.Format
}

// one translates a patch to all targets, unless that has been done; before tells that it has.
func (r *run) one(ctx context.Context, file string) (rows []Row, before bool, err error) {
	data, print, bad := r.read(file)
	if rows, ok := r.kept(file, print); ok {
		return rows, true, nil
	}
	var p *patch.Patch
	var src *panel.Compiled
	if bad == nil && !isPanel(data) {
		p, src, bad = formats.ReadPatchOn(file, data, func(id string) *panel.Compiled { return r.Panels[id] })
	}
	switch {
	case bad != nil:
		rows = []Row{{Patch: file, Fault: said(bad)}}
	case p != nil:
		if rows, err = r.sheets(ctx, file, p, src); err != nil {
			return nil, false, err
		}
	}
	data, err = json.MarshalIndent(done{Print: print, Rows: rows}, "", " ")
	if err == nil {
		err = write(r.keptAt(file), data)
	}
	return rows, false, err
}

// sheets makes the sheets of a patch: of every layer on every target.
func (r *run) sheets(ctx context.Context, file string, p *patch.Patch, src *panel.Compiled) (rows []Row, err error) {
	for _, dst := range r.Targets {
		if dst.ID == src.ID && dst.Revision == src.Revision {
			continue
		}
		for i := range p.Layers {
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			layer := ""
			if len(p.Layers) > 1 {
				layer = p.Layers[i].ID
			}
			row := Row{Patch: file, Name: p.Name, Kind: string(p.Kind), Layer: layer, Source: src.ID, Target: dst.ID}
			s, report, err := r.translate(ctx, src, p, dst, p.Layers[i].ID)
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			if err != nil {
				row.Fault = said(err)
				rows = append(rows, row)
				continue
			}
			row.fill(s, report)
			if row.Sheet, err = r.keep(file, layer, s, report); err != nil {
				return nil, err
			}
			rows = append(rows, row)
		}
	}
	return rows, nil
}

// translate makes one sheet, in the way that the program makes them everywhere.
func (r *run) translate(ctx context.Context, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, layer string) (sheet *gloss.Sheet, report *heard.Report, err error) {
	defer func() { // one patch that the program fails on does not end the work on ten thousand
		if x := recover(); x != nil {
			err = fmt.Errorf("a fault of the program: %v", x)
		}
	}()
	opt := translate.Options{School: r.School, Layer: layer, Flavours: true}
	if !r.Listen {
		s, err := translate.Translate(src, p, dst, opt)
		return s, nil, err
	}
	stop := func() bool { return ctx.Err() != nil }
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		return nil, nil, err
	}
	instruments := src.Kind == "instrument" && dst.Kind == "instrument"
	if opt.School == plan.Ear && instruments {
		if opt.Choices.Tuned, err = nearest.Find(nearest.Task{Source: src, Target: dst, Patch: p, Options: opt, Notes: notes, Stop: stop}); err != nil {
			return nil, nil, err
		}
	}
	in, s, err := translate.Made(src, p, dst, opt)
	if err != nil || !instruments {
		return s, nil, err
	}
	report, err = heard.Of(heard.Task{In: in, Sheet: s, Notes: notes, Lines: true, Held: true, Stop: stop})
	return s, report, err
}

// keep writes a sheet and gives its place in the folder.
func (r *run) keep(file, layer string, s *gloss.Sheet, report *heard.Report) (string, error) {
	name := s.Target.ID
	if layer != "" {
		name += "." + layer
	}
	data := []byte(formats.SheetMarkdown(s) + formats.HeardMarkdown(s, report))
	ext := ".md"
	if r.JSON {
		ext = ".json"
		var err error
		if data, err = json.Marshal(formats.Listened{Sheet: s, Heard: report}); err != nil {
			return "", err
		}
	}
	at := "sheets/" + strings.TrimSuffix(file, ".json") + "/" + name + ext
	return at, write(filepath.Join(r.Out, filepath.FromSlash(at)), data)
}

// table writes the table where all patches of all shards are through, else it counts those that are not.
func (r *run) table() (name string, missing int, err error) {
	name = filepath.Join(r.Out, "table.csv")
	err = into(name, func(w io.Writer) error {
		t := csv.NewWriter(w)
		if err := t.Write(columns()); err != nil {
			return err
		}
		for _, f := range r.files {
			_, print, _ := r.read(f)
			rows, ok := r.kept(f, print)
			if !ok {
				missing++
			}
			for _, x := range rows {
				if err := t.Write(x.cells()); err != nil {
					return err
				}
			}
		}
		t.Flush()
		if err := t.Error(); err != nil {
			return err
		}
		if missing > 0 {
			return errEarly
		}
		return nil
	})
	if errors.Is(err, errEarly) {
		return "", missing, nil
	}
	return name, 0, err
}

var errEarly = errors.New("other shards are still to come")

// said gives a fault in one line.
func said(err error) string {
	var l fault.List
	if errors.As(err, &l) && len(l) > 0 {
		return l[:1].Error()
	}
	return err.Error()
}

// read reads a file of at most the size that importers take.
func read(path string) ([]byte, error) {
	info, err := os.Stat(path)
	if err != nil {
		return nil, err
	}
	if info.Size() > formats.MaxSize {
		return nil, fmt.Errorf("expected at most %d MB, got %.1f MB", formats.MaxSize>>20, float64(info.Size())/(1<<20))
	}
	return os.ReadFile(path)
}

// write puts a file in its place whole, or not at all.
func write(path string, data []byte) error {
	return into(path, func(w io.Writer) error {
		_, err := w.Write(data)
		return err
	})
}

// into makes a file by what fills it, in its place whole or not at all.
func into(path string, fill func(w io.Writer) error) error {
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return err
	}
	f, err := os.CreateTemp(filepath.Dir(path), making+"*")
	if err != nil {
		return err
	}
	defer func() { _ = os.Remove(f.Name()) }()
	err = fill(f)
	if e := f.Chmod(0o644); err == nil {
		err = e
	}
	if e := f.Close(); err == nil {
		err = e
	}
	if err != nil {
		return err
	}
	return os.Rename(f.Name(), path)
}
