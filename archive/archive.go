// Package archive writes a job, patches with all that belongs to them, into one file and reads it elsewhere: a ZIP of the program's own formats, pictures, recordings and texts for people.
package archive

import (
	"archive/zip"
	"bytes"
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"io/fs"
	"slices"
	"strings"
	"time"

	"glossator/core/calibrate"
	"glossator/formats"
	"glossator/formats/photo"
	"glossator/store"
)

// Format and Version are what an archive says it is.
const (
	Format  = "glossator-archive"
	Version = 1
)

// Bounds of an archive that is read.
const (
	MostFiles = 200_000
	MostBytes = 8 << 30
	mostText  = 20_000
)

// manifest is the last file of an archive: it lists all others.
const manifest = "glossator-archive.json"

type contents struct {
	Format  string `json:"format"`
	Version int    `json:"version"`
	Program string `json:"program"`
	Files   []file `json:"files"`
	Rows    rows   `json:"rows"`
}

type file struct {
	Name   string `json:"name"`
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256"`
}

// The rows beside the files. Sheets are numbered as they stand here, and others speak of them by that.
type (
	rows struct {
		Panels      []panelRow      `json:"panels"`
		Patches     []patchRow      `json:"patches"`
		Versions    []versionRow    `json:"versions"`
		Sheets      []sheetRow      `json:"sheets"`
		Photographs []photographRow `json:"photographs"`
		Measured    []measuredRow   `json:"measured"`
		Sets        []setRow        `json:"sets"`
		Slots       []slotRow       `json:"slots"`
		Shows       []showRow       `json:"shows,omitempty"`
	}
	showRow struct {
		Number int       `json:"number"`
		Name   string    `json:"name"`
		At     time.Time `json:"at"`
		File   string    `json:"file"`
	}
	panelRow struct {
		ID       string    `json:"id"`
		Revision int       `json:"revision"`
		Name     string    `json:"name"`
		At       time.Time `json:"at"`
		File     string    `json:"file"`
	}
	patchRow struct {
		ID    string    `json:"id"`
		Name  string    `json:"name"`
		Kind  string    `json:"kind"`
		Panel string    `json:"panel"`
		At    time.Time `json:"at"`
		File  string    `json:"file"`
	}
	versionRow struct {
		Patch  string    `json:"patch"`
		Number int       `json:"number"`
		Note   string    `json:"note"`
		At     time.Time `json:"at"`
		File   string    `json:"file"`
	}
	sheetRow struct {
		Number         uint            `json:"number"`
		Patch          string          `json:"patch"`
		PatchName      string          `json:"patchName"`
		Layer          string          `json:"layer"`
		Source         string          `json:"source"`
		SourceRevision int             `json:"sourceRevision"`
		Target         string          `json:"target"`
		TargetRevision int             `json:"targetRevision"`
		School         string          `json:"school"`
		Overrides      json.RawMessage `json:"overrides"`
		Choices        json.RawMessage `json:"choices,omitempty"`
		First          uint            `json:"first"`
		Title          string          `json:"title"`
		Made           time.Time       `json:"made"`
		Changed        time.Time       `json:"changed"`
		File           string          `json:"file"`
		Ticks          []tickRow       `json:"ticks"`
		Trials         []trialRow      `json:"trials"`
		Log            []entryRow      `json:"log"`
	}
	tickRow struct {
		Key string    `json:"key"`
		At  time.Time `json:"at"`
	}
	trialRow struct {
		Right  int       `json:"right"`
		Of     int       `json:"of"`
		Sounds string    `json:"sounds"`
		At     time.Time `json:"at"`
	}
	entryRow struct {
		Kind    string    `json:"kind"`
		Control string    `json:"control,omitempty"`
		Label   string    `json:"label,omitempty"`
		Planned string    `json:"planned,omitempty"`
		Reading string    `json:"reading,omitempty"`
		Tags    string    `json:"tags,omitempty"`
		Why     string    `json:"why,omitempty"`
		Who     string    `json:"who,omitempty"`
		At      time.Time `json:"at"`
	}
	photographRow struct {
		Patch   string    `json:"patch,omitempty"`
		Sheet   uint      `json:"sheet,omitempty"`
		Caption string    `json:"caption"`
		Width   int       `json:"width"`
		Height  int       `json:"height"`
		At      time.Time `json:"at"`
		File    string    `json:"file"`
	}
	measuredRow struct {
		Panel      string          `json:"panel"`
		Control    string          `json:"control"`
		Recipe     string          `json:"recipe"`
		Instrument string          `json:"instrument"`
		Takes      json.RawMessage `json:"takes"`
		At         time.Time       `json:"at"`
	}
	setRow struct {
		Name    string          `json:"name"`
		Patches json.RawMessage `json:"patches"`
		At      time.Time       `json:"at"`
	}
	slotRow struct {
		Panel     string    `json:"panel"`
		Bank      int       `json:"bank"`
		Program   int       `json:"program"`
		Name      string    `json:"name"`
		Sheet     uint      `json:"sheet"`
		Protected bool      `json:"protected"`
		At        time.Time `json:"at"`
	}
)

