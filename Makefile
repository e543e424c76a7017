# Wide Tally: `make demo` and `make test` do everything, set-up included.
SHELL := /bin/bash
.SHELLFLAGS := -eu -o pipefail -c
.PHONY: demo serve test lint build web go-test bench screenshots generate clean

WEB_SOURCES := $(shell find web/src web/public web/index.html web/vite.config.ts web/tsconfig.json locales -type f -not -name '.gitkeep' 2>/dev/null | sed 's/ /\\ /g')

demo: build
	exec build/widetally demo

serve: build
	exec build/widetally serve

build: .stamps/setup web
	go build -o build/widetally ./cmd/widetally

.stamps/setup: scripts/setup.sh
	scripts/setup.sh
	mkdir -p .stamps && touch $@

.stamps/setup-tests: scripts/setup.sh
	scripts/setup.sh --tests
	mkdir -p .stamps && touch $@

.stamps/npm: web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	mkdir -p .stamps && touch $@

web: web/dist/index.html

web/dist/index.html: .stamps/npm $(WEB_SOURCES) web/src/api/schema_gen.ts
	cd web && npm run --silent build -- --logLevel warn
	touch $@ web/dist/.gitkeep

# All tests, browser tests too.
test: .stamps/setup .stamps/setup-tests web
	go test ./...

bench:
	go test -run '^$$' -bench . -benchmem ./core/... ./internal/...

# What is generated from the description of the API and the demo's seed.
generate: .stamps/npm
	cd web && npm run --silent types
	go generate ./...

lint: .stamps/npm
	scripts/lint.sh

screenshots: build .stamps/setup-tests
	scripts/screenshots.sh

clean:
	rm -rf build .stamps web/node_modules web/dist/assets web/dist/index.html web/dist/icon.svg
