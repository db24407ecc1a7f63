package desk

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// SheetReview is what a draft of an engine sheet changes, what its reader has read of
// that, and what was said of it.
type SheetReview struct {
	Meta *SheetMeta `json:"meta"`
	// Against is the sheet in use, 0 for the first of a code.
	Against int `json:"against,omitzero"`
	// Changes are the things that are not as they were; of a first sheet its lists, each
	// as one.
	Changes []ReviewedThing `json:"changes"`
	Touches []Touch         `json:"touches"`
	Remarks []Remark        `json:"remarks"`
	// AskedBy wants it looked at, since AskedAt.
	AskedBy string     `json:"askedBy,omitzero"`
	AskedAt *time.Time `json:"askedAt,omitempty"`
	// What the person who looks may do with it.
	MayAsk    bool `json:"mayAsk,omitzero"`
	MayReturn bool `json:"mayReturn,omitzero"`
}

// ReviewedThing is one thing that changes, and whether it has been read as it stands.
type ReviewedThing struct {
	redline.SheetChange
	Unread bool `json:"unread,omitzero"`
}

// sheetChange is what a draft changes, by thing.
type sheetChange struct {
	sheet   *store.Sheet
	against int
	things  []redline.SheetChange
}

// sheetChange works out what a draft of a sheet changes against the one in use; of a
// first sheet each of its lists is one thing.
func (d *Engines) sheetChange(r store.Reads, v *store.Sheet, k *known) (*sheetChange, error) {
	out := &sheetChange{sheet: v}
	head, err := r.InUse(v.Code)
	if errors.Is(err, store.ErrNotFound) {
		empty := engine.NewIndex(&engine.Sheet{})
		for _, c := range redline.Sheets(empty, k.index) {
			list, _, thing := strings.Cut(c.Thing, "/")
			if !thing {
				list = "engine"
			}
			at := slices.IndexFunc(out.things, func(o redline.SheetChange) bool { return o.Thing == list })
			if at < 0 {
				at = len(out.things)
				out.things = append(out.things, redline.SheetChange{Thing: list, Name: list, Kind: redline.New, Parts: []redline.Part{}})
			}
			for _, p := range c.Parts {
				if p.What = strings.TrimSpace(c.Name + " " + p.What); !thing {
					p.What = c.Name
				}
				out.things[at].Parts = append(out.things[at].Parts, p)
			}
		}
		return out, nil
	}
	if err != nil {
		return nil, err
	}
	was, err := d.knowSheet(r, head)
	if err != nil {
		return nil, err
	}
	out.against, out.things = head.Number, redline.Sheets(was.index, k.index)
	return out, nil
}

// lines say what a draft changes, a line each; nothing of a first sheet.
func (c *sheetChange) lines() []string {
	out := []string{}
	for i := range c.things {
		if c.against > 0 {
			out = append(out, c.things[i].Line())
		}
	}
	return out
}

// sumOf is the SHA-256 of one change, by which what was read is known again.
func sumOf(c *redline.SheetChange) string { return latchjson.Sum([]byte(text(c))) }

// readBy are the sums of the things a person has read, by thing.
func (c *sheetChange) readBy(r store.Reads, u *User) (map[string]string, error) {
	raw, err := r.SheetReadBy(c.sheet.ID, u.ID)
	out := map[string]string{}
	if err != nil || raw == "" {
		return out, err
	}
	return out, json.Unmarshal([]byte(raw), &out)
}

// left counts what a person has still to read of a draft, and what is open of it.
func (c *sheetChange) left(r store.Reads, u *User) (unread, asked int, err error) {
	read, err := c.readBy(r, u)
	if err != nil {
		return 0, 0, err
	}
	for i := range c.things {
		if read[c.things[i].Thing] != sumOf(&c.things[i]) {
			unread++
		}
	}
	t, err := sheetTalk(r, c.sheet.ID)
	return unread, t.asked() + t.demands(), err
}