// Options are what goes into an archive.
type Options struct {
	// Patches by id; all that is here where there are none.
	Patches []string
	// Shows with their patches and the instruments of their houses.
	Shows []uint
	// Program is the version of the program.
	Program string
	// Text gives a sheet as Markdown, Sounds both of its sides as WAVE files; nil leaves them out. What they fail on is left out, too.
	Text   func(sheet uint) ([]byte, error)
	Sounds func(sheet uint) (source, target []byte, err error)
}

// writer is an archive on its way out.
type writer struct {
	z     *zip.Writer
	at    time.Time
	files []file
	there map[string]bool
}

// put writes a file, once.
func (w *writer) put(name string, data []byte) (string, error) {
	if w.there[name] {
		return name, nil
	}
	w.there[name] = true
	sum := sha256.Sum256(data)
	w.files = append(w.files, file{name, int64(len(data)), hex.EncodeToString(sum[:])})
	return name, w.into(name, data)
}

func (w *writer) into(name string, data []byte) error {
	method := zip.Deflate
	if strings.HasSuffix(name, ".jpg") || strings.HasSuffix(name, ".png") {
		method = zip.Store
	}
	x, err := w.z.CreateHeader(&zip.FileHeader{Name: name, Method: method, Modified: w.at})
	if err != nil {
		return err
	}
	_, err = x.Write(data)
	return err
}

// Write writes an archive, file by file. The same job gives the same bytes.
func Write(out io.Writer, s *store.Store, opt Options) error {
	j, err := s.Job(opt.Patches, opt.Shows...)
	if err != nil {
		return err
	}
	w := &writer{z: zip.NewWriter(out), there: map[string]bool{}, at: time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)} // what is when is told inside
	c := contents{Format: Format, Version: Version, Program: opt.Program, Rows: rows{Panels: []panelRow{}, Patches: []patchRow{}, Versions: []versionRow{}, Sheets: []sheetRow{}, Photographs: []photographRow{}, Measured: []measuredRow{}, Sets: []setRow{}, Slots: []slotRow{}}}
	for _, p := range j.Panels {
		name, err := w.put(fmt.Sprintf("panels/%s/%d.json", p.ID, p.Revision), p.Document)
		if err != nil {
			return err
		}
		c.Rows.Panels = append(c.Rows.Panels, panelRow{p.ID, p.Revision, p.Name, p.CreatedAt, name})
	}
	for _, p := range j.Patches {
		name, err := w.put(fmt.Sprintf("patches/%s.json", p.ID), p.Document)
		if err != nil {
			return err
		}
		c.Rows.Patches = append(c.Rows.Patches, patchRow{p.ID, p.Name, p.Kind, p.Panel, p.UpdatedAt, name})
	}
	for _, v := range j.Versions {
		name, err := w.put(fmt.Sprintf("versions/%s/%d.json", v.Patch, v.Number), v.Document)
		if err != nil {
			return err
		}
		c.Rows.Versions = append(c.Rows.Versions, versionRow{v.Patch, v.Number, v.Note, v.At, name})
	}
	if err := w.sheets(j, &c, opt); err != nil {
		return err
	}
	if err := w.rest(s, j, &c); err != nil {
		return err
	}
	c.Files = w.files
	b, err := json.MarshalIndent(c, "", " ")
	if err != nil {
		return err
	}
	if err := w.into(manifest, b); err != nil {
		return err
	}
	return w.z.Close()
}

