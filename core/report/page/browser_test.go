package page_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/network"
	cdppage "github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/picture"
	"leitstand/core/report/drawing"
	"leitstand/core/report/page"
	"leitstand/examples"
	"leitstand/internal/realtest"
)

// axe are the rules that a page is held against.
const axe = "/usr/local/lib/leitstand-checkers/axe.min.js"

// browser is a browser without a screen, in which a file is open.
type browser struct {
	context.Context
	t          *testing.T
	mu         sync.Mutex
	complaints []string // what its console says, and what was asked of a network
}

// open opens a file in a browser.
func open(t *testing.T, name string, data []byte) *browser {
	t.Helper()
	realtest.Need(t, "chromium", "chromium")
	realtest.NeedFile(t, axe, "npm, and scripts/install-checkers")
	at := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(at, data, 0o644))
	ctx, stop := chromedp.NewExecAllocator(t.Context(), append(
		chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath("chromium"), chromedp.NoSandbox,
	)...)
	t.Cleanup(stop)
	ctx, stop = chromedp.NewContext(ctx)
	t.Cleanup(stop)
	ctx, stop = context.WithTimeout(ctx, 3*time.Minute)
	t.Cleanup(stop)
	b := &browser{Context: ctx, t: t}
	chromedp.ListenTarget(ctx, func(event any) {
		b.mu.Lock()
		defer b.mu.Unlock()
		switch e := event.(type) {
		case *runtime.EventExceptionThrown:
			b.complaints = append(b.complaints, e.ExceptionDetails.Error())
		case *runtime.EventConsoleAPICalled:
			b.complaints = append(b.complaints, fmt.Sprint(e.Type, e.Args))
		case *log.EventEntryAdded:
			b.complaints = append(b.complaints, e.Entry.Text)
		case *network.EventRequestWillBeSent:
			if url := e.Request.URL; !strings.HasPrefix(url, "file:") && !strings.HasPrefix(url, "data:") {
				b.complaints = append(b.complaints, "it asks for "+url)
			}
		}
	})
	b.do(network.Enable(), log.Enable(), chromedp.Navigate("file://"+at))
	return b
}

func (b *browser) do(actions ...chromedp.Action) {
	b.t.Helper()
	require.NoError(b.t, chromedp.Run(b, actions...))
}

// js is what an expression comes to.
func js[T any](b *browser, expression string) (is T) {
	b.t.Helper()
	b.do(chromedp.Evaluate(expression, &is, func(p *runtime.EvaluateParams) *runtime.EvaluateParams {
		return p.WithAwaitPromise(true)
	}))
	return is
}

// said are the complaints so far.
func (b *browser) said() []string {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.complaints
}

// size makes the window so wide, in a light or a dark theme.
func (b *browser) size(wide int64, theme string) {
	b.t.Helper()
	b.do(chromedp.EmulateViewport(wide, 800),
		emulation.SetEmulatedMedia().WithFeatures([]*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: theme}}))
}

// requireFit holds a page against the rules, and its width against the window's.
func (b *browser) requireFit() {
	b.t.Helper()
	rules, err := os.ReadFile(axe)
	require.NoError(b.t, err)
	b.do(chromedp.Evaluate(string(rules), nil))
	for theme, wide := range map[string]int64{"light": 1280, "dark": 390} {
		b.size(wide, theme)
		over := js[int](b, "document.documentElement.scrollWidth - document.documentElement.clientWidth")
		assert.Zero(b.t, over, "%d wide: the page is wider than the window", wide)
		found := js[[]string](b, `axe.run().then(r => r.violations.map(v => v.id + ': ' + v.help + ' ' + v.nodes[0].html))`)
		assert.Empty(b.t, found, "%s, %d wide", theme, wide)
	}
	b.size(1280, "light")
}

