package desk

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/house"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/store"
)

// ruled are the rules of the house as they hold; version 0 are the program's own.
type ruled struct {
	version int64
	house.Rules
}

// ruled are the rules that hold. Where they cannot be read the program's own do, and are kept
// by nobody.
func (d *library) ruled() *ruled {
	if r := d.rules.Load(); r != nil {
		return r
	}
	r, err := d.readRules(context.Background())
	if err != nil {
		d.tell("reading the house rules", err)
		return &ruled{Rules: d.base}
	}
	return r
}

// readRules reads the rules that hold from the database, for all who ask from now on.
func (d *library) readRules(ctx context.Context) (*ruled, error) {
	r := &ruled{Rules: d.base}
	if d.store == nil {
		return r, nil
	}
	v, err := d.store.Reads(ctx).HouseNow()
	switch {
	case errors.Is(err, store.ErrNotFound):
	case err != nil:
		return nil, err
	default:
		if r.Rules, err = rulesOf(v.Body); err != nil {
			return nil, fmt.Errorf("reading version %d of the house rules: %w", v.ID, err)
		}
		r.version = v.ID
	}
	for { // an older answer takes the place of no newer one
		was := d.rules.Load()
		if was != nil && was.version > r.version {
			return was, nil
		}
		if d.rules.CompareAndSwap(was, r) {
			return r, nil
		}
	}
}

// rulesOf reads rules as they are kept. What a program that wrote them had and this one has not
// is an error: half of what was decided is not what was decided.
func rulesOf(body string) (house.Rules, error) { return house.Read(strings.NewReader(body)) }

// ruledFor are the rules a revision stands under: for one that was released those of its day,
// so that nothing on its record changes after it was signed.
func (d *library) ruledFor(ctx context.Context, o *opened) (*ruled, error) {
	now := d.ruled()
	if !latch.State(o.rev.State).Frozen() || o.rev.LatchedAt == nil || now.version == 0 {
		return now, nil
	}
	r := d.store.Reads(ctx)
	version, err := r.HouseAt(*o.rev.LatchedAt)
	switch {
	case err != nil:
		return nil, err
	case version == now.version:
		return now, nil
	case version == 0:
		return &ruled{Rules: d.base}, nil
	}
	v, err := r.HouseOf(version)
	if err != nil {
		return nil, err
	}
	rules, err := rulesOf(v.Body)
	return &ruled{version, rules}, err
}

// house is what the rules say of findings.
func (d *library) house() finding.House { return d.ruled().Proof }

// The editions that what is kept for lists was worked out with: of the rules of the program,
// and the version of the house's.
func (d *library) pageEdition() string  { return d.edition(pageproof.Edition) }
func (d *library) sheetEdition() string { return d.edition(sheetproof.Edition) }
func (d *library) drillEdition() string { return d.edition(drill.Edition) }

func (d *library) edition(of string) string {
	if v := d.ruled().version; v > 0 {
		return of + "/" + strconv.FormatInt(v, 10)
	}
	return of
}

// House is what a house decides for itself: its schools, limits and severities.
type House struct{ *library }

// HouseVersion is one version of the rules.
type HouseVersion struct {
	Version int64     `json:"version"`
	By      string    `json:"by"`
	At      time.Time `json:"at"`
	Why     string    `json:"why"`
	// Changes are what it has otherwise than the one before.
	Changes []string `json:"changes"`
}

// HouseFamily is a kind of mistake as the program has it.
type HouseFamily struct {
	ID         string    `json:"id"`
	Name       string    `json:"name"`
	Doc        string    `json:"doc"`
	Least      int       `json:"least"`
	Occurrence int       `json:"occurrence"`
	Sizes      []float64 `json:"sizes"`
	Unit       string    `json:"unit"`
}

// HouseRules are the rules that hold, with all that can be chosen.
type HouseRules struct {
	// Version is 0 for the program's own.
	Version int64           `json:"version"`
	Rules   json.RawMessage `json:"rules"`
	// Ours are the program's own rules.
	Ours      json.RawMessage  `json:"ours"`
	Questions []house.Question `json:"questions"`
	Limits    []house.Limit    `json:"limits"`
	Weighed   []house.Weighed  `json:"weighed"`
	Families  []HouseFamily    `json:"families"`
	// Suggested are words that other houses leave out, for a list that is empty.
	Suggested []string       `json:"suggested"`
	Versions  []HouseVersion `json:"versions"`
	// May is set for whoever may change them.
	May bool `json:"may"`
	// Trial is the trial of all pages that followed from the newest version, 0 for none.
	Trial int64 `json:"trial,omitzero"`
}

