package mutate

import (
	"bytes"
	"cmp"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"slices"
)

// Fault is a mutant with the number by which it is switched on.
type Fault struct {
	*Mutant
	Number int
}

// Schema is a file with several faults in it, each of which can be switched on.
type Schema struct {
	Source []byte
	Alone  []Fault // can't be built in beside others: each needs a build of its own
	lines  []span
}

// span is the lines on which the copy with a fault stands.
type span struct{ first, last, number int }

// At is the fault in whose copy a line of the source stands; -1 for none.
func (s *Schema) At(line int) int {
	for _, l := range s.lines {
		if line >= l.first && line <= l.last {
			return l.number
		}
	}
	return -1
}

const imported = `; import mutantOn "coldtap/internal/mutate/on"`

// Build builds faults into a file: a function with a fault begins with a copy of its body that has the fault in it and
// runs when it is on, and a variable of the package picks between two values.
func Build(file string, source []byte, faults []Fault) (*Schema, error) {
	set := token.NewFileSet()
	tree, err := parser.ParseFile(set, file, source, parser.SkipObjectResolution)
	if err != nil {
		return nil, err
	}
	b := &builder{source: source, set: set, schema: &Schema{}}
	b.insert(b.at(tree.Name.End()), imported, -1)
	for _, f := range faults {
		if !slices.ContainsFunc(tree.Decls, func(d ast.Decl) bool { return b.build(d, f) }) {
			b.schema.Alone = append(b.schema.Alone, f)
		}
	}
	if len(b.schema.Alone) == len(faults) {
		b.inserts = nil
	}
	b.write()
	return b.schema, nil
}

type insert struct {
	at, number int
	text       string
}

type builder struct {
	source  []byte
	set     *token.FileSet
	inserts []insert
	schema  *Schema
}

func (b *builder) at(p token.Pos) int { return b.set.Position(p).Offset }

func (b *builder) insert(at int, text string, number int) {
	b.inserts = append(b.inserts, insert{at, number, text})
}

// build builds a fault into the declaration that holds it; false where it does not, or it can't be.
func (b *builder) build(d ast.Decl, f Fault) bool {
	if f.from < b.at(d.Pos()) || f.to > b.at(d.End()) {
		return false
	}
	switch d := d.(type) {
	case *ast.FuncDecl:
		return d.Body != nil && f.from > b.at(d.Body.Lbrace) && b.function(d, f)
	case *ast.GenDecl:
		return d.Tok == token.VAR && slices.ContainsFunc(d.Specs, func(s ast.Spec) bool {
			return b.variable(s.(*ast.ValueSpec), f)
		})
	}
	return false
}

// function puts a copy of the body with the fault before the body. A label would stand twice, and a named result that
// is declared anew at the top of the body would be another in a block.
func (b *builder) function(d *ast.FuncDecl, f Fault) bool {
	if labelled(d.Body) || d.Type.Results != nil && declaresAnew(d) {
		return false
	}
	from, to := b.at(d.Body.Lbrace)+1, b.at(d.Body.Rbrace)
	text := fmt.Sprintf("\nif mutantOn.This(%d) {%s%s%s\n", f.Number, b.source[from:f.from], f.Now, b.source[f.to:to])
	if d.Type.Results == nil {
		text += "return\n"
	}
	b.insert(from, text+"}\n", f.Number)
	return true
}

func labelled(body *ast.BlockStmt) (found bool) {
	ast.Inspect(body, func(n ast.Node) bool {
		_, is := n.(*ast.LabeledStmt)
		found = found || is
		return !found
	})
	return found
}

func declaresAnew(d *ast.FuncDecl) bool {
	named := map[string]bool{}
	for _, r := range d.Type.Results.List {
		for _, n := range r.Names {
			named[n.Name] = true
		}
	}
	return slices.ContainsFunc(d.Body.List, func(s ast.Stmt) bool {
		a, ok := s.(*ast.AssignStmt)
		return ok && a.Tok == token.DEFINE && slices.ContainsFunc(a.Lhs, func(x ast.Expr) bool {
			id, ok := x.(*ast.Ident)
			return ok && named[id.Name]
		})
	})
}

// variable lets a variable of the package pick its value.
func (b *builder) variable(s *ast.ValueSpec, f Fault) bool {
	for _, v := range s.Values {
		from, to := b.at(v.Pos()), b.at(v.End())
		if f.from < from || f.to > to {
			continue
		}
		typed := ""
		if s.Type != nil {
			typed = fmt.Sprintf("[%s]", b.source[b.at(s.Type.Pos()):b.at(s.Type.End())])
		}
		b.insert(from, fmt.Sprintf("mutantOn.Pick%s(%d, %s%s%s, ", typed, f.Number, b.source[from:f.from], f.Now,
			b.source[f.to:to]), f.Number)
		b.insert(to, ")", f.Number)
		return true
	}
	return false
}

// write writes the source with all that is inserted, and notes on which lines each fault stands.
func (b *builder) write() {
	slices.SortStableFunc(b.inserts, func(x, y insert) int { return cmp.Compare(x.at, y.at) })
	var out bytes.Buffer
	done, line := 0, 1
	put := func(text []byte) {
		out.Write(text)
		line += bytes.Count(text, []byte("\n"))
	}
	for _, in := range b.inserts {
		put(b.source[done:in.at])
		done = in.at
		first := line
		put([]byte(in.text))
		if in.number >= 0 {
			b.schema.lines = append(b.schema.lines, span{first, line, in.number})
		}
	}
	put(b.source[done:])
	b.schema.Source = out.Bytes()
}
