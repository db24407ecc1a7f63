// Package readstate knows what somebody has read of a procedure: each step as they
// read it, in the order they read it in. What has changed since is unread again
// for those whose latch the change weighs on, and nothing else is.
package readstate

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/document"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
)

// Head is the id of what stands above the steps, where one reads by id.
const Head step.ID = ""

// Page is a procedure as one person has read it. The zero value is one of which
// nothing has been read.
type Page struct {
	// Header is nil while it has not been read.
	Header *procedure.Header `json:"header,omitempty"`
	Steps  []Step            `json:"steps"`
	// Gone are steps that were read as taken out.
	Gone []step.ID `json:"gone,omitempty"`
	// Marks say of each thing how it came to count as read, and when.
	Marks map[step.ID]Mark `json:"marks,omitempty"`
}

// How something came to count as read.
type How string

// The ways: its reader said so, it stood in view for as long as it asks, or its reader
// wrote it.
const (
	Said  How = "said"
	Stood How = "stood"
	Wrote How = "wrote"
)

// Mark is how and when one thing came to count as read.
type Mark struct {
	How How       `json:"how"`
	At  time.Time `json:"at"`
}

// Last is when anything of the page last came to count as read; zero for never.
func (p *Page) Last() time.Time {
	var last time.Time
	for _, m := range p.Marks {
		if m.At.After(last) {
			last = m.At
		}
	}
	return last
}

// Step is one step as it was read. Said is the SHA-256, in hex, of what the engine
// sheet made of it then: a value that only the sheet says is read with the step.
type Step struct {
	Step step.Step `json:"step"`
	Said string    `json:"said"`

	// text is the step as it was kept, empty where it was not read from there.
	text string
}

// State is a procedure as it stands now, and the steps of the release before it
// that it has no more.
type State struct {
	Index     *engine.Index
	Procedure *procedure.Procedure
	Gone      []step.ID
	// Memo remembers what the sheet makes of steps; nil where it is worked out each time.
	Memo *Memo
}

// Why says in which way something is unread.
type Why string

// The ways.
const (
	Never Why = "never"
	Again Why = "again"
	Gone  Why = "gone"
)

// Unread is one thing that has not been read as it stands: a step, or Head.
type Unread struct {
	Step    step.ID        `json:"step"`
	Why     Why            `json:"why"`
	Changes []latch.Change `json:"changes"`
}

// For reports whether the reader of a latch has it still to read.
func (u *Unread) For(l latch.Latch) bool {
	return slices.ContainsFunc(u.Changes, func(c latch.Change) bool { return slices.Contains(latch.Opens(c.Weight), l) })
}

// Decode reads a page that Encode wrote and what Patch wrote after it, a line each; an
// empty text is a page of which nothing has been read.
func Decode(text string) (*Page, error) {
	p := &Page{}
	if text == "" {
		return p, nil
	}
	page, more, _ := strings.Cut(text, "\n")
	if err := json.Unmarshal([]byte(page), p); err != nil {
		return nil, fmt.Errorf("reading what somebody has read: %w", err)
	}
	for line := range strings.Lines(more) {
		var c patch
		if err := json.Unmarshal([]byte(line), &c); err != nil {
			return nil, fmt.Errorf("reading what somebody has read since: %w", err)
		}
		c.on(p)
	}
	return p, nil
}

// Clone is a page that can be changed while the other stays as it is.
func (p *Page) Clone() *Page {
	return &Page{Header: p.Header, Steps: slices.Clone(p.Steps), Gone: slices.Clone(p.Gone), Marks: maps.Clone(p.Marks)}
}

// With is a page with one more line of what was read since: Decode of all the lines is
// the same. The page itself stays as it is.
func (p *Page) With(line string) (*Page, error) {
	var c patch
	if err := json.Unmarshal([]byte(line), &c); err != nil {
		return nil, fmt.Errorf("reading what somebody has read since: %w", err)
	}
	n := p.Clone()
	c.on(n)
	return n, nil
}

// patch is what has come to count as read of a page, or to count no more, since it was
// written whole: things as they stand now, in the order of the page.
type patch struct {
	Header *procedure.Header `json:"header,omitempty"`
	Things []patched         `json:"things"`
}