// numbers gives the sheets of a job numbers of their own.
func numbers(j *store.Job) map[uint]uint {
	out := map[uint]uint{}
	for i := range j.Sheets {
		out[j.Sheets[i].ID] = uint(i + 1)
	}
	return out
}

func (w *writer) sheets(j *store.Job, c *contents, opt Options) error {
	number := numbers(j)
	ticks, trials, log := map[uint][]tickRow{}, map[uint][]trialRow{}, map[uint][]entryRow{}
	for _, t := range j.Ticks {
		ticks[t.SheetID] = append(ticks[t.SheetID], tickRow{t.Key, t.At})
	}
	for _, t := range j.Trials {
		trials[t.SheetID] = append(trials[t.SheetID], trialRow{t.Right, t.Of, t.Sounds, t.At})
	}
	for _, e := range j.Entries {
		log[e.SheetID] = append(log[e.SheetID], entryRow{e.Kind, e.Control, e.Label, e.Planned, e.Reading, e.Tags, e.Why, e.Who, e.At})
	}
	for i := range j.Sheets {
		x := &j.Sheets[i]
		n := number[x.ID]
		name, err := w.put(fmt.Sprintf("sheets/%d.patch.json", n), x.Document)
		if err != nil {
			return err
		}
		row := sheetRow{n, x.Patch, x.PatchName, x.Layer, x.Source, x.SourceRevision, x.Target, x.TargetRevision, x.School, raw(x.Overrides), raw(x.Choices), number[x.First], x.Title, x.CreatedAt, x.UpdatedAt, name, append([]tickRow{}, ticks[x.ID]...), append([]trialRow{}, trials[x.ID]...), append([]entryRow{}, log[x.ID]...)}
		c.Rows.Sheets = append(c.Rows.Sheets, row)
		if opt.Text != nil {
			if text, err := opt.Text(x.ID); err == nil {
				if _, err := w.put(fmt.Sprintf("sheets/%d.md", n), text); err != nil {
					return err
				}
			}
		}
		if opt.Sounds != nil {
			source, target, err := opt.Sounds(x.ID)
			if err != nil {
				continue
			}
			if _, err := w.put(fmt.Sprintf("sounds/%d-source.wav", n), source); err != nil {
				return err
			}
			if _, err := w.put(fmt.Sprintf("sounds/%d-target.wav", n), target); err != nil {
				return err
			}
		}
	}
	return nil
}

func raw(b []byte) json.RawMessage {
	if len(b) == 0 {
		return nil
	}
	return b
}

func (w *writer) rest(s *store.Store, j *store.Job, c *contents) error {
	number := numbers(j)
	for _, p := range j.Photographs {
		data, err := s.Image(p.Hash)
		if err != nil {
			return err
		}
		row := photographRow{Caption: p.Caption, Width: p.Width, Height: p.Height, At: p.At}
		if row.File, err = w.put("photographs/"+p.Hash+kindOf(data), data); err != nil {
			return err
		}
		if p.Kind == store.KindPatch {
			row.Patch = p.Ref
		} else {
			var id uint
			if _, err := fmt.Sscan(p.Ref, &id); err != nil || number[id] == 0 {
				continue // of a sheet that is not here any more
			}
			row.Sheet = number[id]
		}
		c.Rows.Photographs = append(c.Rows.Photographs, row)
	}
	for i := range j.Sittings {
		y := &j.Sittings[i]
		c.Rows.Measured = append(c.Rows.Measured, measuredRow{y.PanelID, y.Control, y.Recipe, y.Instrument, raw(y.Takes), y.UpdatedAt})
		takes, err := y.Recorded()
		if err != nil {
			continue
		}
		for _, t := range takes {
			if t.Sound == "" {
				continue
			}
			data, err := s.TakeSound(t.Sound)
			if errors.Is(err, store.ErrNotFound) {
				continue // its figures alone were kept
			}
			if err != nil {
				return err
			}
			if _, err := w.put("takes/"+t.Sound+".wav", data); err != nil {
				return err
			}
		}
	}
	for _, e := range j.Entries {
		if e.Kind != store.KindRecording || e.Reading == "" {
			continue
		}
		data, err := s.TakeSound(e.Reading)
		if errors.Is(err, store.ErrNotFound) {
			continue
		}
		if err != nil {
			return err
		}
		if _, err := w.put("takes/"+e.Reading+".wav", data); err != nil {
			return err
		}
	}
	for _, x := range j.Sets {
		c.Rows.Sets = append(c.Rows.Sets, setRow{x.Name, raw(x.Patches), x.UpdatedAt})
	}
	for i, x := range j.Shows {
		name, err := w.put(fmt.Sprintf("shows/%d.json", i+1), x.Document)
		if err != nil {
			return err
		}
		c.Rows.Shows = append(c.Rows.Shows, showRow{i + 1, x.Name, x.UpdatedAt, name})
	}
	for _, x := range j.Slots {
		c.Rows.Slots = append(c.Rows.Slots, slotRow{x.PanelID, x.Bank, x.Program, x.Name, number[x.SheetID], x.Protected, x.At})
	}
	return nil
}

