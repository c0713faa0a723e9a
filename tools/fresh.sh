#!/usr/bin/env bash
# Fails when something generated is older than what it is generated from: the
# OpenAPI document, the table of who may, and the TypeScript client.
set -euo pipefail
cd "$(dirname "$0")/.."
tmp=$(mktemp -d)
trap 'rm -rf "$tmp"' EXIT
go run ./cmd/yewmoor openapi > "$tmp/openapi.json"
cmp -s "$tmp/openapi.json" api/openapi.json || { echo "api/openapi.json is stale: run make api" >&2; exit 1; }
go run ./cmd/yewmoor access > "$tmp/access.md"
cmp -s "$tmp/access.md" docs/access.md || { echo "docs/access.md is stale: run make api" >&2; exit 1; }
(cd ui && npx --no-install openapi-typescript ../api/openapi.json -o "$tmp/schema.gen.ts" >/dev/null 2>&1)
cmp -s "$tmp/schema.gen.ts" ui/src/api/schema.gen.ts || { echo "ui/src/api is stale: run make api" >&2; exit 1; }
