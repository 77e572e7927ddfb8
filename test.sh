#!/usr/bin/env bash
# Installs, builds and runs all quick tests. --lint also checks format and style; --sanitize also runs those tests that
# read what users and other programs have written while addresses and undefined behaviour are watched (some minutes each).
lint=()
sanitize=
for option in "$@"; do
  case $option in
    --lint) lint=(git clang-format clang-tidy) ;;
    --sanitize) sanitize=yes ;;
    *) echo "test.sh knows --lint and --sanitize, not $option" >&2; exit 2 ;;
  esac
done
set -- # what is sourced gets no arguments of ours
source "$(dirname "$0")/tools/prepare.sh" "${lint[@]}"
((${#lint[@]} == 0)) || tools/lint.sh
[ -z "$sanitize" ] || tools/sanitize.sh
ctest --test-dir build --parallel "$(nproc)" --output-on-failure
