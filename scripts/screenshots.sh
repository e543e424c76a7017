#!/bin/bash
# Takes the pictures in docs/screenshots from the demo data; those of pages are taken by office.sh.
set -euo pipefail
cd "$(dirname "$0")/.."
data=$(mktemp -d)
go build -o build/shot ./e2e/shot
build/widetally demo --data "$data" --addr 127.0.0.1:8490 >"$data/out" 2>&1 &
server=$!
trap 'kill -INT $server; wait $server || true; rm -rf "$data"' EXIT
for _ in $(seq 120); do [ -s "$data/address" ] && break; sleep 0.5; done
base=$(cat "$data/address")
shot() { build/shot -out "docs/screenshots/$1.png" -url "$base$2" "${@:3}"; }

shot studies /studies
shot topline '/studies/1#q4' -js "await wait(1200)"
shot claim '/studies/1#q9' -js "await wait(1500); document.querySelectorAll('#q9 [data-test=unfold]').forEach((b) => b.click()); await wait(900); window.scrollBy(0, 270)"
shot compare '/studies/1#q13' -js "await wait(1500); document.querySelector('#q13 [data-test=ask-goodness-of-fit]').click(); await wait(1200); for (const [l, v] of [['Very dissatisfied', '5'], ['Dissatisfied', '10'], ['Neither', '20'], ['Satisfied', '40'], ['Very satisfied', '24.5']]) { type(document.querySelector('[data-test=\"share-' + l + '\"]'), v); await wait(60) } type(document.querySelector('#q13 [data-test=\"shares.source.title\"]'), 'the council\'s report'); await wait(500); window.scrollBy(0, 235)"
choose="const choose = async (el, text) => { el.click(); await wait(400); [...document.querySelectorAll('.v-overlay--active [role=option]')].find(o => o.textContent.trim() === text).click(); await wait(400) };"
shot crossing '/studies/1#q13' -height 900 -js "$choose await wait(900); const q = document.querySelector('#q13'); q.scrollIntoView(); await wait(600); document.querySelectorAll('#q13 [data-test=unfold]').forEach((b) => b.click()); await wait(900); q.querySelector('[data-test=test-it]').click(); await wait(600); await choose(q.querySelector('[data-test=\"test.role\"]'), 'do not go together'); await choose(q.querySelector('[data-test=\"test.level\"]'), '5 %'); await wait(600); q.querySelector('[data-test=state-run]').click(); await wait(2000); q.querySelector('[data-test=claim]').scrollIntoView(); window.scrollBy(0, -70); await wait(300)"
shot tables /studies/1/tables -height 900 -js "await wait(2500)"
shot quick '/quick#yes=734&n=1240&units=households&label=we%20use%20the%20caddy' -js "$choose await wait(600); type(document.querySelector('[data-test=claimed]'), '62 %'); await wait(300); await choose(document.querySelector('[data-test=direction]'), 'less than that'); await choose(document.querySelector('[data-test=role]'), 'that the claimed share holds'); await wait(1500)"
shot numbers '/studies/1#q6' -js "await wait(900); document.querySelectorAll('#q6 [data-test=unfold]').forEach((b) => b.click()); await wait(900); document.querySelector('#q6 [data-test=described]').scrollIntoView(); window.scrollBy(0, -70); await wait(600)"
shot claims /studies/1/claims
shot intake /intake -js "const rows = ['ward;caddy;n', 'Harbour;yes;130', 'Harbour;no;108', 'harbour;yes;2', 'Fenside;yes;70', 'Fenside;no;62']; const files = new DataTransfer(); files.items.add(new File([rows.join('\n')], 'autumn_wave.csv')); const field = document.querySelector('[data-test=file]'); field.files = files.files; field.dispatchEvent(new Event('change')); await wait(1200)"
shot trend '/studies/2#q4' -height 900 -js "await wait(1500); document.querySelectorAll('#q4 [data-test=unfold]').forEach((b) => b.click()); await wait(2000); document.querySelector('#q4 [data-test=described]').scrollIntoView(); window.scrollBy(0, -70); await wait(600)"
shot check /studies/1/check
shot codebook /studies/1/codebook -js "document.querySelector('[data-test=choose-satisfaction] input').click(); await wait(300); document.querySelector('[data-test=choose-crew] input').click(); await wait(400)"
shot subgroups '/studies/1/codebook?show=subgroups' -js "await wait(400); document.querySelector('[data-test=subgroups] button').click(); await wait(900)"
shot shares /shares -js "await wait(900); document.querySelector('[data-test=set-versions]')?.click(); await wait(600)"
shot report /studies/1/report -js "await wait(1500)"
shot estimates '/studies/1/codebook?show=design' -dark -js "await wait(900); document.querySelector('[data-test=design-save]').click(); await wait(1200); document.querySelector('nav a[href=\"/studies/1\"]').click(); await wait(2000); document.querySelector('#q4').scrollIntoView(); window.scrollBy(0, -90); await wait(600)"
