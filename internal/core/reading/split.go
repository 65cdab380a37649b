package reading

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
)

// ends is where a sentence ends: not at a decimal point, nor at an abbreviation.
var ends = regexp.MustCompile(`[.!?]+["”')\]]*(\s+|$)`)

// Abbreviations: those whose point ends no sentence, and those whose point ends one where a capital letter follows.
var (
	short = regexp.MustCompile(`(?i)(^|\s)(e\.g|i\.e|approx|ca|no|fl|imp|vs|incl)\.$`)
	units = regexp.MustCompile(`(?i)(^|\s)(max|min|gal|oz|hr|hrs|sec|lb|lbs|ft|in)\.$`)
)

// split cuts a text into headings and sentences.
func split(text string) (list []Sentence) {
	for _, line := range strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		if h := strings.TrimLeft(line, "#"); h != line {
			list = append(list, Sentence{Text: strings.TrimSpace(h), Heading: true})
			continue
		}
		if headingLike(line) {
			list = append(list, Sentence{Text: line, Heading: true})
			continue
		}
		list = append(list, sentences(bullet.ReplaceAllString(line, ""))...)
	}
	return list
}

// bullet is what a line of a list begins with.
var bullet = regexp.MustCompile(`^([-*•–]|\d{1,2}[.)])\s+`)

// headingLike reports whether a line stands like a heading: a few words without a figure or an end.
func headingLike(line string) bool {
	return len(line) < 50 && !strings.ContainsAny(line, ".!?;:,0123456789¼½¾") && !bullet.MatchString(line) &&
		len(strings.Fields(line)) <= 6
}

func sentences(line string) (list []Sentence) {
	from := 0
	add := func(to int) {
		if t := strings.TrimSpace(line[from:to]); t != "" {
			list = append(list, Sentence{Text: t})
		}
		from = to
	}
	for _, m := range ends.FindAllStringIndex(line, -1) {
		so := line[from : m[0]+1]
		goesOn := m[1] < len(line) && line[m[1]] >= 'a' && line[m[1]] <= 'z'
		if !short.MatchString(so) && !(goesOn && units.MatchString(so)) {
			add(m[1])
		}
	}
	add(len(line))
	return list
}

func sortClaims(list []Claim) {
	slices.SortStableFunc(list, func(a, b Claim) int { return cmp.Compare(a.From, b.From) })
}

// window is the piece of a sentence around a place, up to the nearest break on either side that is not within
// brackets.
func window(s string, from, to int) (int, int) {
	begin, end := 0, len(s)
	for _, b := range breaks(s) {
		if b[1] <= from {
			begin = b[1]
		}
		if b[0] >= to {
			end = b[0]
			break
		}
	}
	return begin, end
}

// between are the words and marks at which a sentence goes on to something else.
var between = regexp.MustCompile(`[;:,]\s+|\s+(and|but|then|while|or)\s+|\s+–\s+`)

// breaks are the places at which a sentence goes on to something else, but for those within brackets.
func breaks(s string) (list [][]int) {
	for _, m := range between.FindAllStringIndex(s, -1) {
		if strings.Count(s[:m[0]], "(") == strings.Count(s[:m[0]], ")") {
			list = append(list, m)
		}
	}
	return list
}
