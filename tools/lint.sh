#!/usr/bin/env bash
# clang-format and clang-tidy over all sources; needs a configured build/.
set -euo pipefail
cd "$(dirname "$0")/.."
mapfile -t sources < <(git ls-files '*.cpp' '*.hpp')
clang-format --dry-run -Werror "${sources[@]}"
# Flags of GCC alone, and its precompiled headers, confuse clang.
rm -rf build/lint
mkdir -p build/lint
commands=build/lint/compile_commands.json
sed -e 's/-Wno-restrict//g; s/-Wno-maybe-uninitialized//g; s/-fopenmp/-fopenmp=libomp -Wno-unknown-pragmas/g; s/-march=native//g; s/-Winvalid-pch -include [^ ]*//g; s/-fpch-preprocess//g' build/compile_commands.json > $commands
# Nearly all the time goes into headers, so the sources of a folder are looked at as one unit, in place of its first; but
# for those that nothing may stand before, as it would be instantiated twice, or that name other things alike.
alone=' src/flow/turbulence.cpp src/flow/turning_solids.cpp src/mesh/open_space.cpp src/dispersed/step.cpp src/sharp/reconstruction.cpp src/sharp/step.cpp src/validation/eulerian.cpp src/validation/lines.cpp src/validation/turbulence.cpp src/validation/turbulent_flows.cpp '
declare -A first
checked=()
while read -r file; do
  # Only what was configured: a bench whose yardstick library is missing is not built.
  grep -q "/$file\"" $commands || continue
  folder=$(basename "$(dirname "$file")")
  if [[ $file == bench/* || $alone == *" $file "* ]]; then
    checked+=("$file")
    continue
  fi
  unit=build/lint/$folder.cpp
  if [ -z "${first[$folder]:-}" ]; then
    first[$folder]=$file
    sed -i "s#$PWD/$file#$PWD/$unit#g" $commands
    checked+=("$unit")
  fi
  echo "#include \"$PWD/$file\"  // NOLINT(bugprone-suspicious-include)" >> "$unit"
done < <(git ls-files 'src/*.cpp' 'bench/*.cpp')
printf '%s\n' "${checked[@]}" | xargs -P "$(nproc)" -n 1 clang-tidy --quiet -p build/lint --warnings-as-errors='*' 2>/dev/null
echo "format and style are clean"