// mostVersions is how many versions of the rules are listed.
const mostVersions = 100

// vagueWords are words that leave an instruction to whoever reads it: common practice of
// controlled English, no source.
var vagueWords = []string{"appropriately", "as necessary", "as required", "carefully", "etc.", "if necessary", "properly", "slightly", "sufficiently", "suitable"}

// Rules are the rules of the house with all that can be chosen.
func (d *House) Rules(ctx context.Context, u *User) (*HouseRules, error) {
	if isReader(u) {
		return nil, forbidden("House rules are for those who work on pages.")
	}
	now, err := d.readRules(ctx)
	if err != nil {
		return nil, err
	}
	r := d.store.Reads(ctx)
	out := &HouseRules{
		Version: now.version, Questions: house.Questions, Limits: house.Limits, Weighed: house.Severities(),
		Families: []HouseFamily{}, Suggested: vagueWords, Versions: []HouseVersion{}, May: u.Leads(),
	}
	if out.Rules, err = now.Write(); err != nil {
		return nil, err
	}
	if out.Ours, err = d.base.Write(); err != nil {
		return nil, err
	}
	for i := range drill.Families {
		f := &drill.Families[i]
		out.Families = append(out.Families, HouseFamily{f.ID, f.Name, f.Doc, f.Least, f.Occurrence, append([]float64{}, f.Sizes...), f.Unit})
	}
	all, err := r.HouseVersions(mostVersions)
	if err != nil {
		return nil, err
	}
	var who []int64
	for i := range all {
		who = append(who, all[i].PersonID)
	}
	names, err := r.Names(who...)
	if err != nil {
		return nil, err
	}
	for i := range all {
		v := HouseVersion{all[i].ID, nameOf(names, &all[i].PersonID), all[i].At, all[i].Why, []string{}}
		if err := json.Unmarshal([]byte(all[i].Changes), &v.Changes); err != nil {
			return nil, err
		}
		out.Versions = append(out.Versions, v)
	}
	if now.version > 0 {
		t, err := r.HouseTrialFor(now.version)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return nil, err
		}
		if err == nil {
			out.Trial = t.ID
		}
	}
	return out, nil
}

// mayRule says why somebody may not change the rules, nil when they may.
func mayRule(u *User) error {
	if u.Leads() {
		return nil
	}
	return forbidden("Only a lead changes the house rules.")
}

// chosen reads rules somebody chose; what is wrong with them is a problem at its field.
func chosen(raw json.RawMessage) (house.Rules, error) {
	r := house.Default()
	if err := json.Unmarshal(raw, &r); err != nil {
		return r, &Problem{Status: 422, Title: "These are no house rules.", Detail: err.Error()}
	}
	wrong := r.Check()
	for _, field := range slices.Sorted(maps.Keys(wrong)) {
		return r, &Problem{Status: 422, Title: wrong[field], Field: field}
	}
	return r.Tidied(), nil
}

// Differ says in words what rules somebody chose have otherwise than those that hold.
func (d *House) Differ(_ context.Context, u *User, raw json.RawMessage) ([]string, error) {
	if isReader(u) {
		return nil, forbidden("House rules are for those who work on pages.")
	}
	r, err := chosen(raw)
	if err != nil {
		return nil, err
	}
	now := d.ruled().Rules
	return now.Changes(&r), nil
}

