package message_test

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/message"
)

// A sentence reads as fmt would print it.
func TestReadsAsPrinted(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		id, args := "", []any{}
		for range rapid.IntRange(0, 5).Draw(t, "pieces") {
			id += strings.ReplaceAll(rapid.StringMatching(`[a-zµ ,.“”°]{0,8}`).Draw(t, "words"), "%", "")
			switch rapid.IntRange(0, 2).Draw(t, "place") {
			case 0:
				id, args = id+"%s", append(args, rapid.StringMatching(`[a-z%°]{0,6}`).Draw(t, "name"))
			case 1:
				id, args = id+"%d", append(args, rapid.IntRange(-99, 99).Draw(t, "count"))
			default:
				id += "%%"
			}
		}
		got := message.F(id, args...)
		if want := fmt.Sprintf(id, args...); got.String() != want {
			t.Fatalf("%q, not %q", got, want)
		}
		if message.Places(id) != len(args) {
			t.Fatalf("%q has %d places", id, message.Places(id))
		}
		if both := message.As("x").And(got).String(); both != "x"+got.String() {
			t.Fatalf("%q", both)
		}
	})
}

// In another language the places are filled the same; a sentence it does not have
// stays as it is.
func TestInAnotherLanguage(t *testing.T) {
	s := message.F("Step %d turns the %s", 3, "crank")
	assert.Equal(t, "Schritt 3 dreht: crank", s.In(map[string]string{s.ID: "Schritt %d dreht: %s"}))
	assert.Equal(t, "Step 3 turns the crank", s.In(map[string]string{"something else": "x"}))
	assert.Equal(t, "100 % of it", message.F("100 %% of it").String())
	assert.Equal(t, "50 %", message.As("50 %").String())
	assert.Equal(t, "If it fails: step 3 turns", message.F("If it fails: ").And(message.F("%s turns", "Step 3").Lower()).String())
	assert.Equal(t, "nobody looks", message.F("Nobody looks").Lower().String())
	assert.Empty(t, message.F("").Lower().String())
}

// Every sentence of the rules of pages and sheets has as many places as things to
// put there, and stands in the list a translator works from, docs/messages.txt.
func TestEveryMessage(t *testing.T) {
	ids := []string{}
	for _, dir := range []string{"../proof/pageproof", "../proof/sheetproof"} {
		files, err := filepath.Glob(filepath.Join(dir, "*.go"))
		require.NoError(t, err)
		for _, f := range files {
			if strings.HasSuffix(f, "_test.go") {
				continue
			}
			set := token.NewFileSet()
			tree, err := parser.ParseFile(set, f, nil, 0)
			require.NoError(t, err)
			ast.Inspect(tree, func(n ast.Node) bool {
				call, ok := n.(*ast.CallExpr)
				if !ok {
					return true
				}
				fun, ok := call.Fun.(*ast.SelectorExpr)
				if pkg, named := packageOf(fun, ok); !named || pkg != "message" || fun.Sel.Name != "F" {
					return true
				}
				lit, ok := call.Args[0].(*ast.BasicLit)
				if !assert.True(t, ok, "%s: the id of a message is written out", set.Position(call.Pos())) {
					return true
				}
				id, err := strconv.Unquote(lit.Value)
				require.NoError(t, err)
				assert.Equal(t, message.Places(id), len(call.Args)-1, "%s: %q", set.Position(call.Pos()), id)
				ids = append(ids, id)
				for _, arg := range call.Args[1:] {
					ast.Inspect(arg, func(n ast.Node) bool {
						if inner, ok := n.(*ast.CallExpr); ok {
							fun, ok := inner.Fun.(*ast.SelectorExpr)
							if pkg, named := packageOf(fun, ok); named && pkg == "message" {
								return false // a message of its own
							}
						}
						if lit, ok := n.(*ast.BasicLit); ok && lit.Kind == token.STRING {
							assert.NotRegexp(t, "[a-z]{3}", lit.Value, "%s: words stand in a message of their own", set.Position(lit.Pos()))
						}
						return true
					})
				}
				return true
			})
		}
	}
	slices.Sort(ids)
	ids = slices.Compact(ids)
	assert.Greater(t, len(ids), 300)
	const list = "../../../docs/messages.txt"
	want := strings.Join(ids, "\n") + "\n"
	if os.Getenv("UPDATE") != "" {
		require.NoError(t, os.WriteFile(list, []byte(want), 0o644))
	}
	have, err := os.ReadFile(list)
	require.NoError(t, err)
	assert.Equal(t, want, string(have), "UPDATE=1 writes the list anew")
}

func packageOf(s *ast.SelectorExpr, ok bool) (string, bool) {
	if !ok {
		return "", false
	}
	x, ok := s.X.(*ast.Ident)
	if !ok {
		return "", false
	}
	return x.Name, true
}
