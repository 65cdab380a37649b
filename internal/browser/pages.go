package browser

import (
	"bytes"
	"regexp"
	"strconv"
)

var (
	objectRE = regexp.MustCompile(`(?s)(\d+) 0 obj\s*<<(/Type /Pages.*?|/Type /Catalog.*?)>>\s*endobj`)
	rootRE   = regexp.MustCompile(`/Pages (\d+) 0 R`)
	kidsRE   = regexp.MustCompile(`/Kids \[([^\]]*)\]`)
	refRE    = regexp.MustCompile(`(\d+) 0 R`)
	destRE   = regexp.MustCompile(`/([A-Za-z][\w#-]*) \[(\d+) 0 R /XYZ`)
)

// PageOf tells on which page of a PDF that the browser made each named place stands, from 1. By the ids of elements
// that links lead to. Nothing where the file is built in another way.
func PageOf(pdf []byte) map[string]int {
	kids, root := map[string][]string{}, ""
	for _, m := range objectRE.FindAllSubmatch(pdf, -1) {
		if bytes.HasPrefix(m[2], []byte("/Type /Catalog")) {
			if r := rootRE.FindSubmatch(m[2]); r != nil {
				root = string(r[1])
			}
			continue
		}
		if k := kidsRE.FindSubmatch(m[2]); k != nil {
			for _, r := range refRE.FindAllSubmatch(k[1], -1) {
				kids[string(m[1])] = append(kids[string(m[1])], string(r[1]))
			}
		}
	}
	number := map[string]int{}
	var walk func(id string, depth int)
	walk = func(id string, depth int) {
		if list, isTree := kids[id]; isTree && depth < 20 {
			for _, k := range list {
				walk(k, depth+1)
			}
			return
		}
		number[id] = len(number) + 1
	}
	if root != "" {
		walk(root, 0)
	}
	at := map[string]int{}
	for _, m := range destRE.FindAllSubmatch(pdf, -1) {
		if n := number[string(m[2])]; n > 0 {
			at[unescaped(string(m[1]))] = n
		}
	}
	return at
}

// unescaped is a name of a PDF without its escapes: #2D is "-".
func unescaped(name string) string {
	var b bytes.Buffer
	for i := 0; i < len(name); i++ {
		if name[i] == '#' && i+2 < len(name) {
			if v, err := strconv.ParseUint(name[i+1:i+3], 16, 8); err == nil {
				b.WriteByte(byte(v))
				i += 2
				continue
			}
		}
		b.WriteByte(name[i])
	}
	return b.String()
}
