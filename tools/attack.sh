#!/usr/bin/env bash
# Damages input of every kind in many ways, and prints how many variants were tried and how many failed:
#   tools/attack.sh [COUNT of each kind, 100000] [SEED, 1] [--sanitize]
# Variants that failed are kept in /tmp/wavy_attack_*. Needs a build.
set -euo pipefail
cd "$(dirname "$0")/.."
export WAVY_ATTACK_COUNT=${1:-100000} WAVY_ATTACK_SEED=${2:-1}
if [ "${3:-}" = --sanitize ]; then
  tools/sanitize.sh attack
else
  build/tests/test_attack
fi
