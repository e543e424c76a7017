#!/bin/bash
# Arrows point down only: cmd → httpapi → service → (intake, export) → core; store serves service through its interfaces.
# core imports the standard library and gonum, nothing else.
set -euo pipefail
cd "$(dirname "$0")/.."
failed=0

# forbid PACKAGES PATTERN: no package may depend on what the pattern matches.
forbid() {
  local bad
  bad=$(go list -f '{{$p := .ImportPath}}{{range .Deps}}{{$p}} -> {{.}}{{"\n"}}{{end}}' "$1" | grep -E -- "-> ($2)" || true)
  if [ -n "$bad" ]; then
    echo "directions: not allowed:" >&2
    echo "$bad" | head -20 >&2
    failed=1
  fi
}

outside=$(go list -f '{{range .Deps}}{{.}}{{"\n"}}{{end}}' ./core/... | sort -u | grep -E '\.|^widetally/' | grep -vE '^(widetally/core/|gonum\.org/v1/gonum/|vendor/|crypto/)' || true)
if [ -n "$outside" ]; then
  echo "directions: core depends on: $outside" >&2
  failed=1
fi
forbid ./core/... 'net/http|database/sql|os/exec'
forbid ./internal/intake/... 'widetally/internal/|gorm\.io|github\.com/gofiber'
forbid ./internal/arrivals/... 'widetally/internal/(service|httpapi|store|i18n|demo)|github\.com/gofiber'
forbid ./internal/store/... 'widetally/internal/(service|httpapi|intake|i18n|demo)|github\.com/gofiber'
forbid ./internal/i18n/... 'widetally/internal/|gorm\.io|github\.com/gofiber'
forbid ./internal/service/... 'widetally/internal/(store|httpapi|demo|mariadb)|github\.com/gofiber'
forbid ./internal/httpapi/... 'widetally/(cmd|internal/(store|demo|mariadb))'

gorm=$(go list -f '{{$p := .ImportPath}}{{range .Imports}}{{$p}} {{.}}{{"\n"}}{{end}}' ./... | grep ' gorm\.io' | grep -v '^widetally/internal/store ' || true)
if [ -n "$gorm" ]; then
  echo "directions: only internal/store knows GORM: $gorm" >&2
  failed=1
fi

# A method is named in its own package; what stores, serves and renders knows none.
names=$(grep -rhoE 'Figures\("[a-z/-]+"' core/methods | sed -E 's/.*"(.*)"/\1/' | grep -v '^battery$' | paste -sd'|')
named=$(grep -rnE "\"($names)\"" internal/store internal/httpapi internal/terminal internal/export --include=*.go | grep -vE '_test\.go:|/store/migrations\.go:' || true)
named+=$(grep -rnE "'($names)'" web/src --include=*.ts --include=*.vue | grep -vE "_gen\.ts:|\.test\.ts:|kind === '|'ordered'" || true)
if [ -n "$named" ]; then
  echo "directions: methods are named outside of their packages: $named" >&2
  failed=1
fi

# Every study is reached through one place, which lets people in.
around=$(grep -rnE 's\.store\.Change\(' internal/service --include=*.go | grep -vE '_test\.go:|/access\.go:' || true)
if [ -n "$around" ]; then
  echo "directions: studies are changed past internal/service/access.go: $around" >&2
  failed=1
fi
# Who serves knows places, and what holds studies only through them.
whole=$(grep -rnE 'service\.Store\b' internal cmd e2e --include=*.go || true)
if [ -n "$whole" ]; then
  echo "directions: the whole store is asked for outside of the service: $whole" >&2
  failed=1
fi
exit $failed
