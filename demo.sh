#!/usr/bin/env bash
# Builds Fresh Boot, fills a data folder with the demo fleet, and serves application and web page from one process on
# loopback. It prints its address when the page is there, and ends with Ctrl-C.
#
#   ./demo.sh [--port 5080] [--shop NAME] [--data-rule TEXT] [--reset]
#
# --shop is the name that pages and sheets bear, --data-rule the rule of data protection that certificates name.
# FRESHBOOT_DATA names the data folder (default: data beside this script). --reset starts it over; it touches only a
# folder that a demo has made.
set -euo pipefail
cd "$(dirname "$0")"
. scripts/setup.sh

port=5080 shop='' rule='' reset=no
while [ $# -gt 0 ]; do
  case $1 in
    --port) port=${2:?--port wants a number}; shift 2 ;;
    --shop) shop=${2:?--shop wants a name}; shift 2 ;;
    --data-rule) rule=${2:?--data-rule wants a text}; shift 2 ;;
    --reset) reset=yes; shift ;;
    -h | --help) sed -n '2,10s/^# \{0,1\}//p' "$0"; exit 0 ;;
    *) echo "demo.sh: $1 is not known; see ./demo.sh --help" >&2; exit 2 ;;
  esac
done
case $port in '' | *[!0-9]*) echo "demo.sh: --port wants a number, not $port" >&2; exit 2 ;; esac
data=${FRESHBOOT_DATA:-$PWD/data}

# shellcheck disable=SC2086 # a list of words
need_packages $DEMO_PACKAGES
need_sdk
install_node_modules web

# A server that runs on this folder holds its lock (flock(2)): it is neither emptied nor started twice.
if [ -e "$data/lock" ] && ! flock --nonblock "$data/lock" true; then
  echo "demo.sh: $data is in use by $(cat "$data/lock-holder" 2> /dev/null || echo 'another process'). End that one first, or name another folder with FRESHBOOT_DATA." >&2
  exit 3
fi
if [ "$reset" = yes ] && [ -e "$data" ]; then
  if [ ! -e "$data/demo-seeded-at" ] && [ -e "$data/fresh-boot.db" ]; then
    echo "demo.sh: $data holds a workshop that is no demo; it is left alone. Name another folder with FRESHBOOT_DATA." >&2
    exit 1
  fi
  rm -rf "$data/fresh-boot.db" "$data/fresh-boot.db-wal" "$data/fresh-boot.db-shm" "$data/files" "${data:?}/images" "${data:?}/media" "${data:?}/jobs" "$data/demo-seeded-at"
fi

echo "building the demo's installer images"
scripts/demo-images.sh .cache/images
echo "building the web page"
npm --prefix web run --silent build > /tmp/fresh-boot-web.log 2>&1 || { tail -n 30 /tmp/fresh-boot-web.log >&2; exit 1; }
echo "building the application"
dotnet build src/FreshBoot.Server --configuration Release --nologo -v quiet

echo "starting the application"
FRESHBOOT_HOME=$PWD FRESHBOOT_DATA=$data dotnet src/FreshBoot.Server/bin/Release/net10.0/FreshBoot.Server.dll --demo true --port "$port" ${shop:+--shop "$shop"} ${rule:+--data-rule "$rule"} &
server=$!
trap 'kill "$server" 2> /dev/null; wait "$server" 2> /dev/null || true' EXIT INT TERM
# As long as the server lives it is waited for: a busy computer is slow, not wrong. The server itself says what it does meanwhile.
until curl --silent --fail --output /dev/null "http://localhost:$port/api/health"; do
  kill -0 "$server" 2> /dev/null || {
    status=0
    wait "$server" || status=$?
    echo "demo.sh: the application has ended before it answered; what it said stands above." >&2
    exit "$((status == 0 ? 1 : status))"
  }
  sleep 0.2
done
echo "Fresh Boot is at http://localhost:$port/"
wait "$server"
