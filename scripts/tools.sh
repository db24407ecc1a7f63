#!/bin/bash
# Installs what the build and the tests need from Debian's packages, when it is
# missing: PostgreSQL's server and Chromium. Go and Node must be there.
set -euo pipefail
for need in go node npm; do
  command -v "$need" >/dev/null || { echo "Ink Latch is built with $need, which is not on the PATH. Install it and run make again." >&2; exit 1; }
done
missing=()
compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null || command -v initdb >/dev/null || missing+=(postgresql)
command -v chromium >/dev/null || missing+=(chromium)
[ ${#missing[@]} -eq 0 ] && exit 0
sudo=
if [ "$(id -u)" -ne 0 ]; then
  sudo=sudo
  command -v sudo >/dev/null || { echo "These Debian packages are missing: ${missing[*]}. Ask an administrator to run: apt-get install ${missing[*]}" >&2; exit 1; }
fi
echo "Installing ${missing[*]} from Debian's packages"
export DEBIAN_FRONTEND=noninteractive
$sudo apt-get update -qq
$sudo apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
