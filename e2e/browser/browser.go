// Package browser drives Debian's Chromium for the browser tests and the screenshots.
package browser

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Browser is one headless browser with one page.
type Browser struct {
	ctx    context.Context
	cancel []func()
	// Errors collects what the page wrote to its console as errors and what it threw.
	Errors []string
	// Wait is how long a condition may take to come true.
	Wait time.Duration
}

// Open starts a browser with a profile of its own. Close it.
func Open(width, height int64) (*Browser, error) {
	path, err := exec.LookPath("chromium")
	if err != nil {
		return nil, fmt.Errorf("chromium is missing: apt-get install chromium: %w", err)
	}
	dir, err := os.MkdirTemp("", "glossator-browser-")
	if err != nil {
		return nil, err
	}
	b := &Browser{Wait: time.Minute}
	b.cancel = append(b.cancel, func() { _ = os.RemoveAll(dir) })
	alloc, cancel := chromedp.NewExecAllocator(context.Background(), chromedp.ExecPath(path), chromedp.UserDataDir(dir),
		chromedp.Headless, chromedp.NoSandbox, chromedp.DisableGPU, chromedp.NoFirstRun, chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-sync", true),
		chromedp.Flag("force-prefers-reduced-motion", true), chromedp.Flag("hide-scrollbars", true))
	b.cancel = append(b.cancel, cancel)
	ctx, cancel := chromedp.NewContext(alloc)
	b.cancel = append(b.cancel, cancel)
	b.ctx = ctx
	if err := chromedp.Do(ctx, chromedp.EmulateViewport(width, height), chromedp.Navigate("about:blank")); err != nil {
		b.Close()
		return nil, fmt.Errorf("start chromium: %w", err)
	}
	if slow, err := strconv.ParseFloat(os.Getenv("GLOSSATOR_SLOW"), 64); err == nil && slow > 1 {
		if err := b.Slow(slow); err != nil {
			b.Close()
			return nil, err
		}
	}
	return b, nil
}

// Close ends the browser and removes its profile.
func (b *Browser) Close() {
	for i := len(b.cancel) - 1; i >= 0; i-- {
		b.cancel[i]()
	}
}

// Size changes the size of the page.
func (b *Browser) Size(width, height int64) error {
	return chromedp.Do(b.ctx, chromedp.EmulateViewport(width, height))
}

// Slow makes the page's scripts so many times slower, as on a busy machine. The variable
// GLOSSATOR_SLOW does so from the start: it shows tests that count on speed.
func (b *Browser) Slow(times float64) error {
	return chromedp.Do(b.ctx, chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, emulation.SetCPUThrottlingRate, emulation.SetCPUThrottlingRateParams{Rate: times})
		return err
	}))
}

// Go loads a page and keeps its errors from then on.
func (b *Browser) Go(url string) error {
	return chromedp.Do(b.ctx, chromedp.Navigate(url))
}

// Back goes a step back in the history.
func (b *Browser) Back() error { return chromedp.Do(b.ctx, chromedp.NavigateBack()) }

// Reload loads the page again.
func (b *Browser) Reload() error { return chromedp.Do(b.ctx, chromedp.Reload()) }

// Eval evaluates an expression in the page.
func Eval[T any](b *Browser, js string) (T, error) {
	return chromedp.Run(b.ctx, chromedp.Evaluate[T](js))
}

// Await evaluates a promise in the page.
func Await[T any](b *Browser, js string) (T, error) {
	return chromedp.Run(b.ctx, chromedp.Evaluate[T](js, chromedp.EvalAwaitPromise))
}

// Until waits for an expression to be true.
func (b *Browser) Until(js string) error {
	end := time.Now().Add(b.Wait)
	for {
		ok, err := Eval[bool](b, "!!("+js+")")
		if err == nil && ok {
			return nil
		}
		if time.Now().After(end) {
			seen, _ := Eval[string](b, `location.href + ' ' + document.activeElement?.id + ' ' + document.body.innerText.replace(/\s+/g, ' ').slice(0, 400)`)
			return fmt.Errorf("waited %s for %s (%v); the page: %s", b.Wait, js, err, seen)
		}
		time.Sleep(30 * time.Millisecond)
	}
}

