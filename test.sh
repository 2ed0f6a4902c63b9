#!/usr/bin/env bash
# Installs what a new machine lacks, builds without warnings, lints, and runs unit, server and browser tests. The last
# line counts them. ./test.sh --update-api writes the API description and its types again after a change of the API.
set -uo pipefail
cd "$(dirname "$0")" || exit
. scripts/setup.sh

passed=0 failed=0 notes=
results=$(mktemp -d)
trap 'rm -rf "$results"' EXIT
# step NAME COMMAND...: one check that passes or fails; its output is shown when it fails.
step() {
  local name=$1 log since=$SECONDS
  shift
  log=$(mktemp -p "$results")
  if "$@" > "$log" 2>&1; then
    counted "$name" 1 0 "$since"
  else
    tail -n 60 "$log"
    counted "$name" 0 1 "$since"
  fi
}
# counted NAME PASSED FAILED SINCE: says it with the seconds that it took, and adds it to the counts of this lane.
counted() {
  local took=$((SECONDS - $4))
  passed=$((passed + $2))
  failed=$((failed + $3))
  if [ "$3" != 0 ]; then echo "FAILED  $1: $2 passed, $3 failed ($took s)"; elif [ "$2" = 1 ]; then echo "ok      $1 ($took s)"; else echo "ok      $1: $2 passed ($took s)"; fi
}
# lane NAME COMMAND: runs checks beside the others; what they say is shown, and counted, by "together".
lane() {
  apart "$@" > "$results/$1.out" 2>&1 &
}
apart() {
  local name=$1 passed=0 failed=0 notes=
  shift
  "$@"
  printf '%s %s\n' "$passed" "$failed" > "$results/$name.counts"
  printf '%s' "$notes" > "$results/$name.notes"
}
together() {
  wait
  local name p f
  for name in "$@"; do
    cat "$results/$name.out"
    # A lane that ended without counts was killed: that is a failure.
    read -r p f < "$results/$name.counts" || { p=0 f=1 && echo "FAILED  $name ended early"; }
    passed=$((passed + p)) failed=$((failed + f))
    [ ! -s "$results/$name.notes" ] || notes+=$(cat "$results/$name.notes")$'\n'
  done
}
# What takes long is tried before a change lands; see tests/FreshBoot.Server.Tests/Long.cs.
dotnet_tests() {
  local name=$1 log long=() since=$SECONDS
  [ -n "${FRESHBOOT_EVERY_START:-}" ] || long=(--filter 'Length!=Long')
  log=$(mktemp -p "$results")
  dotnet test "tests/$name" --no-build --nologo "${long[@]}" > "$log" 2>&1
  local status=$? p f
  p=$(sed -n 's/.*Passed: *\([0-9]*\).*/\1/p' "$log" | tail -n 1)
  f=$(sed -n 's/.*Failed: *\([0-9]*\).*/\1/p' "$log" | tail -n 1)
  [ "$status" = 0 ] || { grep -vE '^ *at |^info:|^      ' "$log" | tail -n 80; [ "${f:-0}" != 0 ] || f=1; }
  [ "${p:-0}" != 0 ] || f=$((${f:-0} + 1))
  counted "$name" "${p:-0}" "${f:-0}" "$since"
}
browser_tests() {
  local log p f flaky since=$SECONDS
  log=$(mktemp -p "$results")
  (cd tests/e2e && npx playwright test) > "$log" 2>&1
  local status=$?
  p=$(sed -n 's/^ *\([0-9]*\) passed.*/\1/p' "$log" | tail -n 1)
  f=$(sed -n 's/^ *\([0-9]*\) failed.*/\1/p' "$log" | tail -n 1)
  flaky=$(sed -n 's/^ *\([0-9]*\) flaky.*/\1/p' "$log" | tail -n 1)
  if [ "${flaky:-0}" != 0 ]; then
    p=$((${p:-0} + flaky))
    # Named at the very end, with the trace of the first try: it is mended before anything new is begun.
    notes=$(
      echo "Needed a second try, to be mended:"
      grep -A "$flaky" '^ *[0-9]* flaky' "$log" | tail -n +2
      grep -o 'test-results/.*trace.zip' "$log" | sort -u | sed 's|^|    tests/e2e/|'
    )
  fi
  [ "$status" = 0 ] || { tail -n 120 "$log"; [ "${f:-0}" != 0 ] || f=1; }
  counted "tests/e2e" "${p:-0}" "${f:-0}" "$since"
}
web_tests() {
  local log p f since=$SECONDS
  log=$(mktemp -p "$results")
  (cd web && npx vitest run --reporter=json --outputFile="$log.json") > "$log" 2>&1 || tail -n 60 "$log"
  p=$(node -p "JSON.parse(require('fs').readFileSync('$log.json')).numPassedTests" 2> /dev/null || echo 0)
  f=$(node -p "JSON.parse(require('fs').readFileSync('$log.json')).numFailedTests" 2> /dev/null || echo 1)
  counted "web" "$p" "$f" "$since"
}
# What the browser loads at the start, packed: under 250 kB.
bundle_size() {
  local size
  # What index.html names; a page that is fetched when somebody goes there is none of it.
  size=$(cd web/dist && grep -o 'assets/[^"]*\.\(js\|css\)' index.html | xargs cat | gzip -9 | wc -c)
  echo "web bundle: $size bytes gzipped"
  [ "$size" -lt 250000 ]
}
api_types() {
  (cd web && npx openapi-typescript openapi.json -o "$1" --alphabetize)
}
types_up_to_date() {
  local fresh
  fresh=$(mktemp --suffix=.d.ts)
  api_types "$fresh" && cmp "$fresh" web/src/api/schema.d.ts
}

