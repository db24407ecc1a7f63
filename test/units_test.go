package test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"go/types"
	"io/fs"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// bare are exported functions of the core with a float64 in their signature, and why it
// has no unit.
var bare = map[string]string{
	"quickline.Line.Turns": "a count of turns", "step.EachTurns": "a count of turns",
	"piston.Train.Turns": "turns of the crank for one of the cam", "engine.Ratio.Float": "a ratio", "engine.Lock.Way": "a sign",
	"bolt.Bolt.K": "a factor, at a friction", "bolt.Bolt.OfYield": "a share", "bolt.FrictionOf": "a ratio", "tool.Settable": "in the unit of its ends",
	"route.Root":      "any function",
	"route.Links.Off": "a count of links", "resolution.Links": "a count of links", "resolution.Moved": "degrees of each shaft, by its id", "resolution.Wear": "a share, in percent",
	"tension.Judge": "readings in the unit of their window", "tension.Grubbs": "a statistic", "tension.MannKendall": "a statistic",
	"tension.Stiff":   "a share; EI has no type of its own, N·m²",
	"unit.WordNumber": "a number", "unit.WordsFor": "a number", "unit.Round": "a number", "unit.Number": "a number",
	"unit.Of": "said beside it", "unit.Convert": "said beside it", "unit.Torque.In": "said beside it", "unit.Quantity.Bounds": "in the unit of the quantity", "unit.Quantity.Nominal": "in the unit of the quantity",
}

// What crosses a border of the core has its unit in its type: a bare float64 in an
// exported signature is a number without one, and says so here.
func TestFiguresHaveUnits(t *testing.T) {
	seen := map[string]bool{}
	err := filepath.WalkDir("../internal/core", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		if err != nil {
			return err
		}
		for _, d := range f.Decls {
			fn, ok := d.(*ast.FuncDecl)
			if !ok || !fn.Name.IsExported() || !strings.Contains(types.ExprString(fn.Type), "float64") {
				continue
			}
			of := ""
			if fn.Recv != nil {
				of = strings.Trim(types.ExprString(fn.Recv.List[0].Type), "*") + "."
				if !ast.IsExported(of) {
					continue
				}
			}
			key := f.Name.Name + "." + of + fn.Name.Name
			seen[key] = true
			if !strings.Contains(types.ExprString(fn.Type), "~float64") {
				assert.Contains(t, bare, key, "give its figures the types of unit, or say why they have none")
			}
		}
		return nil
	})
	require.NoError(t, err)
	for key := range bare {
		assert.True(t, seen[key], "%s is gone", key)
	}
}