// Save makes rules the ones that hold, over the version that whoever saves them has seen, and
// has all pages held against them.
func (d *House) Save(ctx context.Context, u *User, raw json.RawMessage, over int64, why string) (int64, error) {
	if err := mayRule(u); err != nil {
		return 0, err
	}
	if err := holdText(why, "why", 2000); err != nil {
		return 0, err
	}
	if strings.TrimSpace(why) == "" {
		return 0, &Problem{Status: 422, Title: "Say why: whoever finds a page doubted reads it.", Field: "why"}
	}
	r, err := chosen(raw)
	if err != nil {
		return 0, err
	}
	now, err := d.readRules(ctx)
	if err != nil {
		return 0, err
	}
	changes := now.Changes(&r)
	if len(changes) == 0 {
		return 0, problem(409, "These are the rules that hold already.")
	}
	before, err := now.Write()
	if err != nil {
		return 0, err
	}
	after, err := r.Write()
	if err != nil {
		return 0, err
	}
	v := &store.HouseRules{Body: string(after), Changes: text(changes), Why: strings.TrimSpace(why), PersonID: u.ID}
	t := &store.HouseTrial{Before: string(before), After: string(after), PersonID: u.ID}
	err = d.store.SaveHouse(ctx, v, over, t, d.queueTrial(ctx))
	if errors.Is(err, store.ErrHouseMoved) {
		return 0, problem(409, "Somebody else changed the house rules since you looked. Look at them, and choose again.")
	}
	if err != nil {
		return 0, err
	}
	_, err = d.readRules(ctx)
	return v.ID, err
}

// Try holds all pages against rules somebody chose, in the background, beside those that hold.
func (d *House) Try(ctx context.Context, u *User, raw json.RawMessage) (int64, error) {
	if err := mayRule(u); err != nil {
		return 0, err
	}
	r, err := chosen(raw)
	if err != nil {
		return 0, err
	}
	before, err := d.ruled().Write()
	if err != nil {
		return 0, err
	}
	after, err := r.Write()
	if err != nil {
		return 0, err
	}
	t := &store.HouseTrial{Before: string(before), After: string(after), PersonID: u.ID}
	err = d.store.TryHouse(ctx, t, d.queueTrial(ctx))
	return t.ID, err
}

// HouseTrial is how far a trial of rules is, and the pages for which they make a difference.
type HouseTrial struct {
	ID    int64  `json:"id"`
	State string `json:"state"`
	Total int    `json:"total"`
	Done  int    `json:"done"`
	// Stuck is set where its worker has not been heard of for long.
	Stuck bool            `json:"stuck,omitzero"`
	Rows  []HouseTrialRow `json:"rows"`
}

// HouseTrialRow is a page for which rules make a difference.
type HouseTrialRow struct {
	Revision int64  `json:"revision"`
	Engine   string `json:"engine"`
	Title    string `json:"title"`
	Number   int    `json:"number"`
	State    string `json:"state"`
	// Blocked and Blocks are how many findings block it before and after, Missed and Misses
	// how many mistakes it misses.
	Blocked int `json:"blocked"`
	Blocks  int `json:"blocks"`
	Missed  int `json:"missed"`
	Misses  int `json:"misses"`
	TrialSays
}

// TrialSays is what is new under other rules, and what is gone.
type TrialSays struct {
	New  []string `json:"new"`
	Gone []string `json:"gone"`
	// Wants and Spares are latches that are needed now, or no more.
	Wants  []string `json:"wants"`
	Spares []string `json:"spares"`
}

// empty reports whether the rules make no difference.
func (s *TrialSays) empty() bool { return len(s.New)+len(s.Gone)+len(s.Wants)+len(s.Spares) == 0 }

const (
	// mostTrialRows is how many pages of a trial are shown, those with the most to do first.
	mostTrialRows = 200
	// silentFor is after how long a trial of which nothing is heard is taken for left.
	silentFor = 30 * time.Second
)

// Trial is how far a trial is, and what it found.
func (d *House) Trial(ctx context.Context, u *User, id int64) (*HouseTrial, error) {
	if isReader(u) {
		return nil, forbidden("House rules are for those who work on pages.")
	}
	r := d.store.Reads(ctx)
	t, err := r.HouseTrialByID(id)
	if err != nil {
		return nil, missing(err, "trial any more")
	}
	out := &HouseTrial{ID: t.ID, State: t.State, Total: t.Total, Done: t.Done, Rows: []HouseTrialRow{}}
	out.Stuck = t.State == "running" && store.Now().Sub(t.Beat) > silentFor
	rows, err := r.HouseTrialRows(id, mostTrialRows)
	if err != nil {
		return nil, err
	}
	for i := range rows {
		v, err := d.trialRow(r, &rows[i])
		if err != nil {
			return nil, err
		}
		out.Rows = append(out.Rows, *v)
	}
	return out, nil
}

