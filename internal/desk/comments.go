package desk

import (
	"context"
	"encoding/json"
	"regexp"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/store"
)

// The kinds of remark.
const (
	Question   = "question"
	Note       = "remark"
	MustChange = "must-change"
	Suggestion = "suggestion"
)

// Said is what somebody says of a revision.
type Said struct {
	Kind string `json:"kind"`
	// Place is what it is about: the page, a phase of it, a step, words of that step, or
	// a thing on the drawing; Part names the phase, quotes the words, or is the thing.
	Place string  `json:"place"`
	Step  step.ID `json:"step,omitzero"`
	Part  string  `json:"part,omitzero"`
	Body  string  `json:"body"`
	// Line is the line a suggestion has in place of the step or, with Behind, behind it.
	Line   string `json:"line,omitzero"`
	Behind bool   `json:"behind,omitzero"`
	// Trial only says what would come of it.
	Trial bool `json:"trial,omitzero"`
}

// Remark is what somebody said, with what became of it.
type Remark struct {
	ID    int64   `json:"id"`
	Kind  string  `json:"kind"`
	Place string  `json:"place"`
	Step  step.ID `json:"step,omitzero"`
	// Number is where that step stands now, 0 where it is gone.
	Number int    `json:"number,omitzero"`
	Part   string `json:"part,omitzero"`
	// Quoted is what the step said then; Changed is set where it says something else
	// now.
	Quoted  string    `json:"quoted,omitzero"`
	Changed bool      `json:"changed,omitzero"`
	Body    string    `json:"body"`
	Line    string    `json:"line,omitzero"`
	Effect  *Effect   `json:"effect,omitempty"`
	State   string    `json:"state"`
	By      string    `json:"by"`
	Mine    bool      `json:"mine,omitzero"`
	At      time.Time `json:"at"`
	Answers []Answer  `json:"answers"`
	// What the person who looks may do with it.
	MaySettle bool `json:"maySettle,omitzero"`
	MayWaive  bool `json:"mayWaive,omitzero"`
	MayReopen bool `json:"mayReopen,omitzero"`
	MayTake   bool `json:"mayTake,omitzero"`
}

// Answer is a reply to a remark, or what somebody did with it.
type Answer struct {
	Act  string    `json:"act"`
	Body string    `json:"body,omitzero"`
	By   string    `json:"by"`
	At   time.Time `json:"at"`
}

// Effect is what a suggestion would change in what is found, as it was tried when
// it was made.
type Effect struct {
	Sentence string   `json:"sentence"`
	New      []string `json:"new"`
	Settled  []string `json:"settled"`
	// Blocks is set where what it would raise blocks release.
	Blocks bool `json:"blocks,omitzero"`
}

// talk is everything that was said of a revision.
type talk struct {
	remarks []store.Remark
	replies map[int64][]store.Reply
	// authors are those who have worked on the page: only they answer what must be
	// changed.
	authors []int64
}

func talkOf(r store.Reads, revision int64) (talk, error) {
	return talked(
		func() ([]store.Remark, error) { return r.RemarksOf(revision) },
		func() ([]store.Reply, error) { return r.RepliesOf(revision) },
		func() ([]int64, error) { return r.Workers(revision) })
}

// talked reads remarks and, where there are any, the replies to them and who has worked
// on what they are said of.
func talked(remarks func() ([]store.Remark, error), replies func() ([]store.Reply, error), workers func() ([]int64, error)) (talk, error) {
	t := talk{replies: map[int64][]store.Reply{}}
	var err error
	if t.remarks, err = remarks(); err != nil || len(t.remarks) == 0 {
		return t, err
	}
	all, err := replies()
	if err != nil {
		return t, err
	}
	for _, v := range all {
		t.replies[v.RemarkID] = append(t.replies[v.RemarkID], v)
	}
	t.authors, err = workers()
	return t, err
}

// toSettle counts what a person asked, is open, and somebody else spoke of last.
func (t *talk) toSettle(person int64) int {
	n := 0
	for i := range t.remarks {
		m := &t.remarks[i]
		if of := t.replies[m.ID]; m.State == "open" && m.PersonID == person && len(of) > 0 && of[len(of)-1].PersonID != person {
			n++
		}
	}
	return n
}

// asked is how many questions are open, whoever asked them.
func (t *talk) asked() int { return t.openOf(Question) }

// demands is how many points that must be changed are open.
func (t *talk) demands() int { return t.openOf(MustChange) }

func (t *talk) openOf(kind string) int {
	n := 0
	for i := range t.remarks {
		if t.remarks[i].State == "open" && t.remarks[i].Kind == kind {
			n++
		}
	}
	return n
}

