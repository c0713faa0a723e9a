// Package pace starts the shipped server and lets people ask it for screens, at
// once or once a second, and prints how long they waited.
package pace

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
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

// Server is the shipped binary.
type Server struct {
	Base  string
	Ready time.Duration // from its start to its one line
	cmd   *exec.Cmd
}

// Start runs ./bin/yewmoor with these arguments on an address of its own.
func Start(env []string, args ...string) (*Server, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	addr := l.Addr().String()
	_ = l.Close()
	s := &Server{Base: "http://" + addr, cmd: exec.Command("./bin/yewmoor", append(args, "--addr", addr, "--log", "error")...)}
	s.cmd.Env = append(os.Environ(), env...)
	s.cmd.Stderr = os.Stderr
	out, err := s.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	begun := time.Now()
	if err := s.cmd.Start(); err != nil {
		return nil, err
	}
	for lines := bufio.NewScanner(out); lines.Scan(); {
		if strings.HasPrefix(lines.Text(), "Yewmoor is ready") {
			s.Ready = time.Since(begun)
			return s, nil
		}
	}
	return nil, fmt.Errorf("the server did not start")
}

// Stop is Ctrl-C.
func (s *Server) Stop() { _ = s.cmd.Process.Signal(syscall.SIGINT); _ = s.cmd.Wait() }

// Memory is what the server holds and held at most, in MB.
func (s *Server) Memory() (now, most float64) {
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", s.cmd.Process.Pid))
	if err != nil {
		return 0, 0
	}
	read := func(name string) (kb float64) {
		for _, line := range strings.Split(string(raw), "\n") {
			if rest, ok := strings.CutPrefix(line, name+":"); ok {
				_, _ = fmt.Sscan(rest, &kb)
			}
		}
		return kb / 1024
	}
	return read("VmRSS"), read("VmHWM")
}

// Person is somebody who is signed in.
type Person struct {
	Client *http.Client
	Base   string
}

// SignIn signs somebody in.
func SignIn(base, login, password string) (*Person, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	p := &Person{&http.Client{Jar: jar, Transport: &http.Transport{MaxIdleConnsPerHost: 4}}, base}
	_, err = p.Ask("POST", "/api/sign-in", map[string]string{"login": login, "password": password})
	return p, err
}

// Ask sends a request; anything but 200 is an error.
func (p *Person) Ask(method, path string, body any) ([]byte, error) {
	var in io.Reader
	if body != nil {
		raw, err := json.Marshal(body)
		if err != nil {
			return nil, err
		}
		in = bytes.NewReader(raw)
	}
	req, err := http.NewRequest(method, p.Base+path, in)
	if err != nil {
		return nil, err
	}
	req.Header.Set("Content-Type", "application/json")
	res, err := p.Client.Do(req)
	if err != nil {
		return nil, err
	}
	defer res.Body.Close()
	answer, err := io.ReadAll(res.Body)
	if err == nil && res.StatusCode != http.StatusOK {
		err = fmt.Errorf("%s: %d %s", path, res.StatusCode, answer)
	}
	return answer, err
}

// Question is what a screen asks for; i counts on with every asking.
type Question struct {
	Name string
	Do   func(p *Person, i int) ([]byte, error)
}

// Head prints what the columns of Under and Paced are.
func Head(who string) {
	fmt.Printf("%-44s %9s %7s %7s %9s\n", who+", in ms", "p50", "p95", "p99", "kB")
}

// Under lets everybody ask at the same time, without pause.
func (q Question) Under(crowd []*Person, each int) error {
	return q.run(crowd, func(p *Person, w int, ask func(*Person, int)) {
		for i := range each {
			ask(p, w*31+i)
		}
	})
}

// Paced lets everybody ask once a second for some seconds, each at a moment of
// their own, as people at screens do.
func (q Question) Paced(crowd []*Person, seconds int) error {
	return q.run(crowd, func(p *Person, w int, ask func(*Person, int)) {
		time.Sleep(time.Duration(rand.IntN(1000)) * time.Millisecond)
		tick := time.NewTicker(time.Second)
		defer tick.Stop()
		for i := range seconds {
			ask(p, w*31+i)
			<-tick.C
		}
	})
}

func (q Question) run(crowd []*Person, how func(p *Person, w int, ask func(*Person, int))) error {
	var mu sync.Mutex
	var all []time.Duration
	var failed error
	size := 0
	ask := func(p *Person, i int) {
		begun := time.Now()
		raw, err := q.Do(p, i)
		took := time.Since(begun)
		mu.Lock()
		defer mu.Unlock()
		all = append(all, took)
		size = max(size, len(raw))
		if err != nil {
			failed = err
		}
	}
	var wg sync.WaitGroup
	for w, p := range crowd {
		wg.Add(1)
		go func() { defer wg.Done(); how(p, w, ask) }()
	}
	wg.Wait()
	slices.Sort(all)
	at := func(share float64) float64 { return MS(all[int(share*float64(len(all)-1))]) }
	fmt.Printf("  %-42s %9.1f %7.1f %7.1f %9.1f\n", q.Name, at(0.5), at(0.95), at(0.99), float64(size)/1024)
	return failed
}

// MS is a duration in milliseconds.
func MS(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }
