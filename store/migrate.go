package store

import (
	"fmt"
	"time"

	"gorm.io/gorm"
)

// migration is one step of the schema. Steps are never changed once released: a new step is
// added.
type migration struct {
	version int
	sql     []string
}

var migrations = []migration{
	{1, []string{
		`CREATE TABLE panels (id TEXT NOT NULL, revision INTEGER NOT NULL, name TEXT NOT NULL, document BLOB NOT NULL, created_at DATETIME NOT NULL, PRIMARY KEY (id, revision))`,
		`CREATE TABLE patches (id TEXT PRIMARY KEY, name TEXT NOT NULL, kind TEXT NOT NULL, panel TEXT NOT NULL, document BLOB NOT NULL, updated_at DATETIME NOT NULL)`,
		`CREATE TABLE sheets (id INTEGER PRIMARY KEY AUTOINCREMENT, patch TEXT NOT NULL, patch_name TEXT NOT NULL, layer TEXT NOT NULL, document BLOB NOT NULL,
			source TEXT NOT NULL, source_revision INTEGER NOT NULL, target TEXT NOT NULL, target_revision INTEGER NOT NULL, school TEXT NOT NULL,
			overrides BLOB NOT NULL, created_at DATETIME NOT NULL, updated_at DATETIME NOT NULL,
			FOREIGN KEY (source, source_revision) REFERENCES panels (id, revision),
			FOREIGN KEY (target, target_revision) REFERENCES panels (id, revision))`,
		`CREATE INDEX sheets_patch ON sheets (patch)`,
		`CREATE TABLE ticks (sheet_id INTEGER NOT NULL REFERENCES sheets (id) ON DELETE CASCADE, key TEXT NOT NULL, at DATETIME NOT NULL, PRIMARY KEY (sheet_id, key))`,
		`CREATE TABLE changes (id INTEGER PRIMARY KEY AUTOINCREMENT, at DATETIME NOT NULL, what TEXT NOT NULL, rows BLOB NOT NULL, undone NUMERIC NOT NULL DEFAULT 0)`,
	}},
	{2, []string{
		`CREATE TABLE drafts (id TEXT PRIMARY KEY, base INTEGER NOT NULL, name TEXT NOT NULL, document BLOB NOT NULL, updated_at DATETIME NOT NULL)`,
		`CREATE TABLE versions (patch TEXT NOT NULL, number INTEGER NOT NULL, note TEXT NOT NULL, document BLOB NOT NULL, at DATETIME NOT NULL, PRIMARY KEY (patch, number))`,
	}},
	{3, []string{`ALTER TABLE sheets ADD COLUMN choices BLOB`}},
	{4, []string{
		`CREATE TABLE trials (id INTEGER PRIMARY KEY AUTOINCREMENT, sheet_id INTEGER NOT NULL REFERENCES sheets (id) ON DELETE CASCADE, right INTEGER NOT NULL,
			"of" INTEGER NOT NULL, sounds TEXT NOT NULL, at DATETIME NOT NULL)`,
		`CREATE INDEX trials_sheet ON trials (sheet_id)`,
	}},
	{5, []string{`ALTER TABLE sheets ADD COLUMN first INTEGER NOT NULL DEFAULT 0`}},
	{6, []string{`CREATE TABLE summaries (sheet_id INTEGER PRIMARY KEY REFERENCES sheets (id) ON DELETE CASCADE, key TEXT NOT NULL, data BLOB NOT NULL)`}},
	{7, []string{
		`CREATE TABLE shelves (kind TEXT NOT NULL, ref TEXT NOT NULL, at DATETIME NOT NULL, PRIMARY KEY (kind, ref))`,
		`CREATE TABLE sets (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, patches BLOB NOT NULL, updated_at DATETIME NOT NULL)`,
		`ALTER TABLE sheets ADD COLUMN title TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE changes ADD COLUMN scope TEXT NOT NULL DEFAULT ''`,
		`CREATE INDEX changes_scope ON changes (scope, undone)`,
	}},
	{8, []string{`CREATE TABLE sittings (id INTEGER PRIMARY KEY AUTOINCREMENT, panel_id TEXT NOT NULL, control TEXT NOT NULL, recipe TEXT NOT NULL, instrument TEXT NOT NULL, takes BLOB NOT NULL,
		updated_at DATETIME NOT NULL, UNIQUE (panel_id, control))`}},
	{9, []string{
		`CREATE TABLE take_sounds (hash TEXT PRIMARY KEY, bytes INTEGER NOT NULL, data BLOB NOT NULL, made_at DATETIME NOT NULL)`,
		`CREATE TABLE settings (name TEXT PRIMARY KEY, value TEXT NOT NULL)`,
	}},
	{10, []string{
		`CREATE TABLE entries (id INTEGER PRIMARY KEY AUTOINCREMENT, sheet_id INTEGER NOT NULL REFERENCES sheets (id) ON DELETE CASCADE, kind TEXT NOT NULL, control TEXT NOT NULL, label TEXT NOT NULL,
			planned TEXT NOT NULL, reading TEXT NOT NULL, tags TEXT NOT NULL, why TEXT NOT NULL, who TEXT NOT NULL, at DATETIME NOT NULL)`,
		`CREATE INDEX entries_sheet ON entries (sheet_id)`,
	}},
	{11, []string{
		`CREATE TABLE memories (panel_id TEXT PRIMARY KEY, banks INTEGER NOT NULL, programs INTEGER NOT NULL, first INTEGER NOT NULL, updated_at DATETIME NOT NULL)`,
		`CREATE TABLE slots (panel_id TEXT NOT NULL, bank INTEGER NOT NULL, program INTEGER NOT NULL, name TEXT NOT NULL, sheet_id INTEGER NOT NULL, protected INTEGER NOT NULL, at DATETIME NOT NULL,
			PRIMARY KEY (panel_id, bank, program))`,
		`CREATE TABLE photographs (id INTEGER PRIMARY KEY AUTOINCREMENT, kind TEXT NOT NULL, ref TEXT NOT NULL, caption TEXT NOT NULL, width INTEGER NOT NULL, height INTEGER NOT NULL, bytes INTEGER NOT NULL,
			hash TEXT NOT NULL, at DATETIME NOT NULL)`,
		`CREATE INDEX photographs_ref ON photographs (kind, ref)`,
		`CREATE TABLE images (hash TEXT PRIMARY KEY, data BLOB NOT NULL, made_at DATETIME NOT NULL)`,
	}},
	{12, []string{
		`CREATE TABLE shows (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, document BLOB NOT NULL, updated_at DATETIME NOT NULL)`,
		`CREATE TABLE runs (id INTEGER PRIMARY KEY AUTOINCREMENT, show_id INTEGER NOT NULL, house TEXT NOT NULL, evening INTEGER NOT NULL, going INTEGER NOT NULL, at REAL NOT NULL, since DATETIME NOT NULL,
			began DATETIME NOT NULL)`,
		`CREATE INDEX runs_show ON runs (show_id, house, evening)`,
		`CREATE TABLE run_ticks (run_id INTEGER NOT NULL REFERENCES runs (id) ON DELETE CASCADE, cue TEXT NOT NULL, key TEXT NOT NULL, at DATETIME NOT NULL, clock REAL NOT NULL, who TEXT NOT NULL,
			"of" INTEGER NOT NULL, "end" REAL NOT NULL, PRIMARY KEY (run_id, cue, key))`,
		`CREATE TABLE hearings (key TEXT PRIMARY KEY, data BLOB NOT NULL, made_at DATETIME NOT NULL)`,
	}},
	{13, []string{
		`CREATE TABLE ear_sittings (id INTEGER PRIMARY KEY AUTOINCREMENT, who TEXT NOT NULL, patch TEXT NOT NULL, patch_name TEXT NOT NULL, document BLOB NOT NULL, parts BLOB NOT NULL, seed INTEGER NOT NULL,
			answers BLOB NOT NULL, began DATETIME NOT NULL, updated_at DATETIME NOT NULL)`,
		`CREATE TABLE ear_results (id INTEGER PRIMARY KEY AUTOINCREMENT, sitting_id INTEGER NOT NULL REFERENCES ear_sittings (id) ON DELETE CASCADE, who TEXT NOT NULL, differs TEXT NOT NULL, part TEXT NOT NULL,
			factor REAL NOT NULL, low REAL NOT NULL, high REAL NOT NULL, turns INTEGER NOT NULL, heard INTEGER NOT NULL, at DATETIME NOT NULL)`,
	}},
}

// migrate brings the database to the newest schema, one transaction a step.
func migrate(db *gorm.DB, now func() time.Time) error {
	if err := db.Exec(`CREATE TABLE IF NOT EXISTS schema_migrations (version INTEGER PRIMARY KEY, applied_at DATETIME NOT NULL)`).Error; err != nil {
		return err
	}
	var have int
	if err := db.Raw(`SELECT COALESCE(MAX(version), 0) FROM schema_migrations`).Scan(&have).Error; err != nil {
		return err
	}
	newest := migrations[len(migrations)-1].version
	if have > newest {
		return fmt.Errorf("the database is of schema %d, newer than this program's %d: use a newer program", have, newest)
	}
	for _, m := range migrations {
		if m.version <= have {
			continue
		}
		err := db.Transaction(func(tx *gorm.DB) error {
			for _, s := range m.sql {
				if err := tx.Exec(s).Error; err != nil {
					return err
				}
			}
			return tx.Exec(`INSERT INTO schema_migrations (version, applied_at) VALUES (?, ?)`, m.version, now()).Error
		})
		if err != nil {
			return fmt.Errorf("schema %d: %w", m.version, err)
		}
	}
	return nil
}
