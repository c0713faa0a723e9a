// Package drive starts a headless Chromium for the tests of the real interface
// and for the pictures in the documentation.
package drive

import (
	"context"
	"fmt"

	"github.com/chromedp/chromedp"
)

// Browser starts Chromium with one empty tab of the given width and 800 px
// height. Without the flags below, Chromium tries to reach the outside.
func Browser(ctx context.Context, width int64) (tab context.Context, stop func(), err error) {
	opts := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.NoSandbox,
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-sync", true),
		chromedp.Flag("autoplay-policy", "no-user-gesture-required"), chromedp.Flag("mute-audio", true))
	alloc, stopAlloc := chromedp.NewExecAllocator(ctx, opts...)
	tab, stopTab := chromedp.NewContext(alloc)
	stop = func() { stopTab(); stopAlloc() }
	if err := chromedp.Do(tab, chromedp.EmulateViewport(width, 800)); err != nil {
		stop()
		return nil, nil, fmt.Errorf("starting Chromium: %w", err)
	}
	return tab, stop, nil
}

// SignIn signs a demo person in, without the sign-in page.
func SignIn(tab context.Context, base, login string) error {
	if err := chromedp.Do(tab, chromedp.Navigate(base+"/healthz")); err != nil {
		return err
	}
	ok, err := chromedp.Run(tab, chromedp.Evaluate[bool](fmt.Sprintf(
		`fetch("/api/sign-in",{method:"POST",headers:{"Content-Type":"application/json"},body:JSON.stringify({login:%q})}).then(r=>r.ok)`, login), chromedp.EvalAwaitPromise))
	if err == nil && !ok {
		err = fmt.Errorf("%s may not sign in", login)
	}
	return err
}