func (d *library) trialRow(r store.Reads, row *store.HouseTrialRow) (*HouseTrialRow, error) {
	o, err := d.open(r, row.RevisionID)
	if err != nil {
		return nil, err
	}
	v := &HouseTrialRow{
		Revision: o.rev.ID, Engine: o.p.Engine, Title: o.p.Title, Number: o.rev.Number, State: o.rev.State,
		Blocked: row.Blocked, Blocks: row.Blocks, Missed: row.Missed, Misses: row.Misses,
	}
	return v, json.Unmarshal([]byte(row.Says), &v.TrialSays)
}

// CancelTrial stops a trial of rules that are not saved.
func (d *House) CancelTrial(ctx context.Context, u *User, id int64) error {
	if err := mayRule(u); err != nil {
		return err
	}
	t, err := d.store.Reads(ctx).HouseTrialByID(id)
	if err != nil {
		return missing(err, "trial any more")
	}
	if t.RulesID != nil {
		return problem(409, "These rules were saved: every page is held against them.")
	}
	return d.store.EndTrial(ctx, id, "cancelled")
}

// Beside is one page under the rules that hold and under others.
func (d *House) Beside(ctx context.Context, u *User, raw json.RawMessage, revision int64) (*HouseTrialRow, error) {
	o, err := d.readable(ctx, u, revision)
	if err != nil {
		return nil, err
	}
	if isReader(u) {
		return nil, forbidden("House rules are for those who work on pages.")
	}
	r, err := chosen(raw)
	if err != nil {
		return nil, err
	}
	now := d.ruled().Rules
	row, err := d.held(ctx, d.store.Reads(ctx), o, &now, &r)
	if err != nil {
		return nil, err
	}
	return d.trialRow(d.store.Reads(ctx), row)
}

// trialArgs is the job that holds all pages against rules.
type trialArgs struct {
	Trial int64 `json:"trial"`
}

// Kind names the job in the queue.
func (trialArgs) Kind() string { return "house-trial" }

func (d *House) queueTrial(ctx context.Context) func(tx *sql.Tx, id int64) error {
	return func(tx *sql.Tx, id int64) error {
		if _, err := d.jobs.InsertTx(ctx, tx, trialArgs{id}, nil); err != nil {
			return fmt.Errorf("queueing the trial: %w", err)
		}
		return nil
	}
}

// try holds all pages that are open or hold against the rules of a trial.
func (d *House) try(ctx context.Context, id int64) error {
	r := d.store.Reads(ctx)
	t, err := r.HouseTrialByID(id)
	if errors.Is(err, store.ErrNotFound) || err == nil && t.State != "running" {
		return nil // forgotten, or stopped
	}
	if err != nil {
		return err
	}
	before, err := rulesOf(t.Before)
	if err != nil {
		return errors.Join(err, d.store.EndTrial(ctx, id, "failed"))
	}
	after, err := rulesOf(t.After)
	if err != nil {
		return errors.Join(err, d.store.EndTrial(ctx, id, "failed"))
	}
	done, last := 0, int64(0)
	for {
		ids, err := r.HouseTries(last, reproveEvery)
		if err != nil {
			return err
		}
		if len(ids) == 0 {
			break
		}
		var rows []store.HouseTrialRow
		for _, last = range ids {
			done++
			o, err := d.open(r, last)
			if err == nil {
				var row *store.HouseTrialRow
				if row, err = d.held(ctx, r, o, &before, &after); err == nil {
					if row.TrialID = id; row.Says != "" && !emptySays(row.Says) {
						rows = append(rows, *row)
					}
				}
			}
			d.tell(fmt.Sprintf("holding revision %d against the house rules", last), err) // it keeps nothing from the others
		}
		if going, err := d.store.GoOn(ctx, id, done, rows); err != nil || !going {
			return err
		}
	}
	if err := d.store.EndTrial(ctx, id, "done"); err != nil {
		return err
	}
	if t.RulesID != nil { // what lists say of pages is of older rules
		if _, err := d.readRules(ctx); err != nil {
			return err
		}
		d.rooms.Jobs.catchUp(ctx)
		d.rooms.Jobs.drillUp(ctx)
	}
	return nil
}

func emptySays(says string) bool {
	var s TrialSays
	return json.Unmarshal([]byte(says), &s) == nil && s.empty()
}

