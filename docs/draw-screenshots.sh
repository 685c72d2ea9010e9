#!/usr/bin/env bash
# Draws the pictures of the README: each command in a terminal window on a virtual screen.
# Keeps them in docs/screenshots, and those of the report, drawn by a browser. Needs Xvfb, xterm, chromium, ImageMagick and the DejaVu fonts; run from the root after `cargo build --release`.
set -euo pipefail
root=$(pwd)
site=$(mktemp -d)
trap 'rm -rf "$site"; kill "$screen" 2>/dev/null || true' EXIT
"$root/target/release/clear-cascade" demo "$site" >/dev/null
export PATH="$root/target/release:$PATH" DISPLAY=:97
Xvfb :97 -screen 0 1280x800x24 >/dev/null 2>&1 &
screen=$!
sleep 1

# shot NAME COMMAND…: runs the command in the sample site and keeps the window as NAME.png.
shot() {
  local name=$1 line=$2
  local run="clear; printf '\\033[1m\$ %s\\033[0m\\n' \"$(printf '%s' "$line" | sed 's/["$]/\\&/g')\"; $line; sleep 30"
  (cd "$site" && exec xterm -geometry 141x47+0+0 -fa 'DejaVu Sans Mono' -fs 11 -bg '#14171f' -fg '#e6e6e6' +sb -e bash -c "$run") &
  local window=$!
  sleep 2.5
  import -window root "$root/docs/screenshots/$name.png"
  kill "$window" 2>/dev/null || true
  wait "$window" 2>/dev/null || true
}

# page NAME HASH HEIGHT ARGUMENTS…: a view of the report of some pages; what is above the window is cut off.
page() {
  local name=$1 hash=$2 from=$3; shift 3
  (cd "$site" && clear-cascade report "$@" -o report.html >/dev/null)
  chromium --headless=new --no-sandbox --disable-gpu --hide-scrollbars --virtual-time-budget=5000 \
    --window-size=1280,$((800 + from)) --screenshot="$site/shot.png" "file://$site/report.html$hash" >/dev/null 2>&1
  convert "$site/shot.png" -crop "1280x800+0+$from" +repage "$root/docs/screenshots/$name.png"
}

only=${1:-}
all() {
  shot why-declared "clear-cascade why programme.html 'article h2' color"
  shot why-inherited "clear-cascade why visit.html '.hours td' color"
  # The second answer, after a sheet was saved.
  (sleep 1.2; sed -i 's/#aab2d5/tomato/' "$site/css/theme.css") &
  shot watch "clear-cascade why visit.html '.hours td' color --watch"
  sed -i 's/color: tomato/color: #aab2d5/' "$site/css/theme.css"
  shot values "clear-cascade values visit.html '#hours'"
  shot why-not "clear-cascade why-not index.html '.menu a' css/theme.css:14"
  shot why-not-loses "clear-cascade why-not programme.html 'article h2' css/programme.css:13"
  shot try "clear-cascade try visit.html --drop-class '#hours=card' --set '.hours th { color: khaki }'"
  shot compare "clear-cascade compare index.html --other-media print"
  shot reach "clear-cascade reach programme.html css/programme.css:13"
  shot aim "clear-cascade aim programme.html 'article h2'"
  # The first screen of it.
  CLICOLOR_FORCE=1 shot check "clear-cascade check . | head -45"
  shot demo "clear-cascade demo"
  page report-contest "#0/21/color" 652 index.html
  page report-page "" 0 index.html --set '.menu a { color: gold }' --set 'h1 { font-size: 3rem; color: gold !important }'
  page report-sheet "#sheets/2" 0 index.html programme.html visit.html
  page report-site "#site" 0 index.html programme.html visit.html
}
if [ -n "$only" ]; then shot "$only" "$2"; else all; fi
