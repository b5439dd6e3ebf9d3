package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"glossator/core/patch"
	"glossator/demo"
	"glossator/formats"
	"glossator/store"
)

// ShelfDo is what is to be done with things, in one step: "archive", "restore" (bring back) or "delete".
type ShelfDo struct {
	Do    string       `json:"do"`
	Items []store.Item `json:"items"`
}

// maxItems is how many things one step may be about.
const maxItems = 5000

type shelfRequest struct{ Body ShelfDo }

func (s *Server) shelf(ctx context.Context, in shelfRequest) (none Done, err error) {
	b := in.Body
	if n := len(b.Items); n == 0 || n > maxItems {
		return none, badRequest{fmt.Errorf("expected 1 to %d things, got %d", maxItems, n)}
	}
	st := s.store.On(ctx)
	if len(b.Items) > 1 { // a version is of one thing
		st = s.store
	}
	switch b.Do {
	case "archive":
		err = st.Archive(b.Items, false)
	case "restore":
		err = st.Archive(b.Items, true)
	case "delete":
		err = st.Delete(b.Items)
	default:
		return none, badRequest{fmt.Errorf("do: expected archive, restore or delete, got %q", b.Do)}
	}
	if err != nil {
		return none, err
	}
	s.forget(b.Items)
	return s.done()
}

// forget drops what has been worked out of panels, and ends the searches of sheets, that are not as they were.
func (s *Server) forget(items []store.Item) {
	s.cache.kept.Purge()
	s.views.Purge()
	for _, x := range items {
		var id uint
		if _, err := fmt.Sscan(x.ID, &id); x.Kind != store.KindSheet || err != nil {
			continue
		}
		if _, err := s.store.Sheet(id); !errors.Is(err, store.ErrNotFound) {
			continue
		}
		if x := s.searches.find(id); x != nil {
			x.cancel()
			s.searches.drop(id)
		}
	}
}

func (s *Server) done() (none Done, err error) {
	p, err := s.pending("")
	if err != nil {
		return none, err
	}
	return Done{What: p.Undo, Pending: p}, nil
}

// ItemName names a thing and what it is to be called.
type ItemName struct {
	store.Item
	Name string `json:"name"`
}

type renameRequest struct{ Body ItemName }

func (s *Server) rename(ctx context.Context, in renameRequest) (none Done, err error) {
	name := strings.TrimSpace(in.Body.Name)
	if err := formats.CheckName(name); err != nil {
		return none, badRequest{err}
	}
	if err := s.store.On(ctx).Rename(in.Body.Item, name); err != nil {
		return none, err
	}
	s.forget([]store.Item{in.Body.Item})
	return s.done()
}

func (s *Server) sheetCopy(ctx context.Context, in ofSheet) (none Opened, err error) {
	row, err := s.store.CopySheet(in.ID)
	if err != nil {
		return none, err
	}
	return Opened{ID: row.ID}, nil
}

// SetRow is a set: patches in an order.
type SetRow struct {
	ID      uint     `json:"id"`
	Name    string   `json:"name"`
	Patches []string `json:"patches"`
}

// SetBody is what a set is called and what is in it.
type SetBody struct {
	Name    string   `json:"name"`
	Patches []string `json:"patches"`
}

func (s *Server) setRows() ([]SetRow, error) {
	rows, err := s.store.Sets()
	if err != nil {
		return nil, err
	}
	out := []SetRow{}
	for i := range rows {
		ids, err := rows[i].Order()
		if err != nil {
			return nil, err
		}
		out = append(out, SetRow{rows[i].ID, rows[i].Name, append([]string{}, ids...)})
	}
	return out, nil
}

type setNewRequest struct{ Body SetBody }

func (s *Server) setNew(ctx context.Context, in setNewRequest) (SetRow, error) {
	return s.putSet(0, in.Body)
}

type setRequest struct {
	ID   uint `path:"id"`
	Body SetBody
}

func (s *Server) setPut(ctx context.Context, in setRequest) (none SetRow, err error) {
	if in.ID == 0 {
		return none, store.ErrNotFound
	}
	return s.putSet(in.ID, in.Body)
}

func (s *Server) putSet(id uint, b SetBody) (none SetRow, err error) {
	name := strings.TrimSpace(b.Name)
	if err := formats.CheckName(name); err != nil {
		return none, badRequest{err}
	}
	if len(b.Patches) > maxItems {
		return none, badRequest{fmt.Errorf("expected at most %d patches, got %d", maxItems, len(b.Patches))}
	}
	var ids []string
	for _, x := range b.Patches {
		if !patch.ValidID(x) {
			return none, badRequest{fmt.Errorf("%q is the id of no patch", x)}
		}
		if !slices.Contains(ids, x) {
			ids = append(ids, x)
		}
	}
	row, err := s.store.PutSet(id, name, ids)
	if err != nil {
		return none, err
	}
	return SetRow{row.ID, name, append([]string{}, ids...)}, nil
}

type ofSet struct {
	ID uint `path:"id"`
}

func (s *Server) setDrop(ctx context.Context, in ofSet) (none None, err error) {
	return None{}, s.store.DropSet(in.ID)
}

