#!/usr/bin/env bash
# Runs the benchmarks; with arguments only those that they name: ./bench.sh '*Pages*'. docs/performance.md holds what they
# showed, and the limit of each.
set -euo pipefail
cd "$(dirname "$0")"
. scripts/setup.sh
# shellcheck disable=SC2086 # a list of words
need_packages $DEMO_PACKAGES
need_sdk
exec dotnet run -c Release --project benchmarks/FreshBoot.Benchmarks -- --filter "${@:-*}"
