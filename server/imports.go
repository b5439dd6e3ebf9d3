package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"path/filepath"
	"slices"
	"strings"

	"glossator/core/build"
	"glossator/core/fault"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/formats"
	"glossator/store"
)

// Imported tells what came of a file.
type Imported struct {
	// Did is what was done: "new", "version" (in place of what stands there, which is kept), "beside", "same" (it is here already), "draft" (a table, begun in the
	// workshop), or "asked": one of that id is here and differs, and nothing was stored.
	Did  string `json:"did"`
	Kind string `json:"kind"`
	ID   string `json:"id"`
	Name string `json:"name"`
	// Here says what stands here under the id, where it was asked.
	Here string `json:"here,omitempty"`
	// Taken counts the controls that a table gave, Rows tells which of its rows did not go in.
	Taken int        `json:"taken,omitempty"`
	Rows  fault.List `json:"rows,omitempty"`
}

// errThere is returned where an import would take the place of something that differs.
type errThere struct{ here Imported }

func (e errThere) Error() string {
	return fmt.Sprintf("%s is here already, and differs: import it with as=version in its place (%s), or with as=beside beside it", e.here.Name, e.here.Here)
}

// StatusCode makes it a conflict (RFC 9110).
func (e errThere) StatusCode() int { return http.StatusConflict }

type importRequest struct {
	File string `query:"file"`
	As   string `query:"as"`
	Body Upload[None]
}

// ways are what can be done with a file of which one is here.
var ways = []string{"", "ask", "version", "beside"}

// imports takes a file by what is in it: a panel, a patch, or a table of controls.
func (s *Server) imports(ctx context.Context, in importRequest) (none Imported, err error) {
	data := in.Body.Data
	if !slices.Contains(ways, in.As) {
		return none, badRequest{fmt.Errorf("as: expected one of %s, got %q", strings.Join(ways[1:], ", "), in.As)}
	}
	file := fileName(in.File, "file")
	told := formats.Tell(file, data)
	switch told {
	case formats.FilePanel:
		return s.importPanel(file, data, in.As)
	case formats.FilePatch:
		return s.importPatch(file, data, in.As)
	case formats.FileShow:
		row, err := s.importShow(file, data)
		if err != nil {
			return none, err
		}
		return Imported{Did: "new", Kind: store.KindShow, ID: fmt.Sprint(row.ID), Name: row.Name}, nil
	case formats.FileTable, formats.FileWorkbook:
		read, err := s.importTable(file, data)
		if err != nil {
			return none, err
		}
		return Imported{Did: "draft", Kind: "table", ID: read.Draft.ID, Name: read.Draft.Name, Taken: read.Taken, Rows: read.Rows}, nil
	}
	return none, badRequest{fmt.Errorf("%s was not imported: this is %s", file, told.Words())}
}

// wrongFile gives the error of a file that is something else than was asked for; nil where it may be that.
func wrongFile(file string, data []byte, want formats.Told) error {
	told := formats.Tell(file, data)
	if told == want || told == formats.FileJSON || told == formats.FileEmpty {
		return nil
	}
	return fault.List{{File: file, Message: "expected " + want.Words() + ", this is " + told.Words()}}
}

func (s *Server) importPanel(file string, data []byte, as string) (none Imported, err error) {
	if err := wrongFile(file, data, formats.FilePanel); err != nil {
		return none, err
	}
	p, err := formats.ReadPanel(file, data)
	if err != nil {
		return none, err
	}
	out := Imported{Did: "new", Kind: store.KindPanel, ID: p.ID, Name: p.Name}
	here, err := s.store.Panel(p.ID, 0)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return none, err
	}
	own := *p.Panel
	if here != nil && err == nil {
		like := own
		like.Revision = here.Revision
		doc, err := json.Marshal(&like)
		if err != nil {
			return none, err
		}
		var was panel.Panel
		if json.Unmarshal(here.Document, &was) == nil {
			if old, err := json.Marshal(&was); err == nil && string(old) == string(doc) {
				out.Did, out.Name = "same", here.Name
				return out, nil
			}
		}
		out.Here = fmt.Sprintf("revision %d, which is kept", here.Revision)
		switch as {
		case "ask":
			out.Did, out.Name = "asked", here.Name
			return out, nil
		case "version":
			out.Did = "version"
		case "beside":
			if own.ID, own.Name, err = s.freeBeside(own.Name, func(id string) error { _, err := s.store.Panel(id, 0); return err }); err != nil {
				return none, err
			}
			own.Revision = 1
			out.Did, out.ID, out.Name = "beside", own.ID, own.Name
		default:
			out.Name = here.Name
			return none, errThere{out}
		}
		out.Here = ""
	}
	if _, err := s.store.PutPanel(&own); err != nil {
		return none, err
	}
	return out, nil
}