# shellcheck disable=SC2086 # lists of words
need_packages $DEMO_PACKAGES $TEST_PACKAGES || exit 1
need_sdk || exit 1
install_node_modules web || exit 1
install_node_modules tests/e2e || exit 1

step "restore" dotnet restore
step "tools" dotnet tool restore
# What the tests run is built without analyzers: those look at the same sources beside the tests, into a folder of their own, where a
# second run finds what has not changed.
build() {
  step "build without warnings of the compiler" dotnet build --no-restore --nologo -p:RunAnalyzers=false -warnaserror
}
analysis() {
  step "build without warnings of the analyzers" dotnet build --artifacts-path .cache/analysis -warnaserror --nologo
}
if [ "${1:-}" = --update-api ]; then
  build
  FRESHBOOT_UPDATE_OPENAPI=1 dotnet test tests/FreshBoot.Server.Tests --no-build --nologo --filter The_openapi_document > /dev/null
  api_types src/api/schema.d.ts
fi
page() {
  step "web build" npm --prefix web run build
  step "web bundle under 250 kB" bundle_size
  # The installer images of the demo systems, which both the server's and the browser's tests start.
  step "demo images" scripts/demo-images.sh .cache/images
}
web_checks() {
  step "web lint" npm --prefix web run lint
  step "web format" npm --prefix web run format:check
  step "web: nothing unused" npm --prefix web run unused
  step "browser tests type-check" npm --prefix tests/e2e run lint
  step "API types up to date" types_up_to_date
  step "API description" npm --prefix web run describe
  step "shell scripts" shellcheck -x demo.sh test.sh scripts/*.sh probe/*.sh demo/live/init demo/live/*.sh
  web_tests
}
core_checks() {
  step "C# format" dotnet csharpier check .
  dotnet_tests FreshBoot.Formats.Tests
  dotnet_tests FreshBoot.Core.Tests
}
lane build build
lane page page
together build page
# The demo is seeded once, into a folder that every test clones.
step "demo template" scripts/demo-template.sh "$results/demo"
lane core core_checks
lane web web_checks
# Analyzers take as long as all other checks: every source is looked at before a change lands, and by whoever asks for it.
[ -z "${FRESHBOOT_EVERY_START:-}" ] || lane analysis analysis
together core web ${FRESHBOOT_EVERY_START:+analysis}
# The server's tests wait for emulators and disks, the browser's for pages: side by side they use both processors.
lane server dotnet_tests FreshBoot.Server.Tests
lane browser browser_tests
together server browser

printf '%s' "$notes"
echo "$passed passed, $failed failed"
[ "$failed" = 0 ]
