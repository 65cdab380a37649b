package guide

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestMarkdownDoesNothingAndLoadsNothing(t *testing.T) {
	for text, want := range map[string]string{
		"Read **this**, *now*.":             "<p>Read <strong>this</strong>, <em>now</em>.</p>\n",
		"# Top\n\n##### Deep":               "<h3>Top</h3>\n<h6>Deep</h6>\n",
		"![x](https://example.org/x.png) a": "<p> a</p>\n",
		"<img src=x onerror=alert(1)> a":    "<p> a</p>\n",
		"<script>alert(1)</script>\n\na":    "\n<p>a</p>\n",
		"[go](javascript:alert(1))":         "<p>go</p>\n",
		"- one\n- two":                      "<ul>\n<li>one</li>\n<li>two</li>\n</ul>\n",
	} {
		assert.Equal(t, want, string(markdown(text)), text)
	}
	assert.Contains(t, string(markdown("[on](https://example.org/)")), `href="https://example.org/"`)
}
