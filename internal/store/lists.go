package store

import (
	"encoding/json"
	"strconv"
	"strings"
	"time"
)

// Shelf is one procedure in a list: its newest revision that may be seen, and
// what was kept of its proof.
type Shelf struct {
	ProcedureID int64
	Engine      string
	Revision    int64
	Number      int
	State       string
	Title       string
	Version     int64
	SheetID     int64
	ChangedAt   time.Time
	ChangedBy   string
	LatchedID   int64
	LatchedNo   int
	WorkedOn    bool
	Closed      string
	Arranged    string
	Total       int
	// Steps and the rest come from the standing; Kept is false where there is
	// none for this version, sheet and edition.
	Kept     bool
	Steps    int
	Free     int
	Blocking int
	Findings int
	Requires string
	// Caught and the rest come from the newest drill, of whatever version; Made is 0 where
	// there is none.
	Caught, Made, Missed int
}

// ShelfClosing is a closed latch in a list.
type ShelfClosing struct {
	Latch  string    `json:"latch"`
	Person int64     `json:"person"`
	Name   string    `json:"name"`
	At     time.Time `json:"at"`
}

// Closings are the closed latches of the row.
func (s *Shelf) Closings() ([]ShelfClosing, error) {
	var out []ShelfClosing
	if s.Closed == "" {
		return nil, nil
	}
	err := json.Unmarshal([]byte(s.Closed), &out)
	return out, err
}

// ShelfReview is by when a latch is to close in a list, and who has taken it over.
type ShelfReview struct {
	Latch  string `json:"latch"`
	Due    string `json:"due"`
	Person int64  `json:"person"`
	Name   string `json:"name"`
}

// Reviews are the due dates and takers of the row's latches.
func (s *Shelf) Reviews() ([]ShelfReview, error) {
	var out []ShelfReview
	if s.Arranged == "" {
		return nil, nil
	}
	err := json.Unmarshal([]byte(s.Arranged), &out)
	return out, err
}

// ShelfSort is a column procedures are sorted by.
type ShelfSort string

// The columns.
const (
	ByCode     ShelfSort = "code"
	ByTitle    ShelfSort = "title"
	ByState    ShelfSort = "state"
	ByFindings ShelfSort = "findings"
	ByChange   ShelfSort = "changed"
	// ByDue is by the day the first open latch is to close, those without one last.
	ByDue ShelfSort = "due"
)

// orders are the SQL of each, with the same last columns so that pages are stable.
var orders = map[ShelfSort]string{
	ByCode:     "x.engine %s, x.title, x.procedure_id",
	ByTitle:    "x.title %s, x.engine, x.procedure_id",
	ByState:    "x.state %s, x.engine, x.title, x.procedure_id",
	ByFindings: "coalesce(x.blocking, 0) %s, coalesce(x.findings, 0) %s, x.engine, x.title, x.procedure_id",
	ByChange:   "x.changed_at %s, x.procedure_id",
	ByDue:      "x.due %s NULLS LAST, x.changed_at DESC, x.procedure_id",
}

// ShelfQuery says which procedures a list shows.
type ShelfQuery struct {
	// Words must each stand in code, title, state, number, the name of who changed it
	// last or the page itself, whatever their case; a year is one its engines were made in.
	Words []string
	// Drafts shows what is being written; without it only latched revisions.
	Drafts bool
	// Deleted lists deleted drafts in place of the others.
	Deleted bool
	// Mine keeps revisions that Person has worked on.
	Mine bool
	// States, when not empty, keeps revisions in one of them.
	States []string
	Sort   ShelfSort
	Down   bool
	Offset int
	Limit  int
	// Person is who asks, Edition the rules a standing must have been made with.
	Person  int64
	Edition string
}

