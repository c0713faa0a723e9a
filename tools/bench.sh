#!/usr/bin/env bash
# Measures this program on this machine: the Go benchmarks of the craft, a small
# load on a demo of its own, ten years of a busy shop (made once, in
# .run/decade), a frame of the drawings, and the first load. Every figure is
# kept, and shown beside the last one: see tools/figures.
set -euo pipefail
cd "$(dirname "$0")/.."
measure() {
  echo "== Go benchmarks"
  go test -run '^$' -bench . -benchtime 300ms -benchmem ./internal/craft/... ./internal/platform/files ./internal/station/build ./internal/station/sculpt ./internal/station/check | grep -E '^(Benchmark|goos|goarch|cpu)'
  echo "== Load on the demo"
  go run ./tools/load
  echo "== Ten years of a busy shop"
  go run ./tools/decade
  echo "== A frame of the map and of a section, on a demo that runs (make demo in another window)"
  go run ./tools/redraw || echo "no demo runs on 127.0.0.1:8480"
  echo "== First load of the interface, scripts gzipped"
  node tools/firstload.mjs
}
go build -o bin/figures ./tools/figures
measure | ./bin/figures