// patched is one thing: a step behind another, or one that is no longer read, or read as
// taken out.
type patched struct {
	ID    step.ID `json:"id"`
	After step.ID `json:"after,omitzero"`
	Step  *Step   `json:"step,omitempty"`
	Gone  bool    `json:"gone,omitzero"`
	Mark  *Mark   `json:"mark,omitempty"`
}

// Patch is what has become of some things since the page was last written, as one line:
// Decode of the page as it was and of this is the page as it is.
func (p *Page) Patch(ids ...step.ID) string {
	c := patch{Things: []patched{}}
	at := map[step.ID]int{}
	for i := range p.Steps {
		at[p.Steps[i].Step.ID] = i
	}
	ids = slices.Compact(slices.SortedFunc(slices.Values(ids), func(a, b step.ID) int {
		x, y := len(at), len(at)
		if i, ok := at[a]; ok {
			x = i
		}
		if i, ok := at[b]; ok {
			y = i
		}
		return cmp.Or(cmp.Compare(x, y), cmp.Compare(a, b))
	}))
	for _, id := range ids {
		t := patched{ID: id}
		if m, ok := p.Marks[id]; ok {
			t.Mark = &m
		}
		if id == Head {
			c.Header = p.Header
		} else if i, ok := at[id]; ok {
			if t.Step = &p.Steps[i]; i > 0 {
				t.After = p.Steps[i-1].Step.ID
			}
		} else {
			t.Gone = slices.Contains(p.Gone, id)
		}
		c.Things = append(c.Things, t)
	}
	return textOf(c)
}

// on makes a patch on a page.
func (c *patch) on(p *Page) {
	for i := range c.Things {
		t := &c.Things[i]
		if t.ID == Head {
			p.Header = c.Header
		} else {
			p.drop(t.ID)
			p.Gone = slices.DeleteFunc(p.Gone, func(g step.ID) bool { return g == t.ID })
		}
	}
	for i := range c.Things {
		t := &c.Things[i]
		switch {
		case t.Step != nil:
			to := 0
			if t.After != "" {
				to = 1 + slices.IndexFunc(p.Steps, func(s Step) bool { return s.Step.ID == t.After })
			}
			p.Steps = slices.Insert(p.Steps, to, *t.Step)
		case t.Gone:
			p.Gone = append(p.Gone, t.ID)
		}
		if t.Mark == nil {
			delete(p.Marks, t.ID)
			continue
		}
		if p.Marks == nil {
			p.Marks = map[step.ID]Mark{}
		}
		p.Marks[t.ID] = *t.Mark
	}
}

// Encode writes the page as JSON.
func (p *Page) Encode() string {
	b, err := json.Marshal(p)
	if err != nil {
		panic(err) // only what was decoded before is written
	}
	return string(b)
}

// Unread lists what has not been read as it stands, the header first, then by the
// order of the page, then what is gone.
func (p *Page) Unread(now State) []Unread {
	by, order := map[step.ID]*Unread{}, []step.ID{}
	add := func(id step.ID, why Why, c latch.Change) {
		u := by[id]
		if u == nil {
			u = &Unread{Step: id, Why: why}
			by[id] = u
			order = append(order, id)
		}
		u.Changes = append(u.Changes, c)
	}
	if p.Header == nil {
		add(Head, Never, latch.Change{Kind: latch.Headed, Weight: latch.Value, What: "title and preparation"})
	}
	was := p.procedure(&now.Procedure.Header)
	read := p.bySteps()
	// Decoded once more, a step may differ from itself in nothing that is written: where
	// the text is the same, it is the step there is.
	saids := make([]string, len(now.Procedure.Steps))
	for i := range now.Procedure.Steps {
		s := &now.Procedure.Steps[i]
		r := read[s.ID]
		if r == nil {
			continue
		}
		var text string
		if text, saids[i] = now.Memo.of(now.Index, s); text == r.text || r.text == "" && text == textOf(&r.Step.Step) {
			was.Steps[r.at] = *s
		}
	}
	for _, c := range latch.Changes(was, now.Procedure) {
		switch c.Kind {
		case latch.Added:
			add(c.Step, Never, c)
		case latch.TakenOut:
			add(c.Step, Gone, c)
		default:
			add(c.Step, Again, c)
		}
	}
	for i := range now.Procedure.Steps {
		s := &now.Procedure.Steps[i]
		if r := read[s.ID]; r != nil && r.Said != saids[i] {
			add(s.ID, Again, latch.Change{Step: s.ID, Kind: latch.Changed, Weight: latch.Value, What: "what the engine sheet says"})
		}
	}
	for _, id := range now.Gone {
		if by[id] == nil && !slices.Contains(p.Gone, id) {
			add(id, Gone, latch.Change{Step: id, Kind: latch.TakenOut, Weight: latch.Value, What: "step"})
		}
	}
	at := func(id step.ID) int {
		if id == Head {
			return -1
		}
		if i := now.Procedure.At(id); i >= 0 {
			return i
		}
		return len(now.Procedure.Steps)
	}
	slices.SortStableFunc(order, func(a, b step.ID) int { return at(a) - at(b) })
	out := make([]Unread, len(order))
	for i, id := range order {
		out[i] = *by[id]
	}
	return out
}

