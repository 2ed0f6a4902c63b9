#!/bin/sh
# Fetches an installer that nobody here made, to try the shelf, the recipes and the twin with: kernel and archive of Debian's package
# debian-installer-12-netboot-amd64. Prints the folder in which `kernel` and `archive` lie; it is fetched once and kept.
#
#   sh scripts/foreign-installer.sh
set -eu
home=$(cd "$(dirname "$0")/.." && pwd)
cache=${FRESHBOOT_CACHE:-$home/.cache}/foreign
if [ ! -s "$cache/archive" ]; then
  work=$(mktemp -d)
  trap 'rm -rf "$work"' EXIT
  chmod 755 "$work"
  (cd "$work" && apt-get download debian-installer-12-netboot-amd64 > apt.log 2>&1) || { cat "$work/apt.log" >&2; exit 1; }
  dpkg-deb -x "$work"/debian-installer-12-netboot-amd64_*.deb "$work/x"
  from=$work/x/usr/lib/debian-installer/images/12/amd64/text/debian-installer/amd64
  mkdir -p "$cache"
  cp "$from/linux" "$cache/kernel"
  cp "$from/initrd.gz" "$cache/archive.part"
  mv "$cache/archive.part" "$cache/archive"
fi
echo "$cache"
