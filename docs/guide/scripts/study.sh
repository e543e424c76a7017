#!/bin/sh
# Makes a study of a file, tallies it, tests a claim and saves the report, with nothing but HTTP:
#
#   study.sh http://127.0.0.1:8420 answers.csv report.docx
#
# It needs curl and jq. What goes wrong is answered with words; they are printed, and it stops.
set -eu
api="$1/api/v1" file=$2 report=$3

call() { # METHOD PATH [BODY [HEADER]]
  said=$(curl -sS --fail-with-body -X "$1" "$api/$2" -H "${4:-Accept: application/json}" -H 'Content-Type: application/json' ${3:+-d "$3"}) ||
    { show "$said" | jq -r .title >&2; exit 1; }
  show "$said"
}
show() { printf '%s\n' "$1"; }

# 1. The file arrives as it is. How it was read is guessed, and can be said otherwise (settings).
arrived=$(curl -sS --fail-with-body "$api/arrivals?name=$(basename "$file")" -H 'Content-Type: application/octet-stream' --data-binary @"$file")
look=$(call POST "arrivals/$(show "$arrived" | jq -r .id)/look" "$(show "$arrived" | jq '{settings: .settings}')")
show "$look" | jq -r '.preview | "\(.rows) rows, \(.names | length) columns", (.problems[] | "line \(.line): \(.text)")'

# 2. The study is kept.
study=$(call POST studies "$(show "$arrived" | jq '{arrivalId: .id, settings: .settings, name: "Kerbside collection", units: "households"}')" | jq .id)

# 3. Every question is tallied.
topline=$(call GET "studies/$study/topline")
show "$topline" | jq -r '.questions[] | select(.name == "tenure") | .rows[] | "\(.label)\t\(.count)"'
question() { show "$topline" | jq --arg name "$1" '.questions[] | select(.name == $name) | .id'; }
caddy=$(question caddy_after) tenure=$(question tenure)

# 4. A claim is stated and tested, and two questions are crossed. Answers go by their codes.
claim=$(call POST "studies/$study/analyses" '{"run": true, "spec": {"method": "one-proportion", "questions": ["'"$caddy"'"],
  "settings": {"success": ["1"], "claimed": "62 %", "direction": "less", "role": "null", "level": 0.05, "source": {"title": "the council"}}}}')
id=$(show "$claim" | jq .analysisId)
show "$claim" | jq -r --argjson id "$id" '.question.analyses[] | select(.id == $id) | .document.outcome.text'
crossing=$(call POST "studies/$study/analyses" '{"spec": {"method": "crosstab", "questions": ["'"$caddy"'", "'"$tenure"'"], "settings": {"reading": "row"}}}' | jq .analysisId)

# 5. A report is put together. Its version keeps two people from overwriting each other.
version=$(call GET "studies/$study/report" | jq .version)
call PUT "studies/$study/report" '{"title": "Kerbside collection", "pieces": [
  {"id": 1, "prose": "Of {tenure: n} households {tenure: % 1} own their home; see {tenure: table}."},
  {"id": 2, "question": '"$tenure"'}, {"id": 3, "analysis": '"$id"'}, {"id": 4, "analysis": '"$crossing"'}]}' "If-Match: \"$version\"" >/dev/null
curl -sS --fail-with-body "$api/studies/$study/report/file?form=docx" -o "$report"
echo "$report is written"
