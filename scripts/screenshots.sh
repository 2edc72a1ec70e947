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
jonas="examples/ternhaven/people/jonas.yaml"

HEIGHT=980 shoot demo 141x57 "node examples/ternhaven/demo.mjs"
shoot why 141x44 "echo '\$ iudex why zone-fares --env production --as jonas.yaml --at 2026-12-02T10:00Z'; echo; $iudex why zone-fares --env production --as $jonas --at 2026-12-02T10:00Z $demo"
shoot list 141x44 "echo '\$ iudex list --at 2026-12-02T10:00Z'; echo; $iudex list --at 2026-12-02T10:00Z $demo"
rm -rf /tmp/broken && cp -r examples/ternhaven/flags /tmp/broken
sed -i 's/trips > 100/tripps > 100/; s/give: 120/give: two hours/; s/cohort:crew/cohort:crw/; s/share: 10%/share: 10/' /tmp/broken/fares.yaml
shoot check 141x44 "cd /tmp/broken/.. && echo '\$ iudex check --flags broken'; echo; node $PWD/dist/cli/bin.js check --flags broken"
rm -rf /tmp/broken

# A repository of its own, so that the commands are those that a person would type.
home=$(mktemp -d)
cp -r examples/ternhaven/flags examples/ternhaven/people/passengers.csv "$home"
git -C "$home" init --quiet --initial-branch=main
git -C "$home" add --all
git -C "$home" -c user.name="Duty Officer" -c user.email=duty@ternhaven.example commit --quiet --message "The first flags"
there="cd $home && node $PWD/dist/cli/bin.js"
shoot census 141x44 "echo '\$ iudex census zone-fares --env production --people passengers.csv --by account.plan --at 2026-12-05T12:00Z'; echo; $there census zone-fares --env production --people passengers.csv --by account.plan --at 2026-12-05T12:00Z"
shoot agenda 141x44 "echo '\$ iudex agenda --at 2026-11-30T12:00Z'; echo; $there agenda --at 2026-11-30T12:00Z"
sed -i 's/share: 10%/share: 25%/; s/trips > 100/trips > 80/' "$home/flags/fares.yaml"
sed -i 's/2 classic, 1 deck, 1 tour/1 classic, 1 deck/; s/  seat-map:/  seat-plan:/' "$home/flags/crossing.yaml"
shoot diff 141x44 "echo '\$ iudex diff main --env production --people passengers.csv --at 2026-12-02T10:00Z'; echo; $there diff main --env production --people passengers.csv --at 2026-12-02T10:00Z"
rm -rf "$home"
