// Package desk is what people do: sign in, write, undo, send round, close
// latches, read, bring files in and out. It joins core and store, checks who
// may, and keeps the record.
package desk

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/riverqueue/river"
	"golang.org/x/sync/singleflight"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/house"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/readstate"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// Desk is what people do, in rooms: each has its own verbs, and all of them read
// through one library.
type Desk struct {
	// Access is who comes in: people, passwords, sign-in, links.
	Access *Access
	// Drafts is where pages are written.
	Drafts *Drafts
	// Review is where they are read, weighed, signed and released.
	Review *Review
	// Engines is where sheets are written and put into use, and what they touch.
	Engines *Engines
	// Drills are the mistakes of the trade made on pages.
	Drills *Drills
	// House is what the house decides for itself.
	House *House
	// Shelves is what all codes have together.
	Shelves *Shelves
	// Jobs is what the program does by itself.
	Jobs *Jobs
	// Watchers hears of new versions and of who is where.
	Watchers *Watchers
	lib      *library
}

// library is the store with what is read from it and worked out once: pages, sheets,
// proofs, what people have read.
type library struct {
	store *store.Store
	// base are the program's own rules, rules those that hold, nil until somebody asks.
	base  house.Rules
	rules atomic.Pointer[ruled]
	jobs  *river.Client[*sql.Tx]
	log   *slog.Logger
	// rooms is the way from one room into another.
	rooms *Desk

	sheets  *lru.Cache[sheetKey, *known]
	pages   *lru.Cache[pageKey, *procedure.Procedure]
	frozen  *lru.Cache[int64, *opened]
	shown   *lru.Cache[shownKey, *view.View]
	drilled *lru.Cache[shownKey, *drill.Report]
	// needed are the latches of a page against the release before it.
	needed *lru.Cache[neededKey, []latch.Latch]
	// readings are what people have read, by the text of it.
	readings *lru.Cache[string, *readstate.Page]
	flight   singleflight.Group
}

// Access is who comes in.
type Access struct {
	*library
	// hashing lets a few passwords be hashed at once: each takes 64 MB.
	hashing chan struct{}
	// waiting lets a few more wait for that.
	waiting chan struct{}
}

// Drafts is where pages are written.
type Drafts struct{ *library }

// Review is where pages are read, weighed, signed and released.
type Review struct {
	*library
	// noting slows field notes of one person down.
	noting Gate
}

// Engines is where sheets are written and put into use, and what they touch.
type Engines struct {
	*library
	// planning lets one plan of a change everywhere be made at a time.
	planning chan struct{}
}

// Drills are the mistakes of the trade made on pages: what would show them, what comes of them.
type Drills struct{ *library }

// Shelves is what all codes have together: tools, documents, torque tables.
type Shelves struct {
	*library
}

// Jobs is what the program does by itself: proofs again, letters, the index of uses.
type Jobs struct {
	*library
	mail Mailer
	// lettersSent and lettersFailed are counted since the start.
	lettersSent, lettersFailed atomic.Int64
	// address is where people reach the program, for letters.
	address string
}

// The caches are keyed by version, so that nothing in them grows old, and hold
// this many entries.
const (
	mostSheets = 256
	mostPages  = 512
	mostShown  = 256
	mostRead   = 400
)

type sheetKey struct{ sheet, version int64 }

type pageKey struct{ revision, version int64 }

// shownKey names a proved page: what it says, the sheet and the rules it was proved with.
type shownKey struct {
	pageKey
	sheet sheetKey
	rules int64
}

// neededKey names a page, and the release before it as what that is now.
type neededKey struct {
	shownKey
	before int64
	state  string
}

func cache[K comparable, V any](most int) *lru.Cache[K, V] {
	c, err := lru.New[K, V](most)
	if err != nil {
		panic(err) // only a size below one is refused
	}
	return c
}

