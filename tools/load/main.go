// Command load starts a demo of its own and measures it: a cold start that
// tells the scenario, a second start, the operations that screens wait for,
// and how long a scale reading takes to the screen.
package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"
)

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run() error {
	dir, err := os.MkdirTemp("", "yewmoor-load-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	for _, which := range []string{"first start, with the scenario", "second start"} {
		base, stop, took, err := start(dir)
		if err != nil {
			return err
		}
		fmt.Printf("%-44s %8.2f s\n", which, took.Seconds())
		if which == "second start" {
			err = measure(base)
		}
		stop()
		if err != nil {
			return err
		}
	}
	return nil
}

// start runs the demo and returns its address, how to stop it, and how long it
// took to be ready.
func start(dir string) (base string, stop func(), took time.Duration, err error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", nil, 0, err
	}
	addr := l.Addr().String()
	_ = l.Close()
	cmd := exec.Command("./bin/yewmoor", "demo", "--dir", dir, "--addr", addr, "--log", "error")
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	if err != nil {
		return "", nil, 0, err
	}
	begun := time.Now()
	if err := cmd.Start(); err != nil {
		return "", nil, 0, err
	}
	stop = func() { _ = cmd.Process.Signal(syscall.SIGINT); _ = cmd.Wait() }
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if strings.HasPrefix(lines.Text(), "Yewmoor is ready") {
			return "http://" + addr, stop, time.Since(begun), nil
		}
	}
	return "", nil, 0, fmt.Errorf("the demo did not start")
}

func measure(base string) error {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return err
	}
	client := &http.Client{Jar: jar}
	post := func(path string, body any) ([]byte, error) {
		raw, err := json.Marshal(body)
		if err != nil {
			return nil, err
		}
		res, err := client.Post(base+path, "application/json", bytes.NewReader(raw))
		if err != nil {
			return nil, err
		}
		defer res.Body.Close()
		answer, err := io.ReadAll(res.Body)
		if err == nil && res.StatusCode != http.StatusOK {
			err = fmt.Errorf("%s: %s", path, answer)
		}
		return answer, err
	}
	get := func(path string) ([]byte, error) {
		res, err := client.Get(base + path)
		if err != nil {
			return nil, err
		}
		defer res.Body.Close()
		return io.ReadAll(res.Body)
	}
	if _, err := post("/api/sign-in", map[string]string{"login": "ivo"}); err != nil {
		return err
	}
	raw, err := get("/api/pieces/BF-03/section")
	if err != nil {
		return err
	}
	var view struct{ Doc json.RawMessage }
	if err := json.Unmarshal(raw, &view); err != nil {
		return err
	}
	for _, c := range []struct {
		name string
		do   func() ([]byte, error)
	}{
		{"a keystroke on a section, worked out", func() ([]byte, error) { return post("/api/pieces/BF-03/section/work", view.Doc) }},
		{"the pot shelf", func() ([]byte, error) { return get("/api/pots") }},
		{"Today", func() ([]byte, error) { return get("/api/today") }},
		{"search", func() ([]byte, error) { return get("/api/search?words=BF-03") }},
		{"a lot with where it went", func() ([]byte, error) { return get("/api/lots/24-117") }},
	} {
		if err := under(c.name, c.do); err != nil {
			return err
		}
	}
	return readings(client, base, post)
}

// under asks 300 times, four at a time, and prints median and 95th percentile.
func under(name string, do func() ([]byte, error)) error {
	const asks, people = 300, 4
	var mu sync.Mutex
	var all []time.Duration
	var failed error
	var wg sync.WaitGroup
	for range people {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for range asks / people {
				begun := time.Now()
				_, err := do()
				mu.Lock()
				all = append(all, time.Since(begun))
				if err != nil {
					failed = err
				}
				mu.Unlock()
			}
		}()
	}
	wg.Wait()
	slices.Sort(all)
	fmt.Printf("%-44s %8.1f ms median, %.1f ms 95 %%\n", name, ms(all[len(all)/2]), ms(all[len(all)*95/100]))
	return failed
}

func ms(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }

// readings lays a weight on the scale and waits for the stream to show it.
func readings(client *http.Client, base string, post func(string, any) ([]byte, error)) error {
	res, err := client.Get(base + "/api/scale/stream")
	if err != nil {
		return err
	}
	defer res.Body.Close()
	shown := make(chan float64, 100)
	go func() {
		lines := bufio.NewScanner(res.Body)
		for lines.Scan() {
			if text, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
				var r struct{ Value float64 }
				if json.Unmarshal([]byte(text), &r) == nil {
					shown <- r.Value
				}
			}
		}
	}()
	var all []time.Duration
	for i := range 20 {
		if _, err := post("/api/scale/simulated", map[string]any{"clear": true, "put_g": float64(100 * (i + 1))}); err != nil {
			return err
		}
		begun := time.Now()
		for v := range shown {
			if v > float64(100*(i+1))-5 && v < float64(100*(i+1))+5 {
				break
			}
		}
		all = append(all, time.Since(begun))
	}
	slices.Sort(all)
	fmt.Printf("%-44s %8.1f ms median, %.1f ms worst of %d\n", "a weight on the scale to the screen's line", ms(all[len(all)/2]), ms(all[len(all)-1]), len(all))
	return nil
}
