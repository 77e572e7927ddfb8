# Sourced by demo.sh and test.sh: installs what is missing on Debian 12, configures and builds `targets`, or all. Asks
# nothing; a second run finds everything there.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."

packages=(g++ cmake ninja-build ccache pkg-config libp4est-dev libopenmpi-dev openmpi-bin libvtk9-dev libcli11-dev
  libtomlplusplus-dev libfmt-dev libudunits2-dev libudunits2-data libmuparser-dev nlohmann-json3-dev libkainjow-mustache-dev doctest-dev
  libeigen3-dev libhdf5-dev gnuplot-nox ffmpeg libegl-dev libgl-dev libopengl-dev libglew-dev libegl1 libgl1-mesa-dri
  fonts-dejavu-core "$@")
missing=()
for package in "${packages[@]}"; do
  dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
done
if ((${#missing[@]})); then
  echo "installing ${#missing[@]} packages"
  as_root=()
  ((EUID == 0)) || as_root=(sudo)
  "${as_root[@]}" apt-get update -qq
  "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
fi

cmake -S . -B build -G Ninja -DCMAKE_BUILD_TYPE=Release >build-configure.log 2>&1 || { cat build-configure.log; exit 1; }
rm -f build-configure.log
cmake --build build --target "${targets[@]:-all}"
