// Command attack starts a server of its own and sends it what nobody means
// well: the requests that broke it once, then mutated ones for every operation
// of its API document, for as many minutes as are asked for. It watches memory,
// goroutines, open files, temporary files and how long Today takes, prints a
// table, and fails when anything broke or grew for good.
package main

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"yewmoor/internal/shop/hostile"
)

func main() {
	minutes := flag.Float64("minutes", 10, "how long")
	seed := flag.Uint64("seed", uint64(time.Now().UnixNano()), "of what is made up; printed, so that a run can be had again")
	flag.Parse()
	if err := attack(time.Duration(*minutes*float64(time.Minute)), *seed); err != nil {
		fmt.Fprintln(os.Stderr, "attack:", err)
		os.Exit(1)
	}
}

type server struct {
	cmd    *exec.Cmd
	dir    string
	url    string
	client *http.Client
}

const address = "127.0.0.1:8487"

func start() (*server, error) {
	dir, err := os.MkdirTemp("", "yewmoor-attack-*")
	if err != nil {
		return nil, err
	}
	log, err := os.Create(filepath.Join(dir, "log"))
	if err != nil {
		return nil, err
	}
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	s := &server{cmd: exec.Command("./bin/yewmoor", "demo", "--addr", address, "--dir", filepath.Join(dir, "run"), "--log", "warn"), dir: dir, url: "http://" + address, client: &http.Client{Jar: jar, Timeout: 2 * time.Minute}}
	s.cmd.Stderr, s.cmd.Stdout = log, log
	if err := s.cmd.Start(); err != nil {
		return nil, err
	}
	for range 240 {
		if res, err := s.client.Get(s.url + "/readyz"); err == nil {
			res.Body.Close()
			if res.StatusCode == http.StatusOK {
				return s, s.signIn()
			}
		}
		time.Sleep(250 * time.Millisecond)
	}
	return s, fmt.Errorf("the server did not come up; its log is %s", log.Name())
}

func (s *server) signIn() error {
	status, raw := s.send("POST", "/api/sign-in", []byte(`{"login":"maud"}`))
	if status != http.StatusOK {
		return fmt.Errorf("signing in: %d %s", status, raw)
	}
	return nil
}

func (s *server) stop() error {
	if err := s.cmd.Process.Signal(os.Interrupt); err != nil {
		return err
	}
	err := s.cmd.Wait()
	if err == nil {
		err = os.RemoveAll(s.dir)
	}
	return err
}

// send answers with 0 where nothing came back.
func (s *server) send(method, path string, body []byte) (int, []byte) {
	req, err := http.NewRequest(method, s.url+path, bytes.NewReader(body))
	if err != nil {
		return 0, []byte(err.Error())
	}
	if body != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	res, err := s.client.Do(req)
	if err != nil {
		return 0, []byte(err.Error())
	}
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	if err != nil {
		return 0, []byte(err.Error())
	}
	return res.StatusCode, raw
}

