package main

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/proof/sheetproof"
)

// ruleLine is one rule as rules prints it.
type ruleLine struct {
	ID       string           `json:"id"`
	Of       string           `json:"of"`
	Family   string           `json:"family"`
	Severity finding.Severity `json:"severity"`
	Protects string           `json:"protects"`
}

func rulesCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use: "rules", Short: "List every rule of the proof: of procedures, and of engine sheets", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			var all []ruleLine
			for _, r := range pageproof.Rules() {
				all = append(all, ruleLine{r.ID, "procedure", r.Family, r.Severity, r.Doc})
			}
			for _, r := range sheetproof.Rules() {
				all = append(all, ruleLine{r.ID, "sheet", r.Family, r.Severity, r.Doc})
			}
			slices.SortStableFunc(all, func(a, b ruleLine) int {
				if a.Of != b.Of {
					return map[bool]int{true: -1, false: 1}[a.Of == "procedure"]
				}
				return cmp.Compare(a.Family, b.Family)
			})
			if asJSON {
				return json.NewEncoder(cmd.OutOrStdout()).Encode(all)
			}
			w := tabwriter.NewWriter(cmd.OutOrStdout(), 0, 0, 2, ' ', 0)
			of, family := "", ""
			for _, r := range all {
				if r.Of != of || r.Family != family {
					of, family = r.Of, r.Family
					fmt.Fprintf(w, "\n%s: %s\n", of, family)
				}
				fmt.Fprintf(w, "  %s\t%s\t%s\n", r.ID, r.Severity, r.Protects)
			}
			return w.Flush()
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "as JSON")
	return c
}
