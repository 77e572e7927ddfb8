#!/usr/bin/env bash
# Builds with the address and undefined-behaviour sanitizers, in build-sanitize/, and runs the tests of what reads files
# there. Needs the packages that prepare.sh installs. Arguments: the tests to run in place of those.
set -euo pipefail
cd "$(dirname "$0")/.."
tests=("$@")
((${#tests[@]})) || tests=(base geometry mesh case results attack)
cmake -S . -B build-sanitize -G Ninja -DCMAKE_BUILD_TYPE=Release -DWAVY_SANITIZE=ON -DWAVY_BENCH=OFF -DWAVY_NATIVE=OFF >/dev/null
cmake --build build-sanitize --target "${tests[@]/#/test_}"
# Leaks of the message-passing library, which lives as long as the process, are not ours.
for test in "${tests[@]}"; do
  ASAN_OPTIONS=detect_leaks=0:allocator_may_return_null=1 UBSAN_OPTIONS=print_stacktrace=1 "build-sanitize/tests/test_$test"
done