func attack(long time.Duration, seed uint64) error {
	s, err := start()
	if err != nil {
		return err
	}
	_, raw := s.send("GET", "/api/openapi-3.0.json", nil)
	maker, err := hostile.New(raw, seed)
	if err != nil {
		return err
	}
	maker.Known = known(s)
	fmt.Printf("seed %d, %d operations, %s\n", seed, len(maker.Operations()), long)
	w := &watch{s: s}
	before := w.look()
	stop := make(chan struct{})
	var watching sync.WaitGroup
	watching.Go(func() { w.run(stop) })

	var broken []string
	for _, old := range once {
		status, answer := s.send(old.method, old.path, []byte(old.body))
		if status == 0 || status >= 500 {
			broken = append(broken, fmt.Sprintf("%s %s: %d %.200s", old.method, old.path, status, answer))
		}
	}
	sent, answers := 0, map[int]int{}
	for until := time.Now().Add(long); time.Now().Before(until); {
		for _, o := range maker.Operations() {
			if strings.HasPrefix(o.Path, "/api/sign-") || strings.HasPrefix(o.Path, "/api/people") || o.Path == "/api/me/password" || o.Path == "/api/clock/forward" {
				continue
			}
			for wrong := range hostile.Wrongs + 1 {
				r := maker.Make(o, wrong)
				status, answer := s.send(r.Method, r.Path, r.Body)
				sent++
				answers[status]++
				if status == 0 || status >= 500 && status != http.StatusServiceUnavailable {
					broken = append(broken, fmt.Sprintf("%s %s, %s: %d %.200s | %.300s", r.Method, r.Path, r.Wrong, status, answer, r.Body))
				}
			}
			if time.Now().After(until) {
				break
			}
		}
	}
	close(stop)
	watching.Wait()
	time.Sleep(5 * time.Second)
	after := w.look()
	fmt.Printf("%d requests; answers: %v\n\n", sent, answers)
	fmt.Printf("%-34s %12s %12s %12s\n", "", "before", "most", "after")
	for _, row := range []struct {
		name               string
		before, most, last float64
	}{
		{"memory of the server, MB", before.memory, w.most.memory, after.memory},
		{"goroutines", before.goroutines, w.most.goroutines, after.goroutines},
		{"open files", before.files, w.most.files, after.files},
		{"temporary files", before.temporary, w.most.temporary, after.temporary},
		{"Today, p95 of the last hundred, ms", before.today, w.most.today, after.today},
	} {
		fmt.Printf("%-34s %12.1f %12.1f %12.1f\n", row.name, row.before, row.most, row.last)
	}
	slices.Sort(broken)
	for _, b := range slices.Compact(broken) {
		fmt.Println("BROKEN", b)
	}
	if after.goroutines > before.goroutines+50 || after.files > before.files+50 || after.temporary > before.temporary+5 {
		broken = append(broken, "what grew did not go back")
		fmt.Println("BROKEN goroutines, open or temporary files grew and did not go back")
	}
	if err := s.stop(); err != nil {
		return err
	}
	if len(broken) > 0 {
		return fmt.Errorf("%d requests broke it", len(broken))
	}
	return nil
}

// known asks the server for codes and ids that exist.
func known(s *server) map[string][]string {
	out := map[string][]string{"material": {"silicone-gel", "latex"}, "id": {"1", "2", "3"}, "name": {"cheek"}}
	for field, path := range map[string]string{"pieces": "/api/pieces", "lots": "/api/lots", "mixes": "/api/mixes", "copies": "/api/copies", "kits": "/api/kits", "runs": "/api/runs"} {
		var list []struct {
			Code string `json:"code"`
		}
		_, raw := s.send("GET", path, nil)
		_ = json.Unmarshal(raw, &list)
		for _, one := range list {
			out["code"] = append(out["code"], one.Code)
			if field == "pieces" {
				out["piece"] = append(out["piece"], one.Code)
			}
		}
	}
	return out
}

// once is what broke it before, request by request.
var once = []struct{ method, path, body string }{
	{"POST", "/api/calc/texture", `{"op":"clark_evans","args":{"lattice":"sq","pitch":1,"rows":4,"cols":4611686018427387929,"area":100,"perimeter":40}}`},
	{"POST", "/api/calc/texture", `{"op":"plan","args":{"layers":[` + strings.Repeat("{},", 2999) + `{}]}}`},
	{"POST", "/api/calc/drying-and-cure", `{"model":"cure","input":{"system":"addition","pot_s":600,"demould_s":7200,"log":[]}}`},
	{"POST", "/api/calc/drying-and-cure", `{"model":"cure","input":{"system":"addition","pot_s":600,"demould_s":7200,"lag_s":0.001,"log":[[0,20],[1e9,25]]}}`},
	{"POST", "/api/productions/999999/days", `{"day":"2026-01-23","place":"x","temp_c":1,"rh":0.5,"light":"day","sun":false,"rain":false}`},
	{"GET", "/api/files/" + strings.Repeat("A", 64) + "?width=480", ""},
	{"GET", "/api/pieces/BF-03/map.svg?look=%00nobody", ""},
	{"PUT", "/api/equipment", `{"name":"` + strings.Repeat("x", 5000) + `"}`},
	{"MADEUP", "/api/pieces", ""},
}