// The page in a browser: it fits windows and rules, its search and its views work by keyboard and by pointer, and it asks
// for nothing.
func TestPageInBrowser(t *testing.T) {
	t.Parallel()
	mp, found, stations := checked(t)
	data, err := page.Make("leitstand.hcl", mp, found, stations)
	require.NoError(t, err)
	b := open(t, "report.html", data)
	b.requireFit()

	assert.Equal(t, []string{"loaded", "loaded"}, js[[]string](b,
		`document.fonts.ready.then(() => Promise.all([...document.fonts].map(f => f.load()))).then(l => l.map(f => f.status))`))

	const visible = `[...document.querySelectorAll('.row')].filter(r => r.checkVisibility()).map(r => r.textContent)`
	before := len(js[[]string](b, visible))
	b.do(chromedp.SendKeys("#words", "xterm exact"))
	rows := js[[]string](b, visible)
	assert.NotEmpty(t, rows)
	assert.Less(t, len(rows), before)
	for _, row := range rows {
		assert.Contains(t, row, "xterm")
		assert.Contains(t, row, "exact")
	}
	assert.Equal(t, fmt.Sprintf("%d lines", len(rows)), js[string](b, `document.getElementById('hits').value`))
	b.do(chromedp.SendKeys("#words", strings.Repeat(kb.Backspace, len("xterm exact"))))
	assert.Len(t, js[[]string](b, visible), before)

	const shown = `[...document.querySelectorAll('#m2 .shown > div')].map(d => d.checkVisibility())`
	views := js[[]bool](b, shown)
	require.Greater(t, len(views), 2)
	assert.True(t, views[0] && !views[1], "alone at first")
	b.do(chromedp.Focus("#m2-b1-v1"), chromedp.SendKeys("#m2-b1-v1", kb.ArrowRight))
	views = js[[]bool](b, shown)
	assert.True(t, !views[0] && views[1], "the layer by the keyboard")
	b.do(chromedp.Click(`label[for="m2-b1-v3"]`))
	views = js[[]bool](b, shown)
	assert.True(t, !views[1] && views[2], "Hyper by the pointer")

	b.do(emulation.SetEmulatedMedia().WithMedia("print"))
	assert.NotContains(t, js[[]bool](b, shown), false, "on paper, all are there")
	assert.Empty(t, b.said())
}

// Without a script, all is there but the search.
func TestPageWithoutScript(t *testing.T) {
	mp, found, stations := checked(t)
	data, err := page.Make("leitstand.hcl", mp, found, stations)
	require.NoError(t, err)
	b := open(t, "report.html", data)
	b.do(emulation.SetScriptExecutionDisabled(true), chromedp.Reload(), emulation.SetScriptExecutionDisabled(false))
	assert.False(t, js[bool](b, `document.querySelector('form.search').checkVisibility()`))
	assert.True(t, js[bool](b, `[...document.querySelectorAll('main table .row')].every(r => r.checkVisibility())`))
	b.do(chromedp.Click(`label[for="m2-b1-v2"]`))
	assert.True(t, js[bool](b, `document.querySelectorAll('#m2 .shown > div')[1].checkVisibility()`))
}

// Each machine of a sheet is on a side of paper.
func TestSheetInBrowser(t *testing.T) {
	t.Parallel()
	for i, name := range []string{"tide-office", "lighthouse", "pilot-school"} {
		text, err := examples.Files.ReadFile(name + "/leitstand.hcl")
		require.NoError(t, err)
		mp, found, stations := checkedOf(t, text)
		data, err := page.Sheet("leitstand.hcl", mp, found, stations)
		require.NoError(t, err)
		b := open(t, "sheet.html", data)
		if i == 0 {
			b.requireFit()
		}
		var paper []byte
		b.do(chromedp.ActionFunc(func(ctx context.Context) (err error) {
			paper, _, err = cdppage.PrintToPDF().WithPreferCSSPageSize(true).WithPrintBackground(true).Do(ctx)
			return err
		}))
		assert.Equal(t, len(stations), strings.Count(string(paper), "/Type /Page\n"), name)
		assert.Empty(t, b.said())
	}
}

// A picture of its own has fonts that a browser takes.
func TestPictureInBrowser(t *testing.T) {
	_, _, stations := checked(t)
	boards, err := picture.Every(stations, picture.Asked{Layers: true})
	require.NoError(t, err)
	data, err := drawing.Boards("svg", boards, false)
	require.NoError(t, err)
	b := open(t, "boards.svg", data)
	assert.Equal(t, []string{"loaded", "loaded"}, js[[]string](b,
		`document.fonts.ready.then(() => Promise.all([...document.fonts].map(f => f.load()))).then(l => l.map(f => f.status))`))
	beyond := js[[]string](b, `[...document.querySelectorAll('text')].filter(t => {
		const box = t.getBBox(), all = document.documentElement.viewBox.baseVal;
		return box.x < 0 || box.y < 0 || box.x + box.width > all.width || box.y + box.height > all.height;
	}).map(t => t.textContent)`)
	assert.Empty(t, beyond)
	assert.Empty(t, b.said())
}
