#!/bin/bash
# The linters, the check of the dependency direction, and that nothing generated is stale.
set -euo pipefail
cd "$(dirname "$0")/.."
failed=0
complain() { echo "lint: $1" >&2; failed=1; }

# The front end is looked at beside the rest.
web=$(mktemp)
(cd web && npm run --silent check && npm run --silent lint) >"$web" 2>&1 &
front=$!

unformatted=$(git ls-files -z '*.go' | xargs -0 gofmt -l)
[ -z "$unformatted" ] || complain "gofmt would change: $unformatted"
go vet ./... || complain "go vet"
go tool staticcheck ./... || complain "staticcheck"
scripts/directions.sh || complain "dependency direction"

# What is said stands in the catalogue: no quotation marks in the program, and no language by name.
said=$(grep -rnE '"[^"]*[“”][^"]*"' core internal --include=*.go | grep -vE '_test\.go:|^[^:]*:[0-9]+:\s*//|internal/(demo|sourcetest|workedcases)/|// |schema|Schema' || true)
[ -z "$said" ] || complain "texts outside of the catalogue: $said"
named=$(grep -rnE 'i18n\.Load\("|Load\("en"\)' core internal cmd e2e --include=*.go | grep -v '_test\.go:' || true)
[ -z "$named" ] || complain "a language is named: $named"

types=$(mktemp) formats=$(mktemp -d)
trap 'rm -rf "$types" "$formats" "$web"' EXIT
(cd web && npx --no-install openapi-typescript ../api/openapi.yaml -o "$types" >/dev/null 2>&1)
cmp -s "$types" web/src/api/schema_gen.ts || complain "web/src/api/schema_gen.ts is stale: run make generate"
go run ./internal/describe -root . -out "$types" -formats "$formats"
cmp -s "$types" api/compute_gen.json || complain "api/compute_gen.json is stale: run make generate"
diff -q "$formats" docs/formats >/dev/null || complain "docs/formats is stale: run make generate"
go run ./internal/messages -out "$types" && cmp -s "$types" core/say/say_gen.go || complain "core/say is stale: run make generate"
scripts/scan.sh || complain "scan"
wait "$front" || { cat "$web" >&2; complain "vue-tsc or eslint"; }

# What only tests import counts as tests.
tests=$(git ls-files '*_test.go' 'e2e/*.go' 'internal/workedcases/*.go' 'internal/sourcetest/*.go' 'internal/mariadb/mariadbtest/*.go' 'internal/testroom/**.go' | sort -u | xargs cat | grep -c '[^[:space:]]')
all=$(git ls-files '*.go' '*.ts' '*.vue' | grep -v '_gen\.ts$' | xargs cat | grep -c '[^[:space:]]')
echo "lint: tests are $tests of $all code lines, $((100 * tests / all)) %"
exit $failed
