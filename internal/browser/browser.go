// Package browser drives a headless Chromium: for the tests of the real
// interface, for pictures and for PDF.
package browser

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/css"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
)

// ErrMissing says that there is no browser.
var ErrMissing = errors.New("the browser Chromium is not installed; install the Debian package chromium-headless-shell " +
	"(or chromium)")

// Browser is a running Chromium.
type Browser struct {
	ctx   context.Context
	close []context.CancelFunc
}

// Find gives where the browser is; ErrMissing where there is none. The shell without windows comes first: it draws the
// same and takes half as long.
func Find() (string, error) {
	for _, name := range []string{"chromium-headless-shell", "chromium"} {
		if path, err := exec.LookPath(name); err == nil {
			return path, nil
		}
	}
	return "", ErrMissing
}

// Option changes how Chromium is started.
type Option = chromedp.ExecAllocatorOption

// Still are options for pages that nobody watches: nothing moves by itself, and no graphics processor is made up for
// what is drawn.
func Still() []Option {
	return []Option{chromedp.Flag("force-prefers-reduced-motion", true), chromedp.DisableGPU,
		chromedp.Flag("disable-gpu-rasterization", true)}
}

// Start starts Chromium. It ends with Close or with the parent context.
func Start(parent context.Context, more ...Option) (*Browser, error) {
	path, err := Find()
	if err != nil {
		return nil, err
	}
	// Flags that keep it from talking to anybody on its own.
	opts := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(path))
	opts = append(opts, more...)
	alloc, closeAlloc := chromedp.NewExecAllocator(parent, opts...)
	ctx, closeTab := chromedp.NewContext(alloc)
	b := &Browser{ctx: ctx, close: []context.CancelFunc{closeTab, closeAlloc}}
	if err := chromedp.Do(ctx, chromedp.Navigate("about:blank")); err != nil {
		b.Close()
		return nil, fmt.Errorf("start Chromium: %w", err)
	}
	return b, nil
}

// Close ends the browser.
func (b *Browser) Close() {
	for _, f := range b.close {
		f()
	}
}

// Page is a tab with its own viewport.
type Page struct {
	ctx   context.Context
	Close context.CancelFunc
}

// patience is how long somebody waits for what does not come: on a machine that has much else to do, all takes long.
const patience = time.Minute

// NewPage opens a tab of a size in CSS pixels.
func (b *Browser) NewPage(width, height int64) (*Page, error) {
	ctx, cancel := chromedp.NewContext(b.ctx)
	p := &Page{ctx: ctx, Close: cancel}
	err := chromedp.Do(ctx, chromedp.EmulateViewport(width, height))
	return p, err
}

// NewPageApart is NewPage in a profile of its own: somebody else can be signed in
// there at the same time.
func (b *Browser) NewPageApart(width, height int64) (*Page, error) {
	ctx, cancel := chromedp.NewContext(b.ctx, chromedp.WithNewBrowserContext())
	p := &Page{ctx: ctx, Close: cancel}
	return p, chromedp.Do(ctx, chromedp.EmulateViewport(width, height), chromedp.Func(deaf))
}

// Resize gives the page another size in CSS pixels.
func (p *Page) Resize(width, height int64) error {
	return p.do("resize", chromedp.EmulateViewport(width, height))
}

// Forget makes the page as a new one is: signed out, with the network, with no wish for light or dark, at an address.
func (p *Page) Forget(url string) error {
	if err := p.Offline(false); err != nil {
		return err
	}
	return p.do("forget", chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, a := cdp.Call(ctx, t, network.ClearBrowserCookies, cdp.Empty{})
		_, b := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{})
		return errors.Join(a, b)
	}), chromedp.Navigate(url))
}

// deaf leaves out that a tab tells of every style sheet and every request: nobody listens.
func deaf(ctx context.Context, t *chromedp.Target) error {
	_, a := cdp.Call(ctx, t, css.Disable, cdp.Empty{})
	_, b := cdp.Call(ctx, t, log.Disable, cdp.Empty{})
	_, c := cdp.Call(ctx, t, network.Disable, cdp.Empty{})
	return errors.Join(a, b, c)
}

