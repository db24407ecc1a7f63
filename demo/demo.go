// Package demo is the made-up world of the demo: Tarn's engines, a few
// procedures and the people who write them. Nothing in it is real. Its files are
// the fixtures of the core's tests.
package demo

import (
	"context"
	"embed"
	"fmt"
	"time"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/unit"
	"inklatch/internal/desk"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// Files are the demo's engine sheets and procedures.
//
//go:embed *.json
var Files embed.FS

// Password signs every demo person in.
const Password = "groomed piste"

// Person is somebody of the demo.
type Person struct {
	Name, Email string
	Roles       string
}

// People are the demo's people, one for each role at least.
var People = []Person{
	{"Ines Okafor", "ines@tarn.example", "author"},
	{"Jonas Brandvold", "jonas@tarn.example", "author"},
	{"Mirja Salmela", "mirja@tarn.example", "technical editor"},
	{"Teodor Vance", "teodor@tarn.example", "editorial editor"},
	{"Aiko Lindqvist", "aiko@tarn.example", "bench technician"},
	{"Rosalind Achebe", "rosalind@tarn.example", "lead"},
	{"Pavel Nygaard", "pavel@tarn.example", "reader"},
	{"Sunniva Holt", "sunniva@tarn.example", "administrator"},
}

// Document reads one of Files; it panics on a file that is not there.
func Document(name string) *latchjson.Document {
	b, err := Files.ReadFile(name)
	if err != nil {
		panic(err)
	}
	d, err := latchjson.Decode(b)
	if err != nil {
		panic(fmt.Errorf("%s: %w", name, err))
	}
	return d
}

// Load fills an empty database; it does nothing to one that has people.
func Load(ctx context.Context, s *store.Store) error { return load(ctx, s, nil) }

func load(ctx context.Context, s *store.Store, past *calendar) error {
	have, err := s.Reads(ctx).People()
	if err != nil || len(have) > 0 {
		return err
	}
	hash, err := desk.HashPassword(Password)
	if err != nil {
		return err
	}
	who := map[string]*desk.User{}
	d := desk.New(s)
	for _, p := range People {
		row := store.Person{Name: p.Name, Email: p.Email, PasswordHash: hash, Roles: p.Roles}
		if err := s.AddPerson(ctx, &row, 0); err != nil {
			return fmt.Errorf("adding %s: %w", p.Name, err)
		}
		if who[p.Roles], err = d.Access.UserByID(ctx, row.ID); err != nil {
			return err
		}
		if p.Email == "ines@tarn.example" {
			who["ines"] = who[p.Roles]
		}
		if p.Email == "jonas@tarn.example" {
			who["jonas"] = who[p.Roles]
		}
	}
	renew := Document("renew-timing-belt-r3.latch.json")
	l := loader{d, who, past}
	past.back(120)
	if err := l.renew(ctx, renew); err != nil {
		return fmt.Errorf("loading the belt renewal: %w", err)
	}
	loaded := map[string]int64{}
	for i, name := range others {
		past.back(58 - 3*i)
		id, err := l.file(ctx, Document(name))
		if err != nil {
			return fmt.Errorf("loading %s: %w", name, err)
		}
		loaded[name] = id
		if name == onReview {
			err = l.close(ctx, "ines", id, latch.ByAuthor)
		} else {
			err = l.latch(ctx, id)
		}
		if err != nil {
			return fmt.Errorf("closing the latches of %s: %w", name, err)
		}
	}
	past.back(34)
	if err := l.halves(ctx, Halves); err != nil {
		return err
	}
	if err := l.team(ctx, loaded["renew-belt-in-oil-r1.latch.json"], loaded[onReview]); err != nil {
		return fmt.Errorf("loading the team at work: %w", err)
	}
	past.back(1)
	if err := l.field(ctx, third, loaded["renew-chain-two-actuators-r1.latch.json"]); err != nil {
		return fmt.Errorf("loading field notes: %w", err)
	}
	if err := l.sheet(ctx); err != nil {
		return err
	}
	for _, name := range late {
		id, err := l.file(ctx, Document(name))
		if err != nil {
			return fmt.Errorf("loading %s: %w", name, err)
		}
		if err := l.latch(ctx, id); err != nil {
			return fmt.Errorf("closing the latches of %s: %w", name, err)
		}
	}
	if err := l.halves(ctx, Stand); err != nil {
		return err
	}
	return l.calibrations(ctx)
}

// calibrations notes when the torque wrenches were calibrated: one is overdue.
func (l loader) calibrations(ctx context.Context) error {
	if _, err := l.d.Engines.List(ctx, l.who["ines"]); err != nil { // lists keep cards, and tools with them
		return err
	}
	for _, v := range []struct {
		number string
		ago    int
	}{{"TL-140", 5}, {"TL-120", 13}} {
		c := desk.Calibration{Done: store.Now().UTC().AddDate(0, -v.ago, 0).Format(time.DateOnly), Months: 12}
		if err := l.d.Shelves.Calibrate(ctx, l.who["ines"], v.number, c); err != nil {
			return err
		}
	}
	return nil
}

// third is the release of the belt and tensioner that holds: the third revision there
// is in an empty database.
const third = 3

// halves loads pages of one job, which are latched once all of them are there.
func (l loader) halves(ctx context.Context, pages []string) error {
	var ids []int64
	for _, name := range pages {
		id, err := l.file(ctx, Document(name))
		if err != nil {
			return fmt.Errorf("loading %s: %w", name, err)
		}
		ids = append(ids, id)
	}
	for i, id := range ids {
		if err := l.latch(ctx, id); err != nil {
			return fmt.Errorf("closing the latches of %s: %w", pages[i], err)
		}
	}
	return nil
}

// Halves are two pages of one job: the second goes on from the first. Stand are three, of
// an engine that is put together on its stand.
var (
	Halves = []string{"open-timing-drive-r1.latch.json", "close-timing-drive-r1.latch.json"}
	Stand  = []string{"strip-head-r1.latch.json", "lay-in-camshaft-r1.latch.json", "tension-cam-chain-r1.latch.json"}
)

// sheet leaves a draft of an engine sheet with one count of links wrong.
func (l loader) sheet(ctx context.Context) error {
	const code = "TC4-24C"
	if err := l.d.Engines.NewSheetDraft(ctx, l.who["ines"], code, "Letter EL-0722: crank bolt 150 N·m. Links counted again on the bench."); err != nil {
		return err
	}
	_, err := l.d.Engines.SaveSheet(ctx, l.who["ines"], code, desk.SheetBatch{Name: "demo-sheet-" + code, Client: "demo", Base: 1, Edits: []engine.Edit{
		{Path: "fasteners/crank-bolt/spec", Value: []byte(`[{"torque": "150 ±5 N·m"}, {"angle": "90 ±5°"}]`)},
		{Path: "marks/inlet-link/link", Value: []byte("48")},
	}})
	return err
}

// onReview is left with the author's latch closed only, for the editors' desks.
const onReview = "renew-belt-both-banks-r1.latch.json"

// others are the procedures with one revision.
var others = []string{
	"check-valve-timing-r1.latch.json", "renew-belt-in-oil-r1.latch.json", onReview,
	"renew-timing-chain-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-cam-chain-r1.latch.json",
	"renew-belts-at-rest-r1.latch.json", "renew-chain-two-actuators-r1.latch.json",
}

// late are procedures that were released last: engines of other kinds.
var late = []string{"renew-chain-unkeyed-r1.latch.json", "renew-belt-spring-set-r1.latch.json", "set-pump-by-lift-r1.latch.json"}

type loader struct {
	d   *desk.Desk
	who map[string]*desk.User
	// past is the clock a lived demo is loaded by; nil for the clock on the wall.
	past *calendar
}

// renew loads revisions 1 to 3, latched one after another, and 4 as a draft.
func (l loader) renew(ctx context.Context, r3 *latchjson.Document) error {
	// The second said less of the pump and of the pointer, the first less of the taper
	// too.
	second := *r3
	second.Procedure.Steps = append([]step.Step(nil), r3.Procedure.Steps...)
	for i := range second.Procedure.Steps {
		s := &second.Procedure.Steps[i]
		switch a := s.Action.(type) {
		case *step.Inspect:
			n := *a
			n.For = "leaks"
			s.Action = &n
		case *step.Set:
			n := *a
			n.At = unit.Quantity{}
			s.Action = &n
		}
	}
	first := second
	first.Procedure.Steps = append([]step.Step(nil), second.Procedure.Steps...)
	for i := range first.Procedure.Steps {
		if s := &first.Procedure.Steps[i]; s.Warns(engine.HazardTaper) {
			s.Cautions = []step.Caution{{Hazard: engine.HazardTaper, Text: "The sprocket leaves its taper suddenly."}}
		}
	}
	id, err := l.file(ctx, &first)
	if err != nil {
		return err
	}
	if err := l.latch(ctx, id); err != nil {
		return err
	}
	r, err := l.d.Drafts.Revision(ctx, l.who["ines"], id)
	if err != nil {
		return err
	}
	for i, next := range []struct {
		reason string
		doc    *latchjson.Document
	}{
		{"A holder let go too early on the bench, letter EL-0502: the caution at the sprocket bolts says how long it stays on.", &second},
		{"Pump inspection spelled out; pointer by temperature.", r3},
		{"Field note: the wording of the mount bolts was unclear; order of the cover steps looked over.", Document("renew-timing-belt-r4.latch.json")},
	} {
		l.past.back(98 - 17*i)
		id, err = l.d.Drafts.NewDraft(ctx, l.who["ines"], r.Meta.Procedure, next.reason, 0)
		if err != nil {
			return err
		}
		if err := l.replace(ctx, id, next.doc); err != nil {
			return err
		}
		if next.doc == r3 || next.doc == &second {
			if err := l.latch(ctx, id); err != nil {
				return err
			}
		}
	}
	return nil
}

// file reads a document in. A code that is new comes into use first, the way
// every sheet does: by another person.
func (l loader) file(ctx context.Context, doc *latchjson.Document) (int64, error) {
	if _, err := l.d.Engines.View(ctx, l.who["ines"], doc.Engine.Code, 0); err != nil {
		sheet, err := latchjson.Canonical(&doc.Engine)
		if err != nil {
			return 0, err
		}
		if _, err := l.d.Engines.ImportEngine(ctx, l.who["ines"], sheet); err != nil {
			return 0, err
		}
		if err := ReadSheet(ctx, l.d, l.who["technical editor"], doc.Engine.Code); err != nil {
			return 0, fmt.Errorf("reading the sheet: %w", err)
		}
		if _, err := l.d.Engines.ReleaseSheet(ctx, l.who["technical editor"], doc.Engine.Code, 1); err != nil {
			return 0, fmt.Errorf("putting the sheet into use: %w", err)
		}
	}
	b, err := latchjson.Encode(doc)
	if err != nil {
		return 0, err
	}
	return l.d.Drafts.Import(ctx, l.who["ines"], b, desk.Bringing{})
}

// replace makes a draft say what a document says.
func (l loader) replace(ctx context.Context, id int64, doc *latchjson.Document) error {
	r, err := l.d.Drafts.Revision(ctx, l.who["ines"], id)
	if err != nil {
		return err
	}
	edits := []procedure.Edit{{Op: procedure.SetHeader, Header: &doc.Procedure.Header}}
	for i := range r.View.Rows {
		edits = append(edits, procedure.Edit{Op: procedure.Remove, ID: r.View.Rows[i].Step.ID})
	}
	after := step.ID("")
	for i := range doc.Procedure.Steps {
		s := doc.Procedure.Steps[i]
		edits = append(edits, procedure.Edit{Op: procedure.Insert, After: after, Step: &s})
		after = s.ID
	}
	_, err = l.d.Drafts.Save(ctx, l.who["jonas"], id, desk.Batch{Name: fmt.Sprintf("demo-%d-load", id), Client: "demo", Base: r.Meta.Version, Edits: edits})
	return err
}

func (l loader) latch(ctx context.Context, id int64) error {
	r, err := l.d.Drafts.Revision(ctx, l.who["ines"], id)
	if err != nil {
		return err
	}
	closer := map[latch.Latch]string{latch.ByAuthor: "ines", latch.ByTechnical: "technical editor", latch.ByEditorial: "editorial editor", latch.ByBench: "bench technician"}
	for _, m := range r.Meta.Latches {
		l.past.pass(2*time.Hour + 10*time.Minute)
		if err := l.close(ctx, closer[m.Latch], id, m.Latch); err != nil {
			return err
		}
	}
	l.past.pass(40 * time.Minute)
	if r, err = l.d.Drafts.Revision(ctx, l.who["lead"], id); err != nil {
		return err
	}
	_, err = l.d.Review.Release(ctx, l.who["lead"], id, r.Meta.Version)
	return err
}

// ReadSheet marks all that the draft of a code's sheet changes as read by somebody.
func ReadSheet(ctx context.Context, d *desk.Desk, u *desk.User, code string) error {
	r, err := d.Engines.ReviewSheet(ctx, u, code)
	if err != nil {
		return err
	}
	m := desk.SheetMarking{Version: r.Meta.Version}
	for i := range r.Changes {
		m.Things = append(m.Things, r.Changes[i].Thing)
	}
	_, err = d.Engines.MarkSheet(ctx, u, code, m)
	return err
}

// close closes a latch for somebody who has read everything first.
func (l loader) close(ctx context.Context, who string, id int64, at latch.Latch) error {
	version, err := Read(ctx, l.d, l.who[who], id)
	if err != nil {
		return err
	}
	_, err = l.d.Review.CloseLatch(ctx, l.who[who], id, at, version)
	return err
}

// Read marks all of an open revision as read by somebody and gives its version.
func Read(ctx context.Context, d *desk.Desk, u *desk.User, id int64) (version int64, err error) {
	r, err := d.Review.Redline(ctx, u, id, 0)
	if err != nil || r.Reading == nil {
		return 0, err
	}
	m := desk.Marking{Version: r.Meta.Version, Sheet: r.Reading.Sheet}
	for _, v := range r.Reading.Unread {
		m.Steps = append(m.Steps, v.Step)
	}
	_, err = d.Review.MarkRead(ctx, u, id, m)
	return r.Meta.Version, err
}
