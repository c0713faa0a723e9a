# The two commands of the project are `make demo` and `make test`; the rest
# serve them. Everything that is missing on the machine is installed first.
.PHONY: demo test setup ui api check bench torture attack fmt clean

GO_SOURCES := $(shell find cmd internal ui/embed.go -name '*.go' -o -name '*.sql' -o -name '*.json' -path '*craft*' -o -name '*.ttf' 2>/dev/null)
UI_SOURCES := $(shell find ui/src ui/public -type f 2>/dev/null) ui/index.html ui/vite.config.ts ui/tsconfig.json

demo: setup bin/yewmoor
	@exec ./bin/yewmoor demo --log warn

test: setup bin/yewmoor
	@tools/test.sh

setup:
	@tools/need.sh

bin/yewmoor: $(GO_SOURCES) ui/dist/index.html go.sum
	go build -o $@ ./cmd/yewmoor

ui: ui/dist/index.html

ui/node_modules/.installed: ui/package-lock.json
	cd ui && npm ci --no-audit --no-fund
	@touch $@

ui/dist/index.html: ui/node_modules/.installed $(UI_SOURCES)
	cd ui && npm run build

# The contract: the document from the code, the client from the document.
api: ui/node_modules/.installed
	go run ./cmd/yewmoor openapi > api/openapi.json.new && mv api/openapi.json.new api/openapi.json
	go run ./cmd/yewmoor access > docs/access.md.new && mv docs/access.md.new docs/access.md
	cd ui && npm run api

# Linters, types, import directions and freshness of what is generated.
check: ui/node_modules/.installed ui/dist/index.html
	tools/fresh.sh
	test -z "$$(gofmt -l cmd internal e2e tools ui/embed.go)"
	go vet ./...
	go tool staticcheck ./...
	go test ./internal/house/
	cd ui && npm run check

fmt:
	gofmt -w cmd internal e2e tools ui/embed.go
	cd ui && npm run format

bench: setup bin/yewmoor
	tools/bench.sh

# Kills the server 200 times in the middle of the work and counts what is left.
torture: setup bin/yewmoor
	go run ./tools/torture

# Attacks a server of its own for ten minutes and prints what broke and what grew.
attack: setup bin/yewmoor
	go run ./tools/attack

clean:
	rm -rf bin ui/dist/assets ui/dist/index.html