// ReviewSheet lays out what the draft of a code's sheet changes, for somebody who works
// on pages.
func (d *Engines) ReviewSheet(ctx context.Context, u *User, code string) (*SheetReview, error) {
	if isReader(u) {
		return nil, forbidden("Drafts are for those who work on them.")
	}
	r := d.store.Reads(ctx)
	v, all, k, err := d.draftOf(r, code)
	if err != nil {
		return nil, err
	}
	view, err := d.viewSheet(r, u, v, all, k)
	if err != nil {
		return nil, err
	}
	c, err := d.sheetChange(r, v, k)
	if err != nil {
		return nil, err
	}
	read, err := c.readBy(r, u)
	if err != nil {
		return nil, err
	}
	out := &SheetReview{Meta: view.Meta, Against: c.against, Changes: []ReviewedThing{}, Remarks: []Remark{}}
	for i := range c.things {
		out.Changes = append(out.Changes, ReviewedThing{c.things[i], read[c.things[i].Thing] != sumOf(&c.things[i])})
	}
	if _, out.Touches, err = d.Touches(ctx, u, code); err != nil {
		return nil, err
	}
	if out.Remarks, err = d.sheetRemarks(r, u, v, k); err != nil {
		return nil, err
	}
	worked, err := r.WorkedOnSheet(v.ID, u.ID)
	if err != nil {
		return nil, err
	}
	if v.AskedBy != nil {
		if out.AskedBy, err = r.NameOf(*v.AskedBy); err != nil {
			return nil, err
		}
		out.AskedAt = v.AskedAt
	}
	out.MayAsk = u.Writes() && v.AskedBy == nil && len(c.things) > 0
	out.MayReturn = latch.MayEverPutIntoUse(u.Roles) == nil && !worked
	return out, nil
}

// sheetTalk is what was said of a draft of a sheet.
func sheetTalk(r store.Reads, sheet int64) (talk, error) {
	return talked(
		func() ([]store.Remark, error) { return r.SheetRemarks(sheet) },
		func() ([]store.Reply, error) { return r.SheetReplies(sheet) },
		func() ([]int64, error) { return r.SheetWorkers(sheet) })
}

// sheetRemarks lays out what was said of a draft of a sheet.
func (d *Engines) sheetRemarks(r store.Reads, u *User, v *store.Sheet, k *known) ([]Remark, error) {
	t, err := sheetTalk(r, v.ID)
	if err != nil {
		return nil, err
	}
	o := &opened{&store.Revision{State: string(latch.OnReview)}, &procedure.Procedure{}, k}
	return t.lay(r, u, o)
}

// SheetMarking is what somebody has read of a draft of a sheet, at the version they saw.
type SheetMarking struct {
	Version int64    `json:"version"`
	Things  []string `json:"things"`
	Unread  bool     `json:"unread,omitzero"`
}

// MarkSheet notes what somebody has read of a draft of a sheet. Where the draft has
// moved on since the version they saw, nothing is noted.
func (d *Engines) MarkSheet(ctx context.Context, u *User, code string, m SheetMarking) (*SheetReview, error) {
	if isReader(u) {
		return nil, forbidden("Drafts are for those who work on them.")
	}
	err := d.writeSheet(ctx, code, func(w *store.SheetDraft, _ *engine.Sheet) error {
		k, err := d.knowSheet(w.Reads, w.Sheet)
		if err != nil {
			return err
		}
		if m.Version != w.Sheet.Version {
			return d.sheetMovedOn(w, k, m.Version)
		}
		c, err := d.sheetChange(w.Reads, w.Sheet, k)
		if err != nil {
			return err
		}
		read, err := c.readBy(w.Reads, u)
		if err != nil {
			return err
		}
		for i := range c.things {
			switch t := c.things[i].Thing; {
			case !slices.Contains(m.Things, t):
			case m.Unread:
				delete(read, t)
			default:
				read[t] = sumOf(&c.things[i])
			}
		}
		return w.ReadNow(u.ID, text(read))
	})
	if err != nil {
		return nil, err
	}
	return d.ReviewSheet(ctx, u, code)
}

