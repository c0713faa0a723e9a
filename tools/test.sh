#!/usr/bin/env bash
# Runs the tests of the whole program and says how far it is. Limits are stated
# here, wide enough for one slow core: ten minutes for a package, thirty for the
# browser's.
set -euo pipefail
cd "$(dirname "$0")/.."
begun=$SECONDS
say() { printf '== %s (%d s so far)\n' "$*" $((SECONDS - begun)); }

count() { awk -v n="$1" '/^(ok|FAIL|\?)[ \t].*[\/\t]/ { printf "[%d/%d] ", ++i, n } { print; fflush() }'; }

say "Vetting"
go vet ./...
mapfile -t packages < <(go list ./... | grep -v '/e2e$')
say "${#packages[@]} packages"
go test -timeout 10m "${packages[@]}" 2>&1 | count "${#packages[@]}"
tests=$(go test -list . ./e2e | grep -c '^Test')
say "$tests walks through the interface in a browser"
go test -timeout 30m -v ./e2e 2>&1 | awk -v n="$tests" '/^--- / { printf "[%d/%d] ", ++i, n } !/^=== / { print; fflush() }'
say "The interface by itself"
(cd ui && npx vitest run)
say "All green"
