package desk

import (
	"go/ast"
	"go/parser"
	"go/token"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The rooms have narrow faces, the library below them calls none, and who comes in needs
// only somebody to send links.
func TestRooms(t *testing.T) {
	desk := reflect.TypeFor[*Desk]()
	for i := range desk.NumMethod() {
		assert.Contains(t, []string{"Signing", "Log"}, desk.Method(i).Name, "the desk itself does nothing: its rooms do")
	}
	assert.Zero(t, reflect.TypeFor[*library]().NumMethod(), "the library is no room")
	for room := range reflect.TypeFor[Desk]().Fields() {
		if room.IsExported() {
			assert.LessOrEqual(t, room.Type.NumMethod(), 26, "%s has a wide face", room.Name)
		}
	}

	set := token.NewFileSet()
	names, err := filepath.Glob("*.go")
	require.NoError(t, err)
	seen := 0
	for _, name := range names {
		if strings.HasSuffix(name, "_test.go") {
			continue
		}
		file, err := parser.ParseFile(set, name, nil, 0)
		require.NoError(t, err)
		for _, d := range file.Decls {
			f, ok := d.(*ast.FuncDecl)
			if !ok || f.Recv == nil {
				continue
			}
			star, ok := f.Recv.List[0].Type.(*ast.StarExpr)
			if !ok {
				continue
			}
			from := star.X.(*ast.Ident).Name
			ast.Inspect(f.Body, func(n ast.Node) bool {
				to, ok := n.(*ast.SelectorExpr)
				if !ok {
					return true
				}
				if rooms, ok := to.X.(*ast.SelectorExpr); ok && rooms.Sel.Name == "rooms" {
					seen++
					assert.NotEqual(t, "library", from, "%s goes into %s", f.Name.Name, to.Sel.Name)
					assert.True(t, from != "Access" || slices.Contains([]string{"Jobs"}, to.Sel.Name), "%s goes into %s", f.Name.Name, to.Sel.Name)
				}
				return true
			})
		}
	}
	assert.Positive(t, seen)
}