// open counts what is open: a person's own questions, points that must be changed,
// and those of them that nobody has answered since they were made or reopened.
func (t *talk) open(person int64) (questions, demands, unanswered int) {
	for i := range t.remarks {
		m := &t.remarks[i]
		if m.State != "open" {
			continue
		}
		switch {
		case m.Kind == Question && m.PersonID == person:
			questions++
		case m.Kind == MustChange:
			demands++
			if !t.answered(m) {
				unanswered++
			}
		}
	}
	return questions, demands, unanswered
}

// answered reports whether an author of the page has answered a remark of somebody
// else's since it was made or last reopened. Nobody else's answer counts: it is they who
// change what must be changed.
func (t *talk) answered(m *store.Remark) bool {
	yes := false
	for _, v := range t.replies[m.ID] {
		switch {
		case v.Act == "reopen":
			yes = false
		case v.PersonID != m.PersonID && slices.Contains(t.authors, v.PersonID):
			yes = true
		}
	}
	return yes
}

// lay lays out what was said, for somebody.
func (t *talk) lay(r store.Reads, u *User, o *opened) ([]Remark, error) {
	var ids []int64
	for i := range t.remarks {
		ids = append(ids, t.remarks[i].PersonID)
		for _, v := range t.replies[t.remarks[i].ID] {
			ids = append(ids, v.PersonID)
		}
	}
	names, err := r.Names(ids...)
	if err != nil {
		return nil, err
	}
	out := []Remark{}
	for i := range t.remarks {
		m := &t.remarks[i]
		v := Remark{
			ID: m.ID, Kind: m.Kind, Place: m.Place, Step: step.ID(m.StepID), Part: m.Part, Quoted: m.Said, Body: m.Body, Line: m.Line,
			State: m.State, By: names[m.PersonID], Mine: m.PersonID == u.ID, At: m.At, Answers: []Answer{},
		}
		if at := o.p.At(v.Step); at >= 0 {
			v.Number, v.Changed = at+1, m.Said != sentence(o.k, &o.p.Steps[at])
		}
		if m.Effect != "" {
			v.Effect = &Effect{}
			if err := json.Unmarshal([]byte(m.Effect), v.Effect); err != nil {
				return nil, err
			}
		}
		for _, a := range t.replies[m.ID] {
			v.Answers = append(v.Answers, Answer{a.Act, a.Body, names[a.PersonID], a.At})
		}
		if latch.State(o.rev.State).Open() {
			v.MaySettle, v.MayReopen, v.MayTake, v.MayWaive = maySettle(u, m) == nil, mayReopen(u, m) == nil, mayTake(u, m) == nil, mayWaive(u, m, t.authors) == nil
		}
		out = append(out, v)
	}
	return out, nil
}

// maySettle: what somebody asked or demands is settled when they are content; a plain
// remark by a lead or whoever writes, too.
func maySettle(u *User, m *store.Remark) error {
	switch {
	case m.State != "open":
		return problem(409, "This is %s already.", m.State)
	case m.PersonID == u.ID, u.Leads() && m.Kind != Question && m.Kind != MustChange:
		return nil
	case m.Kind == Note && u.Writes():
		return nil
	}
	return forbidden("Whoever asked says when it is settled. A lead may waive it, with a reason.")
}

// mayWaive: what somebody else asked or demands is waived by a lead who has not worked
// on it, and who says why: nobody waives what is said of their own work.
func mayWaive(u *User, m *store.Remark, authors []int64) error {
	switch {
	case m.State != "open":
		return problem(409, "This is %s already.", m.State)
	case m.Kind != Question && m.Kind != MustChange:
		return problem(409, "Only a question or a point that must be changed is waived.")
	case !u.Leads():
		return forbidden("A lead waives what somebody asked.")
	case m.PersonID == u.ID:
		return problem(409, "This is yours: settle it when you are content.")
	case slices.Contains(authors, u.ID):
		return forbidden("It is said of your own work: a lead who has not worked on it waives it.")
	}
	return nil
}

func mayReopen(u *User, m *store.Remark) error {
	switch {
	case m.State == "taken":
		return problem(409, "This suggestion was taken. Say what is wrong with it now in a new remark.")
	case m.State == "open":
		return problem(409, "This is open.")
	case m.PersonID == u.ID, u.Writes():
		return nil
	}
	return forbidden("Whoever asked opens it again, or an author.")
}

func mayTake(u *User, m *store.Remark) error {
	switch {
	case m.Kind != Suggestion:
		return problem(409, "Only a suggestion can be taken.")
	case m.State != "open":
		return problem(409, "This suggestion is %s.", m.State)
	}
	return MayWrite(u)
}

// mayTalk holds everybody who works on pages to be one who may say something.
func mayTalk(u *User) error {
	if isReader(u) {
		return forbidden("Readers see released revisions only. This one is still being written.")
	}
	return nil
}

