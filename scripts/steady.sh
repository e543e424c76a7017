#!/bin/bash
# Runs all tests three times while four other processes take what they can of the processors,
# and ends with what came of it.
#   scripts/steady.sh [TIMES [BUSY]]
set -euo pipefail
cd "$(dirname "$0")/.."
times=${1:-3} busy=${2:-4}

others=()
trap 'kill "${others[@]}" 2>/dev/null || true' EXIT
for _ in $(seq "$busy"); do
  (while :; do :; done) &
  others+=($!)
done

failed=0
for n in $(seq "$times"); do
  echo "steady: run $n of $times, beside $busy busy processes"
  go clean -testcache
  make test || failed=$((failed + 1))
done
echo "steady: $((times - failed)) of $times runs passed"
[ "$failed" -eq 0 ]