func (p *Page) do(what string, steps ...chromedp.Action[chromedp.Void]) error {
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	if err := chromedp.Do(ctx, steps...); err != nil {
		return fmt.Errorf("%s: %w", what, err)
	}
	return nil
}

func ask[T any](p *Page, what string, a chromedp.Action[T]) (T, error) {
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	v, err := chromedp.Run(ctx, a)
	if err != nil {
		return v, fmt.Errorf("%s: %w", what, err)
	}
	return v, nil
}

// Open loads a page and waits until it is there.
func (p *Page) Open(url string) error { return p.do("open "+url, chromedp.Navigate(url)) }

// Cookie gives the page a cookie for an address.
func (p *Page) Cookie(c *http.Cookie, url string) error {
	return p.do("set a cookie", chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, network.SetCookie, network.SetCookieParams{Name: c.Name, Value: c.Value, URL: url})
		return err
	}))
}

// Click clicks the element of a CSS selector once it has come to rest: a click goes to a point, and what a swap or a
// font still moves is no longer there. A click that did not reach the element, for something took its place or swapped
// it away just then, is made again.
func (p *Page) Click(css string) error {
	const tries = 4
	for try := 1; ; try++ {
		if err := p.Wait(fmt.Sprintf(atRest, quote(css))); err != nil {
			return fmt.Errorf("click %s: %w", css, err)
		}
		if _, err := Eval[bool](p, fmt.Sprintf(listens, quote(css))); err != nil {
			return fmt.Errorf("click %s: %w", css, err)
		}
		err := p.do("click "+css, chromedp.Click(chromedp.CSS(css)))
		gone := err != nil && strings.Contains(err.Error(), "Could not find node")
		if err != nil && !gone {
			return err
		}
		if !gone {
			// Where the click led to another page there is nobody to ask, and no need.
			if missed, err := Eval[bool](p, "window.clicked === false"); err != nil || !missed {
				return nil
			}
			err = fmt.Errorf("click %s: something else was clicked in its place", css)
		}
		if try == tries {
			return err
		}
	}
}

// listens notes whether a click reaches what it is meant for.
const listens = `(() => {
	window.clicked = false;
	if (!window.clicking) addEventListener('click', ev => {
		if (ev.target.closest(window.clicking)) window.clicked = true;
	}, { capture: true });
	window.clicking = %s;
	return true;
})()`

// atRest is true when an element is where it was at the last look.
const atRest = `(() => {
	const e = document.querySelector(%s);
	if (!e || document.querySelector('.htmx-swapping, .htmx-settling')) return false;
	if (document.readyState !== 'complete' || document.fonts.status !== 'loaded') return false;
	let r = e.getBoundingClientRect();
	if (r.height && (r.bottom < 0 || r.top > innerHeight)) e.scrollIntoView({ block: "center" }); // what is above may grow
	r = e.getBoundingClientRect();
	const at = [r.x, r.y, r.width, r.height].join();
	const was = e.restedAt;
	e.restedAt = at;
	return was === at;
})()`

// Fill puts a text into a field, as if it had been typed and left.
func (p *Page) Fill(css, text string) error { return p.put(css, text, "input") }

// File puts a file into a field for files.
func (p *Page) File(css, path string) error {
	return p.do("file "+css, chromedp.SetUploadFiles(chromedp.CSS(css), []string{path}))
}

// Choose chooses a value of a list.
func (p *Page) Choose(css, value string) error { return p.put(css, value, "input") }

func (p *Page) put(css, value, event string) error {
	if err := p.Wait("!!document.querySelector(" + quote(css) + ")"); err != nil {
		return err
	}
	_, err := Eval[bool](p, "(()=>{const e=document.querySelector("+quote(css)+");e.focus();e.value="+quote(value)+
		";e.dispatchEvent(new Event("+quote(event)+",{bubbles:true}));e.dispatchEvent(new Event('change',{bubbles:true}));return true})()")
	return err
}

