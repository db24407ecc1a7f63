package main

import (
	"encoding/csv"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/bring"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/format/oldpage"
)

func bringCommand() *cobra.Command {
	var sheet, out, report string
	c := &cobra.Command{
		Use: "bring FILE...", Short: "Bring old pages in (" + strings.Join(oldpage.Formats, ", ") + ")",
		Long: "Bring pages in that were written elsewhere. Several files are one page, in the order in which they are named. The report has a row for each line of the old page and says what became of it; nothing of it is lost.",
		Args: cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			s, err := readSheet(sheet)
			if err != nil {
				return fmt.Errorf("%s: %w", sheet, err)
			}
			return bringIn(s, args, out, report, cmd.OutOrStdout())
		},
	}
	c.Flags().StringVar(&sheet, "engine", "", "the engine sheet it is for")
	c.Flags().StringVarP(&out, "output", "o", "", "the file of the page; nothing is written without")
	c.Flags().StringVar(&report, "report", "", "a table of all lines and what became of each, CSV")
	if err := c.MarkFlagRequired("engine"); err != nil {
		panic(err)
	}
	return c
}

// bringIn reads old pages as one, writes the page and the report, and says what became of it.
func bringIn(s *engine.Sheet, files []string, out, report string, to io.Writer) error {
	x := engine.NewIndex(s)
	lex := quickline.NewLexicon(x)
	var lines []bring.Line
	for _, f := range files {
		b, err := os.ReadFile(f)
		if err != nil {
			return err
		}
		p, err := oldpage.Read(f, b)
		if err != nil {
			return fmt.Errorf("%s: %w", f, err)
		}
		lines = append(lines, p.Lines...)
	}
	b := bring.Page(x, lex, lines)
	if out != "" {
		text, err := latchjson.Encode(&latchjson.Document{Engine: *s, Procedure: *b.Procedure})
		if err != nil {
			return err
		}
		if err := os.WriteFile(out, text, 0o644); err != nil {
			return err
		}
	}
	if report != "" {
		if err := writeReport(report, b); err != nil {
			return err
		}
	}
	var said []string
	for _, o := range []bring.Outcome{bring.Read, bring.Apart, bring.Asked, bring.Text, bring.Beside, bring.Titled, bring.Agrees, bring.Differs, bring.Left} {
		if n := b.Count(o); n > 0 {
			said = append(said, fmt.Sprintf("%d %s", n, o))
		}
	}
	fs := pageproof.Found(x, b.Procedure, nil, finding.DefaultHouse())
	_, err := fmt.Fprintf(to, "%s: %d lines: %s; %d steps, %d findings block release\n", b.Procedure.Title, len(b.Rows), strings.Join(said, ", "), len(b.Procedure.Steps), pageproof.Blocking(fs))
	return err
}

// writeReport writes a row for each line of an old page. A cell that a spreadsheet would work
// out is written as text.
func writeReport(path string, b *bring.Brought) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	w := csv.NewWriter(f)
	number := map[step.ID]int{}
	for i := range b.Procedure.Steps {
		number[b.Procedure.Steps[i].ID] = i + 1
	}
	rows := [][]string{{"Line", "Was", "Text", "Became", "Step", "Reads as, or why not", "Perhaps meant"}}
	for i := range b.Rows {
		r := &b.Rows[i]
		var steps []string
		for _, id := range r.Steps {
			steps = append(steps, fmt.Sprint(number[id]))
		}
		rows = append(rows, []string{fmt.Sprint(i + 1), string(r.Kind), harmless(r.Text), string(r.Outcome), strings.Join(steps, " "), harmless(r.Says), harmless(strings.Join(r.Choices, "; "))})
	}
	err = w.WriteAll(rows)
	if e := f.Close(); err == nil {
		err = e
	}
	return err
}

// harmless is a cell that no spreadsheet takes for a formula.
func harmless(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}
