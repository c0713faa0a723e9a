// Command figures reads what the benchmarks print, keeps every figure with its
// commit and machine in docs/figures.csv, prints it beside the last one of the
// same kind of machine, and names at the end what grew by more than a third. It
// writes docs/figures.md, the table with the goal of each.
package main

import (
	"bufio"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"runtime"
	"strconv"
	"strings"
	"time"
)

const (
	history = "docs/figures.csv"
	page    = "docs/figures.md"
	// grew is the ratio from which a figure is named.
	grew = 1.3
)

func main() {
	if err := run(os.Stdin, os.Stdout, history, page); err != nil {
		fmt.Fprintln(os.Stderr, "figures:", err)
		os.Exit(1)
	}
}

// record is one figure of one run.
type record struct {
	when, commit, machine, figure string
	value                         float64
	unit                          string
}

func run(in io.Reader, out io.Writer, history, page string) error {
	before, err := readHistory(history)
	if err != nil {
		return err
	}
	p := parser{}
	var now []record
	when, commit, machine := time.Now().UTC().Format("2006-01-02 15:04"), commit(), machine()
	for lines := bufio.NewScanner(in); lines.Scan(); {
		fmt.Fprintln(out, lines.Text())
		for _, f := range p.line(lines.Text()) {
			now = append(now, record{when, commit, machine, f.name, f.value, f.unit})
		}
	}
	if len(now) == 0 {
		return errors.New("nothing was measured")
	}
	last := latest(before, machine)
	fmt.Fprintf(out, "\n== Every figure beside the last one on such a machine (%s)\n", machine)
	var slower []string
	for _, r := range now {
		was, known := last[r.figure]
		beside := "new"
		if known && was.value > 0 {
			ratio := r.value / was.value
			beside = fmt.Sprintf("%5.2f × %s of %s", ratio, amount(was.value, was.unit), was.commit)
			if ratio > grew {
				slower = append(slower, fmt.Sprintf("%s: %s, was %s at %s", r.figure, amount(r.value, r.unit), amount(was.value, was.unit), was.commit))
			}
		}
		fmt.Fprintf(out, "%-64s %12s   %s\n", r.figure, amount(r.value, r.unit), beside)
	}
	fmt.Fprintln(out)
	if len(slower) == 0 {
		fmt.Fprintf(out, "Nothing grew by more than %.1f.\n", grew)
	} else {
		fmt.Fprintf(out, "Grown by more than %.1f:\n  %s\n", grew, strings.Join(slower, "\n  "))
	}
	for _, g := range goals {
		for _, r := range now {
			if r.figure == g.figure && r.value > g.most {
				fmt.Fprintf(out, "Misses its goal: %s is %s, at most %s is wanted.\n", r.figure, amount(r.value, r.unit), amount(g.most, r.unit))
			}
		}
	}
	if err := keep(history, now); err != nil {
		return err
	}
	return writePage(page, now, last)
}

func amount(v float64, unit string) string {
	digits := 1
	switch {
	case v < 1:
		digits = 3
	case v < 10:
		digits = 2
	case v >= 1000:
		digits = 0
	}
	return strconv.FormatFloat(v, 'f', digits, 64) + " " + unit
}

// latest is the newest record of each figure from a kind of machine.
func latest(all []record, machine string) map[string]record {
	out := map[string]record{}
	for _, r := range all {
		if r.machine == machine {
			out[r.figure] = r
		}
	}
	return out
}

func readHistory(file string) ([]record, error) {
	f, err := os.Open(file)
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", file, err)
	}
	var all []record
	for _, r := range rows[min(1, len(rows)):] {
		v, err := strconv.ParseFloat(r[4], 64)
		if err != nil {
			return nil, fmt.Errorf("reading %s: %w", file, err)
		}
		all = append(all, record{r[0], r[1], r[2], r[3], v, r[5]})
	}
	return all, nil
}

func keep(file string, now []record) error {
	_, err := os.Stat(file)
	isNew := errors.Is(err, os.ErrNotExist)
	f, err := os.OpenFile(file, os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	w := csv.NewWriter(f)
	if isNew {
		_ = w.Write([]string{"when", "commit", "machine", "figure", "value", "unit"})
	}
	for _, r := range now {
		_ = w.Write([]string{r.when, r.commit, r.machine, r.figure, strconv.FormatFloat(r.value, 'g', 6, 64), r.unit})
	}
	w.Flush()
	return errors.Join(w.Error(), f.Close())
}

func writePage(file string, now []record, last map[string]record) error {
	var b strings.Builder
	fmt.Fprintf(&b, "# Figures\n\nWritten by `make bench`; every run is kept in [figures.csv](figures.csv). Last run: %s UTC at %s, on %s.\nGoals are for two idle cores; a shared machine is off by a fifth either way.\n\n", now[0].when, now[0].commit, now[0].machine)
	b.WriteString("| figure | goal | this run | the one before |\n|---|--:|--:|--:|\n")
	for _, r := range now {
		goal, was := "", ""
		for _, g := range goals {
			if g.figure == r.figure {
				goal = "≤ " + amount(g.most, r.unit)
			}
		}
		if w, known := last[r.figure]; known {
			was = amount(w.value, w.unit)
		}
		fmt.Fprintf(&b, "| %s | %s | %s | %s |\n", r.figure, goal, amount(r.value, r.unit), was)
	}
	return os.WriteFile(file, []byte(b.String()), 0o644)
}

func commit() string {
	out, err := exec.Command("git", "rev-parse", "--short=9", "HEAD").Output()
	if err != nil {
		return "unknown"
	}
	return strings.TrimSpace(string(out))
}

// machine is the kind of machine, so that figures of different ones are not
// compared.
func machine() string {
	model := runtime.GOARCH
	if raw, err := os.ReadFile("/proc/cpuinfo"); err == nil {
		for _, line := range strings.Split(string(raw), "\n") {
			if name, value, found := strings.Cut(line, ":"); found && strings.TrimSpace(name) == "model name" {
				model = strings.TrimSpace(value)
				break
			}
		}
	}
	return fmt.Sprintf("%d cores, %s", runtime.NumCPU(), model)
}
