#!/usr/bin/env bash
# Installs what a new machine lacks, builds without warnings, lints, and runs unit, server and browser tests. The last
# line counts them. ./test.sh --update-api writes the API description and its types again after a change of the API.
set -uo pipefail
cd "$(dirname "$0")" || exit
. scripts/setup.sh

passed=0 failed=0
# step NAME COMMAND...: one check that passes or fails; its output is shown when it fails.
step() {
  local name=$1 log
  shift
  log=$(mktemp)
  if "$@" > "$log" 2>&1; then
    passed=$((passed + 1))
    echo "ok      $name"
  else
    failed=$((failed + 1))
    echo "FAILED  $name"
    tail -n 60 "$log"
  fi
  rm -f "$log"
}
# counted NAME LOG: adds the counts "P F" that a parser printed.
counted() {
  passed=$((passed + $2))
  failed=$((failed + $3))
  echo "$([ "$3" = 0 ] && echo 'ok     ' || echo FAILED) $1: $2 passed, $3 failed"
}
dotnet_tests() {
  local name=$1 log
  log=$(mktemp)
  dotnet test "tests/$name" --no-build --nologo > "$log" 2>&1
  local status=$? p f
  p=$(sed -n 's/.*Passed: *\([0-9]*\).*/\1/p' "$log" | tail -n 1)
  f=$(sed -n 's/.*Failed: *\([0-9]*\).*/\1/p' "$log" | tail -n 1)
  [ "$status" = 0 ] || { grep -vE '^ *at |^info:|^      ' "$log" | tail -n 80; [ "${f:-0}" != 0 ] || f=1; }
  [ "${p:-0}" != 0 ] || f=$((${f:-0} + 1))
  counted "$name" "${p:-0}" "${f:-0}"
  rm -f "$log"
}
browser_tests() {
  local log p f flaky
  log=$(mktemp)
  (cd tests/e2e && npx playwright test) > "$log" 2>&1
  local status=$?
  p=$(sed -n 's/^ *\([0-9]*\) passed.*/\1/p' "$log" | tail -n 1)
  f=$(sed -n 's/^ *\([0-9]*\) failed.*/\1/p' "$log" | tail -n 1)
  flaky=$(sed -n 's/^ *\([0-9]*\) flaky.*/\1/p' "$log" | tail -n 1)
  [ "${flaky:-0}" = 0 ] || { p=$((${p:-0} + flaky)) && grep -A 8 '^ *[0-9]* flaky' "$log"; }
  [ "$status" = 0 ] || { tail -n 120 "$log"; [ "${f:-0}" != 0 ] || f=1; }
  counted "tests/e2e" "${p:-0}" "${f:-0}"
  rm -f "$log"
}
web_tests() {
  local log p f
  log=$(mktemp)
  (cd web && npx vitest run --reporter=json --outputFile="$log.json") > "$log" 2>&1 || tail -n 60 "$log"
  p=$(node -p "JSON.parse(require('fs').readFileSync('$log.json')).numPassedTests" 2> /dev/null || echo 0)
  f=$(node -p "JSON.parse(require('fs').readFileSync('$log.json')).numFailedTests" 2> /dev/null || echo 1)
  counted "web" "$p" "$f"
  rm -f "$log" "$log.json"
}
# What the browser loads at the start, packed: under 250 kB.
bundle_size() {
  local size
  size=$(cat web/dist/assets/*.js web/dist/assets/*.css | gzip -9 | wc -c)
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
step "build without warnings" dotnet build --no-restore -warnaserror --nologo
if [ "${1:-}" = --update-api ]; then
  FRESHBOOT_UPDATE_OPENAPI=1 dotnet test tests/FreshBoot.Server.Tests --no-build --nologo --filter The_openapi_document > /dev/null
  api_types src/api/schema.d.ts
fi
step "C# format" dotnet csharpier check .
step "shell scripts" shellcheck -x demo.sh test.sh scripts/*.sh probe/*.sh
step "web build" npm --prefix web run build
step "web lint" npm --prefix web run lint
step "web format" npm --prefix web run format:check
step "web: nothing unused" npm --prefix web run unused
step "browser tests type-check" npm --prefix tests/e2e run lint
step "API types up to date" types_up_to_date
step "web bundle under 250 kB" bundle_size
web_tests
dotnet_tests FreshBoot.Core.Tests
dotnet_tests FreshBoot.Server.Tests
browser_tests

echo "$passed passed, $failed failed"
[ "$failed" = 0 ]
