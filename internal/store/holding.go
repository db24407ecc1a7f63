package store

import (
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

// holdAnchors holds signed heads against the chain: a record that was cut short
// or written anew does not have them.
func holdAnchors(out *Report, kept, given []Anchor, own []string, hashes map[int64]string) {
	for i, a := range slices.Concat(kept, given) {
		where := "kept in the database"
		if i >= len(kept) {
			where = "kept outside it"
		}
		holdAnchor(out, a, where, own, hashes)
	}
}

// keys are the public keys of this house, the one there is and those before it; none where
// it has none.
func (s *Store) keys() []string {
	if s.conf.Key == nil {
		return nil
	}
	return append([]string{hex.EncodeToString(publicKey(s.conf.Key))}, s.conf.Former...)
}

// holdAnchor holds one anchor against the chain; own are the keys of this house, none where
// they are not known.
func holdAnchor(out *Report, a Anchor, where string, own []string, hashes map[int64]string) {
	out.Anchors++
	h, there := hashes[a.Seq]
	switch {
	case a.Signature != "" && !a.Valid():
		out.say("The anchor of entry %d, %s, has a signature that is not its key's.", a.Seq, where)
	case a.Signature != "" && len(own) > 0 && !slices.Contains(own, a.Key):
		out.say("The anchor of entry %d, %s, was signed with another key than this house's.", a.Seq, where)
	case !there:
		out.say("The record ends before entry %d, which an anchor %s vouches for: its end was cut off.", a.Seq, where)
	case !strings.HasPrefix(h, a.Hash):
		out.say("Entry %d of the record is not the one that an anchor %s vouches for: the record was written anew.", a.Seq, where)
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
		if err := r.holdRevision(out, t, v, want, newest[want.Procedure]); err != nil {
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

func (r Reads) holdRevision(out *Report, t *told, v *Revision, want *toldRevision, newest int) error {
	state := "draft"
	switch {
	case want.Withdrawn:
		state = "withdrawn"
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
		holdFile(out, t, v.ID, frozen)
		if sum(frozen) != v.SHA256 || v.SHA256 != want.SHA256 {
			out.say("Revision %d is not the one that was released: its SHA-256 is %.12s… and was %.12s….", v.ID, sum(frozen), want.SHA256)
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
	for i := range cs {
		c := &cs[i]
		closed[c.Latch] = c.PersonID
		if over := want.Over[c.Latch]; over != "" && sum(c.Content) != over {
			out.say("What the %s latch of revision %d was closed over is not what the record says.", c.Latch, v.ID)
		}
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

// holdFile holds the anchor that stands in a released file against the chain.
func holdFile(out *Report, t *told, revision int64, frozen string) {
	var file struct {
		Anchor string `json:"anchor"`
	}
	if json.Unmarshal([]byte(frozen), &file) != nil || file.Anchor == "" {
		return // one of before there were anchors in files
	}
	a, err := ParseAnchor(file.Anchor)
	if err != nil {
		out.say("The anchor in the file of revision %d is none: %v.", revision, err)
		return
	}
	if a.Seq < t.second {
		return // of before the record could be held against everything
	}
	holdAnchor(out, a, fmt.Sprintf("in the file of revision %d", revision), t.own, t.hashes)
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
