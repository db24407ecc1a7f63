package store

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// SheetTool is a tool as one engine sheet has it.
type SheetTool struct {
	SheetID int64
	Number  string
	Name    string
	Kit     string
	// Does is what it holds, or which torques it gives, in words.
	Does string
	// Equivalents are the tools that may be used instead, with a comma between.
	Equivalents string
}

// TableName is sheet_tools.
func (SheetTool) TableName() string { return "sheet_tools" }

// SheetSource is a document as one engine sheet has it.
type SheetSource struct {
	SheetID int64
	Number  string
	Kind    string
	Name    string
	Issuer  string
	Dated   string
	// Replaced is the document in its place, as it is cited, Rests what rests on it, with a
	// comma between.
	Replaced string
	Rests    string
	// Owners entered the values that rest on it, a line each.
	Owners string
}

// TableName is sheet_sources.
func (SheetSource) TableName() string { return "sheet_sources" }

// KeepSheetStanding writes what lists say of a sheet, its tools and its documents.
func (s *Store) KeepSheetStanding(ctx context.Context, v SheetStanding, tools []SheetTool, sources []SheetSource) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&v).Error; err != nil {
			return err
		}
		if err := tx.Where("sheet_id = ?", v.SheetID).Delete(&SheetTool{}).Error; err != nil {
			return err
		}
		for i := range tools {
			tools[i].SheetID = v.SheetID
		}
		if len(tools) > 0 {
			if err := tx.CreateInBatches(tools, 500).Error; err != nil {
				return err
			}
		}
		if err := tx.Where("sheet_id = ?", v.SheetID).Delete(&SheetSource{}).Error; err != nil {
			return err
		}
		for i := range sources {
			sources[i].SheetID = v.SheetID
		}
		if len(sources) == 0 {
			return nil
		}
		return tx.CreateInBatches(sources, 500).Error
	})
}

// CribQuery says which tools a crib shows.
type CribQuery struct {
	// Words must each be found in number, name, kit or equivalents.
	Words []string
	// Engine is the code whose tools are shown, and those of their kits; empty for all.
	Engine string
	// Drafts counts pages that are being written, too.
	Drafts bool
	Offset int
	Limit  int
}

// CribTool is one way in which sheets in use have a tool: those that say the same of it are
// one.
type CribTool struct {
	Number      string
	Name        string
	Kit         string
	Does        string
	Equivalents string
	// Codes is on how many codes it stands so, Some the first of them with spaces between.
	Codes int
	Some  string
	// Here is set where the code that was asked for has it.
	Here bool
	// Pages and Places are on how many pages that hold or are open its number stands, and how
	// often.
	Pages  int
	Places int
	Total  int
}

// mostCodes is how many codes of a tool are named.
const mostCodes = "12"

// Crib lists the tools of the sheets in use, by kit and number, each as often as sheets differ
// about it.
func (r Reads) Crib(q CribQuery) ([]CribTool, error) {
	args := map[string]any{"engine": q.Engine, "limit": q.Limit, "offset": q.Offset}
	states := []string{"latched"}
	if q.Drafts {
		states = append(states, "draft", "on review")
	}
	args["states"] = states
	where := "s.state = 'in use'"
	for i, w := range q.Words {
		name := "w" + string(rune('a'+i%26))
		args[name] = "%" + escapeLike(strings.ToLower(w)) + "%"
		where += " AND t.words LIKE @" + name
	}
	if q.Engine != "" {
		where += ` AND (s.code = @engine OR t.kit <> '' AND t.kit IN (SELECT o.kit FROM sheet_tools o JOIN sheets e ON e.id = o.sheet_id AND e.state = 'in use' WHERE e.code = @engine))`
	}
	var out []CribTool
	err := r.db.Raw(`WITH hit AS (SELECT t.number, t.name, t.kit, t.does, t.equivalents, s.code FROM sheet_tools t JOIN sheets s ON s.id = t.sheet_id WHERE `+where+`),
		page AS (SELECT kit, number, count(*) OVER () AS total FROM hit GROUP BY kit, number ORDER BY kit = '', kit, number LIMIT @limit OFFSET @offset)
		SELECT h.number, h.name, h.kit, h.does, h.equivalents, count(DISTINCT h.code) AS codes, bool_or(h.code = @engine) AS here, max(p.total) AS total,
			array_to_string((array_agg(DISTINCT h.code))[1:`+mostCodes+`], ' ') AS some,
			coalesce(max(u.pages), 0) AS pages, coalesce(max(u.places), 0) AS places
		FROM page p JOIN hit h ON h.kit = p.kit AND h.number = p.number
			LEFT JOIN LATERAL (SELECT count(DISTINCT u.revision_id) AS pages, count(*) AS places FROM uses u JOIN revisions r ON r.id = u.revision_id AND r.state IN @states
				WHERE u.kind = 'tool' AND u.key = lower(p.number) AND (@engine = '' OR EXISTS (SELECT 1 FROM procedures o WHERE o.id = r.procedure_id AND o.engine = @engine))) u ON true
		GROUP BY h.kit, h.number, h.name, h.does, h.equivalents ORDER BY h.kit = '', h.kit, h.number, codes DESC, h.name`, args).Scan(&out).Error
	return out, err
}

