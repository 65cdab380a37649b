package web_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/internal/browser"
)

// measureFelt is what a page measures of itself: from the hand's act to the first
// picture that shows the answer. A change of the address or a notice is not waited for.
const measureFelt = `
window.felt = (act) => {
  const began = performance.now();
  window.took = 0;
  const after = () => requestAnimationFrame(() => setTimeout(() => { window.took = performance.now() - began; }, 0));
  document.addEventListener("htmx:afterSettle", after, { once: true });
  act();
  return true;
}; true`

// BenchmarkFelt measures what an author feels in the browser: a handle turned, a field of
// the inspector, a cell of the grid, undo, on the largest demo model.
func BenchmarkFelt(b *testing.B) {
	w := open(b)
	page := visit(b, w.url, 1280, 800)
	const model = "/models/schist-31-2027"
	set := `(() => { const el = document.querySelector(%q); el.value = "%d in"; ` +
		`el.dispatchEvent(new Event("input", { bubbles: true })); el.dispatchEvent(new Event("change", { bubbles: true })); })()`
	figure := `(() => { const form = document.querySelector("#b-figures .blocktools form"); ` +
		`htmx.ajax("POST", form.getAttribute("hx-post"), { source: form, swap: "none", values: { do: "figure", ` +
		`figure: "soak", value: "%d h to 8 h", reason: "as it is done here" } }); })()`
	for _, x := range []struct {
		name, path string
		act        func(i int) string
	}{
		{"figure", model + "/guide?edit=yes", func(i int) string { return fmt.Sprintf(figure, 5+i%2) }},
		{"handle", model + "/settings", func(int) string {
			return `document.querySelector("#turn-valve-mains").dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true }))`
		}},
		{"inspector", model + "?part=tank-drain", func(i int) string { return fmt.Sprintf(set, "#in-line-length", 40+i%2) }},
		{"cell", model + "/grid", func(i int) string { return fmt.Sprintf(set, "#g-tank-drain-length", 40+i%2) }},
		{"undo", model + "?part=tank-drain", func(i int) string {
			if i%2 == 0 {
				return `document.querySelector("#undo").click()`
			}
			return `document.querySelector("#redo").click()`
		}},
	} {
		b.Run(x.name, func(b *testing.B) {
			require.NoError(b, page.Open(w.url+x.path))
			require.NoError(b, page.Wait(`document.readyState === "complete"`))
			if x.name == "figure" {
				require.NoError(b, page.WaitText("#guide", "Winterize"))
			}
			_, err := browser.Eval[bool](page, measureFelt)
			require.NoError(b, err)
			var list []float64
			for i := range 100 {
				_, err := browser.Eval[bool](page, "window.felt(() => "+x.act(i)+")")
				require.NoError(b, err)
				require.NoError(b, page.Wait("window.took > 0"))
				ms, err := browser.Eval[float64](page, "window.took")
				require.NoError(b, err)
				if i >= 20 { // the first ones warm the page up
					list = append(list, ms)
				}
			}
			slices.Sort(list)
			b.ReportMetric(list[len(list)*95/100], "p95-ms")
			b.ReportMetric(list[len(list)/2], "p50-ms")
			b.ReportMetric(0, "ns/op")
		})
	}
}
