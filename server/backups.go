package server

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"glossator/archive"
	"glossator/core/synth"
	"glossator/formats"
	"glossator/formats/wav"
	"glossator/store"
)

// KeptLimit is the largest backup or archive that is taken, in bytes.
const KeptLimit = archive.MostBytes

// Backups is what is kept of the database beside it.
type Backups struct {
	Backups []BackupRow `json:"backups"`
	// Kept is how many daily backups are kept, Folder where all are.
	Kept    int     `json:"kept"`
	Folder  string  `json:"folder"`
	Pending Pending `json:"pending"`
}

// BackupRow is one backup.
type BackupRow struct {
	Name string `json:"name"`
	// Kind is "daily", "made" or "before" (of what stood before another was restored).
	Kind  string `json:"kind"`
	At    string `json:"at"`
	Bytes int64  `json:"bytes"`
}

func backupRow(b store.Backup) BackupRow {
	return BackupRow{b.Name, b.Kind, b.At.Format(time.RFC3339), b.Bytes}
}

func (s *Server) backups(ctx context.Context, _ None) (none Backups, err error) {
	all, err := s.store.Backups()
	if err != nil {
		return none, err
	}
	out := Backups{Backups: []BackupRow{}, Folder: s.store.BackupFolder()}
	for _, b := range all {
		out.Backups = append(out.Backups, backupRow(b))
	}
	if out.Kept, err = s.store.BackupsKept(); err != nil {
		return none, err
	}
	out.Pending, err = s.pending()
	return out, err
}

func (s *Server) backupMake(ctx context.Context, _ None) (none Backups, err error) {
	if _, err := s.store.MakeBackup(store.BackupMade); err != nil {
		return none, err
	}
	return s.backups(ctx, None{})
}

// KeptBody is how many daily backups are kept.
type KeptBody struct {
	Kept int `json:"kept"`
}

type backupsKeptRequest struct {
	Body KeptBody
}

func (s *Server) backupsKept(ctx context.Context, in backupsKeptRequest) (none Backups, err error) {
	if in.Body.Kept < 0 || in.Body.Kept > store.MostBackups {
		return none, badRequest{fmt.Errorf("kept: expected 0 to %d daily backups, got %d", store.MostBackups, in.Body.Kept)}
	}
	if err := s.store.KeepBackups(in.Body.Kept); err != nil {
		return none, err
	}
	return s.backups(ctx, None{})
}

type ofBackup struct {
	Name string `path:"name"`
}

func (s *Server) backupFile(ctx context.Context, in ofBackup) (none Stream, err error) {
	path, err := s.store.BackupFile(in.Name)
	if err != nil {
		return none, err
	}
	return Stream{Name: in.Name, Media: "application/vnd.sqlite3", Write: func(w io.Writer) error {
		f, err := os.Open(path)
		if err != nil {
			return err
		}
		defer f.Close()
		_, err = io.Copy(w, f)
		return err
	}}, nil
}

func (s *Server) backupDrop(ctx context.Context, in ofBackup) (none Backups, err error) {
	if err := s.store.DropBackup(in.Name); err != nil {
		return none, err
	}
	return s.backups(ctx, None{})
}

// Restored says what stood before is in which backup.
type Restored struct {
	Before  BackupRow `json:"before"`
	Pending Pending   `json:"pending"`
}

func (s *Server) backupRestore(ctx context.Context, in ofBackup) (none Restored, err error) {
	path, err := s.store.BackupFile(in.Name)
	if err != nil {
		return none, err
	}
	f, err := os.Open(path)
	if err != nil {
		return none, err
	}
	defer f.Close()
	return s.restored(f)
}

type restoreRequest struct{ Body Inflow }

func (s *Server) restore(ctx context.Context, in restoreRequest) (none Restored, err error) {
	return s.restored(in.Body.Reader)
}