// kindOf gives the ending of a picture's name.
func kindOf(data []byte) string {
	if bytes.HasPrefix(data, []byte("\x89PNG")) {
		return ".png"
	}
	return ".jpg"
}

// Archive is one that has been opened and looked over.
type Archive struct {
	Job *store.Job
	// Program is the version of the program that has written it.
	Program string
	// Aside names parts that are taken as they are, but do not open.
	Aside []string

	files map[string]*zip.File
	sums  map[string]file
}

// ErrArchive is returned for a file that is no archive of this program, or that is not whole.
var ErrArchive = errors.New("the archive cannot be taken")

func refuse(format string, args ...any) error {
	return fmt.Errorf("%w: "+format, append([]any{ErrArchive}, args...)...)
}

// Open looks an archive over, every file by its checksum, before anything of it is used. What is wrong is named.
func Open(r io.ReaderAt, size int64) (*Archive, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, refuse("it is no ZIP file, or not whole (%v)", err)
	}
	if len(z.File) > MostFiles {
		return nil, refuse("it holds %d files, more than %d", len(z.File), MostFiles)
	}
	a := &Archive{files: map[string]*zip.File{}, sums: map[string]file{}}
	for _, f := range z.File {
		if strings.HasSuffix(f.Name, "/") {
			continue
		}
		if !fs.ValidPath(f.Name) || strings.ContainsAny(f.Name, "\\:\x00") {
			return nil, refuse("%q leads out of it", f.Name)
		}
		if a.files[f.Name] != nil {
			return nil, refuse("%s is in it twice", f.Name)
		}
		a.files[f.Name] = f
	}
	m := a.files[manifest]
	if m == nil {
		return nil, refuse("%s is missing: it is no archive of this program", manifest)
	}
	b, err := readAll(m, 256<<20)
	if err != nil {
		return nil, refuse("%s: %v", manifest, err)
	}
	var head struct {
		Format  string `json:"format"`
		Version int    `json:"version"`
	}
	if err := json.Unmarshal(b, &head); err != nil {
		return nil, refuse("%s: %v", manifest, err)
	}
	if head.Format != Format || head.Version != Version {
		return nil, refuse("it is %q of version %d; this program reads %q of version %d", head.Format, head.Version, Format, Version)
	}
	var c contents
	d := json.NewDecoder(bytes.NewReader(b))
	d.DisallowUnknownFields()
	if err := d.Decode(&c); err != nil {
		return nil, refuse("%s: %v", manifest, err)
	}
	if err := a.whole(&c); err != nil {
		return nil, err
	}
	a.Program = c.Program
	return a, a.gather(&c.Rows)
}

// whole holds the files against the list of them.
func (a *Archive) whole(c *contents) error {
	total := int64(0)
	for _, f := range c.Files {
		z := a.files[f.Name]
		switch {
		case z == nil:
			return refuse("%s is missing", f.Name)
		case a.sums[f.Name].Name != "":
			return refuse("%s is listed twice", f.Name)
		case f.Bytes < 0 || z.UncompressedSize64 != uint64(f.Bytes):
			return refuse("%s has another length than is listed", f.Name)
		}
		if total += f.Bytes; total > MostBytes {
			return refuse("it holds more than %d GB", MostBytes>>30)
		}
		a.sums[f.Name] = f
	}
	for name := range a.files {
		if name != manifest && a.sums[name].Name == "" {
			return refuse("%s is not among the files that it lists", name)
		}
	}
	for _, f := range c.Files {
		h := sha256.New()
		if err := copyOf(h, a.files[f.Name], f.Bytes); err != nil {
			return refuse("%s: %v", f.Name, err)
		}
		if hex.EncodeToString(h.Sum(nil)) != f.SHA256 {
			return refuse("%s is damaged: its checksum is another", f.Name)
		}
	}
	return nil
}

