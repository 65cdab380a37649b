package mutate

import (
	"go/ast"
	"go/parser"
	"go/token"
	"path/filepath"
)

// Source is a file with its text.
type Source struct {
	Path string // below the module's root
	Text []byte
}

// Uses tells where what a fault changes outside every function is named: lines by file. Nothing for a fault in a
// function. What a name stands for is told by the package's name before it, or by the folder.
func Uses(m *Mutant, files []Source) (map[string][]Span, error) {
	var own *Source
	for i := range files {
		if files[i].Path == m.File {
			own = &files[i]
		}
	}
	if own == nil {
		return nil, nil
	}
	pkg, names, err := declares(m, own.Text)
	if err != nil || names == nil {
		return nil, err
	}
	uses := map[string][]Span{}
	for _, f := range files {
		set := token.NewFileSet()
		tree, err := parser.ParseFile(set, f.Path, f.Text, parser.SkipObjectResolution)
		if err != nil {
			return nil, err
		}
		add := func(n ast.Node) {
			uses[f.Path] = append(uses[f.Path], Span{set.Position(n.Pos()).Line, set.Position(n.End()).Line})
		}
		same := filepath.Dir(f.Path) == filepath.Dir(m.File)
		ast.Inspect(tree, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.SelectorExpr:
				if x, ok := n.X.(*ast.Ident); ok && x.Name == pkg && names[n.Sel.Name] {
					add(n)
				}
			case *ast.Ident:
				if same && names[n.Name] {
					add(n)
				}
			}
			return true
		})
	}
	return uses, nil
}

// declares tells the package of a fault, and the names of the declaration that it is in.
func declares(m *Mutant, text []byte) (pkg string, names map[string]bool, err error) {
	set := token.NewFileSet()
	tree, err := parser.ParseFile(set, m.File, text, parser.SkipObjectResolution)
	if err != nil {
		return "", nil, err
	}
	for _, d := range tree.Decls {
		g, ok := d.(*ast.GenDecl)
		if !ok || m.from < set.Position(g.Pos()).Offset || m.to > set.Position(g.End()).Offset {
			continue
		}
		names = map[string]bool{}
		for _, s := range g.Specs {
			v, ok := s.(*ast.ValueSpec)
			if !ok || m.to < set.Position(v.Pos()).Offset || m.from > set.Position(v.End()).Offset {
				continue
			}
			for _, n := range v.Names {
				names[n.Name] = true
			}
		}
	}
	return tree.Name.Name, names, nil
}
