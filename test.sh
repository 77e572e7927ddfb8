#!/usr/bin/env bash
# Installs, builds and runs all quick tests; --lint also checks format and style (a few minutes).
lint=()
[ "${1:-}" != --lint ] || lint=(git clang-format clang-tidy)
source "$(dirname "$0")/tools/prepare.sh" "${lint[@]}"
((${#lint[@]} == 0)) || tools/lint.sh
ctest --test-dir build --output-on-failure