// Text waits for the page to show a text.
func (b *Browser) Text(text string) error {
	return b.Until(fmt.Sprintf("document.body.innerText.replace(/\\s+/g, ' ').includes(%q)", text))
}

// Click clicks the middle of the first element of a CSS selector, as a mouse does.
func (b *Browser) Click(css string) error {
	ctx, cancel := context.WithTimeout(b.ctx, b.Wait)
	defer cancel()
	if err := chromedp.Do(ctx, chromedp.Click(chromedp.CSS(css), chromedp.NodeVisible)); err != nil {
		return fmt.Errorf("click %s: %w", css, err)
	}
	return nil
}

// Press presses keys one after the other: letters as they are, and names such as
// "Enter", "ArrowDown", "Ctrl+z", "Ctrl+Shift+z".
func (b *Browser) Press(keys ...string) error {
	names := map[string]string{"Enter": kb.Enter, "Escape": kb.Escape, "ArrowDown": kb.ArrowDown, "ArrowUp": kb.ArrowUp, "ArrowLeft": kb.ArrowLeft,
		"ArrowRight": kb.ArrowRight, "Tab": kb.Tab, "Space": " ", "Backspace": kb.Backspace, "Home": kb.Home, "End": kb.End, "Delete": kb.Delete, "F1": kb.F1, "F2": kb.F2}
	for _, k := range keys {
		var opts []chromedp.KeyOption
		held := []chromedp.Modifier{}
		if rest, ok := strings.CutPrefix(k, "Ctrl+"); ok && rest != "" {
			k, held = rest, append(held, chromedp.ModifierCtrl)
		}
		if rest, ok := strings.CutPrefix(k, "Shift+"); ok && rest != "" {
			k, held = rest, append(held, chromedp.ModifierShift)
		}
		if len(held) > 0 {
			opts = append(opts, chromedp.KeyModifiers(held...))
		}
		if s, ok := names[k]; ok {
			k = s
		}
		if err := chromedp.Do(b.ctx, stroke(k, opts...)); err != nil {
			return fmt.Errorf("press %q: %w", k, err)
		}
	}
	return nil
}

// stroke presses keys as a keyboard does: what a key writes goes with its press, so that a page which takes the press takes the letter, too.
func stroke(keys string, opts ...chromedp.KeyOption) chromedp.Action[chromedp.Void] {
	return chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		for _, r := range keys {
			all := kb.Encode(r)
			down := all[0]
			for _, k := range all {
				for _, o := range opts {
					o(k)
				}
				if k.Type == kb.KeyChar && k.Modifiers&^int64(chromedp.ModifierShift) == 0 {
					down.Text, down.UnmodifiedText = k.Text, k.UnmodifiedText
				}
			}
			for _, k := range []*input.DispatchKeyEventParams{down, all[len(all)-1]} {
				if _, err := cdp.Call(ctx, t, input.DispatchKeyEvent, *k); err != nil {
					return err
				}
			}
		}
		return nil
	})
}

// Upload gives a file to a file field.
func (b *Browser) Upload(css, file string) error {
	ctx, cancel := context.WithTimeout(b.ctx, b.Wait)
	defer cancel()
	return chromedp.Do(ctx, chromedp.SetUploadFiles(chromedp.CSS(css), []string{file}, chromedp.NodeReady))
}

// MoveMouse moves the mouse to a place of the page.
func (b *Browser) MoveMouse(x, y float64) error {
	return chromedp.Do(b.ctx, chromedp.MouseEvent("mouseMoved", x, y))
}

// Shot takes a PNG of what is to be seen.
func (b *Browser) Shot(file string) error {
	png, err := chromedp.Run(b.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		return err
	}
	return os.WriteFile(file, png, 0o644)
}