// Keys types keys where the focus is.
func (p *Page) Keys(keys string) error { return p.do("keys", chromedp.KeyEvent(keys)) }

// Text is the text of the element of a CSS selector.
func (p *Page) Text(css string) (string, error) {
	return Eval[string](p,
		"(document.querySelector("+quote(css)+")||{textContent:''}).textContent.replace(/\\s+/g,' ').trim()")
}

// WaitText waits until the element's text contains some words.
func (p *Page) WaitText(css, words string) error {
	if err := p.Wait("(document.querySelector(" + quote(css) +
		")||{textContent:''}).textContent.replace(/\\s+/g,' ').includes(" + quote(words) + ")"); err != nil {
		got, _ := p.Text(css)
		return fmt.Errorf("%w; %s says %q", err, css, got)
	}
	return nil
}

// Wait waits until a JavaScript expression is true.
func (p *Page) Wait(js string) error {
	var err error
	pause := 10 * time.Millisecond // longer and longer: what does not come soon is not asked for all the time
	for end := time.Now().Add(patience); time.Now().Before(end); time.Sleep(pause) {
		pause = min(pause*5/4, 150*time.Millisecond)
		// An error on the way is a page that is just being loaded.
		var ok bool
		if ok, err = Eval[bool](p, js); ok && err == nil {
			return nil
		}
	}
	return errors.Join(fmt.Errorf("never came true: %s", js), err)
}

// Eval gives the value of a JavaScript expression in the page.
func Eval[T any](p *Page, js string) (T, error) {
	return ask(p, "evaluate", chromedp.Evaluate[T](js))
}

// Theme makes the page believe that the reader wants "light" or "dark".
func (p *Page) Theme(name string) error {
	return p.do("theme", chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
			Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: name}}})
		return err
	}))
}

// Screenshot is a PNG of the viewport.
func (p *Page) Screenshot() ([]byte, error) {
	return ask(p, "screenshot", chromedp.CaptureScreenshot())
}

// Axe runs the accessibility checks of a script and gives what they found.
func (p *Page) Axe(script string) ([]string, error) {
	src, err := os.ReadFile(script)
	if err != nil {
		return nil, err
	}
	if _, err := Eval[bool](p, string(src)+";true"); err != nil {
		return nil, err
	}
	ctx, cancel := context.WithTimeout(p.ctx, 2*patience) // a long page has some ten thousand elements
	defer cancel()
	return chromedp.Run(ctx, chromedp.Evaluate[[]string](
		`axe.run(document, {resultTypes: ["violations"], runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]})
			.then(r => r.violations.map(v => v.id + ": " + v.help + " at " + v.nodes.slice(0, 4)
				.map(n => n.target.join(" ") + " " + (n.any[0] ? n.any[0].message : "")).join("; ")))`,
		chromedp.EvalAwaitPromise))
}

func quote(s string) string {
	return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, "\n", `\n`, "\t", `\t`, "\r", `\r`).Replace(s) + `"`
}

// Slow makes every answer to the page wait as on a slow line.
func (p *Page) Slow(latency time.Duration) error {
	return p.line(network.Conditions{Latency: float64(latency.Milliseconds())})
}

// Offline cuts the page off from the server, or joins it again.
func (p *Page) Offline(off bool) error { return p.line(network.Conditions{Offline: off}) }

func (p *Page) line(c network.Conditions) error {
	c.DownloadThroughput, c.UploadThroughput = -1, -1
	return p.do("line to the server", chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		if _, err := cdp.Call(ctx, t, network.Enable, network.EnableParams{}); err != nil {
			return err
		}
		_, err := cdp.Call(ctx, t, network.EmulateNetworkConditionsByRule, network.EmulateNetworkConditionsByRuleParams{
			MatchedNetworkConditions: []*network.Conditions{&c}})
		return err
	}))
}