// New is a desk over a store with the default house rules.
func New(s *store.Store) *Desk {
	lib := &library{
		store: s, base: house.Default(), log: slog.New(slog.DiscardHandler),
		sheets: cache[sheetKey, *known](mostSheets), pages: cache[pageKey, *procedure.Procedure](mostPages),
		frozen: cache[int64, *opened](mostPages), shown: cache[shownKey, *view.View](mostShown),
		drilled: cache[shownKey, *drill.Report](mostDrilled),
		needed:  cache[neededKey, []latch.Latch](mostPages), readings: cache[string, *readstate.Page](mostRead),
	}
	lib.rooms = &Desk{
		Access:  &Access{library: lib, hashing: make(chan struct{}, mostHashing), waiting: make(chan struct{}, mostWaiting)},
		Drafts:  &Drafts{lib},
		Review:  &Review{library: lib, noting: Gate{Burst: notesAtOnce, Interval: noteAgain}},
		Engines: &Engines{library: lib, planning: make(chan struct{}, mostPlanning)},
		Drills:  &Drills{lib}, House: &House{lib}, Shelves: &Shelves{library: lib},
		Jobs: &Jobs{library: lib},
		lib:  lib,
	}
	lib.rooms.Watchers = newWatchers(lib)
	if s != nil {
		lib.jobs = queue(s)
	}
	return lib.rooms
}

// Signing sets what a signature takes until the house saves rules of its own: how many
// words a minute somebody reads who weighs each, and whether the last latch releases. It is
// called before anybody is served.
func (d *Desk) Signing(pace int, lastReleases bool) {
	d.lib.base.Latches.ReadingPace, d.lib.base.Latches.LastReleases = pace, lastReleases
}

// Log sets where the desk tells what no person hears.
func (d *Desk) Log(l *slog.Logger) { d.lib.log = l }

// Problem is an error meant for a person: an HTTP status, a sentence, and the
// field it belongs to. Changes, where there are any, say what has changed since
// the person looked, and Version what it is now.
type Problem struct {
	Status  int
	Title   string
	Detail  string
	Field   string
	Changes []string
	Version int64
	// Retry is after how long it is worth another try; zero where nothing is known of it.
	Retry time.Duration
}

// Error is the sentence.
func (p *Problem) Error() string { return p.Title }

func problem(status int, format string, args ...any) *Problem {
	return &Problem{Status: status, Title: fmt.Sprintf(format, args...)}
}

func notFound(what string) *Problem { return problem(404, "There is no such %s.", what) }

// forbidden says why somebody may not.
func forbidden(why string) *Problem { return problem(403, "%s", why) }

// missing turns the store's word for absence into one for people.
func missing(err error, what string) error {
	if errors.Is(err, store.ErrNotFound) {
		return notFound(what)
	}
	return err
}

// User is somebody signed in.
type User struct {
	ID    int64
	Name  string
	Email string
	Roles []latch.Role
	Theme string
	Units string
	// AwayFrom and AwayUntil are the days of an absence, as 2006-01-02, empty for none.
	AwayFrom, AwayUntil string
	Letters             string
}

// Writes reports whether the person may edit drafts.
func (u *User) Writes() bool { return latch.MayWrite(u.Roles) }

// Works reports whether the person works on pages, rather than reads what was
// released.
func (u *User) Works() bool { return !isReader(u) }

// Leads reports whether the person is a lead.
func (u *User) Leads() bool { return slices.Contains(u.Roles, latch.Lead) }

// Administers reports whether the person may change people.
func (u *User) Administers() bool { return slices.Contains(u.Roles, latch.Administrator) }

// MayWrite says why somebody may not write, nil when they may.
func MayWrite(u *User) error {
	if u.Writes() {
		return nil
	}
	return forbidden("Only an author or a lead can write.")
}

func userOf(p *store.Person) *User {
	u := &User{ID: p.ID, Name: p.Name, Email: p.Email, Theme: p.Theme, Units: p.Units, Letters: p.Letters}
	if p.AwayFrom != nil {
		u.AwayFrom = p.AwayFrom.Format(time.DateOnly)
	}
	if p.AwayUntil != nil {
		u.AwayUntil = p.AwayUntil.Format(time.DateOnly)
	}
	for r := range strings.SplitSeq(p.Roles, ",") {
		u.Roles = append(u.Roles, latch.Role(r))
	}
	return u
}

