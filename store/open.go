package store

import (
	"errors"
	"fmt"
	"io"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/glebarez/sqlite"
	"github.com/gofrs/flock"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// applicationID marks a database as this program's, in the place that SQLite keeps for it: "GLSR".
const applicationID = 0x474C5352

// ErrHeld is returned where another process has the database open.
var ErrHeld = errors.New("it is open in another process")

// Open opens or makes the database file and brings its schema up to date. A file of another program, one that is damaged, one that cannot be written and one
// that another process has open (ErrHeld) are refused with which of it it is.
func Open(file string) (*Store, error) {
	s, err := opened(file)
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", file, err)
	}
	return s, nil
}

func opened(file string) (_ *Store, err error) {
	abs, err := filepath.Abs(file)
	if err != nil {
		return nil, err
	}
	if err := isDatabase(abs); err != nil {
		return nil, err
	}
	s := &Store{file: abs, now: func() time.Time { return time.Now().UTC() }}
	defer func() {
		if err != nil {
			_ = s.Close()
		}
	}()
	if s.lock, err = hold(abs); err != nil {
		return nil, err
	}
	if info, err := os.Stat(abs); err == nil && info.Size() > 0 { // looked at before it is touched
		look, err := connect(abs, 1, url.Values{"mode": {"ro"}})
		if err != nil {
			return nil, err
		}
		err = ours(look)
		if sql, e := look.DB(); e == nil {
			err = errors.Join(err, sql.Close())
		}
		if err != nil {
			return nil, err
		}
	}
	if s.w, err = connect(abs, 1, writing()); err != nil {
		return nil, err
	}
	if s.db, err = connect(abs, 4, writing()); err != nil {
		return nil, err
	}
	if err := s.w.Exec(fmt.Sprintf("PRAGMA application_id = %d", applicationID)).Error; err != nil {
		return nil, told(err)
	}
	return s, told(migrate(s.w, s.now))
}

func writing() url.Values {
	return url.Values{"_pragma": {"journal_mode(WAL)", "synchronous(FULL)", "foreign_keys(1)", "busy_timeout(5000)"}, "_txlock": {"immediate"}}
}

func connect(abs string, most int, how url.Values) (*gorm.DB, error) {
	dsn := (&url.URL{Scheme: "file", Opaque: (&url.URL{Path: abs}).EscapedPath(), RawQuery: how.Encode()}).String()
	db, err := gorm.Open(sqlite.Open(dsn), &gorm.Config{Logger: logger.Discard, TranslateError: true})
	if err != nil {
		return nil, told(err)
	}
	sql, err := db.DB()
	if err != nil {
		return nil, err
	}
	sql.SetMaxOpenConns(most)
	return db, nil
}

// isDatabase refuses a file that is there and is no SQLite database (its first 16 bytes: SQLite, Database File Format).
func isDatabase(abs string) error {
	f, err := os.Open(abs)
	if errors.Is(err, os.ErrNotExist) {
		if _, err := os.Stat(filepath.Dir(abs)); errors.Is(err, os.ErrNotExist) {
			return fmt.Errorf("expected a folder that is there: %s is not", filepath.Dir(abs))
		}
		return nil
	}
	if err != nil {
		return err
	}
	defer f.Close()
	if info, err := f.Stat(); err != nil || info.IsDir() || !info.Mode().IsRegular() {
		return errors.New("expected a file")
	}
	head := make([]byte, 16)
	if n, err := io.ReadFull(f, head); n == 0 && errors.Is(err, io.EOF) {
		return nil // a new one
	}
	if string(head) != "SQLite format 3\x00" {
		return errors.New("it is no database: expected one that this program has made, or a name that is free")
	}
	return nil
}

// hold keeps a file beside the database locked, and writes there who does.
func hold(abs string) (*flock.Flock, error) {
	lock := flock.New(abs + ".lock")
	got, err := lock.TryLock()
	if err != nil {
		return nil, fmt.Errorf("it cannot be written: %w", err)
	}
	if !got {
		who, err := os.ReadFile(abs + ".lock")
		if err != nil || len(who) == 0 {
			return nil, ErrHeld
		}
		return nil, fmt.Errorf("%w (%s): stop that one first, or use another file", ErrHeld, strings.TrimSpace(string(who)))
	}
	host, _ := os.Hostname()
	_ = os.WriteFile(abs+".lock", fmt.Appendf(nil, "process %d on %s since %s\n", os.Getpid(), host, time.Now().Format(time.DateTime)), 0o600)
	return lock, nil
}

// ours refuses a database of another program, or one that is damaged.
func ours(db *gorm.DB) error {
	var id, tables, known int64
	if err := db.Raw("PRAGMA application_id").Scan(&id).Error; err != nil {
		return told(err)
	}
	if err := db.Raw("SELECT COUNT(*), COALESCE(SUM(name = 'schema_migrations'), 0) FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite%'").Row().Scan(&tables, &known); err != nil {
		return told(err)
	}
	if id != 0 && id != applicationID || id == 0 && tables > 0 && known == 0 {
		return errors.New("it is a database of another program: use another file")
	}
	var faults []string
	if err := db.Raw("PRAGMA quick_check(5)").Scan(&faults).Error; err != nil {
		return told(err)
	}
	if len(faults) != 1 || faults[0] != "ok" {
		return fmt.Errorf("it is damaged (%s): go back to a copy, or read what can be read with the recover command of SQLite's own tool", strings.Join(faults, "; "))
	}
	return nil
}

// told says of an error of the database what it is where that can be known: full, read-only, damaged.
func told(err error) error {
	if err == nil {
		return nil
	}
	var code interface{ Code() int }
	if !errors.As(err, &code) {
		return err
	}
	switch code.Code() & 0xFF { // result codes: SQLite, Result and Error Codes
	case 8, 14:
		return fmt.Errorf("%w: it cannot be written: %w", ErrDisk, err)
	case 13:
		return fmt.Errorf("%w: the disk is full: %w", ErrDisk, err)
	case 10:
		return fmt.Errorf("%w: the disk failed: %w", ErrDisk, err)
	case 11, 26:
		return fmt.Errorf("%w: the database is damaged: %w", ErrDisk, err)
	}
	return err
}

// ErrDisk is returned where the disk or the file on it is in the way: full, read-only, damaged.
var ErrDisk = errors.New("nothing was stored")

// Close closes the database.
func (s *Store) Close() error {
	var all error
	for _, db := range []*gorm.DB{s.db, s.w} {
		if db == nil {
			continue
		}
		sql, err := db.DB()
		if err == nil {
			err = sql.Close()
		}
		all = errors.Join(all, err)
	}
	if s.lock != nil {
		all = errors.Join(all, s.lock.Unlock())
	}
	return all
}
