#!/bin/bash
# Opens the report of the demo, in the forms of office programs, with LibreOffice and turns it into
# pictures in build/office, to be looked at. LibreOffice comes from Debian's packages.
set -euo pipefail
cd "$(dirname "$0")/.."
need=()
command -v soffice >/dev/null || need+=(libreoffice-writer-nogui libreoffice-calc-nogui)
fc-match Arial | grep -q Liberation || need+=(fonts-liberation fonts-crosextra-caladea)
command -v pdftoppm >/dev/null || need+=(poppler-utils)
command -v pdflatex >/dev/null || need+=(texlive-latex-recommended texlive-latex-extra texlive-fonts-recommended lmodern)
command -v lualatex >/dev/null || need+=(texlive-luatex)
command -v unzip >/dev/null || need+=(unzip)
if [ ${#need[@]} -gt 0 ]; then
  as_root=(); [ "$(id -u)" -eq 0 ] || as_root=(sudo)
  "${as_root[@]}" apt-get install -y --no-install-recommends "${need[@]}"
fi
data=$(mktemp -d)
build/widetally demo --data "$data" --addr 127.0.0.1:8491 >"$data/out" 2>&1 &
server=$!
trap 'kill -INT $server; wait $server || true; rm -rf "$data"' EXIT
for _ in $(seq 120); do [ -s "$data/address" ] && break; sleep 0.5; done
study="$(cat "$data/address")/api/v1/studies/1"
# Every question of the demo, and all that is asked of it.
pieces='{"id":1,"prose":"## Tenure\n\nOf {tenure: n} households {tenure: % Owns it} own their home; see {tenure: table} and {claim 1: figure}.\n\n1. one\n2. two\n\n| of | n |\n|---|--:|\n| all | {tenure: n} |\n| 2 \\| 3 | *two* |"}'
for n in $(seq 2 30); do pieces+=",{\"id\":$((n + 10)),\"question\":$n}"; done
for n in $(seq 1 24); do pieces+=",{\"id\":$((n + 100)),\"analysis\":$n}"; done
version=$(curl -sf "$study/report" | sed -E 's/"report":.*//; s/.*"version":([0-9]+).*/\1/')
curl -sf -X PUT "$study/report" -H 'Content-Type: application/json' -H "If-Match: \"$version\"" -d "{\"title\":\"Kerbside collection\",\"pieces\":[$pieces]}" >/dev/null
# The design of the demo: its weights, the strata, the streets as clusters.
curl -sf -X PUT "$study/design" -H 'Content-Type: application/json' -d '{"weight":24,"strata":[29],"cluster":30,"fraction":"","singlePsu":"refuse","off":false}' >/dev/null
rm -rf build/office && mkdir -p build/office
for form in docx odt xlsx ods; do
  curl -sf "$study/report/file?form=$form" -o "build/office/report.$form"
  mkdir "build/office/$form"
  soffice --headless --convert-to pdf --outdir "build/office/$form" "build/office/report.$form" >/dev/null
  pdftoppm -r 60 -png "build/office/$form/report.pdf" "build/office/$form/page"
  echo "$form: $(ls build/office/$form/*.png | wc -l) pages"
done
# No figure is broken or lost, nothing stands off the page, no heading alone at its end.
curl -sf "$study/report/file?form=json" -o build/office/report.json
go run ./e2e/pages build/office/report.json build/office/docx/report.pdf build/office/odt/report.pdf
# HTML and Markdown, by parsers of others.
curl -sf "$study/report/file?form=html" -o build/office/report.html
curl -sf "$study/report/file?form=md" -o build/office/report-md.zip
unzip -q -p build/office/report-md.zip '*.md' >build/office/report.md
go run ./e2e/pages build/office/report.json build/office/report.html build/office/report.md
echo "html, md: $(grep -c '^|---' build/office/report.md) tables"
# The text form, by both compilers.
curl -sf "$study/report/file?form=tex" -o build/office/report-tex.zip
mkdir build/office/tex && (cd build/office/tex && unzip -q ../report-tex.zip && for with in pdflatex lualatex; do
  for _ in 1 2; do $with -interaction=nonstopmode -halt-on-error -jobname="$with" ./*.tex >"$with.txt" || { tail -30 "$with.txt"; exit 1; }; done
  ! grep -i "missing character" "$with.log"
  pdftoppm -r 60 -png "$with.pdf" "$with-page"
  echo "$with: $(ls "$with"-page*.png | wc -l) pages"
done)
go run ./e2e/pages build/office/report.json build/office/tex/pdflatex.pdf build/office/tex/lualatex.pdf
# The table book: a page on its side for each table, headings over the columns.
book=$(curl -sf "$study/books" | sed -E 's/.*"books":\[\{"id":([0-9]+).*/\1/')
for form in docx odt xlsx; do
  curl -sf "$study/books/$book/file?form=$form" -o "build/office/book.$form"
  soffice --headless --convert-to pdf --outdir "build/office/$form" "build/office/book.$form" >/dev/null
  echo "book, $form: $(pdfinfo "build/office/$form/book.pdf" | sed -n 's/Pages: *//p') pages"
done
# Two pages to look at: a claim in a document, and a table of the book.
page_with() { for n in $(seq 2 200); do pdftotext -f "$n" -l "$n" "$1" - | grep -q "$2" && { echo "$n"; return; }; done; }
pdftoppm -r 75 -singlefile -png -f "$(page_with build/office/docx/report.pdf '^Claim 4:')" build/office/docx/report.pdf docs/screenshots/page-document
pdftoppm -r 75 -singlefile -png -f "$(page_with build/office/docx/book.pdf '^Table 12\.')" build/office/docx/book.pdf docs/screenshots/page-book
