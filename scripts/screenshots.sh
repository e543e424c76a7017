#!/bin/bash
# Takes the pictures in docs/screenshots from the demo data.
set -euo pipefail
cd "$(dirname "$0")/.."
data=$(mktemp -d)
go build -o build/shot ./e2e/shot
build/widetally demo -data "$data" -addr 127.0.0.1:8490 >"$data/out" 2>&1 &
server=$!
trap 'kill -INT $server; wait $server || true; rm -rf "$data"' EXIT
for _ in $(seq 120); do [ -s "$data/address" ] && break; sleep 0.5; done
base=$(cat "$data/address")
shot() { build/shot -out "docs/screenshots/$1.png" -url "$base$2" "${@:3}"; }

shot studies /studies
shot topline '/studies/1#q4'
shot claim '/studies/1#q9' -js "window.scrollBy(0, 270)"
shot compare '/studies/1#q13' -js "document.querySelector('#q13 [data-test=compare]').click(); await wait(400); for (const [l, v] of [['Very dissatisfied', '5'], ['Dissatisfied', '10'], ['Neither', '20'], ['Satisfied', '40'], ['Very satisfied', '24.5']]) { type(document.querySelector('[data-test=\"share-' + l + '\"]'), v); await wait(60) } type(document.querySelector('#q13 [data-test=source]'), 'the council\'s report'); await wait(500); window.scrollBy(0, 235)"
shot arrange '/studies/1#q2' -js "document.querySelector('#q2 [data-test=arrange]').click()"
shot topline-dark '/studies/1#q6' -dark
shot claims /studies/1/claims
shot intake /intake -js "const rows = ['ward;tenure;caddy', 'Harbour;rents;yes', 'Fenside;owns;no', 'Harbour;owns', 'Quarry Hill;rents;yes']; const files = new DataTransfer(); files.items.add(new File([rows.join('\n')], 'autumn_wave.csv')); const field = document.querySelector('[data-test=file]'); field.files = files.files; field.dispatchEvent(new Event('change')); await wait(900)"