// Shelves lists procedures in one statement, however many there are.
func (r Reads) Shelves(q ShelfQuery) ([]Shelf, error) {
	args := map[string]any{"person": q.Person, "edition": q.Edition, "limit": q.Limit, "offset": q.Offset}
	where := []string{shown(q)}
	for i, w := range q.Words {
		name := "w" + string(rune('a'+i%26))
		args[name] = "%" + escapeLike(w) + "%"
		any := "r.title ILIKE @" + name + " OR p.engine ILIKE @" + name + " OR who.name ILIKE @" + name + " OR " + stateSaid + " ILIKE @" + name + " OR r.number::text LIKE @" + name
		if year, err := strconv.Atoi(w); err == nil && len(w) == 4 && year > 1900 {
			args[name+"y"] = year
			any += " OR " + madeIn("@"+name+"y")
		} else if words := prefixed(w); words != "" && len(w) > 2 && !strings.ContainsAny(w, "_%") {
			args[name+"t"] = words
			any += " OR r.id IN (SELECT u.revision_id FROM uses u WHERE u.words @@ to_tsquery('simple', @" + name + "t))"
		}
		where = append(where, "("+any+")")
	}
	if len(q.States) > 0 {
		args["states"] = q.States
		where = append(where, "r.state IN @states")
	}
	order, ok := orders[q.Sort]
	if !ok {
		order = orders[ByCode]
	}
	down := "ASC"
	if q.Down {
		down = "DESC"
	}
	order = strings.ReplaceAll(order, "%s", down)
	people, found := "", "NULL::int AS blocking, NULL::int AS findings, NULL::date AS due"
	if len(q.Words) > 0 {
		people = " JOIN people who ON who.id = r.changed_by"
	}
	if q.Sort == ByFindings {
		people += kept("p.engine", "r")
		found = "s.blocking, s.findings, NULL::date AS due"
	}
	if q.Sort == ByDue {
		found = "NULL::int AS blocking, NULL::int AS findings, " + firstDue + " AS due"
	}
	if q.Mine {
		where = append(where, "EXISTS (SELECT 1 FROM record e WHERE e.revision_id = r.id AND e.person_id = @person AND "+work+")")
	}
	// The page is picked from as little as the order and the filter need; what a
	// row says is looked up for the page alone.
	sql := `WITH page AS (
			SELECT x.*, row_number() OVER () AS nth FROM (
				SELECT x.*, count(*) OVER () AS total FROM (
					SELECT r.id, r.procedure_id, p.engine, r.title, r.state, r.changed_at, ` + found + `
					FROM revisions r JOIN procedures p ON p.id = r.procedure_id` + people + ` WHERE ` + strings.Join(where, " AND ") + `
				) x ORDER BY ` + order + ` LIMIT @limit OFFSET @offset
			) x)
		SELECT r.procedure_id, page.engine, r.id AS revision, r.number, r.state, r.title, r.version, coalesce(r.sheet_id, 0) AS sheet_id, r.changed_at, who.name AS changed_by,
			coalesce(l.id, 0) AS latched_id, coalesce(l.number, 0) AS latched_no, page.total, s.revision_id IS NOT NULL AS kept,
			coalesce(s.steps, 0) AS steps, coalesce(s.free, 0) AS free, coalesce(s.blocking, 0) AS blocking, coalesce(s.findings, 0) AS findings, coalesce(s.requires, '') AS requires,
			coalesce(g.caught, 0) AS caught, coalesce(g.made, 0) AS made, coalesce(g.missed, 0) AS missed,
			EXISTS (SELECT 1 FROM record e WHERE e.revision_id = r.id AND e.person_id = @person AND ` + work + `) AS worked_on,
			coalesce((SELECT json_agg(json_build_object('latch', c.latch, 'person', c.person_id, 'name', coalesce(nullif(c.name, ''), n.name), 'at', c.at) ORDER BY c.at)::text
				FROM closings c JOIN people n ON n.id = c.person_id WHERE c.revision_id = r.id), '') AS closed,
			coalesce((SELECT json_agg(json_build_object('latch', v.latch, 'due', coalesce(v.due::text, ''), 'person', coalesce(v.person_id, 0), 'name', coalesce(n.name, '')))::text
				FROM reviews v LEFT JOIN people n ON n.id = v.person_id WHERE v.revision_id = r.id), '') AS arranged
		FROM page JOIN revisions r ON r.id = page.id JOIN people who ON who.id = r.changed_by
			LEFT JOIN revisions l ON l.procedure_id = r.procedure_id AND l.state = 'latched' LEFT JOIN drills g ON g.revision_id = r.id` + kept("page.engine", "r") + `
		ORDER BY page.nth`
	var out []Shelf
	err := r.db.Raw(sql, args).Scan(&out).Error
	return out, err
}

// stateSaid is the state of r as the screens call it.
const stateSaid = `CASE r.state WHEN 'latched' THEN 'released latched' ELSE r.state END`

// madeIn reports whether a page of p is for engines of a year: its own years, or its
// engine sheet's where it says none.
func madeIn(year string) string {
	within := func(years string) string {
		return "(" + years + " ->> 'from')::int <= " + year + " AND coalesce((" + years + " ->> 'to')::int, 9999) >= " + year
	}
	own := "r.header::jsonb -> 'applies' -> 'years'"
	return `CASE WHEN coalesce((` + own + ` ->> 'from')::int, 0) > 0 THEN ` + within(own) + `
		ELSE EXISTS (SELECT 1 FROM sheets y WHERE y.code = p.engine AND y.state = 'in use' AND ` + within("y.sheet::jsonb -> 'years'") + `) END`
}

