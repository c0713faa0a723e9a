package main

import (
	"regexp"
	"strconv"
	"strings"
)

// figure is one measured value; less is better for every kind that is kept.
type figure struct {
	name  string
	value float64
	unit  string
}

// parser reads the benchmarks' lines; some say in a head line what the next ones
// are of.
type parser struct{ head string }

var (
	goBench = regexp.MustCompile(`^Benchmark(\S+?)(?:-\d+)?\s+\d+\s+([\d.]+) ns/op(?:.*?\s([\d.]+) B/op)?`)
	plain   = regexp.MustCompile(`^(.{1,44}?)\s{2,}([\d.]+) (s|ms|MB|kB)(?:\s|$|,)`)
	plainMS = regexp.MustCompile(`^(.{1,44}?)\s{2,}([\d.]+) ms median`)
	headed  = regexp.MustCompile(`^(.+), in ms\s+p50\s+p95`)
	under   = regexp.MustCompile(`^  (.{1,42}?)\s+([\d.]+)\s+([\d.]+)\s+([\d.]+)\s+([\d.]+)$`)
	redraw  = regexp.MustCompile(`^(.+): ([\d.]+) ms of script`)
	load    = regexp.MustCompile(`^([\d.]+) kB in \d+ files`)
)

func number(s string) float64 { v, _ := strconv.ParseFloat(s, 64); return v }

// line gives the figures that a line says.
func (p *parser) line(text string) []figure {
	if m := goBench.FindStringSubmatch(text); m != nil {
		name := strings.ReplaceAll(m[1], "_", " ")
		out := []figure{{name, number(m[2]) / 1e6, "ms"}}
		if m[3] != "" {
			out = append(out, figure{name + ", memory", number(m[3]) / 1e6, "MB"})
		}
		return out
	}
	if m := headed.FindStringSubmatch(text); m != nil {
		p.head = m[1]
		return nil
	}
	if m := under.FindStringSubmatch(text); m != nil && p.head != "" {
		return []figure{{strings.TrimSpace(m[1]) + ", " + p.head + ", p95", number(m[3]), "ms"}}
	}
	if m := redraw.FindStringSubmatch(text); m != nil {
		return []figure{{m[1] + ", script a frame", number(m[2]), "ms"}}
	}
	if m := load.FindStringSubmatch(text); m != nil {
		return []figure{{"first load of the interface, gzipped", number(m[1]), "kB"}}
	}
	if m := plainMS.FindStringSubmatch(text); m != nil {
		return []figure{{strings.TrimSpace(m[1]), number(m[2]), "ms"}}
	}
	if m := plain.FindStringSubmatch(text); m != nil && !strings.HasPrefix(text, " ") {
		return []figure{{strings.TrimSpace(m[1]), number(m[2]), m[3]}}
	}
	return nil
}

// goal is the most that a figure may be, in its unit, on two idle cores.
type goal struct {
	figure string
	most   float64
}

var goals = []goal{
	{"LookAt870kTriangles", 550},
	{"LookAt870kTriangles, memory", 150},
	{"Thickness", 1200},
	{"BestPull/two", 5000},
	{"piece page: its section, worked out, one person, p95", 10},
	{"piece page: its section, worked out, 20 people asking without a pause, p95", 80},
	{"Today, 20 people, each asking once a second, p95", 30},
	{"second start", 1},
	{"first load of the interface, gzipped", 230},
}