func (s *Server) importPatch(file string, data []byte, as string) (none Imported, err error) {
	if err := wrongFile(file, data, formats.FilePatch); err != nil {
		return none, err
	}
	p, _, err := formats.ReadPatchOn(file, data, func(id string) *panel.Compiled {
		found, err := s.compiled(id, 0)
		if err != nil {
			return nil
		}
		return found
	})
	if err != nil {
		return none, err
	}
	out := Imported{Did: "new", Kind: store.KindPatch, ID: p.ID, Name: p.Name}
	here, err := s.store.Patch(p.ID)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return none, err
	}
	if here == nil || err != nil {
		return out, s.store.PutPatch(p)
	}
	doc, err := json.Marshal(p)
	if err != nil {
		return none, err
	}
	var was patch.Patch
	if json.Unmarshal(here.Document, &was) == nil {
		if old, err := json.Marshal(&was); err == nil && string(old) == string(doc) {
			out.Did = "same"
			return out, nil
		}
	}
	out.Here = "the one that is here is kept among its versions"
	switch as {
	case "ask":
		out.Did, out.Name = "asked", here.Name
		return out, nil
	case "version":
		out.Did, out.Here = "version", ""
		return out, s.store.PutVersion(p, "before the import of "+file)
	case "beside":
		if p.ID, p.Name, err = s.freeBeside(p.Name, func(id string) error { _, err := s.store.Patch(id); return err }); err != nil {
			return none, err
		}
		return Imported{Did: "beside", Kind: store.KindPatch, ID: p.ID, Name: p.Name}, s.store.PutPatch(p)
	}
	return none, errThere{out}
}

// freeBeside finds an id and a name for what goes beside one of the same name.
func (s *Server) freeBeside(name string, find func(id string) error) (id, called string, err error) {
	for n := 2; n < 10000; n++ {
		called = fmt.Sprintf("%s %d", strings.TrimSpace(name), n)
		id = build.Slug(called)
		if len(id) > 64 || id == "" {
			break
		}
		if err := find(id); errors.Is(err, store.ErrNotFound) {
			return id, called, nil
		} else if err != nil {
			return "", "", err
		}
	}
	return "", "", badRequest{errors.New("there is no id left for it beside the one that is here: rename that first")}
}

// importTable begins a new panel from a table of controls: sections and modules come from its columns. What of it does not go in is told by row.
func (s *Server) importTable(file string, data []byte) (none TableRead, err error) {
	switch told := formats.Tell(file, data); told {
	case formats.FileTable, formats.FileWorkbook, formats.FileText, formats.FileEmpty, formats.FileArchive, formats.FileJSON, formats.FileOther:
	default:
		return none, badRequest{fmt.Errorf("%s was not read as a table: this is %s", file, told.Words())}
	}
	rows, detailed, err := formats.ReadRows(file, data)
	if err != nil {
		return none, err
	}
	if detailed {
		return none, badRequest{errors.New("this is the controls table of a panel: open that panel's workshop, and read it there")}
	}
	name := strings.TrimSpace(strings.TrimSuffix(file, filepath.Ext(file)))
	p, taken, faults := build.FromRows(&panel.Panel{Format: panel.Format, Version: panel.Version, Name: name, Revision: 1, Kind: "instrument", Memory: true}, rows)
	if taken == 0 {
		return none, faults.In(file)
	}
	d, err := s.newPanel(p)
	if err != nil {
		return none, err
	}
	if faults == nil {
		faults = fault.List{}
	}
	return TableRead{Draft: d, Taken: taken, Rows: faults.In(file)}, nil
}

type panelTableRequest struct {
	File string `query:"file"`
	Body Upload[None]
}

func (s *Server) panelTable(ctx context.Context, in panelTableRequest) (TableRead, error) {
	return s.importTable(fileName(in.File, "table"), in.Body.Data)
}

type panelImportRequest struct {
	File string `query:"file"`
	As   string `query:"as"`
	Body Upload[panel.Panel]
}

func (s *Server) panelImport(ctx context.Context, in panelImportRequest) (none PanelRow, err error) {
	out, err := s.importPanel(fileName(in.File, "panel"), in.Body.Data, strings.TrimPrefix(in.As, "ask"))
	if err != nil {
		return none, err
	}
	p, err := s.compiled(out.ID, 0)
	if err != nil {
		return none, err
	}
	return panelRow(p), nil
}

type patchImportRequest struct {
	File string `query:"file"`
	As   string `query:"as"`
	Body Upload[patch.Patch]
}

func (s *Server) patchImport(ctx context.Context, in patchImportRequest) (none PatchRow, err error) {
	out, err := s.importPatch(fileName(in.File, "patch"), in.Body.Data, strings.TrimPrefix(in.As, "ask"))
	if err != nil {
		return none, err
	}
	p, err := s.patch(out.ID)
	if err != nil {
		return none, err
	}
	return s.patchRow(p), nil
}
