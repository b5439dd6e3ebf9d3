package store

import (
	"errors"
	"fmt"
	"io"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"
)

// Kinds of backups, as their files begin.
const (
	BackupDaily  = "daily"  // made by itself, once a day
	BackupMade   = "made"   // when somebody asked for it
	BackupBefore = "before" // of what stood, before another was restored over it
)

// BackupsBound is how many daily backups are kept until the user sets another bound, MostBackups the most that can be set.
const (
	BackupsBound   = 14
	MostBackups    = 1000
	backupsSetting = "backups kept"
	backupTime     = "20060102-150405.000"
)

// Backup is a whole database in a file.
type Backup struct {
	// Name of the file, Kind what it was made for.
	Name, Kind string
	At         time.Time
	Bytes      int64
}

var backupName = regexp.MustCompile(`^(daily|made|before)-([0-9]{8}-[0-9]{6}\.[0-9]{3})\.db$`)

// BackupsIn is the folder of the backups of a database, beside it.
func BackupsIn(db string) string { return db + ".backups" }

// BackupFolder is where the backups of this database are.
func (s *Store) BackupFolder() string { return BackupsIn(s.file) }

// Backups lists the backups of this database, the newest first.
func (s *Store) Backups() ([]Backup, error) {
	out := []Backup{}
	files, err := os.ReadDir(s.BackupFolder())
	if errors.Is(err, os.ErrNotExist) {
		return out, nil
	}
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		m := backupName.FindStringSubmatch(f.Name())
		if m == nil {
			continue
		}
		at, err := time.Parse(backupTime, m[2])
		info, e := f.Info()
		if err != nil || e != nil {
			continue
		}
		out = append(out, Backup{f.Name(), m[1], at, info.Size()})
	}
	slices.SortFunc(out, func(a, b Backup) int { return b.At.Compare(a.At) })
	return out, nil
}

// BackupFile gives the path of a backup; ErrNotFound where there is none of the name.
func (s *Store) BackupFile(name string) (string, error) {
	if !backupName.MatchString(name) {
		return "", ErrNotFound
	}
	path := filepath.Join(s.BackupFolder(), name)
	if _, err := os.Stat(path); err != nil {
		return "", ErrNotFound
	}
	return path, nil
}

// MakeBackup makes a backup of a kind, while the database is used.
func (s *Store) MakeBackup(kind string) (Backup, error) {
	at := s.now().UTC()
	if err := os.MkdirAll(s.BackupFolder(), 0o700); err != nil {
		return Backup{}, fmt.Errorf("%w: %w", ErrDisk, err)
	}
	b := Backup{Name: fmt.Sprintf("%s-%s.db", kind, at.Format(backupTime)), Kind: kind, At: at}
	path := filepath.Join(s.BackupFolder(), b.Name)
	if err := backup(s.db, path); err != nil {
		return Backup{}, err
	}
	info, err := os.Stat(path)
	if err == nil {
		b.Bytes = info.Size()
	}
	return b, err
}

// DropBackup deletes a backup.
func (s *Store) DropBackup(name string) error {
	path, err := s.BackupFile(name)
	if err != nil {
		return err
	}
	return os.Remove(path)
}

// BackupsKept is how many daily backups are kept.
func (s *Store) BackupsKept() (int, error) {
	var x Setting
	if err := s.db.Where("name = ?", backupsSetting).Limit(1).Find(&x).Error; err != nil {
		return 0, err
	}
	if n, err := strconv.Atoi(x.Value); err == nil && x.Name != "" {
		return n, nil
	}
	return BackupsBound, nil
}

// KeepBackups sets how many daily backups are kept, 0 for none, and deletes those that are more.
func (s *Store) KeepBackups(n int) error {
	if n < 0 || n > MostBackups {
		return fmt.Errorf("expected 0 to %d daily backups, got %d", MostBackups, n)
	}
	if err := s.write(func(tx *gorm.DB) error { return tx.Save(&Setting{backupsSetting, strconv.Itoa(n)}).Error }); err != nil {
		return err
	}
	return s.thin(n)
}

// thin deletes the oldest daily backups beyond a bound. Others stay: somebody has wanted them.
func (s *Store) thin(n int) error {
	all, err := s.Backups()
	if err != nil {
		return err
	}
	for _, b := range all {
		if b.Kind != BackupDaily {
			continue
		}
		if n--; n < 0 {
			err = errors.Join(err, s.DropBackup(b.Name))
		}
	}
	return err
}

// BackupDaily makes the backup of the day where the last one is a day old and something has changed since, and tells whether it has.
func (s *Store) BackupDaily() (bool, error) {
	n, err := s.BackupsKept()
	if err != nil || n == 0 {
		return false, err
	}
	all, err := s.Backups()
	if err != nil {
		return false, err
	}
	i := slices.IndexFunc(all, func(b Backup) bool { return b.Kind == BackupDaily })
	if i >= 0 {
		if s.now().Sub(all[i].At) < 24*time.Hour {
			return false, nil
		}
		var since int64
		if err := s.db.Raw("SELECT (SELECT COUNT(*) FROM changes WHERE at >= ?) + (SELECT COUNT(*) FROM ticks WHERE at >= ?) + (SELECT COUNT(*) FROM take_sounds WHERE made_at >= ?)", all[i].At, all[i].At, all[i].At).Scan(&since).Error; err != nil || since == 0 {
			return false, err
		}
	}
	if _, err := s.MakeBackup(BackupDaily); err != nil {
		return false, err
	}
	return true, s.thin(n)
}