// Left are the things among what is unread that the reader of a latch has still to
// read.
func Left(all []Unread, l latch.Latch) []Unread {
	var out []Unread
	for i := range all {
		if all[i].For(l) {
			out = append(out, all[i])
		}
	}
	return out
}

// MarkAs is Mark that keeps how and when each came to count as read.
func (p *Page) MarkAs(now State, m Mark, ids ...step.ID) {
	p.Mark(now, ids...)
	if p.Marks == nil {
		p.Marks = map[step.ID]Mark{}
	}
	for _, id := range ids {
		p.Marks[id] = m
	}
}

// Mark notes that things have been read as they stand now: steps, Head, and steps
// that are gone. Ids that are neither are passed over.
func (p *Page) Mark(now State, ids ...step.ID) {
	stays := p.inOrder(now.Procedure)
	place := map[step.ID]int{}
	for i := range now.Procedure.Steps {
		place[now.Procedure.Steps[i].ID] = i
	}
	for _, id := range ids {
		if id == Head {
			h := now.Procedure.Header
			p.Header = &h
			continue
		}
		at, there := place[id]
		p.drop(id)
		if !there {
			if !slices.Contains(p.Gone, id) {
				p.Gone = append(p.Gone, id)
			}
			continue
		}
		p.Gone = slices.DeleteFunc(p.Gone, func(g step.ID) bool { return g == id })
		// Behind the nearest step above it that is read where it stands, so that every
		// thing marked leaves one thing less to mark.
		to := 0
		for i := at - 1; i >= 0; i-- {
			if above := now.Procedure.Steps[i].ID; stays[above] {
				to = 1 + slices.IndexFunc(p.Steps, func(s Step) bool { return s.Step.ID == above })
				break
			}
		}
		s := now.Procedure.Steps[at]
		text, said := now.Memo.of(now.Index, &s)
		p.Steps = slices.Insert(p.Steps, to, Step{Step: s, Said: said, text: text})
		stays[id] = true
	}
}

// Forget makes things unread again.
func (p *Page) Forget(ids ...step.ID) {
	for _, id := range ids {
		delete(p.Marks, id)
		if id == Head {
			p.Header = nil
			continue
		}
		p.drop(id)
		p.Gone = slices.DeleteFunc(p.Gone, func(g step.ID) bool { return g == id })
	}
}

func (p *Page) drop(id step.ID) {
	p.Steps = slices.DeleteFunc(p.Steps, func(s Step) bool { return s.Step.ID == id })
}

// Procedure is the page as it was read, for a redline against it. A header that
// was never read is the one of now.
func (p *Page) Procedure(now *procedure.Procedure) *procedure.Procedure {
	return p.procedure(&now.Header)
}

func (p *Page) procedure(header *procedure.Header) *procedure.Procedure {
	out := &procedure.Procedure{Header: *header, Steps: make([]step.Step, len(p.Steps))}
	if p.Header != nil {
		out.Header = *p.Header
	}
	for i := range p.Steps {
		out.Steps[i] = p.Steps[i].Step
	}
	return out
}

