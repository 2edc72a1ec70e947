#!/usr/bin/env bash
# Takes the terminal pictures of docs/screenshots anew: each command runs in a real terminal window under Xvfb.
# Needs Debian's xvfb, xterm, imagemagick and fonts-dejavu. Usage: scripts/screenshots.sh [NAME…]
set -euo pipefail
cd "$(dirname "$0")/.."
pictures=docs/screenshots
mkdir -p "$pictures"
export PATH="$PWD/node_modules/.bin:$PATH"

shoot() { # NAME COLUMNSxROWS COMMAND
  local name=$1 size=$2 command=$3
  if [ ${#wanted[@]} -gt 0 ] && [[ ! " ${wanted[*]} " == *" $name "* ]]; then return; fi
  xvfb-run -a -s "-screen 0 1280x${HEIGHT:-800}x24" bash -c '
    xterm -fa "DejaVu Sans Mono" -fs 11 -geometry '"$size"'+0+0 -bg "#fbfaf7" -fg "#22303a" -b 12 \
      -xrm "XTerm*color1: #b3261e" -xrm "XTerm*color2: #1b6e53" -xrm "XTerm*color3: #8a5a00" -xrm "XTerm*cursorColor: #fbfaf7" \
      -e bash -c "$0; sleep 60" & terminal=$!
    sleep '"${WAIT:-4}"'
    import -window root "$1"
    kill $terminal' "$command" "$pictures/$name.png" 2>/dev/null || true
  echo "$pictures/$name.png"
}

wanted=("$@")
iudex="node dist/cli/bin.js"
demo="--flags examples/ternhaven/flags"
oda="examples/ternhaven/people/oda.yaml"

HEIGHT=980 shoot demo 138x57 "node examples/ternhaven/demo.mjs"
shoot why 138x44 "echo '\$ iudex why zone-fares --env production --as oda.yaml --at 2026-12-02T10:00Z'; echo; $iudex why zone-fares --env production --as $oda --at 2026-12-02T10:00Z $demo"