// copyOf reads a file, no further than it is to be.
func copyOf(h hash.Hash, z *zip.File, bytes int64) error {
	r, err := z.Open()
	if err != nil {
		return err
	}
	defer r.Close()
	n, err := io.Copy(h, io.LimitReader(r, bytes+1))
	if err == nil && n != bytes {
		err = errors.New("it has another length than is listed")
	}
	return err
}

func readAll(z *zip.File, most int64) ([]byte, error) {
	r, err := z.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close()
	b, err := io.ReadAll(io.LimitReader(r, most+1))
	if err == nil && int64(len(b)) > most {
		err = fmt.Errorf("it has more than %d MB", most>>20)
	}
	return b, err
}

// part gives a file that a row names.
func (a *Archive) part(name, folder string) ([]byte, error) {
	if a.sums[name].Name == "" || !strings.HasPrefix(name, folder) {
		return nil, refuse("a row names %q, which is not in %s", name, folder)
	}
	b, err := readAll(a.files[name], formats.MaxSize)
	if err != nil {
		return nil, refuse("%s: %v", name, err)
	}
	return b, nil
}

// document gives a JSON document that has an id, and for panels a revision.
func (a *Archive) document(name, folder, id string, revision int) ([]byte, error) {
	b, err := a.part(name, folder)
	if err != nil {
		return nil, err
	}
	var head struct {
		ID       string `json:"id"`
		Revision int    `json:"revision"`
	}
	if err := json.Unmarshal(b, &head); err != nil {
		return nil, refuse("%s: %v", name, err)
	}
	if head.ID != id || id == "" {
		return nil, refuse("%s is of %q, its row of %q", name, head.ID, id)
	}
	if revision > 0 && head.Revision != revision {
		return nil, refuse("%s is revision %d, its row says %d", name, head.Revision, revision)
	}
	return b, nil
}

// fits refuses texts that no form would have taken.
func fits(where string, texts ...string) error {
	for _, t := range texts {
		if len(t) > mostText {
			return refuse("a text in %s has %d bytes, more than %d", where, len(t), mostText)
		}
		if bad := formats.Unfit(t); bad != "" {
			return refuse("a text in %s holds %s", where, bad)
		}
	}
	return nil
}

// gather makes a job of the rows and files.
func (a *Archive) gather(r *rows) error {
	j := &store.Job{}
	for _, x := range r.Panels {
		b, err := a.document(x.File, "panels/", x.ID, x.Revision)
		if err == nil {
			err = fits("the list of panels", x.Name)
		}
		if err != nil {
			return err
		}
		if _, err := formats.ReadPanel(x.File, b); err != nil {
			a.Aside = append(a.Aside, fmt.Sprintf("panel %s, revision %d, is here but does not open: %v", x.ID, x.Revision, firstLine(err)))
		}
		j.Panels = append(j.Panels, store.Panel{ID: x.ID, Revision: x.Revision, Name: x.Name, Document: b, CreatedAt: x.At})
	}
	for _, x := range r.Patches {
		b, err := a.document(x.File, "patches/", x.ID, 0)
		if err == nil {
			_, err = formats.ReadPatch(x.File, b)
		}
		if err == nil {
			err = fits("the list of patches", x.Name, x.Kind, x.Panel)
		}
		if err != nil {
			return a.named(x.File, err)
		}
		j.Patches = append(j.Patches, store.Patch{ID: x.ID, Name: x.Name, Kind: x.Kind, Panel: x.Panel, Document: b, UpdatedAt: x.At})
	}
	for _, x := range r.Versions {
		b, err := a.document(x.File, "versions/", x.Patch, 0)
		if err == nil {
			_, err = formats.ReadPatch(x.File, b)
		}
		if err == nil {
			err = fits("the list of versions", x.Note)
		}
		if err != nil {
			return a.named(x.File, err)
		}
		j.Versions = append(j.Versions, store.Version{Patch: x.Patch, Number: x.Number, Note: x.Note, Document: b, At: x.At})
	}
	if err := a.gatherSheets(r, j); err != nil {
		return err
	}
	a.Job = j
	return a.gatherRest(r, j)
}

