package store

import "time"

// Person is somebody who may sign in. Roles are separated by commas; an empty
// PasswordHash lets nobody in.
type Person struct {
	ID           int64 `gorm:"primaryKey"`
	Email        string
	Name         string
	PasswordHash string
	Roles        string
	Locked       bool
	Theme        string
	Units        string
	AwayFrom     *time.Time
	AwayUntil    *time.Time
	Letters      string
	CreatedAt    time.Time
}

// TableName is people.
func (Person) TableName() string { return "people" }

// Link lets somebody in once: to set the first administrator up, to take up an
// invitation, or to choose a new password. Hash is SHA-256 of its secret.
type Link struct {
	Hash      string `gorm:"primaryKey"`
	Kind      string
	PersonID  *int64
	MadeBy    int64
	MadeAt    time.Time
	ExpiresAt time.Time
	UsedAt    *time.Time
}

// Session is somebody signed in from somewhere; Token is its SHA-256.
type Session struct {
	Token    string `gorm:"primaryKey"`
	PersonID int64
	Data     []byte
	Expiry   time.Time
	MadeAt   time.Time
	SeenAt   time.Time
	Agent    string
}

// Engine is a code that has had a sheet in use; what it says stands in Sheet.
type Engine struct {
	Code string `gorm:"primaryKey"`
}

// Procedure ties revisions together.
type Procedure struct {
	ID        int64 `gorm:"primaryKey"`
	Engine    string
	CreatedAt time.Time
}

// Revision is one revision without the file it was frozen as, which Frozen reads.
type Revision struct {
	ID          int64 `gorm:"primaryKey"`
	ProcedureID int64
	Number      int
	State       string
	Reason      string
	Header      string
	// HeaderBy and HeaderAt are the client and version that last set the header.
	HeaderBy string
	HeaderAt int64
	Version  int64
	SHA256   string `gorm:"column:sha256"`
	// SheetID is the engine sheet its latches are closed over; nil while none is.
	SheetID   *int64
	CreatedBy int64
	ChangedBy int64
	ChangedAt time.Time
	LatchedAt *time.Time
}

// Step is one step of a revision that can be edited. A step taken out stays as
// gone, so that edits made beside it still find their place.
type Step struct {
	RevisionID int64  `gorm:"primaryKey"`
	StepID     string `gorm:"primaryKey"`
	Pos        float64
	Body       string
	Version    int64
	Client     string
	ChangedBy  int64
	Gone       bool
}

// Batch is a saved batch of edits and the way back. Digest is the SHA-256 of
// what was sent, so that a name is not used twice for different things.
type Batch struct {
	ID         int64 `gorm:"primaryKey"`
	RevisionID int64
	Batch      string
	PersonID   int64
	Version    int64
	Edits      string
	Inverse    string
	Kind       string
	Undone     bool
	Digest     string
	At         time.Time
}

// Closing is a closed latch, and the version and sheet the person saw.
type Closing struct {
	RevisionID int64  `gorm:"primaryKey"`
	Latch      string `gorm:"primaryKey"`
	PersonID   int64
	Version    int64
	SheetID    *int64
	At         time.Time
	// Content is exactly what it was closed over, as core/reading writes it.
	Content string
	// Name is what the person was called then.
	Name string
}

// Entry is one line of the record.
type Entry struct {
	Seq        int64 `gorm:"primaryKey"`
	At         time.Time
	PersonID   int64
	What       string
	RevisionID int64
	SheetID    int64
	Payload    string
	Prev       string
	Hash       string
	Form       int
}

// TableName is record.
func (Entry) TableName() string { return "record" }

// Standing is what a proof found in a revision, kept for lists.
type Standing struct {
	RevisionID int64 `gorm:"primaryKey"`
	Version    int64
	SheetID    int64
	Edition    string
	Steps      int
	// Free is how many of its steps have words the virtual engine knows nothing of.
	Free     int
	Blocking int
	Findings int
	Requires string
}

// SheetStanding is what lists say of a sheet, kept as JSON.
type SheetStanding struct {
	SheetID int64 `gorm:"primaryKey"`
	Version int64
	Edition string
	Card    string
}