// SaySheet says something of a draft of a sheet: of all of it, or of a thing.
func (d *Engines) SaySheet(ctx context.Context, u *User, code string, s Said) error {
	if err := mayTalk(u); err != nil {
		return err
	}
	s.Body = strings.TrimSpace(s.Body)
	if s.Kind == Suggestion {
		return &Problem{Status: 422, Title: "A line is suggested of a page. Of a sheet, say what it should be.", Field: "kind"}
	}
	if err := s.check(); err != nil {
		return err
	}
	return d.writeSheet(ctx, code, func(w *store.SheetDraft, sheet *engine.Sheet) error {
		m := &store.Remark{Kind: s.Kind, Place: "page", Body: s.Body, PersonID: u.ID}
		if s.Part != "" {
			m.Place, m.Part = "thing", s.Part
			list, id, thing := strings.Cut(s.Part, "/")
			if m.Said = list; thing {
				m.Said = engine.NewIndex(sheet).NameOf(list, id)
			}
			if m.Said == "" {
				return &Problem{Status: 422, Title: "There is no such thing on the sheet.", Field: "part"}
			}
		}
		named, err := mentioned(w.Reads, s.Body)
		if err != nil {
			return err
		}
		return w.Say(m, named)
	})
}

// AskSheet asks those who put sheets into use to look at a draft.
func (d *Engines) AskSheet(ctx context.Context, u *User, code string) error {
	if err := MayWrite(u); err != nil {
		return err
	}
	return d.writeSheet(ctx, code, func(w *store.SheetDraft, _ *engine.Sheet) error {
		if w.Sheet.AskedBy != nil {
			return problem(409, "Somebody has asked for it to be looked at already.")
		}
		k, err := d.knowSheet(w.Reads, w.Sheet)
		if err != nil {
			return err
		}
		c, err := d.sheetChange(w.Reads, w.Sheet, k)
		if err != nil {
			return err
		}
		if len(c.things) == 0 {
			return problem(409, "The draft says what the sheet in use says: there is nothing to look at yet.")
		}
		return w.Ask(u.ID, u.ID, "ask for sheet", map[string]any{})
	})
}

// ReturnSheet sends a draft of a sheet back with what is to be mended: each point
// becomes one that must be changed, beside those that are open.
func (d *Engines) ReturnSheet(ctx context.Context, u *User, code string, points []string) error {
	if err := latch.MayEverPutIntoUse(u.Roles); err != nil {
		return forbidden(fullStop(err.Error()))
	}
	points = slices.DeleteFunc(slices.Clone(points), func(p string) bool { return strings.TrimSpace(p) == "" })
	if len(points) > mostPoints {
		return problem(422, "A return names at most %d points.", mostPoints)
	}
	return d.writeSheet(ctx, code, func(w *store.SheetDraft, _ *engine.Sheet) error {
		t, err := sheetTalk(w.Reads, w.Sheet.ID)
		if err != nil {
			return err
		}
		open := t.demands()
		if len(points)+open == 0 {
			return &Problem{Status: 422, Title: "Say what is to be mended: a return without a point leaves its author guessing.", Field: "points"}
		}
		for _, p := range points {
			if err := holdText(p, "points", mostSaid); err != nil {
				return err
			}
			named, err := mentioned(w.Reads, p)
			if err != nil {
				return err
			}
			if err := w.Say(&store.Remark{Kind: MustChange, Place: "page", Body: strings.TrimSpace(p), PersonID: u.ID}, named); err != nil {
				return err
			}
		}
		return w.Ask(u.ID, 0, "return sheet", map[string]any{"points": open + len(points)})
	})
}

// answerSheet answers a remark on a draft of a sheet.
func (d *Engines) answerSheet(ctx context.Context, u *User, m *store.Remark, a Answered) error {
	v, err := d.store.Reads(ctx).SheetByID(m.SheetID)
	if err != nil {
		return missing(err, "engine sheet")
	}
	return d.writeSheet(ctx, v.Code, func(w *store.SheetDraft, _ *engine.Sheet) error {
		if w.Sheet.ID != m.SheetID {
			return problem(409, "That sheet is in use by now: its review is over.")
		}
		if m, err = w.RemarkByID(m.ID); err != nil { // as it is, now that nobody else writes
			return err
		}
		if a.Act == "take" || a.Act == "decline" {
			return &Problem{Status: 422, Title: "Only a suggestion is taken.", Field: "act"}
		}
		authors, err := w.SheetWorkers(m.SheetID)
		if err != nil {
			return err
		}
		state, err := d.rooms.Review.act(nil, u, nil, m, a, authors, nil)
		if err != nil {
			return err
		}
		return w.Reply(m, &store.Reply{Act: a.Act, Body: a.Body, PersonID: u.ID}, state)
	})
}
