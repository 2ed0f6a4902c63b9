#!/usr/bin/env bash
# A data folder with the demo in it, for tests: seeded once for each build, and cloned from then on. The demo's clock begins anew with
# the first start on a clone.
#
#   scripts/demo-template.sh INTO
#
# Images are hard links: nothing writes into one. The server is the one of the debug build, or FRESHBOOT_SERVER.
set -euo pipefail
home=$(cd "$(dirname "$0")/.." && pwd)
into=${1:?scripts/demo-template.sh wants a folder to write to}
server=${FRESHBOOT_SERVER:-$home/src/FreshBoot.Server/bin/Debug/net10.0/FreshBoot.Server.dll}
template=$home/.cache/template
mkdir -p "$home/.cache" "$into"

# Two that ask at once wait for one another.
exec 9> "$home/.cache/template.lock"
flock 9
sum=$({
  sha256sum "$(dirname "$server")"/FreshBoot.*.dll | cut -d ' ' -f 1
  cat "$home/.cache/images/.built-from" 2> /dev/null || true
  cd "$home" && find catalogue demo -type f -print0 | LC_ALL=C sort -z | xargs -0 sha256sum
} | sha256sum)
if [ "$(cat "$template/.made-from" 2> /dev/null)" != "$sum" ]; then
  rm -rf "$template"
  mkdir -p "$template"
  dotnet "$server" --demo true --seed-only true --home "$home" --data "$template/data" > /dev/null
  rm -f "$template/data/demo-seeded-at" "$template/data/lock" "$template/data/lock-holder"
  echo "$sum" > "$template/.made-from"
fi
for part in "$template/data"/*; do
  case ${part##*/} in
    # On another disk there are no hard links.
    images) cp -rl "$part" "$into/" 2> /dev/null || cp -r "$part" "$into/" ;;
    *) cp -r --sparse=always "$part" "$into/" ;;
  esac
done
