package site

import (
	"cmp"
	"fmt"
	"log/slog"
	"mime"
	"path"
	"strings"
	"unicode"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/figure"
	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/core/report"
	"coldtap/internal/spreadsheet"
	"coldtap/internal/tables"
)

// RuleGroup is rules that are shown together.
type RuleGroup struct {
	Name  string
	Rules []RuleField
}

// RuleField is a rule as a field of a form.
type RuleField struct {
	house.Rule
	Value  string
	Before string // what it is without being asked otherwise
	Whose  string
	Asked  bool

	Version int // of the rule in the scope that is edited; 0 where it was never set there
}

// RuleGroups are all rules of a house, with what was typed instead.
func RuleGroups(h house.House, sys quantity.System, typed map[string]string) (list []RuleGroup) {
	for _, r := range house.Rules() {
		if len(list) == 0 || list[len(list)-1].Name != r.Group {
			list = append(list, RuleGroup{Name: r.Group})
		}
		f := RuleField{Rule: r, Value: h.Text(r.ID, sys), Before: h.Text(r.ID, sys), Whose: h.By(r.ID)}
		if v, ok := typed[r.ID]; ok {
			f.Value, f.Asked = v, true
		}
		g := &list[len(list)-1]
		g.Rules = append(g.Rules, f)
	}
	return list
}

// usedRules says which rules the figures whose ids begin so used, their values
// and whose they are.
func usedRules(r *report.Report, prefixes ...string) string {
	used := map[string]bool{}
	for _, in := range figure.Reads(r.Figures, prefixes...) {
		used[in.Of] = used[in.Of] || in.Kind == record.Rule
	}
	var list []string
	for _, rule := range house.Rules() {
		if used[rule.ID] {
			list = append(list, fmt.Sprintf("%s %s (%s)", rule.Name, r.House.Text(rule.ID, r.Sys), r.House.By(rule.ID)))
		}
	}
	if list == nil {
		return "no rule of the house"
	}
	return strings.Join(list, "; ")
}

// Both writes a quantity in both systems.
func Both[U quantity.Unit](v U, sys quantity.System) string { return quantity.Both(v, sys) }

// Strength writes a strength, which has one unit.
func Strength(v quantity.MgPerLitre) string { return quantity.Show(v, quantity.SI) }

// quantityOf writes a quantity of any kind in one system, for templates.
func quantityOf(v any, sys quantity.System) (string, error) {
	switch v := v.(type) {
	case quantity.Percent:
		return quantity.Show(v, sys), nil
	case quantity.Metre:
		return quantity.Show(v, sys), nil
	case quantity.Second:
		return quantity.Neat(v, sys), nil
	}
	return "", fmt.Errorf("a %T is not written in one system", v)
}

// quantityBoth writes a quantity of any kind in both systems, for templates.
func quantityBoth(v any, sys quantity.System) (string, error) {
	switch v := v.(type) {
	case quantity.Kilogram:
		return quantity.Both(v, sys), nil
	case quantity.Kilopascal:
		return quantity.Both(v, sys), nil
	}
	return "", fmt.Errorf("a %T is not written in both systems", v)
}

// Download says that a file follows. Of its name stays what every system takes.
func Download(c *gin.Context, kind, name string) {
	c.Header("Content-Type", kind)
	c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": CleanName(name)}))
}

// CleanName makes a name that every system takes as that of a file: no paths, nothing that is
// not seen, not too long, and never empty.
func CleanName(name string) string {
	name = strings.Map(func(r rune) rune {
		switch {
		case r == '/' || r == '\\' || strings.ContainsRune(`<>:"|?*%;`, r):
			return '-'
		case !unicode.IsPrint(r):
			return -1
		}
		return r
	}, name)
	ext := path.Ext(name)
	if len(ext) > 8 || ext == "." {
		ext = ""
	}
	stem := []rune(strings.Trim(strings.TrimSuffix(name, ext), " .-"))
	if len(stem) > 80 {
		stem = stem[:80]
	}
	return cmp.Or(string(stem), "file") + ext
}

// Sheets are tables as a spreadsheet takes them.
func Sheets(all []tables.Table) (list []spreadsheet.Table) {
	for _, t := range all {
		list = append(list, spreadsheet.Table(t))
	}
	return list
}

// SendXLSX answers with a workbook. An error comes too late to be shown.
func SendXLSX(c *gin.Context, name string, list []spreadsheet.Table) {
	Download(c, "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", name+".xlsx")
	if err := spreadsheet.WriteXLSX(c.Writer, list); err != nil {
		slog.Error("xlsx", "error", err)
	}
}

// Push makes the address that the reader sees that of the page whose part is answered;
// the pane of its rail is no part of it.
func Push(c *gin.Context, board, page string) {
	q := c.Request.URL.Query()
	again := q.Get("again") != "" // another pane of what is seen already
	q.Del("pane")
	q.Del("again")
	to := strings.TrimSuffix(c.Request.URL.Path, board) + page
	if rest := q.Encode(); rest != "" {
		to += "?" + rest
	}
	if !again {
		c.Header("HX-Push-Url", to)
	}
}
