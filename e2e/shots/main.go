// Command shots takes pictures of a running Grand Ledger:
//
//	go run ./e2e/shots [--base http://127.0.0.1:8460] [--out docs/screenshots] NAME=PATH[#ACTS]...
//
// Acts are click=TEXT or type=LABEL:TEXT, split by ;. A name that begins with - takes no
// picture; its acts are done. scripts/screenshots makes those of docs/screenshots.
package main

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"

	"grandledger/e2e/browser"
)

func main() {
	base := flag.String("base", "http://127.0.0.1:8460", "where Grand Ledger is open")
	out := flag.String("out", "docs/screenshots", "the directory the pictures go to")
	width := flag.Int("width", 1280, "of the window")
	height := flag.Int("height", 800, "of the window")
	dark := flag.Bool("dark", false, "in dark surroundings")
	flag.Parse()
	if err := run(*base, *out, *width, *height, *dark, flag.Args()); err != nil {
		fmt.Fprintln(os.Stderr, "shots:", err)
		os.Exit(1)
	}
}

func run(base, out string, width, height int, dark bool, wanted []string) error {
	b, stop, err := browser.Launch()
	if err != nil {
		return err
	}
	defer stop()
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	p, err := b.Page(proto.TargetCreateTarget{URL: base})
	if err != nil {
		return err
	}
	if err := p.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: width, Height: height, DeviceScaleFactor: 1}); err != nil {
		return err
	}
	if dark {
		media := proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-color-scheme", Value: "dark"}}}
		if err := media.Call(p); err != nil {
			return err
		}
	}
	for _, w := range wanted {
		name, path, ok := strings.Cut(w, "=")
		if !ok {
			return fmt.Errorf("%q is not NAME=PATH", w)
		}
		if err := shot(p, base+path, filepath.Join(out, name+".png")); err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
	}
	return nil
}

// shot opens an address, does what stands behind a #: click=TEXT or type=LABEL:TEXT,
// several split by ;, and takes the picture.
func shot(p *rod.Page, url, file string) error {
	url, acts, _ := strings.Cut(url, "#")
	if err := p.Navigate(url); err != nil {
		return err
	}
	if err := settle(p); err != nil {
		return err
	}
	for _, act := range strings.Split(acts, ";") {
		how, what, ok := strings.Cut(act, "=")
		if !ok {
			continue
		}
		if err := do(p, how, what); err != nil {
			return fmt.Errorf("%s: %w", act, err)
		}
		if err := settle(p); err != nil {
			return err
		}
	}
	if strings.HasPrefix(filepath.Base(file), "-") {
		return nil
	}
	raw, err := p.Screenshot(false, nil)
	if err != nil {
		return err
	}
	return os.WriteFile(file, raw, 0o644)
}

// settle waits until the page shows no change and asks for nothing.
func settle(p *rod.Page) error {
	return p.Timeout(20*time.Second).WaitDOMStable(300*time.Millisecond, 0)
}

func do(p *rod.Page, how, what string) error {
	p = p.Timeout(5 * time.Second)
	switch how {
	case "click":
		e, err := p.ElementR("button, a, label, [role=gridcell]", what)
		if err != nil {
			return err
		}
		return e.Click(proto.InputMouseButtonLeft, 1)
	case "type":
		label, text, _ := strings.Cut(what, ":")
		e, err := p.Element(fmt.Sprintf("[aria-label=%q], [placeholder=%q]", label, label))
		if err != nil {
			return err
		}
		return e.Input(text)
	}
	return fmt.Errorf("there is no act %q", how)
}