// firstDue is the day by which the first open latch of r is to close.
const firstDue = `(SELECT min(v.due) FROM reviews v WHERE v.revision_id = r.id AND NOT EXISTS (SELECT 1 FROM closings c WHERE c.revision_id = r.id AND c.latch = v.latch))`

// shown is which revision of each procedure a list shows: the open one for those
// who work on it, otherwise the latched one.
func shown(q ShelfQuery) string {
	switch {
	case q.Deleted:
		return "r.state = 'deleted'"
	case q.Drafts:
		return `(r.state IN ('draft', 'on review', 'latched') AND (r.state <> 'latched'
			OR r.procedure_id NOT IN (SELECT o.procedure_id FROM revisions o WHERE o.state IN ('draft', 'on review'))) OR ` + takenBack("'draft', 'on review', 'latched'") + ")"
	}
	return "(r.state = 'latched' OR " + takenBack("'latched'") + ")"
}

// takenBack is the newest withdrawn revision of a procedure that has none in one of
// the states: a list says that it is withdrawn, rather than nothing.
func takenBack(states string) string {
	// There are few: they are looked up once, and not asked for of every row.
	return `r.id = ANY (ARRAY(SELECT w.id FROM revisions w WHERE w.state = 'withdrawn' AND NOT EXISTS (SELECT 1 FROM revisions o WHERE o.procedure_id = w.procedure_id
		AND (o.state IN (` + states + `) OR o.state = 'withdrawn' AND o.number > w.number))))`
}

// kept joins the standing of a revision that holds for its version, the rules
// and, while it is written, the sheet it is proved with.
func kept(engine, revision string) string {
	return strings.ReplaceAll(strings.ReplaceAll(`
		LEFT JOIN sheets u ON u.code = ENGINE AND u.state = 'in use'
		LEFT JOIN standings s ON s.revision_id = R.id AND s.version = R.version
			AND (R.state IN ('latched', 'superseded', 'withdrawn') OR s.edition = @edition AND s.sheet_id = coalesce(R.sheet_id, u.id))`, "ENGINE", engine), "R.", revision+".")
}

func escapeLike(s string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(s)
}

// SheetShelf is one engine code in a list, by its draft where there is one that
// may be seen.
type SheetShelf struct {
	SheetID    int64
	Code       string
	Number     int
	State      string
	InUse      int
	Version    int64
	ChangedAt  time.Time
	Procedures int
	Card       string
	// Total is how many codes the list has in all.
	Total int
}

// SheetQuery says which engine codes a list shows.
type SheetQuery struct {
	// Words must each stand in the code or on its card, whatever their case.
	Words []string
	// Drafts shows a code by its draft where there is one, and codes that have no more.
	Drafts bool
	// InUse keeps codes with a sheet in use.
	InUse bool
	// OfDraft keeps codes shown by their draft.
	OfDraft bool
	Sort    ShelfSort
	Down    bool
	Offset  int
	// Limit is how many at most, 0 for all.
	Limit int
	// Edition is that of the rules a card that is given must have been made with.
	Edition string
}

// sheetOrders are the SQL of each column engine codes are sorted by.
var sheetOrders = map[ShelfSort]string{
	ByCode:     "c.code %s",
	ByFindings: "coalesce(k.blocking, 0) %s, coalesce(k.findings, 0) %s, c.code",
	ByChange:   "c.changed_at %s, c.code",
}

