#!/bin/bash
# Known faults of what this is made of, and secrets that lie about in it or in its history. Both work
# offline once their sources are there: the database of faults comes as a module, by the version in tools/go.mod.
set -euo pipefail
cd "$(dirname "$0")/.."
bin=build/tools
mkdir -p "$bin"
(cd tools && go build -o "../$bin/" golang.org/x/vuln/cmd/govulncheck github.com/zricethezav/gitleaks/v8)
failed=0
complain() { echo "scan: $1" >&2; failed=1; }

version=$(awk '$1 == "golang.org/x/vulndb" {print $2}' tools/go.mod)
faults=$(cd tools && go mod download -json "golang.org/x/vulndb@$version" | sed -n 's/^\s*"Dir": "\(.*\)",$/\1/p')
db=$(mktemp -d)
trap 'rm -rf "$db"' EXIT
node scripts/vulndb.mjs "$faults/data/osv" "$db"
# What is taken knowingly stands in tools/accepted.txt, each with its reason; what is no longer found goes from there.
found=$("$bin/govulncheck" -db "file://$db" -scan package -format json ./cmd/... | node scripts/vulnfound.mjs)
accepted=$(sed -n 's/^\(GO-[0-9-]*\) .*/\1/p' tools/accepted.txt | sort)
ours=$(echo "$found" | awk '$2 != "stdlib" && NF {print $1}' | sort -u)
news=$(comm -23 <(echo "$ours") <(echo "$accepted"))
gone=$(comm -13 <(echo "$ours") <(echo "$accepted"))
[ -z "$news" ] || complain "known faults in what is depended on: $(echo "$found" | grep -F "$news")"
[ -z "$gone" ] || complain "tools/accepted.txt names what is no longer found: $gone"
go=$(echo "$found" | awk '$2 == "stdlib" {print $3}' | sort -V | tail -1)
[ -z "$go" ] || echo "scan: Go itself has known faults that are mended in $go; build with that or newer"

"$bin/gitleaks" git --no-banner --redact --log-level error . || complain "a secret lies about: run $bin/gitleaks git -v"
exit $failed
