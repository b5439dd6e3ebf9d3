package store

import "time"

// Panel is one revision of a panel. The newest revision is the one in use; older ones are
// kept for the sheets that used them.
type Panel struct {
	ID        string `gorm:"primaryKey"`
	Revision  int    `gorm:"primaryKey;autoIncrement:false"`
	Name      string
	Document  []byte
	CreatedAt time.Time
}

// Patch is a patch as it stands.
type Patch struct {
	ID        string `gorm:"primaryKey"`
	Name      string
	Kind      string
	Panel     string
	Document  []byte
	UpdatedAt time.Time
}

// Sheet is one translation that somebody works on. It holds the patch as it was, and which
// panel revisions it used.
type Sheet struct {
	ID             uint `gorm:"primaryKey"`
	Patch          string
	PatchName      string
	Layer          string
	Document       []byte // the patch
	Source         string
	SourceRevision int
	Target         string
	TargetRevision int
	School         string
	Overrides      []byte // JSON object, control to reading
	Choices        []byte // JSON of plan.Choices; none where nothing has been chosen
	// First is the sheet of the first layer where this is of a second one, else 0.
	First uint
	// Title is what somebody has called it; empty where it goes by its patch and target.
	Title     string
	CreatedAt time.Time
	UpdatedAt time.Time
}

// Tick marks a line of a sheet's dial-in list as done.
type Tick struct {
	SheetID uint   `gorm:"primaryKey;autoIncrement:false"`
	Key     string `gorm:"primaryKey"`
	At      time.Time
}

// Change is one step that can be undone: the rows it touched, before and after.
type Change struct {
	ID   uint `gorm:"primaryKey"`
	At   time.Time
	What string
	// Scope is the one thing that the step touched, "drafts/ID"; empty where it touched others.
	Scope  string
	Rows   []byte // JSON list of rowChange
	Undone bool
}

// Draft is a panel that is being worked on and is not yet a revision. Base is the revision it
// began from, 0 for a new panel.
type Draft struct {
	ID        string `gorm:"primaryKey"`
	Base      int
	Name      string
	Document  []byte
	UpdatedAt time.Time
}

// Version is a patch as it was when somebody chose to keep it.
type Version struct {
	Patch    string `gorm:"primaryKey"`
	Number   int    `gorm:"primaryKey;autoIncrement:false"`
	Note     string
	Document []byte
	At       time.Time
}