func (a *Archive) named(name string, err error) error {
	if errors.Is(err, ErrArchive) {
		return err
	}
	return refuse("%s: %s", name, firstLine(err))
}

func firstLine(err error) string {
	line, _, _ := strings.Cut(err.Error(), "\n")
	return line
}

func (a *Archive) gatherSheets(r *rows, j *store.Job) error {
	slices.SortStableFunc(r.Sheets, func(x, y sheetRow) int { return cmp.Compare(x.Number, y.Number) })
	here := map[uint]bool{}
	panels := map[string]bool{}
	for _, p := range r.Panels {
		panels[fmt.Sprint(p.ID, " ", p.Revision)] = true
	}
	for _, x := range r.Sheets {
		where := fmt.Sprintf("sheet %d", x.Number)
		b, err := a.part(x.File, "sheets/")
		if err == nil {
			_, err = formats.ReadPatch(x.File, b)
		}
		if err != nil {
			return a.named(x.File, err)
		}
		var over map[string]string
		switch {
		case x.Number == 0 || here[x.Number] || x.First != 0 && !here[x.First]:
			return refuse("%s: its number, or that of its first layer, is none", where)
		case json.Unmarshal(x.Overrides, &over) != nil:
			return refuse("%s: expected overrides by control", where)
		case !panels[fmt.Sprint(x.Source, " ", x.SourceRevision)] || !panels[fmt.Sprint(x.Target, " ", x.TargetRevision)]:
			return refuse("%s: a panel that it needs is missing (%s %d, %s %d)", where, x.Source, x.SourceRevision, x.Target, x.TargetRevision)
		}
		if err := fits(where, x.PatchName, x.Title, x.Layer, x.School, x.Patch); err != nil {
			return err
		}
		row := store.Sheet{ID: x.Number, Patch: x.Patch, PatchName: x.PatchName, Layer: x.Layer, Document: b, Source: x.Source, SourceRevision: x.SourceRevision, Target: x.Target, TargetRevision: x.TargetRevision,
			School: x.School, Overrides: compact(x.Overrides), Choices: compact(x.Choices), First: x.First, Title: x.Title, CreatedAt: x.Made, UpdatedAt: x.Changed}
		if _, err := row.ChoicesOf(); err != nil {
			return refuse("%s: its choices: %v", where, err)
		}
		here[x.Number] = true
		j.Sheets = append(j.Sheets, row)
		for _, t := range x.Ticks {
			if err := fits(where, t.Key); err != nil {
				return err
			}
			j.Ticks = append(j.Ticks, store.Tick{SheetID: x.Number, Key: t.Key, At: t.At})
		}
		for _, t := range x.Trials {
			if err := fits(where, t.Sounds); err != nil {
				return err
			}
			j.Trials = append(j.Trials, store.Trial{SheetID: x.Number, Right: t.Right, Of: t.Of, Sounds: t.Sounds, At: t.At})
		}
		for _, e := range x.Log {
			if err := fits("the log of "+where, e.Control, e.Label, e.Planned, e.Reading, e.Tags, e.Why, e.Who); err != nil {
				return err
			}
			if !slices.Contains([]string{store.KindCorrection, store.KindNote, store.KindSignOff, store.KindRecording}, e.Kind) {
				return refuse("the log of %s holds a line of an unknown kind, %q", where, e.Kind)
			}
			j.Entries = append(j.Entries, store.Entry{SheetID: x.Number, Kind: e.Kind, Control: e.Control, Label: e.Label, Planned: e.Planned, Reading: e.Reading, Tags: e.Tags, Why: e.Why, Who: e.Who, At: e.At})
		}
	}
	return nil
}

// compact lays a document out as the program does.
func compact(b json.RawMessage) []byte {
	if len(b) == 0 {
		return nil
	}
	var out bytes.Buffer
	if json.Compact(&out, b) != nil {
		return b
	}
	return out.Bytes()
}