// SourceOn is a document as a sheet in use has it. Total is how many numbers there are.
type SourceOn struct {
	SheetSource
	Code  string
	Total int
}

// mostSourceRows is how many sheets one answer speaks of.
const mostSourceRows = 5000

// Sources lists the documents of the sheets in use by number, each as each sheet has it.
func (r Reads) Sources(words []string, engine string, offset, limit int) ([]SourceOn, error) {
	args := map[string]any{"engine": engine, "limit": limit, "offset": offset, "most": mostSourceRows}
	where := "s.state = 'in use'"
	for i, w := range words {
		name := "w" + string(rune('a'+i%26))
		args[name] = "%" + escapeLike(strings.ToLower(w)) + "%"
		where += " AND t.words LIKE @" + name
	}
	if engine != "" {
		where += " AND s.code = @engine"
	}
	var out []SourceOn
	err := r.db.Raw(`WITH page AS (SELECT t.number, count(*) OVER () AS total FROM sheet_sources t JOIN sheets s ON s.id = t.sheet_id WHERE `+where+` GROUP BY t.number ORDER BY t.number LIMIT @limit OFFSET @offset)
		SELECT t.*, s.code, p.total FROM page p JOIN sheet_sources t ON t.number = p.number JOIN sheets s ON s.id = t.sheet_id AND s.state = 'in use' ORDER BY t.number, s.code LIMIT @most`, args).Scan(&out).Error
	return out, err
}

// LateSource is a document that values of a sheet in use rest on, though that sheet or another
// says what has replaced it.
type LateSource struct {
	SheetSource
	Code  string
	Sheet int
	At    time.Time
}

// LateSources lists those of a person by number and code: of values that they entered, or that
// nobody entered who is still here.
func (r Reads) LateSources(name string, most int) ([]LateSource, error) {
	var out []LateSource
	err := r.db.Raw(`WITH gone AS (SELECT t.number, max(t.replaced) AS by FROM sheet_sources t JOIN sheets s ON s.id = t.sheet_id AND s.state = 'in use' WHERE t.replaced <> '' GROUP BY t.number)
		SELECT t.sheet_id, t.number, t.kind, t.name, t.issuer, t.dated, t.rests, g.by AS replaced, s.code, s.number AS sheet, s.changed_at AS at
		FROM gone g JOIN sheet_sources t ON t.number = g.number AND t.rests <> '' JOIN sheets s ON s.id = t.sheet_id AND s.state = 'in use'
		WHERE ? = ANY (string_to_array(t.owners, chr(10))) OR NOT EXISTS (SELECT 1 FROM people p WHERE NOT p.locked AND p.name = ANY (string_to_array(t.owners, chr(10))))
		ORDER BY t.number, s.code LIMIT ?`, name, most).Scan(&out).Error
	return out, err
}
