#!/usr/bin/env bash
# Renews docs/screenshots and docs/case-file.md from the demo cases (some fifteen minutes). Needs a build, xvfb, xterm, imagemagick and chromium.
set -euo pipefail
cd "$(dirname "$0")/.."
wavy=$PWD/build/src/wavy
shots=$PWD/docs/screenshots
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
"$wavy" explain reference >docs/case-file.md
cd "$work"
"$wavy" new tote_braking >/dev/null
"$wavy" run tote_braking.toml --into tote.run >/dev/null
"$wavy" check tote_braking.toml --picture "$shots/check-fill.png" >/dev/null
"$wavy" draw tote.run --at "0.9 s" --to "$shots/draw-fraction.png"
"$wavy" draw tote.run --what speed --what dynamic_pressure --at "0.6 s" --at "1.2 s" --arrows --to "$shots/draw-page.png"
"$wavy" draw tote.run --what history --to "$shots/draw-history.png"
"$wavy" measure tote.run --gauge 'name = "floor", measures = "mean", quantity = "pressure", wall = "bottom"' \
  --distribution floor --map "$shots/measure-map.png" >/dev/null
"$wavy" new tote_3d >/dev/null
"$wavy" run tote_3d.toml >/dev/null
"$wavy" draw tote_3d.run --at "0.8 s" --what speed --to "$shots/draw-3d.png"
"$wavy" new wash_column >/dev/null
"$wavy" run wash_column.toml >/dev/null
"$wavy" draw wash_column.run --what air_fraction --what water_speed --arrows --to "$shots/draw-wash-column.png"
"$wavy" new kettle_stirred >/dev/null
"$wavy" run kettle_stirred.toml >/dev/null
"$wavy" draw kettle_stirred.run --what speed --section "y = 0.2 m" --section "z = 0.12 m" --arrows --to "$shots/draw-kettle-stirred.png"
"$wavy" new kettle_drain >/dev/null
"$wavy" check kettle_drain.toml >/dev/null
cp kettle_drain.check.png "$shots/check-kettle.png"
"$wavy" new kettle_collapse >/dev/null
for cell in 20 10 5; do
  sed "s/^cell = .*/cell = \"$cell mm\"/" kettle_collapse.toml >k$cell.toml
  "$wavy" run k$cell.toml >/dev/null
done
"$wavy" compare k20.run k10.run k5.run --chart "$shots/compare-grids.png" >/dev/null
"$wavy" report k5.run k10.run k20.run --to report.html
chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --window-size=1280,1700 \
  --screenshot="$shots/report.png" "file://$work/report.html" 2>/dev/null
"$wavy" new condensate_riser >/dev/null
"$wavy" run condensate_riser.toml >/dev/null
"$wavy" draw condensate_riser.run --at "1000 s" --to "$shots/draw-line.png"
"$wavy" measure condensate_riser.run --from "600 s" --chart "$shots/measure-receiver.png" >/dev/null

terminal() {  # name, then the commands to show
  local name=$1; shift
  { echo 'clear'; for line in "$@"; do printf 'echo %q\n%s\necho\n' "$ $line" "$line"; done; echo 'touch done; sleep 60'; } >"$name.sh"
  rm -f done
  PATH=$(dirname "$wavy"):$PATH xvfb-run -a -s '-screen 0 1280x800x24' bash -c "
    xterm -fa 'DejaVu Sans Mono' -fs 11 -geometry 141x44+0+0 -bg white -fg '#22202a' -e bash $name.sh &
    until [ -e done ]; do sleep 0.2; done; sleep 0.5; import -window root '$shots/$name.png'" 2>/dev/null
}
mkdir studies
cp "$shots/../../cases/studies/collapse.toml" studies
"$wavy" validate --quick --only rising_bubble --into v >/dev/null || true # its figure matters, not its verdict
cp v/rising_bubble.png "$shots/validate-rising-bubble.png"
terminal terminal-study 'wavy study studies/collapse.toml'
cp collapse.study/charts/load_over_grid.cell.png "$shots/study-load.png"
terminal terminal-check 'wavy new' 'wavy check tote_braking.toml' 'wavy explain viscosity tote_braking.toml'
rm -rf tote_braking.run
terminal terminal-run 'wavy run tote_braking.toml' 'wavy watch tote_braking.run --once'
rm -rf tote_braking.run
terminal terminal-resume 'timeout -s INT 2 wavy run tote_braking.toml' 'wavy resume tote_braking.run' \
  "wavy measure tote_braking.run --from '3 s' --gauge 'name = \"splash\", measures = \"highest_level\"'"
