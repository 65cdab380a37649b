package reading

import (
	"regexp"
	"strconv"
	"strings"

	"coldtap/internal/core/quantity"
)

// amount is a quantity that a text has.
type amount struct {
	from, to  int
	low, high string // with its unit each; equal where it is no range
	unit      string
	digits    float64 // half of what its last digit stands for, in its unit
	bracket   bool    // it stands in brackets behind another: the same once more
	count     float64 // of a bare count; the unit is what is counted
	number    int     // of a bare count, where its number ends; 0 for one in a word that is the whole
}

const numberRE = `(?:\d+(?:[.,]\d+)?(?:\s+\d+/\d+|\s?[¼½¾⅓⅔⅛⅜⅝⅞])?|\d+/\d+|[¼½¾⅓⅔⅛⅜⅝⅞])`

// unitRE are the units that are looked for; the longer ones stand first.
const unitRE = `(?:US gallons?|US gal|imp gallons?|imp gal|gallons per minute|gal/min|gpm|litres per minute|L/min|` +
	`lpm|gallons?|gals?|lit(?:re|er)s?|millilit(?:re|er)s?|mL|L|fluid ounces?|fl\.? ?oz|ounces?|oz|cups?|tablespoons?|` +
	`tbsp|teaspoons?|tsp|quarts?|qt|pints?|pt|psi|bar|kPa|mg/L|ppm|°F|°C|hours?|hrs?|h|minutes?|mins?|min|seconds?|` +
	`secs?|s|pounds?|lbs?|kilograms?|kg|amps?|A|%|percent|per cent)`

var (
	quantityRE = regexp.MustCompile(`(?i)(-?` + numberRE + `)(?:\s*(?:to|–|—|-)\s*(` + numberRE + `))?[\s\x{00a0}-]?` +
		`(` + unitRE + `)(?:\s(\d+)\s?(min|minutes))?(?:[^a-zA-Z/]|$)`)
	wordRE = regexp.MustCompile(`(?i)\b(half a|a half|a quarter|one quarter|quarter|three quarters|a|one|two|three|four|` +
		`five|six|seven|eight|nine|ten|twelve)[\s-](?:of a )?(gallons?|lit(?:re|er)s?|cups?|tablespoons?|teaspoons?|` +
		`ounces?|hours?|minutes?)\b`)
	countRE = regexp.MustCompile(`(?i)\b(once|twice|(?:(\d+)|(one|two|three|four|five|six)) (times|refills?|rinses?|` +
		`jugs?|containers?|jerrycans?))\b`)
)

// counted are numbers in words.
var counted = map[string]float64{"half a": 0.5, "a half": 0.5, "a quarter": 0.25, "one quarter": 0.25, "quarter": 0.25,
	"three quarters": 0.75, "a": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8,
	"nine": 9, "ten": 10, "twelve": 12, "once": 1, "twice": 2}

// quantities finds the amounts that a sentence has, in their order.
func quantities(s string) (list []amount) {
	for at := 0; ; {
		m := quantityRE.FindStringSubmatchIndex(s[at:])
		if m == nil {
			break
		}
		group := func(i int) string {
			if m[2*i] < 0 {
				return ""
			}
			return s[at+m[2*i] : at+m[2*i+1]]
		}
		a := amount{from: at + m[2], to: at + m[7], unit: group(3)}
		a.low = group(1) + " " + a.unit
		if a.high = a.low; group(2) != "" {
			a.high = group(2) + " " + a.unit
		}
		if group(4) != "" { // 1 h 30 min
			a.low += " " + group(4) + " min"
			a.high, a.to = a.low, at+m[11]
		}
		a.digits = lastDigit(group(1))
		a.bracket = strings.HasSuffix(strings.TrimRight(s[:a.from], " "), "(") && len(list) > 0
		if a.from == 0 || !midNumber(s[a.from-1]) {
			list = append(list, a)
		}
		at = a.to
	}
	for _, m := range wordRE.FindAllStringSubmatchIndex(s, -1) {
		word, unit := strings.ToLower(s[m[2]:m[3]]), s[m[4]:m[5]]
		text := strconv.FormatFloat(counted[word], 'f', -1, 64) + " " + unit
		if !overlaps(list, m[0], m[1]) {
			list = append(list, amount{from: m[0], to: m[1], low: text, high: text, unit: unit})
		}
	}
	for _, m := range countRE.FindAllStringSubmatchIndex(s, -1) {
		a := amount{from: m[0], to: m[1], unit: "times"}
		switch word := strings.ToLower(s[m[2]:m[3]]); {
		case m[4] >= 0:
			a.number = m[5]
			a.count, _ = strconv.ParseFloat(s[m[4]:m[5]], 64) // digits, by the expression
		case m[6] >= 0:
			a.number = m[7]
			a.count = counted[strings.ToLower(s[m[6]:m[7]])]
		default:
			a.count = counted[word]
		}
		if m[8] >= 0 {
			a.unit = strings.TrimSuffix(strings.ToLower(s[m[8]:m[9]]), "s")
			a.unit = map[string]string{"time": "times"}[a.unit] + map[bool]string{true: a.unit}[a.unit != "time"]
		}
		if !overlaps(list, m[0], m[1]) {
			list = append(list, a)
		}
	}
	sortAmounts(list)
	return list
}

func midNumber(c byte) bool { return c >= '0' && c <= '9' || c == '.' || c == ',' || c == '/' }

func overlaps(list []amount, from, to int) bool {
	for _, a := range list {
		if from < a.to && a.from < to {
			return true
		}
	}
	return false
}

// lastDigit is half of what the last digit of a number stands for.
func lastDigit(number string) float64 {
	number = strings.TrimLeft(number, "-")
	if strings.ContainsAny(number, "/¼½¾⅓⅔⅛⅜⅝⅞") {
		return 0
	}
	if i := strings.IndexAny(number, ".,"); i >= 0 {
		v := 0.5
		for range len(number) - i - 1 {
			v /= 10
		}
		return v
	}
	return 0.5
}

// as reads an amount as one of a kind; ok is false where it is of another kind.
func as[U quantity.Unit](a amount) (low, high, digits float64, ok bool) {
	l, err := quantity.Parse[U](a.low)
	if err != nil {
		return 0, 0, 0, false
	}
	h, err := quantity.Parse[U](a.high)
	if err != nil {
		return 0, 0, 0, false
	}
	if d, err := quantity.Parse[U]("1 " + a.unit); err == nil {
		if zero, err := quantity.Parse[U]("0 " + a.unit); err == nil {
			digits = a.digits * float64(d-zero)
		}
	}
	return float64(l), float64(h), digits, true
}