// SheetShelves lists engine codes in one statement, however many there are.
func (r Reads) SheetShelves(q SheetQuery) ([]SheetShelf, error) {
	args := map[string]any{"edition": q.Edition, "offset": q.Offset, "limit": q.Limit}
	// A code has one draft and one sheet in use at most.
	where := []string{"c.state = 'in use'"}
	if q.Drafts {
		where = []string{"(c.state = 'draft' OR c.state = 'in use' AND NOT EXISTS (SELECT 1 FROM sheets o WHERE o.code = c.code AND o.state = 'draft'))"}
	}
	for i, w := range q.Words {
		name := "w" + string(rune('a'+i%26))
		args[name] = "%" + escapeLike(strings.ToLower(w)) + "%"
		where = append(where, "(lower(c.code) LIKE @"+name+" OR k.words LIKE @"+name+")")
	}
	if q.InUse {
		where = append(where, "EXISTS (SELECT 1 FROM sheets u WHERE u.code = c.code AND u.state = 'in use')")
	}
	if q.OfDraft {
		where = append(where, "c.state = 'draft'")
	}
	order, ok := sheetOrders[q.Sort]
	if !ok {
		order = sheetOrders[ByCode]
	}
	down := "ASC"
	if q.Down {
		down = "DESC"
	}
	limit := ""
	if q.Limit > 0 {
		limit = " LIMIT @limit OFFSET @offset"
	}
	join := ""
	if len(q.Words) > 0 || q.Sort == ByFindings {
		join = " LEFT JOIN sheet_standings k ON k.sheet_id = c.id" // an older card than the sheet will do to find it by
	}
	from := "FROM sheets c" + join + " WHERE " + strings.Join(where, " AND ")
	// Counted in passing where each card is looked at anyway, otherwise without the cards.
	passing, total := "", "(SELECT count(*) FROM sheets c WHERE "+strings.Join(where, " AND ")+")"
	if len(q.Words) > 0 {
		passing, total = ", count(*) OVER () AS total", "page.total"
	}
	var out []SheetShelf
	err := r.db.Raw(`WITH page AS MATERIALIZED (SELECT c.id`+passing+` `+from+` ORDER BY `+strings.ReplaceAll(order, "%s", down)+limit+`)
		SELECT c.id AS sheet_id, c.code, c.number, c.state, coalesce(u.number, 0) AS in_use, c.version, c.changed_at, coalesce(k.card, '') AS card,
			`+total+` AS total, (SELECT count(*) FROM procedures p WHERE p.engine = c.code) AS procedures
		FROM page JOIN sheets c ON c.id = page.id`+cardOf+` LEFT JOIN sheets u ON u.code = c.code AND u.state = 'in use'
		ORDER BY `+strings.ReplaceAll(order, "%s", down), args).Scan(&out).Error
	return out, err
}

// cardOf joins what was kept of a sheet for lists.
const cardOf = " LEFT JOIN sheet_standings k ON k.sheet_id = c.id AND k.version = c.version AND k.edition = @edition"

// Makers are the makers that cards of sheets in use or drafts name, so many at most.
func (r Reads) Makers(edition string, most int) ([]string, error) {
	var out []string
	err := r.db.Raw(`SELECT DISTINCT k.card::jsonb ->> 'maker' FROM sheet_standings k JOIN sheets s ON s.id = k.sheet_id AND s.version = k.version
		WHERE k.edition = ? AND s.state IN ('in use', 'draft') LIMIT ?`, edition, most).Scan(&out).Error
	return out, err
}

// Uncarded are sheets in use or drafts after one that lists have no card for, the oldest
// first.
func (r Reads) Uncarded(edition string, after int64, most int) ([]SheetShelf, error) {
	var out []SheetShelf
	err := r.db.Raw(`SELECT s.id AS sheet_id, s.code, s.number, s.state, s.version FROM sheets s WHERE s.state IN ('in use', 'draft') AND s.id > ?
		AND NOT EXISTS (SELECT 1 FROM sheet_standings k WHERE k.sheet_id = s.id AND k.version = s.version AND k.edition = ?) ORDER BY s.id LIMIT ?`, after, edition, most).Scan(&out).Error
	return out, err
}

// NewestTitled is the newest revision of the procedure of a code that has a title, nil
// for none; of several, of the one that was changed last.
func (r Reads) NewestTitled(code, title string) (*Revision, error) {
	var ids []int64
	err := r.db.Raw(`SELECT r.id FROM revisions r JOIN procedures p ON p.id = r.procedure_id WHERE p.engine = ? AND r.title = ? AND r.state <> 'deleted'
		AND NOT EXISTS (SELECT 1 FROM revisions n WHERE n.procedure_id = r.procedure_id AND n.number > r.number AND n.state <> 'deleted') ORDER BY r.changed_at DESC LIMIT 1`, code, title).Scan(&ids).Error
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	return r.RevisionByID(ids[0])
}

// JobsWaiting is how many jobs of the queue nobody has begun.
func (r Reads) JobsWaiting() (int, error) {
	var n int
	err := r.db.Raw("SELECT count(*) FROM river_job WHERE state IN ('available', 'retryable', 'scheduled', 'pending')").Scan(&n).Error
	return n, err
}

// Unproved are revisions after one that lists have no figures for, the oldest first.
func (r Reads) Unproved(edition string, after int64, most int) ([]int64, error) {
	var out []int64
	err := r.db.Raw(`SELECT r.id FROM revisions r JOIN procedures p ON p.id = r.procedure_id LEFT JOIN sheets u ON u.code = p.engine AND u.state = 'in use'
		WHERE r.state IN ('draft', 'on review', 'latched') AND NOT EXISTS (SELECT 1 FROM standings s WHERE s.revision_id = r.id AND s.version = r.version
			AND (r.state = 'latched' OR s.edition = ? AND s.sheet_id = coalesce(r.sheet_id, u.id))) AND r.id > ? ORDER BY r.id LIMIT ?`, edition, after, most).Scan(&out).Error
	return out, err
}
