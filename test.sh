#!/usr/bin/env bash
# Installs, builds and runs all quick tests; --lint also checks format and style (a few minutes).
lint=no
[ "${1:-}" = --lint ] && lint=yes
source "$(dirname "$0")/tools/prepare.sh" clang-format clang-tidy
if [ "$lint" = yes ]; then tools/lint.sh; fi
ctest --test-dir build --output-on-failure
