package core_test

import (
	"go/ast"
	"go/token"
	"strings"
	"testing"

	"golang.org/x/tools/go/packages"
)

// Outside of tests a parameter is named by its constant: a word typed out is not found when the vocabulary changes. The types of the compiler tell which text is a
// parameter's name, so that a reading or a label of the same letters is let pass.
func TestParametersAreNamedByConstants(t *testing.T) {
	fset := token.NewFileSet()
	all, err := packages.Load(&packages.Config{Mode: packages.NeedName | packages.NeedFiles | packages.NeedSyntax | packages.NeedTypes | packages.NeedTypesInfo | packages.NeedImports | packages.NeedDeps, Fset: fset}, "glossator/...")
	if err != nil {
		t.Fatal(err)
	}
	looked := 0
	for _, p := range all {
		for _, e := range p.Errors {
			t.Fatal(e)
		}
		for _, f := range p.Syntax {
			if name := fset.Position(f.Pos()).Filename; strings.HasSuffix(name, "core/meaning/names.go") {
				continue
			}
			looked++
			ast.Inspect(f, func(n ast.Node) bool {
				l, ok := n.(*ast.BasicLit)
				if !ok || l.Kind != token.STRING || l.Value == `""` {
					return true
				}
				if typ := p.TypesInfo.TypeOf(l); typ != nil && strings.HasSuffix(typ.String(), "core/meaning.ParamName") {
					t.Errorf("%s: %s is a parameter's name typed out", fset.Position(l.Pos()), l.Value)
				}
				return true
			})
		}
	}
	if looked < 150 {
		t.Errorf("only %d files were read", looked)
	}
}
