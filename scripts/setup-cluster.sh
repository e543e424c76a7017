#!/bin/bash
# Unpacks what a database cluster on loopback needs and the machine lacks into build/cluster: Galera, the scripts by which a
# node takes over the state of another, rsync, and the proxy. Nothing is installed, no service is made or started, and no
# rights are needed; the programs of MariaDB itself are those of scripts/setup.sh.
set -euo pipefail
cd "$(dirname "$0")/.."

to=build/cluster
has() { PATH="$PATH:/usr/sbin" command -v "$1" >/dev/null 2>&1; }

packages=()
[ -e /usr/lib/galera/libgalera_smm.so ] || [ -e /usr/lib/libgalera_smm.so ] || packages+=(galera-4)
has wsrep_sst_rsync || packages+=(mariadb-server)
has rsync || packages+=(rsync)
has lsof || has ss || packages+=(lsof)
has haproxy || packages+=(haproxy)
[ ${#packages[@]} -gt 0 ] || exit 0
[ ! -e "$to/.complete" ] || exit 0

# What they need of other packages, without the database server's own, of which only scripts are wanted.
wanted=$(printf '%s\n' "${packages[@]}" | grep -vx mariadb-server || true)
needed=$(apt-get install --simulate --no-install-recommends $wanted 2>/dev/null | awk '$1 == "Inst" {print $2}')
[ -n "$needed" ] || { echo "setup: apt knows no packages $wanted; run apt-get update" >&2; exit 1; }
rm -rf "$to" && mkdir -p "$to/.packages"
echo "setup: unpacking ${packages[*]} into $to"
(cd "$to/.packages" && apt-get download -qq $needed $(printf '%s\n' "${packages[@]}" | grep -x mariadb-server) 2>/dev/null) ||
  { echo "setup: the packages ${packages[*]} could not be had; without network, install them beforehand" >&2; exit 1; }
for package in "$to"/.packages/*.deb; do dpkg-deb -x "$package" "$to"; done
rm -rf "$to/.packages"
touch "$to/.complete"
