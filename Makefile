# Wide Tally: `make demo` and `make test` do everything, set-up included.
SHELL := /bin/bash
.SHELLFLAGS := -eu -o pipefail -c
.PHONY: load cluster demo-team office journeys try demo serve test lint build web setup setup-tests setup-cluster bench soak soak-cluster outdated licences screenshots generate clean simulation

WEB_SOURCES := $(shell find web/src web/public web/index.html $(wildcard web/vite*.ts) web/tsconfig.json web/package.json web/finish.mjs locales -type f -not -name '.gitkeep' 2>/dev/null | sed 's/ /\\ /g')

demo: build
	exec build/widetally demo

# The demo with a few people who sign in; their names and their password are printed.
demo-team: build
	exec build/widetally demo --team --data .data/team

# A database cluster of three nodes, two processes with the demo and a proxy before them, on loopback.
cluster: build setup-cluster
	exec go run ./internal/cluster

serve: build
	exec build/widetally serve

build: setup web
	go build -o build/widetally ./cmd/widetally

# Looks every time, since packages can go as they came; it is quick when all is there.
setup:
	scripts/setup.sh

setup-tests:
	scripts/setup.sh --tests

# What a database cluster on loopback needs beside that, unpacked below build/cluster; the tests of a cluster run where it is there.
setup-cluster:
	scripts/setup-cluster.sh

NPM := web/node_modules/.installed
$(NPM): web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	touch $@

web: web/dist/index.html

web/dist/index.html: $(NPM) $(WEB_SOURCES) web/src/api/schema_gen.ts
	cd web && npm run --silent build
	touch $@ web/dist/.gitkeep web/charts/.gitkeep

# All tests, browser tests too: side by side, on one database server, with one browser. What go
# vet finds is found by make lint.
test: setup-tests web
	cd web && npx --no-install vitest run --silent=passed-only
	go run ./internal/testroom/testrun -timeout 40m -vet=off -parallel 4 ./...

# Every benchmark, one package after the other, about seven minutes; the database keeps what is
# committed as an ordinary one does. What the ratios mean stands in docs/speed.md.
bench: setup-tests web
	WIDETALLY_DURABLE=1 go test -p 1 -run '^$$' -bench . -benchtime 5x ./core/... ./internal/... ./e2e

# A long shaking, not part of the tests: kills at random moments, many people at once, large
# and hostile files under a memory limit, whole grids of the distributions, and the tests three
# times on a machine that is busy. Its figures belong in docs/quality.md.
soak: setup-tests web
	WIDETALLY_SOAK=1 go test -count=1 -timeout 60m -v -run 'Soak|Bombs|LargeWorkbook|EveryCell|TwelveDigits|NoncentralLarge' ./cmd/widetally ./internal/intake ./core/prob
	scripts/steady.sh

# The same for a database cluster, half an hour: two processes that write through two nodes for ten minutes; nodes and processes that
# are killed, cut off or frozen a hundred times; a minority that takes nothing.
soak-cluster: setup-tests setup-cluster web
	WIDETALLY_SOAK=1 go test -count=1 -timeout 90m -v -run 'SoakCluster|Minority' ./cmd/widetally

# 500 people at work for five minutes, at an application of its own; make load AT=http://127.0.0.1:8450 for another, such as that of
# make cluster. The figures belong in docs/quality.md.
AT ?=
load: build
	go run ./internal/load -at "$(AT)"

# Draws samples from populations for which the claim is true, and prints how often intervals hold the
# share and tests reject the claim; the figures stand in docs/quality.md.
simulation:
	go run ./internal/simulation

# Brings files in through the API and compares every table with what Go's own reader counts:
# make try FILES="a.csv b.csv"; without FILES those in the repository, each with a habit of exports.
FILES ?= e2e/try/testdata/*
try: setup-tests web
	go run ./e2e/try $(FILES)

# The journeys from the shelf to the sentence, with the presses that each takes.
journeys: setup-tests web
	go test -count=1 -v -run TestJourneys ./e2e | grep presses

# Newer releases of what this depends on directly. To take one: go get module@version and
# go mod tidy, or npm install package@version in web; then make test and make licences.
outdated: $(NPM)
	go list -m -u -f '{{if and (not .Indirect) .Update}}{{.Path}} {{.Version}} -> {{.Update.Version}}{{end}}' all
	go list -m -u -f '{{with .Update}}github.com/valyala/fasthttp -> {{.Version}}{{end}}' github.com/valyala/fasthttp
	cd web && npm outdated || true

# The licences of all that ships, as docs/licences.md.
licences: $(NPM)
	node scripts/licences.mjs > docs/licences.md

# What is generated from the description of the API, the demo's seed, the types of the
# core, and the examples in docs/methods.md.
generate: $(NPM)
	cd web && npm run --silent types
	go generate ./...
	go test ./docs -update

lint: $(NPM)
	scripts/lint.sh

screenshots: build setup-tests
	scripts/screenshots.sh

# Opens the forms of the report with LibreOffice, as pictures in build/office.
office: build
	scripts/office.sh

clean:
	rm -rf build web/node_modules web/dist/assets web/dist/index.html web/dist/icon* web/dist/manifest.webmanifest web/charts/charts.js