// known is a sheet with what is built from it once.
type known struct {
	id    sheetKey
	sheet *engine.Sheet
	index *engine.Index
	lex   *quickline.Lexicon
	// examples are quick lines of the sheet, memo what it makes of steps.
	examples func() []string
	memo     *readstate.Memo
}

func know(id sheetKey, sheet *engine.Sheet) *known {
	x := engine.NewIndex(sheet)
	lex := quickline.NewLexicon(x)
	return &known{id, sheet, x, lex, sync.OnceValue(func() []string { return quickline.Examples(lex) }), &readstate.Memo{}}
}

// knowSheet reads a version of a sheet, whose head is at hand.
func (d *library) knowSheet(r store.Reads, v *store.Sheet) (*known, error) {
	key := sheetKey{v.ID, v.Version}
	if k, ok := d.sheets.Get(key); ok {
		return k, nil
	}
	text := v.Sheet
	if text == "" {
		var err error
		if text, err = r.SheetText(v.ID); err != nil {
			return nil, err
		}
	}
	s, err := latchjson.DecodeSheet([]byte(text))
	if bad := (*latchjson.Error)(nil); errors.As(err, &bad) {
		return nil, &Problem{Status: 409, Title: fmt.Sprintf("Engine sheet %d of %s cannot be worked with: %s, %s.", v.Number, v.Code, bad.Place, bad.Why), Field: bad.Place}
	}
	if err != nil {
		return nil, fmt.Errorf("reading sheet %d of %s: %w", v.Number, v.Code, err)
	}
	k := know(key, s)
	d.sheets.Add(key, k)
	return k, nil
}

// engine is the sheet of a code that is in use.
func (d *library) engine(r store.Reads, code string) (*known, error) {
	v, err := r.InUse(code)
	if errors.Is(err, store.ErrNotFound) {
		if all, err := r.SheetsOf(code); err == nil && len(all) > 0 {
			return nil, problem(409, "The sheet of %s is a draft still: somebody else has to look it over and put it into use before a page is written on it.", code)
		}
	}
	if err != nil {
		return nil, missing(err, "engine code")
	}
	return d.knowSheet(r, v)
}

// opened is a revision with its procedure and engine.
type opened struct {
	rev *store.Revision
	p   *procedure.Procedure
	k   *known
}

// open reads a revision: a draft from its steps and the sheet in use, one on
// review with the sheet its latches are closed over, a latched one from the file
// it was frozen as.
func (d *library) open(r store.Reads, id int64) (*opened, error) {
	rev, err := r.RevisionByID(id)
	if err != nil {
		return nil, missing(err, "revision")
	}
	return d.read(r, rev)
}

// read reads a revision whose row is at hand.
func (d *library) read(r store.Reads, rev *store.Revision) (*opened, error) {
	id := rev.ID
	for range 8 { // a draft may move on between its parts
		if latch.State(rev.State).Frozen() {
			return d.openFrozen(r, rev)
		}
		if p, ok := d.pages.Get(pageKey{id, rev.Version}); ok {
			return d.with(r, rev, p)
		}
		steps, err := r.StepsOf(id)
		if err != nil {
			return nil, err
		}
		if newest(steps) > rev.Version {
			if rev, err = r.RevisionByID(id); err != nil {
				return nil, err
			}
			continue
		}
		p, err := assemble(rev, steps)
		if err != nil {
			return nil, err
		}
		d.pages.Add(pageKey{id, rev.Version}, p)
		return d.with(r, rev, p)
	}
	return nil, problem(503, "This draft is being changed too fast to be read. Try again in a moment.")
}

