#!/usr/bin/env bash
# Prints what was measured on this machine: the Go benchmarks of the craft, and
# a small load on a demo of its own, and ten years of a busy shop (made once,
# in .run/decade).
set -euo pipefail
cd "$(dirname "$0")/.."
echo "== Go benchmarks"
go test -run '^$' -bench . -benchtime 300ms ./internal/craft/... ./internal/platform/files | grep -E '^(Benchmark|goos|goarch|cpu)'
echo "== Load on the demo"
go run ./tools/load
echo "== Ten years of a busy shop"
go run ./tools/decade
echo "== A frame of the map and of a section, on a demo that runs (make demo in another window)"
go run ./tools/redraw || echo "no demo runs on 127.0.0.1:8480"
echo "== First load of the interface, scripts gzipped"
node tools/firstload.mjs
