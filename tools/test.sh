#!/usr/bin/env bash
# Runs the tests of the whole program and says how far it is. Limits are stated
# here, wide enough for one slow core: ten minutes for a package, thirty for the
# browser's.
set -euo pipefail
cd "$(dirname "$0")/.."
begun=$SECONDS
say() { printf '== %s (%d s so far)\n' "$*" $((SECONDS - begun)); }

# numbered puts "[3/75]" before each line that begins as asked, at once, and
# drops the lines that begin as the second pattern says.
numbered() {
  local i=0
  while IFS= read -r line; do
    if [[ $line =~ $2 ]]; then printf '[%d/%d] ' $((++i)) "$1"; fi
    if [[ -z ${3-} || ! $line =~ $3 ]]; then printf '%s\n' "$line"; fi
  done
}

say "Vetting"
go vet ./...
mapfile -t packages < <(go list ./... | grep -v '/e2e$')
say "${#packages[@]} packages"
go test -timeout 10m "${packages[@]}" 2>&1 | numbered "${#packages[@]}" $'^(ok|FAIL|\\?)[ \t]+yewmoor'
tests=$(go test -list . ./e2e | grep -c '^Test')
say "$tests walks through the interface in a browser"
go test -timeout 30m -v ./e2e 2>&1 | numbered "$tests" '^--- ' '^=== '
say "The interface by itself"
(cd ui && npx vitest run)
say "All green"
