#!/usr/bin/env bash
# Takes the terminal pictures of docs/screenshots anew: each command runs in a real terminal window under Xvfb, as it is
# shown, in a folder that holds the demo's definitions and people. Needs Debian's xvfb, xterm, imagemagick and fonts-dejavu.
# Usage: scripts/screenshots.sh [NAME…]
set -euo pipefail
cd "$(dirname "$0")/.."
project=$PWD
pictures=$project/docs/screenshots
mkdir -p "$pictures"
wanted=("$@")

# Whatever day it is: the pictures are taken in the story.
IUDEX_CLOCK_SHIFT=$(node -p 'Date.parse("2026-12-02T12:00:00Z") - Date.now()')
export IUDEX_CLOCK_SHIFT NODE_OPTIONS="--import=file://$project/scripts/day/preload.mjs"

paper="#fbfaf7"

home=$(mktemp -d)
trap 'rm -rf "$home"' EXIT
mkdir "$home/bin" "$home/there"
printf '#!/bin/sh\nexec node %s "$@"\n' "$project/dist/cli/bin.js" >"$home/bin/iudex"
printf '#!/bin/sh\ncd %s && exec node examples/ternhaven/demo.mjs\n' "$project" >"$home/bin/demo"
printf '#!/bin/sh\ncd %s && exec node examples/fleet/demo.mjs\n' "$project" >"$home/bin/fleet"
chmod +x "$home/bin/"*
export PATH="$home/bin:$PATH"
cp -r examples/ternhaven/flags examples/ternhaven/people/* "$home/there"

git() { command git -C "$home/there" -c user.name="Duty Officer" -c user.email=duty@ternhaven.example "$@"; }
git init --quiet --initial-branch=main
git add --all
git commit --quiet --message "The first flags"

shoot() { # NAME COMMAND [WHAT IS SHOWN INSTEAD]
  local name=$1 command=$2 shown=${3:-$2}
  if [ ${#wanted[@]} -gt 0 ] && [[ ! " ${wanted[*]} " == *" $name "* ]]; then return; fi
  (
    cd "$home/there"
    # Without a border, without a cursor; what stays empty is cut off, and a margin put around what is left.
    xvfb-run -a -s "-screen 0 1300x1300x24" bash -c '
      xterm -fa "DejaVu Sans Mono" -fs 11 -geometry 138x66+0+0 -bw 0 -b 0 +sb -bg "'"$paper"'" -fg "#22303a" \
        -xrm "XTerm*color1: #b3261e" -xrm "XTerm*color2: #1b6e53" -xrm "XTerm*color3: #8a5a00" \
        -e bash -c "printf \"\e[?25l\$ %s\n\n\" \"\$1\"; \$0; sleep 60" "$0" "$1" & terminal=$!
      sleep '"${WAIT:-4}"'
      import -window root -crop 1240x1240+0+0 "$2"
      kill $terminal' "$command" "$shown" "$pictures/$name.png" 2>/dev/null || true
    convert "$pictures/$name.png" -bordercolor "$paper" -border 1 -trim +repage \
      -bordercolor "$paper" -border 24 -gravity west -background "$paper" -extent "1280x" "$pictures/$name.png"
  )
  echo "docs/screenshots/$name.png"
}

shoot demo "demo" "npm run demo"
WAIT=30 shoot fleet "fleet" "npm run demo:fleet"
shoot why "iudex why zone-fares --env production --as jonas.yaml --at 2026-12-02T10:00Z"
shoot list "iudex list --at 2026-12-02T10:00Z"
shoot census "iudex census zone-fares --env production --people passengers.csv --by account.plan --at 2026-12-05T12:00Z"
shoot agenda "iudex agenda --at 2026-11-30T12:00Z"
node "$project/examples/ternhaven/season/make.mjs" "$home/there/season"
cp -r examples/ternhaven/season/flags "$home/there/season/flags"
weigh="iudex weigh early-boarding --env production --verdicts season/verdicts.ndjson --outcomes season/outcomes.ndjson --measure booked minutes --better booked=more cancelled=fewer --guard cancelled=1"
shoot weigh "$weigh --flags season/flags" "iudex weigh early-boarding --env production --verdicts verdicts.ndjson --outcomes outcomes.ndjson \\
    --measure booked minutes --better booked=more cancelled=fewer --guard cancelled=1"
sed -i 's/trips > 100/tripps > 100/; s/give: 120/give: two hours/; s/cohort:crew/cohort:crw/; s/share: 10%/share: 10/' "$home/there/flags/fares.yaml"
shoot check "iudex check --at 2026-12-02T12:00Z"
git checkout --quiet .
sed -i 's/share: 10%/share: 25%/; s/trips > 100/trips > 80/' "$home/there/flags/fares.yaml"
sed -i 's/2 classic, 1 deck, 1 tour/1 classic, 1 deck/; s/  seat-map:/  seat-plan:/' "$home/there/flags/crossing.yaml"
shoot diff "iudex diff main --env production --people passengers.csv --at 2026-12-02T10:00Z"
# A shelf in Redis with two who follow it, one of them behind: it knows another key.
if [ ${#wanted[@]} -eq 0 ] || [[ " ${wanted[*]} " == *" shelf "* ]]; then
  node scripts/shelf-for-picture.mjs >"$home/address" &
  followers=$!
  trap 'kill $followers; rm -rf "$home"' EXIT
  for _ in $(seq 100); do [ -s "$home/address" ] && break || sleep 0.2; done
  sleep 2
  WAIT=5 shoot shelf "iudex shelf $(cat "$home/address") --set ternhaven" "iudex shelf redis://config.ternhaven.example --set ternhaven"
fi