// held is a page under two sets of rules.
func (d *library) held(ctx context.Context, r store.Reads, o *opened, before, after *house.Rules) (*store.HouseTrialRow, error) {
	all, err := r.RevisionsOf(o.rev.ProcedureID)
	if err != nil {
		return nil, err
	}
	latched, err := d.before(r, o, all)
	if err != nil {
		return nil, err
	}
	return worked(func() (*store.HouseTrialRow, error) {
		row := &store.HouseTrialRow{RevisionID: o.rev.ID, Version: o.rev.Version}
		says := TrialSays{New: []string{}, Gone: []string{}, Wants: []string{}, Spares: []string{}}
		was, is := pageproof.Found(o.k.index, o.p, nil, before.Proof), pageproof.Found(o.k.index, o.p, nil, after.Proof)
		row.Blocked, row.Blocks = pageproof.Blocking(was), pageproof.Blocking(is)
		says.New, says.Gone = weighty(is, was), weighty(was, is)
		if !sameDrill(before, after) {
			within, cancel := context.WithTimeout(ctx, mostDrill)
			defer cancel()
			a := drill.Run(within, o.k.index, o.p, drill.Options{House: before.Drill})
			b := drill.Run(within, o.k.index, o.p, drill.Options{House: after.Drill})
			row.Missed, row.Misses = a.Missed, b.Missed
			says.New = append(says.New, missedMore(b, a)...)
			says.Gone = append(says.Gone, missedMore(a, b)...)
		}
		if latch.State(o.rev.State).Open() {
			needed, needs := requiredAgainst(before.Latches, latched, o), requiredAgainst(after.Latches, latched, o)
			says.Wants, says.Spares = without(needs, needed), without(needed, needs)
		}
		row.Says = text(says)
		return row, nil
	})
}

func sameDrill(a, b *house.Rules) bool {
	x, y := house.Default(), house.Default()
	x.Drill, y.Drill = a.Drill, b.Drill
	return x.Same(&y)
}

// without are the latches that others are not.
func without(all, others []latch.Latch) []string {
	out := []string{}
	for _, l := range all {
		if !slices.Contains(others, l) {
			out = append(out, string(l))
		}
	}
	return out
}

// weighty are the open findings that others do not have, or not as grave, with what they ask.
func weighty(fs, others []pageproof.Finding) []string {
	had := map[string]finding.Severity{}
	for i := range others {
		if others[i].Accepted == "" {
			had[others[i].What] = others[i].Severity
		}
	}
	out := []string{}
	for i := range fs {
		if s, ok := had[fs[i].What]; fs[i].Accepted == "" && (!ok || s != fs[i].Severity) {
			out = append(out, fs[i].What+": "+house.Said(fs[i].Severity)+".")
		}
	}
	return out
}

// missedMore are kinds of mistake of which a drill misses more than another.
func missedMore(r, other *drill.Report) []string {
	count := func(r *drill.Report) map[string]int {
		n := map[string]int{}
		for i := range r.Mistakes {
			if r.Mistakes[i].Missed() {
				n[r.Mistakes[i].Family.Name]++
			}
		}
		return n
	}
	had, out := count(other), []string{}
	for _, name := range slices.Sorted(maps.Keys(count(r))) {
		if n := count(r)[name] - had[name]; n > 0 {
			out = append(out, fmt.Sprintf("%s: %d more %s.", name, n, many(n, "mistake is missed", "mistakes are missed")))
		}
	}
	return out
}

// RulesFile are the rules of a version as a file, for the command line and for another house;
// 0 for those that hold.
func (d *House) RulesFile(ctx context.Context, u *User, version int64) ([]byte, string, error) {
	if isReader(u) {
		return nil, "", forbidden("House rules are for those who work on pages.")
	}
	now := d.ruled()
	if version != 0 && version != now.version {
		v, err := d.store.Reads(ctx).HouseOf(version)
		if err != nil {
			return nil, "", missing(err, "version of the house rules")
		}
		r, err := rulesOf(v.Body)
		if err != nil {
			return nil, "", err
		}
		now = &ruled{v.ID, r}
	}
	b, err := now.Write()
	if err != nil {
		return nil, "", err
	}
	var out bytes.Buffer
	err = json.Indent(&out, b, "", "  ")
	out.WriteByte('\n')
	return out.Bytes(), fmt.Sprintf("house rules %d.json", now.version), err
}