func (s *Server) restored(from io.Reader) (none Restored, err error) {
	before, err := s.store.Restore(from)
	if err != nil {
		return none, err
	}
	s.cache.kept.Purge() // the same id may mean something else now
	s.views.Purge()
	out := Restored{Before: backupRow(before)}
	out.Pending, err = s.pending()
	return out, err
}

// BackUpDaily makes a backup a day until the context ends; what fails is logged, and tried again an hour later.
func (s *Server) BackUpDaily(ctx context.Context) {
	for {
		if _, err := s.store.BackupDaily(); err != nil {
			s.log.Error("no backup was made", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(time.Hour):
		}
	}
}

type archiveRequest struct {
	// Patches by commas; all that is here where it is empty. Sounds puts renders of both sides of each sheet in.
	Patches string `query:"patches"`
	// Show is a show that goes out with its patches and the instruments of its houses; 0 for none.
	Show   uint `query:"show"`
	Sounds bool `query:"sounds"`
}

// archive gives patches with all that belongs to them as one file.
func (s *Server) archive(ctx context.Context, in archiveRequest) (none Stream, err error) {
	opt := archive.Options{Program: s.version, Text: func(id uint) ([]byte, error) {
		_, sheet, err := s.made(id)
		if err != nil {
			return nil, err
		}
		return []byte(formats.SheetMarkdown(sheet)), nil
	}}
	name := "everything"
	for _, id := range strings.Split(in.Patches, ",") {
		if id = strings.TrimSpace(id); id != "" {
			opt.Patches = append(opt.Patches, id)
		}
	}
	if in.Show != 0 {
		opt.Shows, name = []uint{in.Show}, fmt.Sprintf("show-%d", in.Show)
	}
	if len(opt.Patches)+len(opt.Shows) > 0 {
		if len(opt.Patches) > 0 {
			name = opt.Patches[0]
		}
		if _, err := s.store.Job(opt.Patches, opt.Shows...); err != nil { // before anything goes out
			return none, err
		}
	}
	if in.Sounds {
		opt.Sounds = func(id uint) (source, target []byte, err error) { return s.bothSides(ctx, id) }
	}
	return Stream{Name: name + ".glossator.zip", Media: "application/zip", Write: func(w io.Writer) error { return archive.Write(w, s.store, opt) }}, nil
}

// bothSides renders the phrase on both sides of a sheet.
func (s *Server) bothSides(ctx context.Context, id uint) (source, target []byte, err error) {
	l, err := s.sheetListen(ctx, sheetListenRequest{ID: id})
	if err != nil {
		return nil, nil, err
	}
	var out [2][]byte
	for i, key := range []string{l.Source.Key, l.Target.Key} {
		k, err := s.sounds.get(key)
		if err != nil {
			return nil, nil, err
		}
		var b bytes.Buffer
		if err := wav.Write(&b, &wav.Sound{Rate: synth.Rate, Bits: 24, Left: k.Left, Right: k.Right}); err != nil {
			return nil, nil, err
		}
		out[i] = b.Bytes()
	}
	return out[0], out[1], nil
}

type archiveTakeRequest struct {
	Name string `query:"name"`
	Body Inflow
}

// ArchiveTaken says what has become of an archive.
type ArchiveTaken struct {
	store.Taken
	Pending Pending `json:"pending"`
}

// archiveTake puts an archive beside what is here.
func (s *Server) archiveTake(ctx context.Context, in archiveTakeRequest) (none ArchiveTaken, err error) {
	f, err := os.CreateTemp("", "glossator-archive-*")
	if err != nil {
		return none, errors.Join(store.ErrDisk, err)
	}
	defer func() { _ = os.Remove(f.Name()) }()
	defer f.Close()
	n, err := io.Copy(f, in.Body.Reader)
	if err != nil {
		return none, err
	}
	a, err := archive.Open(f, n)
	if err != nil {
		return none, err
	}
	out := ArchiveTaken{}
	if out.Taken, err = a.Take(s.store, fileName(in.Name, "of a job")); err != nil {
		return none, err
	}
	out.Pending, err = s.pending()
	return out, err
}
