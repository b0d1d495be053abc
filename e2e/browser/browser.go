// Package browser starts headless Chromium for the tests and the pictures: one that
// reaches nothing but this machine.
package browser

import (
	"fmt"
	"os"
	"os/exec"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/launcher/flags"
)

// Launch starts Chromium with a profile of its own and gives a function that ends it
// and removes the profile.
func Launch() (*rod.Browser, func(), error) {
	bin, err := exec.LookPath("chromium")
	if err != nil {
		return nil, nil, fmt.Errorf("chromium is missing; ./test installs it: %w", err)
	}
	profile, err := os.MkdirTemp("", "grandledger-browser-")
	if err != nil {
		return nil, nil, err
	}
	l := launcher.New().Bin(bin).NoSandbox(true).HeadlessNew(true).UserDataDir(profile).
		Set("window-size", "1280,800").Set("host-resolver-rules", "MAP * ~NOTFOUND , EXCLUDE 127.0.0.1")
	for _, f := range []flags.Flag{"disable-gpu", "disable-quic", "no-first-run", "disable-background-networking", "disable-component-update",
		"disable-sync", "disable-domain-reliability", "disable-extensions", "disable-default-apps", "disable-dev-shm-usage", "no-pings", "hide-scrollbars"} {
		l.Set(f)
	}
	url, err := l.Launch()
	if err != nil {
		os.RemoveAll(profile)
		return nil, nil, fmt.Errorf("starting chromium: %w", err)
	}
	b := rod.New().ControlURL(url)
	if err := b.Connect(); err != nil {
		l.Kill()
		return nil, nil, err
	}
	return b, func() {
		b.Close()
		l.Cleanup() // waits for the end and removes the profile
	}, nil
}
