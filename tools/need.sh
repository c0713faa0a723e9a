#!/usr/bin/env bash
# Installs what the project needs and the machine lacks: MariaDB's server
# programs and Chromium, from the distribution's packages. Quick when all is
# there.
set -euo pipefail
missing=()
command -v mariadbd >/dev/null && command -v mariadb-install-db >/dev/null || missing+=(mariadb-server-core mariadb-client)
command -v chromium >/dev/null || command -v google-chrome >/dev/null || missing+=(chromium)
for tool in go node npm; do
  command -v "$tool" >/dev/null || { echo "Yewmoor needs $tool; please install it first." >&2; exit 1; }
done
[ ${#missing[@]} -eq 0 ] && exit 0
if [ "$(id -u)" -eq 0 ]; then run=(); elif command -v sudo >/dev/null; then run=(sudo); else run=(none); fi
line="apt-get update && DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends ${missing[*]}"
if [ "${run[0]:-}" = none ] || ! command -v apt-get >/dev/null; then
  echo "Missing: ${missing[*]}. Please run as root: $line" >&2
  exit 1
fi
echo "Installing ${missing[*]} …" >&2
"${run[@]}" apt-get update -qq >&2
"${run[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >&2