// inOrder are the steps read that stand in the order they were read in.
func (p *Page) inOrder(now *procedure.Procedure) map[step.ID]bool {
	stays := map[step.ID]bool{}
	for i := range p.Steps {
		if id := p.Steps[i].Step.ID; now.At(id) >= 0 {
			stays[id] = true
		}
	}
	for id := range latch.MovedSteps(p.procedure(&now.Header), now) {
		delete(stays, id)
	}
	return stays
}

// read is a step that was read, and its place among them.
type read struct {
	*Step
	at int
}

func (p *Page) bySteps() map[step.ID]*read {
	out := make(map[step.ID]*read, len(p.Steps))
	for i := range p.Steps {
		out[p.Steps[i].Step.ID] = &read{&p.Steps[i], i}
	}
	return out
}

// saidOf is the SHA-256 of what a sheet makes of a step on the printed page, beside what
// its author wrote.
func saidOf(x *engine.Index, s *step.Step) string {
	h := sha256.New()
	for _, l := range document.Stands(x, s) {
		h.Write([]byte(l.Text + "\n"))
	}
	return hex.EncodeToString(h.Sum(nil))
}

func sameText(a, b *step.Step) bool { return textOf(a) == textOf(b) }

func textOf(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // only types of ours are written
	}
	return string(b)
}

// Content is exactly what a latch is closed over: the page, and the engine sheet
// behind it.
type Content struct {
	Procedure *procedure.Procedure `json:"procedure"`
	// Sheet is the id of the sheet's version.
	Sheet int64 `json:"sheet"`
}

// Encode writes the content as JSON.
func (c *Content) Encode() string { return textOf(c) }

// DecodeContent reads what Encode wrote.
func DecodeContent(text string) (*Content, error) {
	c := &Content{}
	if err := json.Unmarshal([]byte(text), c); err != nil {
		return nil, fmt.Errorf("reading what a latch was closed over: %w", err)
	}
	return c, nil
}

// Sums are the SHA-256 of each step of the content by its id, in hex, with the
// header's under Head, in the order of the page.
// read says how each came to be read by whoever closes over it; nil where that was not
// kept.
func (c *Content) Sums(read *Page) []Sum {
	how := func(id step.ID) How {
		if read == nil {
			return ""
		}
		return read.Marks[id].How
	}
	out := []Sum{{Head, sum(textOf(c.Procedure.Header)), how(Head)}}
	for i := range c.Procedure.Steps {
		s := &c.Procedure.Steps[i]
		out = append(out, Sum{s.ID, sum(textOf(s)), how(s.ID)})
	}
	return out
}

// Sum is the SHA-256 of one step, in hex.
type Sum struct {
	Step step.ID `json:"step"`
	SHA  string  `json:"sha256"`
	// Read is how whoever closed a latch over it came to have read it.
	Read How `json:"read,omitzero"`
}

func sum(s string) string {
	h := sha256.Sum256([]byte(s))
	return hex.EncodeToString(h[:])
}

// Differs says what of a page a latch was not closed over, in a few words; empty
// when all that weighs on the latch is as it was.
func (c *Content) Differs(l latch.Latch, now *procedure.Procedure, sheet int64) string {
	if c.Sheet != sheet {
		return "the engine sheet"
	}
	var what []string
	for _, ch := range latch.Changes(c.Procedure, now) {
		if !slices.Contains(latch.Opens(ch.Weight), l) {
			continue
		}
		name := "the header"
		if ch.Step != Head {
			at, was := now.At(ch.Step), c.Procedure.At(ch.Step)
			if at >= 0 && was >= 0 && ch.Kind == latch.Changed && sameText(&c.Procedure.Steps[was], &now.Steps[at]) {
				continue
			}
			if name = fmt.Sprintf("step %d", at+1); at < 0 {
				name = fmt.Sprintf("a step that is gone, the earlier %d", was+1)
			}
		}
		if !slices.Contains(what, name) {
			what = append(what, name)
		}
	}
	return strings.Join(what, ", ")
}
