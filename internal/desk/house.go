package desk

import (
	"bytes"
	"context"
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