// sampleDocs holds the documents of the sample as they are stored, by kind and id.
var sampleDocs = sync.OnceValue(func() map[store.Item]string {
	out := map[store.Item]string{}
	for _, f := range demo.Panels() {
		if p, err := formats.ReadPanel(f.Name, f.Data); err == nil {
			if doc, err := json.Marshal(p.Panel); err == nil {
				out[store.Item{Kind: store.KindPanel, ID: p.ID}] = string(doc)
			}
		}
	}
	for _, f := range demo.Patches() {
		var p patch.Patch
		if json.Unmarshal(f.Data, &p) == nil {
			if doc, err := json.Marshal(&p); err == nil {
				out[store.Item{Kind: store.KindPatch, ID: p.ID}] = string(doc)
			}
		}
	}
	return out
})

// isSample tells whether a stored document is one of the sample, as it came.
func isSample(kind, id string, doc []byte) bool {
	want, ok := sampleDocs()[store.Item{Kind: kind, ID: id}]
	return ok && want == string(doc)
}

// SampleGone tells what of the sample was taken away, and what stayed because something of one's own stands on it or it was changed.
type SampleGone struct {
	Panels  int      `json:"panels"`
	Patches int      `json:"patches"`
	Sheets  int      `json:"sheets"`
	Kept    []string `json:"kept"`
	Pending Pending  `json:"pending"`
}

// sampleDrop takes the sample away in one step, and nothing of one's own: patches and panels that were changed stay, and panels on which something stands that stays.
func (s *Server) sampleDrop(ctx context.Context, in None) (out SampleGone, err error) {
	out.Kept = []string{}
	patches, err := s.store.Patches()
	if err != nil {
		return out, err
	}
	panels, err := s.store.Panels()
	if err != nil {
		return out, err
	}
	sheets, err := s.store.Sheets()
	if err != nil {
		return out, err
	}
	ours := map[store.Item]bool{}
	for i := range panels {
		if p := &panels[i]; isSample(store.KindPanel, p.ID, p.Document) {
			ours[store.Item{Kind: store.KindPanel, ID: p.ID}] = true
		} else if _, named := sampleDocs()[store.Item{Kind: store.KindPanel, ID: p.ID}]; named {
			out.Kept = append(out.Kept, p.Name)
		}
	}
	var items []store.Item
	stays := map[string]bool{} // panels that something stands on
	for i := range patches {
		p := &patches[i]
		it := store.Item{Kind: store.KindPatch, ID: p.ID}
		if isSample(store.KindPatch, p.ID, p.Document) {
			ours[it] = true
			items = append(items, it)
			out.Patches++
			continue
		}
		stays[p.Panel] = true
		if _, named := sampleDocs()[it]; named {
			out.Kept = append(out.Kept, p.Name)
		}
	}
	panelOurs := func(id string) bool { return ours[store.Item{Kind: store.KindPanel, ID: id}] }
	for i := range sheets {
		y := &sheets[i]
		if ours[store.Item{Kind: store.KindPatch, ID: y.Patch}] && isSample(store.KindPatch, y.Patch, y.Document) && panelOurs(y.Source) && panelOurs(y.Target) {
			items = append(items, store.Item{Kind: store.KindSheet, ID: fmt.Sprint(y.ID)})
			out.Sheets++
			continue
		}
		stays[y.Source], stays[y.Target] = true, true
	}
	for i := range panels {
		p := &panels[i]
		switch {
		case !panelOurs(p.ID):
		case stays[p.ID]:
			out.Kept = append(out.Kept, p.Name)
		default:
			items = append(items, store.Item{Kind: store.KindPanel, ID: p.ID})
			out.Panels++
		}
	}
	shows, err := s.store.Shows()
	if err != nil {
		return out, err
	}
	for i := range shows {
		if isSampleShow(shows[i].Document) {
			items = append(items, store.Item{Kind: store.KindShow, ID: fmt.Sprint(shows[i].ID)})
		}
	}
	if len(items) > 0 {
		if err := s.store.DeleteAs("take the sample away", items); err != nil {
			return out, err
		}
		s.forget(items)
	}
	out.Pending, err = s.pending("")
	return out, err
}

// marks are what lists tell of things beside what is in them.
type marks struct{ archived map[store.Item]bool }

func (s *Server) marks() (m marks, err error) {
	m.archived, err = s.store.Archived()
	return m, err
}

func (m marks) patch(r *PatchRow, doc []byte) {
	r.Archived, r.Sample = m.archived[store.Item{Kind: store.KindPatch, ID: r.ID}], isSample(store.KindPatch, r.ID, doc)
}

func (m marks) panel(r *PanelRow, doc []byte) {
	r.Archived, r.Sample = m.archived[store.Item{Kind: store.KindPanel, ID: r.ID}], isSample(store.KindPanel, r.ID, doc)
}

func (m marks) sheet(r *SheetRow, row *store.Sheet) {
	r.Title, r.Archived = row.Title, m.archived[store.Item{Kind: store.KindSheet, ID: fmt.Sprint(r.ID)}]
}
