package e2e

import (
	"encoding/base64"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"grandledger/e2e/browser"
)

// patience is how long a page may take to show what is waited for, on a busy machine.
const patience = 20 * time.Second

// window is one browser window on a running Grand Ledger.
type window struct {
	t    *testing.T
	page *rod.Page
}

// open starts a browser with one window for each of n.
func open(t *testing.T, r *running, n int) []*window {
	t.Helper()
	b, stop, err := browser.Launch()
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(stop)
	var out []*window
	for range n {
		p, err := b.Page(proto.TargetCreateTarget{URL: r.base, NewWindow: true}) // a tab behind another is not painted
		if err != nil {
			t.Fatal(err)
		}
		if err := p.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: 1280, Height: 800, DeviceScaleFactor: 1}); err != nil {
			t.Fatal(err)
		}
		out = append(out, &window{t, p})
	}
	return out
}

// failed reports what was waited for, with what the page shows instead.
func (w *window) failed(what string, err error) {
	w.t.Helper()
	shown := "(nothing)"
	if body, e := w.page.Timeout(2 * time.Second).Element("body"); e == nil {
		shown, _ = body.Text()
	}
	if dir := os.Getenv("E2E_PICTURES"); dir != "" {
		if raw, e := w.page.Screenshot(false, nil); e == nil {
			os.WriteFile(filepath.Join(dir, strings.ReplaceAll(w.t.Name(), "/", "_")+".png"), raw, 0o644)
		}
	}
	w.t.Fatalf("%s: %v\nthe page shows:\n%s", what, err, shown)
}

// see waits for an element whose text matches.
func (w *window) see(selector, text string) *rod.Element {
	w.t.Helper()
	// In the text of a row its cells stand on lines of their own.
	e, err := w.page.Timeout(patience).ElementR(selector, strings.ReplaceAll(text, ".*", `[\s\S]*`))
	if err != nil {
		w.failed(fmt.Sprintf("no %s says %q", selector, text), err)
	}
	return e.CancelTimeout()
}

// element waits for an element by selector.
func (w *window) element(selector string) *rod.Element {
	w.t.Helper()
	e, err := w.page.Timeout(patience).Element(selector)
	if err != nil {
		w.failed("no "+selector, err)
	}
	return e.CancelTimeout()
}

// gone waits until no element matches.
func (w *window) gone(selector, text string) {
	w.t.Helper()
	err := w.page.Timeout(patience).Wait(rod.Eval(`(s, t) => ![...document.querySelectorAll(s)].some((e) => e.textContent.includes(t))`, selector, text))
	if err != nil {
		w.failed(fmt.Sprintf("%s still says %q", selector, text), err)
	}
}

// press clicks the button, link or label whose text matches, once it can be clicked.
func (w *window) press(text string) {
	w.t.Helper()
	w.click("button:not(:disabled), a, label", text)
}

// click clicks an element whose text matches, or an element within it. A page that is
// drawn anew meanwhile leaves the found element hanging, so it is looked for again.
func (w *window) click(selector, text string, within ...string) {
	w.t.Helper()
	deadline := time.Now().Add(patience)
	for {
		e := w.see(selector, text)
		var err error
		for _, inner := range within {
			e, err = e.Timeout(time.Second).Element(inner)
		}
		if err == nil {
			err = e.Timeout(2*time.Second).Click(proto.InputMouseButtonLeft, 1)
		}
		if err == nil {
			return
		}
		if time.Now().After(deadline) {
			w.failed(fmt.Sprintf("clicking %s %q", selector, text), err)
		}
	}
}

// fill types into the field of a label, over what stood there.
func (w *window) fill(label, text string) {
	w.t.Helper()
	field := w.element(fmt.Sprintf("input[aria-label=%q], input[placeholder=%q], textarea[aria-label=%q]", label, label, label))
	w.into(field, text)
}

func (w *window) into(field *rod.Element, text string) {
	w.t.Helper()
	if err := field.SelectAllText(); err != nil {
		w.failed("selecting", err)
	}
	if err := field.Input(text); err != nil {
		w.failed("typing", err)
	}
}

// balance waits until a figure of the balance strip says a value.
func (w *window) balance(label, value string) {
	w.t.Helper()
	js := `(label, value) => [...document.querySelectorAll("[data-balance] > div")].some((d) =>
		d.querySelector("dt").textContent === label && d.querySelector("dd").textContent === value)`
	if err := w.page.Timeout(patience).Wait(rod.Eval(js, label, value)); err != nil {
		w.failed(fmt.Sprintf("the balance does not say %s %s", label, value), err)
	}
}

func (w *window) key(k input.Key) {
	w.t.Helper()
	if err := w.page.Keyboard.Type(k); err != nil {
		w.t.Fatal(err)
	}
}

// drop drops a file on the page, as from the desktop.
func (w *window) drop(name string, content []byte) {
	w.t.Helper()
	_, err := w.page.Eval(`(name, content) => {
		const data = new DataTransfer();
		data.items.add(new File([Uint8Array.from(atob(content), (c) => c.charCodeAt(0))], name));
		const at = document.querySelector("main");
		for (const type of ["dragenter", "dragover", "drop"])
			at.dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer: data }));
	}`, name, base64.StdEncoding.EncodeToString(content))
	if err != nil {
		w.t.Fatal(err)
	}
}
