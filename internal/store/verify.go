package store

import (
	"context"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

// Report is what holding the record against everything else came to.
type Report struct {
	Entries, Latched, Drafts, Sheets, People, Anchors int
	// Troubles are sentences, empty when everything is as it was written.
	Troubles []string
}

func (r *Report) say(format string, args ...any) {
	r.Troubles = append(r.Troubles, fmt.Sprintf(format, args...))
}

// told is what the record says there must be.
type told struct {
	revisions map[int64]*toldRevision
	sheets    map[int64]*toldSheet
	people    map[int64]*toldPerson
}

type toldRevision struct {
	ID        int64            `json:"id"`
	Number    int              `json:"number"`
	Procedure int64            `json:"procedure"`
	Engine    string           `json:"engine"`
	Version   int64            `json:"version"`
	Digest    string           `json:"digest"`
	SHA256    string           `json:"sha256"`
	Deleted   bool             `json:"deleted"`
	Closed    map[string]int64 `json:"closed"`
}

type toldSheet struct {
	ID     int64  `json:"id"`
	Code   string `json:"code"`
	Number int    `json:"number"`
	Digest string `json:"digest"`
	SHA256 string `json:"sha256"`
}

type toldPerson struct {
	ID       int64  `json:"id"`
	Email    string `json:"email"`
	Name     string `json:"name"`
	Roles    string `json:"roles"`
	Locked   bool   `json:"locked"`
	Password string `json:"password"`
}

// everything is the payload of an entry that takes up what was there before the
// record could tell all of it.
type everything struct {
	Revisions []toldRevision `json:"revisions"`
	Sheets    []toldSheet    `json:"sheets"`
	People    []toldPerson   `json:"people"`
}

// payload is what the entries of a revision, a sheet or a person say.
type payload struct {
	Number    int      `json:"number"`
	Procedure int64    `json:"procedure"`
	Engine    string   `json:"engine"`
	Version   int64    `json:"version"`
	Digest    string   `json:"digest"`
	SHA256    string   `json:"sha256"`
	Code      string   `json:"code"`
	Latch     string   `json:"latch"`
	Reopened  []string `json:"reopened"`
}

// Verify holds the record's chain together, the record against revisions,
// latches, sheets and people and those against the record, and both against
// anchors: those kept in the database and those handed in, which may be the
// short printed form.
func (s *Store) Verify(ctx context.Context, anchors []Anchor) (*Report, error) {
	out := &Report{}
	r := s.Reads(ctx)
	hashes, t, err := s.walk(ctx, out)
	if err != nil {
		return nil, err
	}
	kept, err := many[Anchor](r.db, "seq", "true")
	if err != nil {
		return nil, err
	}
	s.holdAnchors(out, kept, anchors, hashes)
	for _, hold := range []func(*Report, *told) error{r.holdRevisions, r.holdSheets, r.holdPeople} {
		if err := hold(out, t); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// walk checks every hash of the chain and gathers what the entries tell.
func (s *Store) walk(ctx context.Context, out *Report) (map[int64]string, *told, error) {
	t := &told{map[int64]*toldRevision{}, map[int64]*toldSheet{}, map[int64]*toldPerson{}}
	hashes := map[int64]string{}
	rows, err := s.db.WithContext(ctx).Model(&Entry{}).Order("seq").Rows()
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	prev, form := "", firstForm
	for rows.Next() {
		var e Entry
		if err := s.db.ScanRows(rows, &e); err != nil {
			return nil, nil, err
		}
		out.Entries++
		switch {
		case e.Seq != int64(out.Entries):
			out.say("Entry %d of the record stands where entry %d should: one was taken out.", e.Seq, out.Entries)
			out.Entries = int(e.Seq)
		case e.Prev != prev:
			out.say("Entry %d of the record does not follow the one before it.", e.Seq)
		case e.Hash != e.chain():
			out.say("Entry %d of the record was changed after it was written.", e.Seq)
		case e.Form < form || e.Form > sheetsForm:
			out.say("Entry %d of the record is of a form that was no longer written then.", e.Seq)
		case e.What == "adopt" && form != firstForm:
			out.say("Entry %d of the record takes up what was there before, where nothing was.", e.Seq)
		}
		if e.What != "adopt" || form == firstForm {
			t.hear(out, &e)
		}
		prev, form = e.Hash, max(form, e.Form)
		hashes[e.Seq] = e.Hash
	}
	return hashes, t, rows.Err()
}

// hear takes in what one entry tells.
func (t *told) hear(out *Report, e *Entry) {
	if e.Form == firstForm {
		return // an entry "adopt" takes all of that up
	}
	var p payload
	if err := json.Unmarshal([]byte(e.Payload), &p); err != nil {
		out.say("Entry %d of the record cannot be read.", e.Seq)
		return
	}
	switch {
	case e.What == "adopt":
		t.takeUp(out, e)
	case e.SheetID != 0:
		t.hearSheet(e, &p)
	case e.RevisionID != 0:
		t.hearRevision(out, e, &p)
	case strings.HasSuffix(e.What, " link"), e.What == "end session":
	default:
		var who toldPerson
		if json.Unmarshal([]byte(e.Payload), &who) == nil && who.ID != 0 {
			t.people[who.ID] = &who
		}
	}
}

func (t *told) takeUp(out *Report, e *Entry) {
	var all everything
	if err := json.Unmarshal([]byte(e.Payload), &all); err != nil {
		out.say("Entry %d of the record cannot be read.", e.Seq)
	}
	for i := range all.Revisions {
		v := all.Revisions[i]
		if v.Closed == nil {
			v.Closed = map[string]int64{}
		}
		t.revisions[v.ID] = &v
	}
	for i := range all.Sheets {
		t.sheets[all.Sheets[i].ID] = &all.Sheets[i]
	}
	for i := range all.People {
		t.people[all.People[i].ID] = &all.People[i]
	}
}

func (t *told) hearSheet(e *Entry, p *payload) {
	v := t.sheets[e.SheetID]
	if v == nil {
		v = &toldSheet{ID: e.SheetID, Code: p.Code, Number: p.Number}
		t.sheets[e.SheetID] = v
	}
	if p.Digest != "" {
		v.Digest = p.Digest
	}
	if e.What == "put sheet into use" {
		v.SHA256 = p.SHA256
	}
}

func (t *told) hearRevision(out *Report, e *Entry, p *payload) {
	v := t.revisions[e.RevisionID]
	if v == nil {
		v = &toldRevision{ID: e.RevisionID, Number: p.Number, Procedure: p.Procedure, Engine: p.Engine, Closed: map[string]int64{}}
		t.revisions[e.RevisionID] = v
	}
	if v.SHA256 != "" {
		out.say("Entry %d of the record writes in revision %d after it was latched.", e.Seq, e.RevisionID)
	}
	if p.Digest != "" {
		v.Digest = p.Digest
	}
	if p.Version != 0 {
		v.Version = p.Version
	}
	for _, l := range p.Reopened {
		delete(v.Closed, l)
	}
	switch {
	case e.What == "latch":
		v.SHA256 = p.SHA256
	case e.What == "delete draft":
		v.Deleted = true
	case e.What == "bring draft back":
		v.Deleted = false
	case p.Latch != "":
		v.Closed[p.Latch] = e.PersonID
	}
}

// holdAnchors holds signed heads against the chain: a record that was cut short
// or written anew does not have them.
func (s *Store) holdAnchors(out *Report, kept, given []Anchor, hashes map[int64]string) {
	own := ""
	if s.conf.Key != nil {
		own = hex.EncodeToString(publicKey(s.conf.Key))
	}
	for i, a := range slices.Concat(kept, given) {
		out.Anchors++
		where := "kept in the database"
		if i >= len(kept) {
			where = "kept outside it"
		}
		h, there := hashes[a.Seq]
		switch {
		case a.Signature != "" && !a.Valid():
			out.say("The anchor of entry %d, %s, has a signature that is not its key's.", a.Seq, where)
		case a.Signature != "" && own != "" && a.Key != own:
			out.say("The anchor of entry %d, %s, was signed with another key than this program's.", a.Seq, where)
		case !there:
			out.say("The record ends before entry %d, which an anchor %s vouches for: its end was cut off.", a.Seq, where)
		case !strings.HasPrefix(h, a.Hash):
			out.say("Entry %d of the record is not the one that an anchor %s vouches for: the record was written anew.", a.Seq, where)
		}
	}
}

func (r Reads) holdRevisions(out *Report, t *told) error {
	revs, err := many[Revision](r.db, "procedure_id, number", "true")
	if err != nil {
		return err
	}
	ps, err := many[Procedure](r.db, "id", "true")
	if err != nil {
		return err
	}
	engines := make(map[int64]string, len(ps))
	for _, p := range ps {
		engines[p.ID] = p.Engine
	}
	newest := map[int64]int{} // of each procedure, the highest number ever latched
	for _, v := range t.revisions {
		if v.SHA256 != "" {
			newest[v.Procedure] = max(newest[v.Procedure], v.Number)
		}
	}
	seen := map[int64]bool{}
	for i := range revs {
		v := &revs[i]
		seen[v.ID] = true
		want := t.revisions[v.ID]
		if want == nil {
			out.say("Revision %d is not in the record.", v.ID)
			continue
		}
		if v.Number != want.Number || v.ProcedureID != want.Procedure || engines[v.ProcedureID] != want.Engine {
			out.say("Revision %d was started as number %d of procedure %d on %s and is number %d of procedure %d on %s now.",
				v.ID, want.Number, want.Procedure, want.Engine, v.Number, v.ProcedureID, engines[v.ProcedureID])
		}
		if err := r.holdRevision(out, v, want, newest[want.Procedure]); err != nil {
			return err
		}
	}
	for id := range t.revisions {
		if !seen[id] {
			out.say("Revision %d is in the record and nowhere else.", id)
		}
	}
	return nil
}

func (r Reads) holdRevision(out *Report, v *Revision, want *toldRevision, newest int) error {
	state := "draft"
	switch {
	case want.SHA256 != "" && want.Number < newest:
		state = "superseded"
	case want.SHA256 != "":
		state = "latched"
	case want.Deleted:
		state = "deleted"
	}
	if v.State != state && !(state == "draft" && v.State == "on review") {
		out.say("Revision %d is %s; by the record it is %s.", v.ID, v.State, state)
	}
	frozen, err := r.Frozen(v.ID)
	if err != nil {
		return err
	}
	if want.SHA256 != "" || frozen != "" {
		out.Latched++
		if sum(frozen) != v.SHA256 || v.SHA256 != want.SHA256 {
			out.say("Revision %d is not the one that was latched: its SHA-256 is %.12s… and was %.12s….", v.ID, sum(frozen), want.SHA256)
		}
	}
	steps, err := r.StepsOf(v.ID)
	if err != nil {
		return err
	}
	if want.Digest != "" {
		out.Drafts++
		if digest(v.Header, steps) != want.Digest || want.SHA256 == "" && v.Version != want.Version {
			out.say("Steps or header of revision %d were changed without a line in the record.", v.ID)
		}
	}
	cs, err := r.ClosingsOf(v.ID)
	if err != nil {
		return err
	}
	closed := map[string]int64{}
	for _, c := range cs {
		closed[c.Latch] = c.PersonID
	}
	for l, who := range want.Closed {
		if closed[l] != who {
			out.say("The %s latch of revision %d is not closed by whom the record says.", l, v.ID)
		}
	}
	for l := range closed {
		if _, ok := want.Closed[l]; !ok {
			out.say("The %s latch of revision %d was closed without a line in the record.", l, v.ID)
		}
	}
	return nil
}

func (r Reads) holdSheets(out *Report, t *told) error {
	all, err := many[Sheet](r.db, "code, number", "true")
	if err != nil {
		return err
	}
	newest := map[string]int{}
	for _, w := range t.sheets {
		if w.SHA256 != "" {
			newest[w.Code] = max(newest[w.Code], w.Number)
		}
	}
	seen := map[int64]bool{}
	for i := range all {
		v := &all[i]
		out.Sheets++
		seen[v.ID] = true
		want := t.sheets[v.ID]
		if want == nil {
			out.say("Sheet %d of %s is not in the record.", v.Number, v.Code)
			continue
		}
		if v.Code != want.Code || v.Number != want.Number {
			out.say("Sheet %d of %s was started as sheet %d of %s.", v.Number, v.Code, want.Number, want.Code)
		}
		state := "draft"
		switch {
		case want.SHA256 != "" && want.Number < newest[want.Code]:
			state = "superseded"
		case want.SHA256 != "":
			state = "in use"
		}
		if v.State != state {
			out.say("Sheet %d of %s is %s; by the record it is %s.", v.Number, v.Code, v.State, state)
		}
		if want.Digest != "" && sum(v.Sheet) != want.Digest {
			out.say("Sheet %d of %s was changed without a line in the record.", v.Number, v.Code)
		}
		if want.SHA256 != "" && (v.SHA256 != "" && v.SHA256 != want.SHA256 || sum(v.Sheet) != want.SHA256) {
			out.say("Sheet %d of %s is not the one that was put into use.", v.Number, v.Code)
		}
	}
	for _, w := range t.sheets {
		if !seen[w.ID] {
			out.say("Sheet %d of %s is in the record and nowhere else.", w.Number, w.Code)
		}
	}
	return nil
}

func (r Reads) holdPeople(out *Report, t *told) error {
	all, err := r.People()
	if err != nil {
		return err
	}
	seen := map[int64]bool{}
	for i := range all {
		p := &all[i]
		out.People++
		seen[p.ID] = true
		want := t.people[p.ID]
		switch {
		case want == nil:
			out.say("%s was added without a line in the record.", p.Name)
		case p.Email != want.Email || p.Name != want.Name:
			out.say("%s was renamed without a line in the record.", p.Name)
		case p.Roles != want.Roles:
			out.say("The roles of %s are not those of the record: %q and %q.", p.Name, p.Roles, want.Roles)
		case p.Locked != want.Locked:
			out.say("%s was locked or let in without a line in the record.", p.Name)
		case sum(p.PasswordHash) != want.Password:
			out.say("The password of %s was changed without a line in the record.", p.Name)
		}
	}
	for id, w := range t.people {
		if !seen[id] {
			out.say("%s is in the record and nowhere else.", w.Name)
		}
	}
	return nil
}

// adopt takes what an older program wrote up into the record, once, so that it
// can be held against it from then on.
func (s *Store) adopt(ctx context.Context) error {
	return s.in(ctx, func(t *tx) error {
		if err := t.lockRecord(); err != nil {
			return err
		}
		var old, done int
		if err := t.db.Raw("SELECT count(*) FROM record WHERE form = 1").Scan(&old).Error; err != nil || old == 0 {
			return err
		}
		if err := t.db.Raw("SELECT count(*) FROM record WHERE what = 'adopt'").Scan(&done).Error; err != nil || done > 0 {
			return err
		}
		all, err := t.gather()
		if err != nil {
			return err
		}
		return t.append(line{what: "adopt", payload: map[string]any{"revisions": all.Revisions, "sheets": all.Sheets, "people": all.People}, anchor: true})
	})
}

func (r Reads) gather() (*everything, error) {
	all := &everything{}
	revs, err := many[Revision](r.db, "id", "true")
	if err != nil {
		return nil, err
	}
	for i := range revs {
		v := &revs[i]
		code, err := r.EngineOf(v.ID)
		if err != nil {
			return nil, err
		}
		steps, err := r.StepsOf(v.ID)
		if err != nil {
			return nil, err
		}
		cs, err := r.ClosingsOf(v.ID)
		if err != nil {
			return nil, err
		}
		closed := map[string]int64{}
		for _, c := range cs {
			closed[c.Latch] = c.PersonID
		}
		all.Revisions = append(all.Revisions, toldRevision{v.ID, v.Number, v.ProcedureID, code, v.Version, digest(v.Header, steps), v.SHA256, false, closed})
	}
	sheets, err := many[Sheet](r.db, "id", "true")
	if err != nil {
		return nil, err
	}
	for _, v := range sheets {
		sha := v.SHA256
		if v.State != "draft" {
			sha = sum(v.Sheet)
		}
		all.Sheets = append(all.Sheets, toldSheet{v.ID, v.Code, v.Number, sum(v.Sheet), sha})
	}
	people, err := r.People()
	if err != nil {
		return nil, err
	}
	for _, p := range people {
		all.People = append(all.People, toldPerson{p.ID, p.Email, p.Name, p.Roles, p.Locked, sum(p.PasswordHash)})
	}
	return all, nil
}