func (a *Archive) gatherRest(r *rows, j *store.Job) error {
	for _, x := range r.Photographs {
		if a.sums[x.File].Name == "" || !strings.HasPrefix(x.File, "photographs/") {
			return refuse("a row names %q, which is not in photographs/", x.File)
		}
		if err := fits("a photograph", x.Caption); err != nil {
			return err
		}
		p := store.Photograph{Kind: store.KindPatch, Caption: x.Caption, Width: x.Width, Height: x.Height, Bytes: int(a.sums[x.File].Bytes), At: x.At}
		of := x.Patch
		p.Ref = of
		if x.Sheet != 0 {
			p.Kind, p.Ref = store.KindSheet, fmt.Sprint(x.Sheet)
		}
		p.Hash = strings.TrimSuffix(strings.TrimSuffix(strings.TrimPrefix(x.File, "photographs/"), ".jpg"), ".png")
		data, err := a.Image(p.Hash)
		if err != nil {
			return err
		}
		if sum := sha256.Sum256(data); hex.EncodeToString(sum[:16]) != p.Hash {
			return refuse("%s is not what its name says", x.File)
		}
		if err := photo.Check(data); err != nil {
			return refuse("%s: %v", x.File, err)
		}
		j.Photographs = append(j.Photographs, p)
	}
	for _, x := range r.Measured {
		y := store.Sitting{PanelID: x.Panel, Control: x.Control, Recipe: x.Recipe, Instrument: x.Instrument, Takes: compact(x.Takes), UpdatedAt: x.At}
		var takes []calibrate.Recorded
		if len(x.Takes) > 0 && json.Unmarshal(x.Takes, &takes) != nil || len(takes) > store.MaxRecorded {
			return refuse("what was measured of %s on %s cannot be read", x.Control, x.Panel)
		}
		if err := fits("what was measured", x.Panel, x.Control, x.Recipe, x.Instrument); err != nil {
			return err
		}
		j.Sittings = append(j.Sittings, y)
	}
	for _, x := range r.Sets {
		var ids []string
		if json.Unmarshal(x.Patches, &ids) != nil {
			return refuse("the set %q: expected a list of patches", x.Name)
		}
		if err := fits("the list of sets", x.Name); err != nil {
			return err
		}
		j.Sets = append(j.Sets, store.Set{Name: x.Name, Patches: compact(x.Patches), UpdatedAt: x.At})
	}
	for _, x := range r.Shows {
		b, err := a.part(x.File, "shows/")
		if err == nil {
			_, err = formats.ReadShow(x.File, b)
		}
		if err == nil {
			err = fits("the list of shows", x.Name)
		}
		if err != nil {
			return a.named(x.File, err)
		}
		j.Shows = append(j.Shows, store.Show{Name: x.Name, Document: b, UpdatedAt: x.At})
	}
	for _, x := range r.Slots {
		if err := fits("the list of slots", x.Name, x.Panel); err != nil {
			return err
		}
		j.Slots = append(j.Slots, store.Slot{PanelID: x.Panel, Bank: x.Bank, Program: x.Program, Name: x.Name, SheetID: x.Sheet, Protected: x.Protected, At: x.At})
	}
	return nil
}

// Image gives a picture by its hash.
func (a *Archive) Image(hash string) ([]byte, error) {
	for _, end := range []string{".jpg", ".png"} {
		name := "photographs/" + hash + end
		if a.sums[name].Name == "" {
			continue
		}
		b, err := readAll(a.files[name], formats.MaxSize)
		if err != nil {
			return nil, refuse("%s: %v", name, err)
		}
		return b, nil
	}
	return nil, refuse("a photograph is missing")
}

// Take puts an archive beside what is here.
func (a *Archive) Take(s *store.Store, name string) (store.Taken, error) {
	out, err := s.TakeJob("take the archive "+name, a.Job, a.Image)
	if err != nil {
		return out, err
	}
	out.Aside = append(out.Aside, a.Aside...)
	for name := range a.sums {
		if !strings.HasPrefix(name, "takes/") {
			continue
		}
		data, err := readAll(a.files[name], 96<<20)
		if err == nil {
			_, err = s.KeepTake(data)
		}
		if err != nil {
			return out, err
		}
	}
	return out, nil
}