// BackupTo writes a database into a file, also while another process has it open. The file may not be there yet.
func BackupTo(db, file string) error {
	abs, err := filepath.Abs(db)
	if err != nil {
		return err
	}
	if _, err := os.Stat(abs); err != nil {
		return err
	}
	if err := isDatabase(abs); err != nil {
		return fmt.Errorf("%s: %w", db, err)
	}
	look, err := connect(abs, 1, url.Values{"mode": {"ro"}, "_pragma": {"busy_timeout(5000)"}})
	if err != nil {
		return err
	}
	defer closed(look)
	if err := ours(look); err != nil {
		return fmt.Errorf("%s: %w", db, err)
	}
	if file, err = filepath.Abs(file); err != nil {
		return err
	}
	return backup(look, file)
}

// backup writes what a connection sees at one moment into a file, whole or not at all (SQLite: VACUUM INTO).
func backup(db *gorm.DB, file string) error {
	if _, err := os.Stat(file); err == nil {
		return fmt.Errorf("%s is there: name another file", file)
	}
	making := file + ".making"
	_ = os.Remove(making) // of one that was broken off
	if err := db.Exec("VACUUM INTO ?", making).Error; err != nil {
		_ = os.Remove(making)
		return told(err)
	}
	f, err := os.OpenFile(making, os.O_RDWR, 0)
	if err == nil {
		err = errors.Join(f.Sync(), f.Close(), os.Chmod(making, 0o600))
	}
	if err == nil {
		err = os.Rename(making, file)
	}
	if err != nil {
		_ = os.Remove(making)
		return fmt.Errorf("%w: %w", ErrDisk, err)
	}
	return nil
}

func closed(db *gorm.DB) {
	if sql, err := db.DB(); err == nil {
		_ = sql.Close()
	}
}

// Restore puts what a backup holds in the place of all that is here, in one transaction, after a backup of what stands here (which is given). The backup may be of an older schema; a
// file that is damaged, of another program or of a newer one is refused, and nothing is changed.
func (s *Store) Restore(from io.Reader) (before Backup, err error) {
	f, err := os.CreateTemp(filepath.Dir(s.file), ".restoring-*.db")
	if err != nil {
		return before, fmt.Errorf("%w: %w", ErrDisk, err)
	}
	path := f.Name()
	defer func() {
		for _, end := range []string{"", "-wal", "-shm", "-journal"} {
			_ = os.Remove(path + end)
		}
	}()
	_, err = io.Copy(f, from)
	if err = errors.Join(err, f.Close()); err != nil {
		return before, err
	}
	if err := s.brought(path); err != nil {
		return before, fmt.Errorf("%w: %w", ErrNoBackup, err)
	}
	if before, err = s.MakeBackup(BackupBefore); err != nil {
		return before, err
	}
	if err := s.w.Exec("ATTACH DATABASE ? AS backup", path).Error; err != nil {
		return before, told(err)
	}
	err = s.write(func(tx *gorm.DB) error {
		if err := tx.Exec("PRAGMA defer_foreign_keys = ON").Error; err != nil {
			return err
		}
		var tables []string
		if err := tx.Raw("SELECT name FROM main.sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite%' AND name <> 'schema_migrations' ORDER BY name").Scan(&tables).Error; err != nil {
			return err
		}
		for _, t := range tables {
			if err := tx.Exec(fmt.Sprintf(`DELETE FROM main.%q`, t)).Error; err != nil {
				return err
			}
		}
		for _, t := range tables {
			var columns []string
			if err := tx.Raw("SELECT name FROM pragma_table_info(?)", t).Scan(&columns).Error; err != nil {
				return err
			}
			for i := range columns {
				columns[i] = fmt.Sprintf("%q", columns[i])
			}
			all := strings.Join(columns, ", ")
			if err := tx.Exec(fmt.Sprintf(`INSERT INTO main.%q (%s) SELECT %s FROM backup.%q`, t, all, all, t)).Error; err != nil {
				return err
			}
		}
		// a number that has been given is not given again: a page may still show what went by it
		return tx.Exec(`UPDATE main.sqlite_sequence SET seq = MAX(seq, COALESCE((SELECT b.seq FROM backup.sqlite_sequence b WHERE b.name = main.sqlite_sequence.name), 0))`).Error
	})
	return before, errors.Join(err, told(s.w.Exec("DETACH DATABASE backup").Error))
}

// ErrNoBackup is returned for a file that is none of this program's databases, or cannot be used.
var ErrNoBackup = errors.New("it cannot be restored")

// brought looks at a copy of a backup and brings it to this program's schema.
func (s *Store) brought(path string) error {
	if err := isDatabase(path); err != nil {
		return err
	}
	db, err := connect(path, 1, url.Values{"_pragma": {"foreign_keys(1)"}, "_txlock": {"immediate"}})
	if err != nil {
		return err
	}
	defer closed(db)
	if err := ours(db); err != nil {
		return err
	}
	var known int64
	if err := db.Raw("SELECT COUNT(*) FROM sqlite_master WHERE name = 'schema_migrations'").Scan(&known).Error; err != nil || known == 0 {
		return errors.Join(told(err), errors.New("it is empty"))
	}
	if err := told(migrate(db, s.now)); err != nil {
		return err
	}
	var broken []string
	if err := db.Raw(`SELECT "table" FROM pragma_foreign_key_check`).Scan(&broken).Error; err != nil {
		return told(err)
	}
	if len(broken) > 0 {
		return fmt.Errorf("rows of %s point to what is not there", strings.Join(slices.Compact(broken), ", "))
	}
	return nil
}
