package drill_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
)

func TestShow(t *testing.T) {
	for _, page := range strings.Fields(os.Getenv("PAGE")) {
		d := fixture.Document(page)
		x := engine.NewIndex(&d.Engine)
		r := drill.Run(t.Context(), x, &d.Procedure, drill.Options{})
		for i := range r.Mistakes {
			m := &r.Mistakes[i]
			seen := ""
			for _, l := range m.Seen {
				seen += fmt.Sprintf(" [%d %s %v]", l.Place+1, l.Says, l.Sure)
			}
			if len(seen) > 160 {
				seen = seen[:160]
			}
			if os.Getenv("ALL") == "" && (m.Outcome.Good() || !m.Family.Needed) {
				continue
			}
			fmt.Printf("%-11s %3d %-10s %-60s %-16s | %s | %d %s %s\n", m.Outcome, m.Place+1, m.Family.ID, m.What, m.Size, seen, m.Severity, m.Comes, m.Why)
		}
		fmt.Println(page, r.Caught, r.Of, r.Missed)
	}
}