// The most letters somebody's words and a suggested line may have.
const (
	mostSaid = 4000
	mostLine = 2000
)

// Say says something of a revision. A suggestion is read and proved before it is
// offered; one that is not understood is refused, with what was not.
func (d *Review) Say(ctx context.Context, u *User, id int64, s Said) (*Remark, error) {
	if err := mayTalk(u); err != nil {
		return nil, err
	}
	s.Body, s.Line = strings.TrimSpace(s.Body), strings.TrimSpace(s.Line)
	if err := s.check(); err != nil {
		return nil, err
	}
	if s.Trial {
		return d.tried(ctx, u, id, &s)
	}
	var out *Remark
	err := d.store.Write(ctx, id, func(w *store.Draft) error {
		o, before, _, err := d.reviewed(w)
		if err != nil {
			return err
		}
		m, err := d.said(u, o, before, &s)
		if err != nil {
			return err
		}
		named, err := mentioned(w.Reads, s.Body)
		if err != nil {
			return err
		}
		if err := w.Say(m, named); err != nil {
			return err
		}
		out, err = laid(w.Reads, u, o, m)
		return err
	})
	return out, missing(err, "revision")
}

// tried is what would come of saying something. It holds nobody up: a line is tried
// at every key.
func (d *Review) tried(ctx context.Context, u *User, id int64, s *Said) (*Remark, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	if !latch.State(o.rev.State).Open() {
		return nil, problem(409, "Revision %d is %s: its review is over.", o.rev.Number, latch.State(o.rev.State).Said())
	}
	m, err := d.said(u, o, nil, s)
	if err != nil {
		return nil, err
	}
	m.State = "open"
	return laid(d.store.Reads(ctx), u, o, m)
}

// laid is one remark laid out for somebody.
func laid(r store.Reads, u *User, o *opened, m *store.Remark) (*Remark, error) {
	t := talk{remarks: []store.Remark{*m}}
	vs, err := t.lay(r, u, o)
	if err != nil {
		return nil, err
	}
	return &vs[0], nil
}

// check holds what somebody says against what can be kept.
func (s *Said) check() error {
	switch {
	case !slices.Contains([]string{Question, Note, MustChange, Suggestion}, s.Kind):
		return &Problem{Status: 422, Title: "One asks, remarks, says what must be changed, or suggests a line.", Field: "kind"}
	case s.Body == "" && s.Kind != Suggestion:
		return &Problem{Status: 422, Title: "Say something.", Field: "body"}
	case s.Kind == Suggestion && s.Line == "":
		return &Problem{Status: 422, Title: "Write the line you suggest.", Field: "line"}
	case s.Kind != Suggestion && s.Line != "":
		return &Problem{Status: 422, Title: "Only a suggestion has a line.", Field: "line"}
	}
	for field, v := range map[string]string{"body": s.Body, "part": s.Part} {
		if err := holdText(v, field, mostSaid); err != nil {
			return err
		}
	}
	return holdText(s.Line, "line", mostLine)
}

// said makes a remark of what somebody says, with what it is said about.
func (d *Review) said(u *User, o, before *opened, s *Said) (*store.Remark, error) {
	m := &store.Remark{Kind: s.Kind, Place: s.Place, StepID: string(s.Step), Part: s.Part, Body: s.Body, Line: s.Line, PersonID: u.ID}
	switch s.Place {
	case "page":
		m.StepID, m.Part = "", ""
	case "phase":
		m.StepID = ""
		if !step.Phase(s.Part).Known() {
			return nil, &Problem{Status: 422, Title: "There is no such phase.", Field: "part"}
		}
	case "step", "words":
		x, at := o, o.p.At(s.Step)
		if at < 0 && before != nil {
			x, at = before, before.p.At(s.Step)
		}
		if at < 0 {
			return nil, problem(404, "That step is not on the page any more.")
		}
		m.Said = sentence(x.k, &x.p.Steps[at])
		if s.Place == "words" && (s.Part == "" || !strings.Contains(m.Said, s.Part)) {
			return nil, &Problem{Status: 422, Title: "Those words do not stand in the step any more.", Field: "part"}
		}
	case "drawing":
		m.StepID = ""
		list, thing, _ := strings.Cut(s.Part, "/")
		if m.Said = o.k.index.NameOf(list, thing); m.Said == "" {
			return nil, &Problem{Status: 422, Title: "There is no such thing on the drawing.", Field: "part"}
		}
	default:
		return nil, &Problem{Status: 422, Title: "One speaks of the page, a phase, a step, its words, or a thing on the drawing.", Field: "place"}
	}
	if s.Kind != Suggestion {
		return m, nil
	}
	return m, d.suggested(o, s, m)
}

