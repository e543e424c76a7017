#!/bin/bash
# Installs what Wide Tally needs and the machine lacks, and nothing else.
#   scripts/setup.sh            for running the application
#   scripts/setup.sh --tests    for the tests too (a browser)
#
# Only MariaDB's core packages are installed: the programs without the system
# service, so that no database is created, started or touched outside this folder.
set -euo pipefail

tests=no
[ "${1:-}" = --tests ] && tests=yes

has() { PATH="$PATH:/usr/sbin:/usr/local/sbin" command -v "$1" >/dev/null 2>&1; }

for tool in go node npm make; do
  has "$tool" || { echo "setup: '$tool' is missing. Wide Tally needs Go 1.26, Node 20 and make; please install it and run this again." >&2; exit 1; }
done

packages=()
if [ -z "${WIDETALLY_DSN:-}" ]; then
  has mariadbd && has my_print_defaults || packages+=(mariadb-server-core mariadb-client-core)
fi
if [ "$tests" = yes ]; then
  has chromium-headless-shell || packages+=(chromium-headless-shell) # Chromium without windows
  for tool in curl jq python3; do has "$tool" || packages+=("$tool"); done # the examples of the guide
fi
[ ${#packages[@]} -eq 0 ] && exit 0

as_root=()
if [ "$(id -u)" -ne 0 ]; then
  has sudo || { echo "setup: installing ${packages[*]} needs root or sudo. Ask an administrator to run: apt-get install ${packages[*]}" >&2; exit 1; }
  as_root=(sudo)
fi

echo "setup: installing ${packages[*]} from Debian's packages (a minute or two, once)"
log=$(mktemp)
trap 'rm -f "$log"' EXIT
install() {
  "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get update -qq >>"$log" 2>&1 &&
    "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${packages[@]}" >>"$log" 2>&1
}
# Another installation may hold the lock, a second copy of this one for instance.
for try in $(seq 60); do
  : >"$log"
  install && exit 0
  grep -q 'Could not get lock' "$log" || break
  [ "$try" -gt 1 ] || echo "setup: another installation is under way, waiting for it"
  sleep 5
done
if [ "${packages[*]}" = chromium-headless-shell ] && has chromium; then
  echo "setup: chromium-headless-shell could not be installed; the tests take chromium, which is slower"
  exit 0
fi
cat "$log" >&2
echo "setup: could not install ${packages[*]}. The messages above say why; without network, install them beforehand." >&2
exit 1
