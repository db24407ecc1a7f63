package store

import "time"

// Person is somebody who may sign in. Roles are separated by commas.
type Person struct {
	ID           int64 `gorm:"primaryKey"`
	Email        string
	Name         string
	PasswordHash string
	Roles        string
	CreatedAt    time.Time
}

// TableName is people.
func (Person) TableName() string { return "people" }

// Engine is an engine sheet as canonical JSON.
type Engine struct {
	Code    string `gorm:"primaryKey"`
	Sheet   string
	Version int64
}

// Procedure ties revisions together.
type Procedure struct {
	ID        int64 `gorm:"primaryKey"`
	Engine    string
	CreatedAt time.Time
}

// Revision is one revision; its header is JSON, and once latched Frozen holds
// the canonical file.
type Revision struct {
	ID          int64 `gorm:"primaryKey"`
	ProcedureID int64
	Number      int
	State       string
	Reason      string
	Header      string
	// HeaderBy and HeaderAt are the client and version that last set the header.
	HeaderBy  string
	HeaderAt  int64
	Version   int64
	Frozen    string
	SHA256    string `gorm:"column:sha256"`
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

// Batch is a saved batch of edits and the way back.
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
	At         time.Time
}

// Closing is a closed latch.
type Closing struct {
	RevisionID int64  `gorm:"primaryKey"`
	Latch      string `gorm:"primaryKey"`
	PersonID   int64
	At         time.Time
}

// Entry is one line of the record.
type Entry struct {
	Seq        int64 `gorm:"primaryKey"`
	At         time.Time
	PersonID   int64
	What       string
	RevisionID int64
	Payload    string
	Prev       string
	Hash       string
}

// TableName is record.
func (Entry) TableName() string { return "record" }