// with puts a page and the sheet it is proved with together.
func (d *library) with(r store.Reads, rev *store.Revision, p *procedure.Procedure) (*opened, error) {
	if rev.SheetID == nil {
		k, err := d.engine(r, p.Engine)
		return &opened{rev, p, k}, err
	}
	v, err := r.SheetHead(*rev.SheetID)
	if err != nil {
		return nil, err
	}
	k, err := d.knowSheet(r, v)
	return &opened{rev, p, k}, err
}

func (d *library) openFrozen(r store.Reads, rev *store.Revision) (*opened, error) {
	if o, ok := d.frozen.Get(rev.ID); ok {
		return &opened{rev, o.p, o.k}, nil
	}
	text, err := r.Frozen(rev.ID)
	if err != nil {
		return nil, err
	}
	doc, err := latchjson.Decode([]byte(text))
	if err != nil {
		return nil, fmt.Errorf("reading revision %d: %w", rev.ID, err)
	}
	// Proved with the sheet in the file, whatever became of the code's.
	o := &opened{rev, &doc.Procedure, know(sheetKey{-rev.ID, 0}, &doc.Engine)}
	d.frozen.Add(rev.ID, o)
	return o, nil
}

// newest is the highest version of any step.
func newest(steps []store.Step) int64 {
	v := int64(0)
	for i := range steps {
		v = max(v, steps[i].Version)
	}
	return v
}

// show proves a page and lays it out, once for each version and sheet, however
// many ask at the same time.
func (d *library) show(o *opened) (*view.View, error) {
	key := shownKey{pageKey{o.rev.ID, o.rev.Version}, o.k.id, d.ruled().version}
	if v, ok := d.shown.Get(key); ok {
		return v, nil
	}
	v, err, _ := d.flight.Do(fmt.Sprint(key), func() (any, error) { return d.lay(key, o.k, o.p) })
	if err != nil {
		return nil, err
	}
	return v.(*view.View), nil
}

// lay proves a page and writes it as JSON, which every listener gets; that it
// cannot be written is an error.
func (d *library) lay(key shownKey, k *known, p *procedure.Procedure) (*view.View, error) {
	v, err := d.laid(k, p, key.version)
	if err != nil {
		return nil, fmt.Errorf("laying revision %d out: %w", key.revision, err)
	}
	d.shown.Add(key, v)
	return v, nil
}

// laid proves a page and lays it out, within the time that one page may take.
func (d *library) laid(k *known, p *procedure.Procedure, version int64) (*view.View, error) {
	return worked(func() (*view.View, error) {
		v := view.Of(k.index, p, version, d.house())
		return v, v.Seal()
	})
}

// assemble puts a procedure together from its rows.
func assemble(rev *store.Revision, rows []store.Step) (*procedure.Procedure, error) {
	p := &procedure.Procedure{Steps: make([]step.Step, 0, len(rows))}
	if err := json.Unmarshal([]byte(rev.Header), &p.Header); err != nil {
		return nil, fmt.Errorf("reading the header of revision %d: %w", rev.ID, err)
	}
	for i := range rows {
		if rows[i].Gone {
			continue
		}
		var s step.Step
		if err := json.Unmarshal([]byte(rows[i].Body), &s); err != nil {
			return nil, fmt.Errorf("reading step %q of revision %d: %w", rows[i].StepID, rev.ID, err)
		}
		p.Steps = append(p.Steps, s)
	}
	return p, nil
}

func text(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // only types of ours are written, and their figures are held at the door
	}
	return string(b)
}

// mayRead holds everybody signed in to be a reader; drafts are for those who
// work on them.
func mayRead(u *User, rev *store.Revision) error {
	if latch.State(rev.State).Frozen() || !isReader(u) {
		return nil
	}
	return forbidden("Readers see released revisions only. This one is still being written.")
}

// readable opens a revision for somebody who may see it. Roles are looked at
// before anything of it is read.
func (d *library) readable(ctx context.Context, u *User, id int64) (*opened, error) {
	r := d.store.Reads(ctx)
	rev, err := r.RevisionByID(id)
	if err != nil {
		return nil, missing(err, "revision")
	}
	if err := mayRead(u, rev); err != nil {
		return nil, err
	}
	return d.read(r, rev)
}
