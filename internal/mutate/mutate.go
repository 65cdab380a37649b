// Package mutate makes deliberate faults in Go source, one at a time, to see
// whether a test notices. The kinds of fault are fixed here; which of all
// possible ones are tried is drawn by a seed from outside.
package mutate

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"slices"
	"strconv"
	"strings"
)

// Mutant is one fault: a piece of a file's text that is replaced.
type Mutant struct {
	ID       string // of the declaration's text and the fault: the same as long as they are
	File     string
	Line     int
	Last     int    // line of its end
	Within   Span   // the declaration that it is made in
	Kind     string // of fault
	Was, Now string
	from, to int
}

// Apply gives the source with the fault in it.
func (m *Mutant) Apply(source []byte) []byte {
	return []byte(string(source[:m.from]) + m.Now + string(source[m.to:]))
}

// swaps are the operators that are put for others, by kind of fault.
var swaps = map[token.Token]struct {
	kind string
	now  token.Token
}{
	token.LSS: {"comparison", token.LEQ}, token.LEQ: {"comparison", token.LSS}, token.GTR: {"comparison", token.GEQ},
	token.GEQ: {"comparison", token.GTR},
	token.EQL: {"comparison", token.NEQ}, token.NEQ: {"comparison", token.EQL},
	token.ADD: {"sign", token.SUB}, token.SUB: {"sign", token.ADD}, token.MUL: {"sign", token.QUO},
	token.QUO:  {"sign", token.MUL},
	token.LAND: {"dropped term", token.ILLEGAL}, token.LOR: {"dropped term", token.ILLEGAL},
	token.ADD_ASSIGN: {"sign", token.SUB_ASSIGN}, token.SUB_ASSIGN: {"sign", token.ADD_ASSIGN},
}

// Mutants lists every fault that can be made in a file.
func Mutants(file string, source []byte) ([]Mutant, error) {
	set := token.NewFileSet()
	tree, err := parser.ParseFile(set, file, source, parser.SkipObjectResolution)
	if err != nil {
		return nil, err
	}
	f := &finder{file: file, source: source, set: set}
	for _, d := range tree.Decls {
		f.within = d
		ast.Inspect(d, f.visit)
	}
	return f.list, nil
}

type finder struct {
	file   string
	source []byte
	set    *token.FileSet
	within ast.Decl
	list   []Mutant
}

func (f *finder) text(from, to token.Pos) string {
	return string(f.source[f.set.Position(from).Offset:f.set.Position(to).Offset])
}

func (f *finder) add(kind string, from, to token.Pos, now string) {
	m := Mutant{File: f.file, Line: f.set.Position(from).Line, Last: f.set.Position(to).Line, Kind: kind,
		Was: f.text(from, to), Now: now, from: f.set.Position(from).Offset, to: f.set.Position(to).Offset}
	m.Within = Span{f.set.Position(f.within.Pos()).Line, f.set.Position(f.within.End()).Line}
	begins := f.set.Position(f.within.Pos()).Offset
	sum := sha256.Sum256(fmt.Append(nil, f.file, f.text(f.within.Pos(), f.within.End()), m.from-begins, m.to-begins, kind,
		now))
	m.ID = hex.EncodeToString(sum[:6])
	f.list = append(f.list, m)
}

func (f *finder) visit(n ast.Node) bool {
	switch n := n.(type) {
	case *ast.GenDecl:
		return n.Tok == token.CONST || n.Tok == token.VAR
	case *ast.Field, *ast.ImportSpec:
		return false // types and tags
	case *ast.BinaryExpr:
		f.binary(n)
	case *ast.AssignStmt:
		if s, ok := swaps[n.Tok]; ok {
			f.add(s.kind, n.TokPos, n.TokPos+token.Pos(len(n.Tok.String())), s.now.String())
		}
	case *ast.UnaryExpr:
		if n.Op == token.NOT {
			f.add("dropped not", n.Pos(), n.End(), f.text(n.X.Pos(), n.X.End()))
		}
	case *ast.BasicLit:
		f.constant(n)
	case *ast.CallExpr:
		if name, ok := n.Fun.(*ast.Ident); ok && len(n.Args) > 1 {
			if other := map[string]string{"min": "max", "max": "min"}[name.Name]; other != "" {
				f.add("comparison", name.Pos(), name.End(), other)
			}
		}
	case *ast.ReturnStmt:
		f.returned(n)
	}
	return true
}

// binary swaps an operator, or drops a term of a sum, a product or a condition.
func (f *finder) binary(n *ast.BinaryExpr) {
	s, ok := swaps[n.Op]
	if !ok || isText(n.X) || isText(n.Y) {
		return
	}
	if s.now != token.ILLEGAL {
		f.add(s.kind, n.OpPos, n.OpPos+token.Pos(len(n.Op.String())), s.now.String())
	}
	switch n.Op {
	case token.ADD, token.MUL, token.LAND, token.LOR:
		f.add("dropped term", n.Pos(), n.End(), f.text(n.X.Pos(), n.X.End()))
	}
}

func isText(x ast.Expr) bool {
	switch x := x.(type) {
	case *ast.BasicLit:
		return x.Kind == token.STRING
	case *ast.BinaryExpr:
		return isText(x.X) || isText(x.Y)
	case *ast.CallExpr:
		if s, ok := x.Fun.(*ast.SelectorExpr); ok {
			return strings.HasPrefix(s.Sel.Name, "Sprint")
		}
	}
	return false
}

// constant makes a number half as large again, a whole one larger by one.
func (f *finder) constant(n *ast.BasicLit) {
	switch n.Kind {
	case token.INT:
		if v, err := strconv.ParseInt(n.Value, 0, 64); err == nil {
			f.add("constant", n.Pos(), n.End(), strconv.FormatInt(v+1, 10))
		}
	case token.FLOAT:
		if v, err := strconv.ParseFloat(n.Value, 64); err == nil && v != 0 {
			f.add("constant", n.Pos(), n.End(), strconv.FormatFloat(v*1.5, 'g', -1, 64))
		}
	}
}

// returned answers the other way round, or with two results swapped.
func (f *finder) returned(n *ast.ReturnStmt) {
	for _, r := range n.Results {
		if id, ok := r.(*ast.Ident); ok {
			if other := map[string]string{"true": "false", "false": "true"}[id.Name]; other != "" {
				f.add("swapped return", id.Pos(), id.End(), other)
			}
		}
	}
	if len(n.Results) == 2 {
		a, okA := n.Results[0].(*ast.Ident)
		b, okB := n.Results[1].(*ast.Ident)
		if okA && okB && a.Name != "nil" && b.Name != "nil" && b.Name != "err" {
			f.add("swapped return", a.Pos(), b.End(), b.Name+", "+a.Name)
		}
	}
}

// Draw draws so many of a list, each at most once, the same ones for the same
// seed: a change in one file leaves what is drawn of the others as it was.
func Draw(list []Mutant, count int, seed uint64) []Mutant {
	rank := func(m Mutant) string {
		sum := sha256.Sum256(fmt.Appendf(nil, "%d %s", seed, m.ID))
		return string(sum[:])
	}
	drawn := slices.Clone(list)
	slices.SortFunc(drawn, func(a, b Mutant) int { return cmp.Compare(rank(a), rank(b)) })
	return drawn[:min(count, len(drawn))]
}