// spokenTo is a name behind an @, at the start of a word.
var spokenTo = regexp.MustCompile(`(?:^|[\s(,;:])@(\pL[\pL\pM'’-]*(?: \pL[\pL\pM'’-]*)*)`)

// mentioned are the people a text names with an @, by their full name or by a first
// name that only one has. A name that nobody has is an error.
func mentioned(r store.Reads, body string) ([]int64, error) {
	if !strings.Contains(body, "@") {
		return nil, nil
	}
	all, err := r.Colleagues()
	if err != nil {
		return nil, err
	}
	var out []int64
	for _, m := range spokenTo.FindAllStringSubmatch(body, -1) {
		said := strings.ToLower(m[1])
		var full, first []int64
		for i := range all {
			c := &all[i]
			name := strings.ToLower(c.Name)
			if said == name || strings.HasPrefix(said, name+" ") {
				full = append(full, c.ID)
			}
			given, _, _ := strings.Cut(name, " ")
			if word, _, _ := strings.Cut(said, " "); word == given {
				first = append(first, c.ID)
			}
		}
		if len(full) == 0 {
			full = first
		}
		switch {
		case len(full) == 0:
			return nil, &Problem{Status: 422, Title: "Nobody here is called " + m[1] + ". Names are written as in the list behind @.", Field: "body"}
		case len(full) > 1:
			return nil, &Problem{Status: 422, Title: "Several people are called " + m[1] + ". Write the full name.", Field: "body"}
		}
		if !slices.Contains(out, full[0]) {
			out = append(out, full[0])
		}
	}
	return out, nil
}

// Answered is what somebody does with a remark.
type Answered struct {
	// Act is reply, settle, waive, reopen, take or decline.
	Act  string `json:"act"`
	Body string `json:"body,omitzero"`
	// Client is the window that takes a suggestion, as with edits.
	Client string `json:"client,omitzero"`
}

// AnswerRemark answers a remark, settles or reopens it, or takes or declines a
// suggestion. One that is taken becomes an edit of whoever takes it, and the record
// names both.
func (d *Review) AnswerRemark(ctx context.Context, u *User, remark int64, a Answered) error {
	if err := mayTalk(u); err != nil {
		return err
	}
	if a.Body = strings.TrimSpace(a.Body); a.Body == "" && a.Act == "reply" {
		return &Problem{Status: 422, Title: "Say something.", Field: "body"}
	}
	if err := holdText(a.Body, "body", mostSaid); err != nil {
		return err
	}
	m, err := d.store.Reads(ctx).RemarkByID(remark)
	if err != nil {
		return missing(err, "remark")
	}
	if m.SheetID != 0 {
		return d.rooms.Engines.answerSheet(ctx, u, m, a)
	}
	out := &Saved{At: store.Now()}
	err = d.store.Write(ctx, m.RevisionID, func(w *store.Draft) error {
		o, _, _, err := d.reviewed(w)
		if err != nil {
			return err
		}
		if m, err = w.RemarkByID(remark); err != nil { // as it is, now that nobody else writes
			return err
		}
		named, err := mentioned(w.Reads, a.Body)
		if err != nil {
			return err
		}
		authors, err := w.Workers(m.RevisionID)
		if err != nil {
			return err
		}
		state, err := d.act(w, u, o, m, a, authors, out)
		if err != nil {
			return err
		}
		return w.Reply(m, &store.Reply{Act: a.Act, Body: a.Body, PersonID: u.ID}, state, named)
	})
	if err == nil && out.committed != nil {
		out.committed()
	}
	return missing(err, "remark")
}

// act does to a remark what somebody wants and gives the state it is in then.
func (d *Review) act(w *store.Draft, u *User, o *opened, m *store.Remark, a Answered, authors []int64, out *Saved) (string, error) {
	switch a.Act {
	case "reply":
		return m.State, nil
	case "settle":
		return "settled", maySettle(u, m)
	case "waive":
		if err := mayWaive(u, m, authors); err != nil {
			return "", err
		}
		if a.Body == "" {
			return "", &Problem{Status: 422, Title: "Say why it is waived: that stands in the record, and whoever asked reads it.", Field: "body"}
		}
		return "waived", nil
	case "reopen":
		return "open", mayReopen(u, m)
	case "decline":
		if err := mayTake(u, m); err != nil {
			return "", err
		}
		if a.Body == "" {
			return "", &Problem{Status: 422, Title: "Say why not: whoever suggested it reads that.", Field: "body"}
		}
		return "declined", nil
	case "take":
		return "taken", d.take(w, u, o, m, a.Client, out)
	}
	return "", &Problem{Status: 422, Title: "One replies, settles, waives, reopens, takes or declines.", Field: "act"}
}
