package browser

import (
	"context"
	"fmt"
	"sync"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

// Paper is a size of paper.
type Paper string

// Sizes of paper.
const (
	A4     Paper = "A4"
	Letter Paper = "Letter"
)

// sizes are those of paper.
var sizes = map[Paper]chromedp.PaperSize{A4: chromedp.PaperA4, Letter: chromedp.PaperLetter}

// PDF prints a page that stands alone: tagged, with bookmarks by its headings. Margins, running heads and page numbers
// are those that the page's own style sheet gives.
func (b *Browser) PDF(ctx context.Context, text []byte, paper Paper) ([]byte, error) {
	size, ok := sizes[paper]
	if !ok {
		return nil, fmt.Errorf("there is no paper %q: A4 or Letter", paper)
	}
	tab, end := chromedp.NewContext(b.ctx)
	defer end()
	stop := context.AfterFunc(ctx, end)
	defer stop()
	fill := chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		tree, err := cdp.Call(ctx, t, page.GetFrameTree, cdp.Empty{})
		if err != nil {
			return err
		}
		_, err = cdp.Call(ctx, t, page.SetDocumentContent,
			page.SetDocumentContentParams{FrameID: tree.FrameTree.Frame.ID, HTML: string(text)})
		return err
	})
	if err := chromedp.Do(tab, chromedp.Navigate("about:blank"), fill); err != nil {
		return nil, fmt.Errorf("lay out: %w", err)
	}
	if _, err := chromedp.Run(tab, chromedp.Evaluate[bool](
		`document.fonts.ready.then(() => true)`, chromedp.EvalAwaitPromise)); err != nil {
		return nil, fmt.Errorf("wait for fonts: %w", err)
	}
	raw, err := chromedp.Run(tab, chromedp.PrintToPDF(chromedp.PDFPaper(size), chromedp.PDFPrintBackground(),
		chromedp.PDFOutlineAndTagged()))
	if err != nil {
		return nil, fmt.Errorf("print: %w", err)
	}
	return raw, nil
}

// Printer prints pages by a browser that it starts when one is first wanted, and ends when none was for a while. One
// page is printed at a time. The zero value is ready.
type Printer struct {
	mu   sync.Mutex
	b    *Browser
	rest *time.Timer
}

// restAfter is how long a browser waits for another page.
const restAfter = time.Minute

// Print prints a page on paper; ErrMissing where there is no browser.
func (p *Printer) Print(ctx context.Context, text []byte, paper Paper) ([]byte, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.b == nil {
		b, err := Start(context.WithoutCancel(ctx))
		if err != nil {
			return nil, err
		}
		p.b = b
	}
	raw, err := p.b.PDF(ctx, text, paper)
	if err != nil && ctx.Err() == nil {
		p.end() // the next page has another browser
		return nil, err
	}
	if p.rest != nil {
		p.rest.Stop()
	}
	p.rest = time.AfterFunc(restAfter, p.Close)
	return raw, err
}

// Close ends the browser, if there is one.
func (p *Printer) Close() {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.end()
}

func (p *Printer) end() {
	if p.b != nil {
		p.b.Close()
		p.b = nil
	}
}
