#!/bin/bash
# The whole road through the command line only: new, convert, check, build, trial, pack, publish, install.
set -euo pipefail
cd "$(dirname "$0")/.."
work=$(mktemp -d)
export VIOLET_CRATE_DATA="$work/data" VIOLET_CRATE_WORKSHOP_TOKEN=shell-token VIOLET_CRATE_WORKSHOP_PORT=${VIOLET_CRATE_TEST_PORT:-42817}
trap 'kill "${workshop:-}" 2>/dev/null || true; rm -rf "$work"' EXIT
crate() { node scripts/crate.mjs "$@"; }
# field PATH: a member of the JSON document on standard input
field() { node -e 'let t="";process.stdin.on("data",d=>t+=d).on("end",()=>{const v=process.argv[1].split(".").reduce((o,k)=>o?.[k],JSON.parse(t));process.stdout.write(String(typeof v==="object"?JSON.stringify(v):v)+"\n")})' "$1"; }
passed=0
ok() { passed=$((passed + 1)); echo "  ok $1"; }
fail() { echo "  FAILED $1"; exit 1; }
expect_code() { local want=$1 what=$2; shift 2; local got=0; "$@" >"$work/out" 2>"$work/err" || got=$?; [ "$got" = "$want" ] && ok "$what (exit $want)" || { cat "$work/out" "$work/err"; fail "$what: exit $got, wanted $want"; }; }

mkdir -p "$VIOLET_CRATE_DATA"
node workshop/dist/main.js >"$work/workshop.log" & workshop=$!
url=http://127.0.0.1:$VIOLET_CRATE_WORKSHOP_PORT
if [ -n "${VIOLET_CRATE_PREPARED:-}" ]; then cp -r "$VIOLET_CRATE_PREPARED/." "$VIOLET_CRATE_DATA"; else node demo/dist/main.js "$VIOLET_CRATE_DATA"; fi
game=$VIOLET_CRATE_DATA/games/brinewick
demo=$VIOLET_CRATE_DATA/crates/pumphouse

expect_code 0 "new" crate new tide_room --profile brinewick --template sealed-room --dir "$work/tide_room" --title "Tide Room"
expect_code 0 "convert into the crate" crate convert "$demo/sources/models/pump.obj" "$demo/sources/textures/keeper_tile.png" --profile brinewick --up z --out "$work/tide_room" --json
[ "$(field files.0.triangles <"$work/out")" = 492 ] && ok "492 triangles reported" || fail "triangles"
# Effects: one that is taken, and three that are refused with where and why.
node -e '
const fs = require("fs"), [dir] = process.argv.slice(1);
const smoke = JSON.parse(fs.readFileSync("core/profiles/brinewick.json", "utf8")).effects.templates.find((one) => one.id === "smoke").effect;
const write = (name, change) => fs.writeFileSync(`${dir}/${name}.effect.json`, JSON.stringify({ ...smoke, emitters: [{ ...smoke.emitters[0], ...change }] }));
write("Grey Smoke", {});
write("ten_million", { most: 10000000 });
write("circle", { children: { emitter: "Smoke", when: "death", count: 1, inherit: 0 } });
write("no_number", { rate: [[0, "NaN"]] });
' "$work"
expect_code 0 "convert an effect" crate convert "$work/Grey Smoke.effect.json" --profile brinewick --out "$work/tide_room" --json
[ -f "$work/tide_room/effects/grey_smoke.effect.json" ] && ok "it lies in the crate by a proper name" || fail "effect"
refused() { expect_code 2 "$1" crate convert "$work/$2.effect.json" --profile brinewick --out "$work/tide_room"; grep -q "$3" "$work/err" && ok "why is said" || { cat "$work/err"; fail "why"; }; }
refused "an emitter of ten million" ten_million "emitter 1, most"
refused "emitters in a circle" circle "without end: Smoke"
refused "not a number in a curve" no_number "emitter 1, rate"
expect_code 0 "check knows effects" crate check "$work/tide_room" --json
grep -q '"effect-unused"' "$work/out" && ok "one that no map shows is noted" || fail "effect-unused"
# A crank, a sluice, the converted model, and signals between them, as a script would write them.
node -e '
const fs = require("fs"), file = process.argv[1], map = JSON.parse(fs.readFileSync(file, "utf8"));
map.objects.o3 = { class: "crank", name: "crank", position: [64, 0, 0], turn: 0, properties: { model: "models/crank.glb", solid: true } };
map.objects.o4 = { class: "sluice", name: "gate", position: [-96, 96, 0], turn: 0, properties: { size: [64, 8, 96], travel: [0, 0, 24], speed: 48, material: "iron" } };
map.objects.o5 = { class: "prop", name: "pump", position: [96, 96, 0], turn: 0, properties: { model: "models/pump.glb", solid: true } };
map.signals.g1 = { from: "o3", event: "turned", to: { object: "o4", action: "raise" }, delay: 0 };
map.signals.g2 = { from: "o3", event: "turned", to: { script: "turned" }, delay: 0 };
map.settings.trial = [{ walkTo: [24, 0, 0] }, { use: "crank" }, { wait: 1 }, { expect: { object: "gate", property: "raised", equals: 1 } }];
fs.writeFileSync(file, JSON.stringify(map));
' "$work/tide_room/maps/tide_room.map.json"
printf 'function startup() say("ready") end\nfunction turned() say("it turns") end\n' >"$work/tide_room/scripts/main.lua"
expect_code 0 "check" crate check "$work/tide_room" --json
expect_code 0 "build" crate build "$work/tide_room" --quality draft --json
[ "$(field maps.0.stages.5.state <"$work/out")" = ran ] && ok "light was computed" || fail "light did not run"
hashes() { node -e 'let t="";process.stdin.on("data",d=>t+=d).on("end",()=>console.log(JSON.parse(t).maps[0].files.map(f=>f.path+f.sha256).join()))' <"$work/out"; }
before=$(hashes)
expect_code 0 "only light, from the cache" crate build "$work/tide_room" --quality draft --only lighting --json
[ "$(field maps.0.stages.5.state <"$work/out")" = fresh ] && [ "$(hashes)" = "$before" ] && ok "nothing changed, nothing was made anew" || fail "freshness"
rm -rf "$work/tide_room/build/cache"
expect_code 0 "build with three threads" crate build "$work/tide_room" --quality draft --threads 3 --json
[ "$(hashes)" = "$before" ] && ok "three threads give the same bytes" || fail "threads"
expect_code 0 "build with more bounces" crate build "$work/tide_room" --quality draft --bounces 5 --json
field maps.0.stages.5.changes <"$work/out" >"$work/field" && grep -q Bounces "$work/field" && ok "what changed is named" || fail "changes"
expect_code 2 "a parameter out of bounds" crate build "$work/tide_room" --luxel 0
expect_code 2 "a stage that is none" crate build "$work/tide_room" --only magic
expect_code 0 "inspect" crate inspect "$work/tide_room" --json
field maps.0.files <"$work/out" >"$work/field" && grep -q '"nav.bin"' "$work/field" && ok "the navmesh is told" || fail "inspect"
expect_code 2 "inspect without a build" crate inspect "$work"
expect_code 0 "trial" crate trial "$work/tide_room" --json
grep -q '"it turns"' "$work/out" && ok "the signal ran the script" || fail "script did not run"
mkdir -p "$work/tide_room/walks/tide_room"
walk() { printf '{"format":1,"map":"%s","inputs":["120 0 0 0 - 10000 0 0"],"marks":[[0,"ready"]%s],"track":[],"hashes":[],"ended":null}' "$1" "$2" >"$work/tide_room/walks/tide_room/$3.walk.json"; }
walk tide_room "" stand
expect_code 0 "trial with a recorded walk" crate trial "$work/tide_room" --json
[ "$(field walks.0.name <"$work/out")$(field walks.0.ok <"$work/out")" = standtrue ] && ok "which works" || fail "walk"
walk tide_room ',[1.5,"use crank"]' turn
expect_code 1 "a walk that no longer works" crate trial "$work/tide_room" --walk turn --json
grep -q 'at 1.5 s “use crank” did not happen' "$work/out" && ok "says when and what" || fail "walk says"
expect_code 2 "a walk that is not there" crate trial "$work/tide_room" --walk nowhere
walk harbour "" turn
expect_code 2 "a walk of another map" crate trial "$work/tide_room"
grep -q 'recorded in the map harbour' "$work/err" && ok "which is named" || fail "other map"
rm -r "$work/tide_room/walks"
expect_code 0 "explorer and coverage" crate trial "$work/tide_room" --explore 5 --coverage --json
[ "$(field coverage.objects <"$work/out")" = "[1,1]" ] && ok "it used all there is to use" || fail "coverage"
[ "$(field exploration.complete <"$work/out")" = true ] && ok "and tried everything" || fail "explorer"
expect_code 2 "an explorer without time" crate trial "$work/tide_room" --explore soon
expect_code 0 "launch" crate launch "$work/tide_room" --game "$game" --quit-after 2 --json
grep -q '"says: ready"' "$work/out" && grep -q '"bye"' "$work/out" && ok "the game ran the script and ended when asked" || fail "launch"
[ "$(node -e 'process.stdout.write(String(JSON.parse(require("fs").readFileSync(process.argv[1])).local))' "$game/mods/tide_room_local/release.json")" = true ] && ok "from a copy marked as one's own" || fail "local copy"
sed -i.bak 's/2\.4\.1/3.0.0/' "$game/version.json"
expect_code 1 "launch in another version of the game" crate launch "$work/tide_room" --game "$game" --quit-after 5 --json
grep -q 'Map kit 2.4.0 cannot stamp maps for 3.0.0' "$work/out" && ok "which its map kit refuses to stamp maps for" || fail "stamp"
sed -i.bak 's/2\.4\.0/3.0.0/' "$game/tools/mapkit/tool.json"
expect_code 1 "launch with a map kit of that version" crate launch "$work/tide_room" --game "$game" --quit-after 5 --json
grep -q 'made for 2.4.1, this is 3.0.0' "$work/out" && ok "which the game refuses" || fail "version"
mv "$game/version.json.bak" "$game/version.json"
mv "$game/tools/mapkit/tool.json.bak" "$game/tools/mapkit/tool.json"
expect_code 0 "pack" crate pack "$work/tide_room" --quality draft --out "$work/tide_room.zip" --json
unzip -t "$work/tide_room.zip" >/dev/null && ok "unzip -t accepts the package" || fail "unzip"
expect_code 2 "publish with a wrong token" crate publish "$work/tide_room.zip" --workshop "$url" --token wrong
zipinfo -1 "$work/tide_room.zip" >"$work/names" && grep -q '^CREDITS.md$' "$work/names" && grep -q '^release.sig$' "$work/names" && ok "credits and signature are in it" || fail "zipinfo"
expect_code 0 "verify, and build it anew" crate verify "$work/tide_room.zip" --crate "$work/tide_room" --quality draft --json
[ "$(field differing <"$work/out")" = "[]" ] && ok "to the byte" || fail "reproducible"
expect_code 0 "pack again" crate pack "$work/tide_room" --quality draft --out "$work/again.zip"
cmp -s "$work/tide_room.zip" "$work/again.zip" && ok "the same crate is the same package" || fail "same bytes"
rm "$work/again.zip"
expect_code 0 "pack for the handheld" crate pack "$work/tide_room" --quality draft --platform lantern --out "$work/lantern.zip" --json
grep -q 'main.lua: lines end with CR and LF' "$work/out" && ok "what is different is listed" || fail "differences"
expect_code 0 "which verifies too" crate verify "$work/lantern.zip" --crate "$work/tide_room" --quality draft --json
[ "$(field differing <"$work/out")" = "[]" ] && ok "to the byte" || fail "reproducible for the handheld"
expect_code 2 "pack for a platform that there is none of" crate pack "$work/tide_room" --quality draft --platform toaster --out "$work/lantern.zip"

# Why something is there, and what would go without it.
expect_code 0 "links" crate links "$work/tide_room" --json
expect_code 0 "why" crate links "$work/tide_room" --why scripts/main.lua --json
grep -q 'runs it' "$work/out" && ok "the game runs it" || fail "why"
expect_code 0 "without" crate links "$work/tide_room" --without brick --json
[ "$(field bytes <"$work/out")" = 0 ] && ok "nothing of the crate's own goes with a material of the game" || fail "without"
expect_code 0 "sizes" crate links "$work/tide_room" --sizes
expect_code 0 "since the package" crate links "$work/tide_room" --since "$work/tide_room.zip" --json
[ "$(field grown <"$work/out")" = "[]" ] && ok "nothing grew" || fail "since"
expect_code 2 "why of nothing" crate links "$work/tide_room" --why nowhere.ktx2

expect_code 0 "publish" crate publish "$work/tide_room.zip" --workshop "$url" --token shell-token --notes "First one" --json
code=$(field shareCode <"$work/out")
[ "$(crate publish "$work/tide_room.zip" --workshop "$url" --token shell-token --json | field shareCode)" = "$code" ] && ok "once more is the same release" || fail "twice"
expect_code 0 "install" crate install "$code" --workshop "$url" --game "$game" --json
(cd "$game/mods/tide_room" && node -e '
const fs = require("fs"), { createHash } = require("crypto");
for (const f of JSON.parse(fs.readFileSync("release.json")).files) if (createHash("sha256").update(fs.readFileSync(f.path)).digest("hex") !== f.sha256) throw new Error(f.path);
') && ok "hashes in mods/ are right" || fail "hashes"
expect_code 0 "mods verify" crate mods verify --game "$game" --json

# Signed in by name: private, tested by somebody else, listed; a second version, an update, a rollback.
person() {
  local own
  own=$(curl -s -o /dev/null -D - -H "Origin: $url" -d "name=$1&mail=$1@mail.example&password=a tide of lamps" "$url/sign-up" | sed -n 's/^set-cookie: \([^;]*\).*/\1/ip')
  for link in $(curl -s -b "$own" "$url/mailbox" | grep -o "/confirm/[A-Za-z0-9_-]*"); do curl -s -o /dev/null -H "Origin: $url" -X POST "$url$link"; done
}
person shell_author
person shell_tester
VIOLET_CRATE_PASSWORD=wrong expect_code 2 "login with a wrong password" crate login shell_author --workshop "$url"
export VIOLET_CRATE_KEY="$work/keys/author.key" VIOLET_CRATE_PASSWORD="a tide of lamps"
unset VIOLET_CRATE_WORKSHOP_TOKEN
expect_code 0 "login" crate login shell_author --workshop "$url"
[ "$(stat -c %a "$work/keys/workshops.json")" = 600 ] && ok "the token is its owner's alone" || fail "mode"
cp -r "$work/tide_room" "$work/own_room"
sed -i 's/"name": "tide_room"/"name": "own_room"/' "$work/own_room/crate.json"
pack_own() { crate pack "$work/own_room" --quality draft --out "$work/own_$1.zip" >/dev/null 2>&1; }
pack_own 1
expect_code 0 "publish privately" crate publish "$work/own_1.zip" --workshop "$url" --private --json
own=$(field shareCode <"$work/out")
expect_code 2 "others do not see it" crate install "$own" --workshop "$url" --game "$game" --token shell-token
expect_code 2 "nor may it be listed yet" crate release list-publicly own_room --workshop "$url"
grep -q 'Somebody else has tested' "$work/err" && ok "which says what is missing" || fail "conditions"
session=$(curl -s -o /dev/null -D - -H "Origin: $url" -d "name=shell_author&password=a tide of lamps" "$url/sign-in" | sed -n 's/^set-cookie: \([^;]*\).*/\1/ip')
curl -s -o /dev/null -b "$session" -H "Origin: $url" -X POST "$url/terms"
curl -s -o /dev/null -b "$session" -H "Origin: $url" -d "account=shell_tester&role=tester" "$url/organisations/shell_author/invitations"
tester=$(curl -s -o /dev/null -D - -H "Origin: $url" -d "name=shell_tester&password=a tide of lamps" "$url/sign-in" | sed -n 's/^set-cookie: \([^;]*\).*/\1/ip')
curl -s -o /dev/null -b "$tester" -H "Origin: $url" -X POST "$url$(curl -s -b "$tester" "$url/mailbox" | grep -o "/invitation/[A-Za-z0-9_-]*" | head -1)"
(export VIOLET_CRATE_KEY="$work/tester/author.key"; crate login shell_tester --workshop "$url" >/dev/null && crate release tested own_room 0.1.0 --workshop "$url" >"$work/out" 2>&1) && ok "the tester says that it works" || fail "tested"
expect_code 0 "list publicly" crate release list-publicly own_room --workshop "$url" --json
curl -s "$url" >"$work/page" && grep -q "/mods/own_room" "$work/page" && ok "it is on the workshop's front page" || fail "listing"
expect_code 0 "install the listed one" crate install "$own" --workshop "$url" --game "$game" --json
sed -i 's/"version": "0.1.0"/"version": "0.2.0"/; s/"description": "[^"]*"/"description": "Another"/' "$work/own_room/crate.json"
pack_own 2
expect_code 0 "publish the second" crate publish "$work/own_2.zip" --workshop "$url" --notes "Other words" --json
expect_code 0 "mods update" crate mods update own_room --game "$game" --json
[ "$(field updated.0.version <"$work/out")" = 0.2.0 ] && ok "0.2.0 is there now" || fail "update"
[ "$(field updated.0.fetched <"$work/out")" -lt "$(stat -c %s "$work/own_2.zip")" ] && ok "of which only what changed was fetched" || fail "fetched"
expect_code 0 "since a version on the workshop" crate links "$work/own_room" --since 0.1.0 --workshop "$url" --json
[ "$(field since <"$work/out")" = 0.1.0 ] && ok "which is named" || fail "since version"
expect_code 2 "since a version that is none" crate links "$work/own_room" --since 9.9.9 --workshop "$url"
# Made with another crate.
cp -r "$work/tide_room" "$work/far_room"
sed -i 's/"name": "tide_room"/"name": "far_room", "requires": {"own_room": "^0.1.0"}/' "$work/far_room/crate.json"
expect_code 0 "a crate that requires one" crate check "$work/far_room" --json
grep -q 'required-open' "$work/out" && ok "is told that no version is chosen" || fail "required-open"
expect_code 0 "look for versions" crate require "$work/far_room" --look --workshop "$url" --json
[ ! -e "$work/far_room/crate.lock.json" ] && ok "changes nothing" || fail "look"
expect_code 0 "choose versions" crate require "$work/far_room" --workshop "$url" --json
grep -q '"version": "0.1.0"' "$work/far_room/crate.lock.json" && ok "0.1.0 is locked, as ^0.1.0 asks" || fail "lock"
sed -i 's/\^0.1.0/^0.2.0/' "$work/far_room/crate.json"
expect_code 1 "another range than the locked version" crate check "$work/far_room" --json
expect_code 0 "choose anew" crate require "$work/far_room" --workshop "$url" --json
[ "$(field crates.own_room.version <"$work/out")" = 0.2.0 ] && ok "0.2.0 is locked" || fail "lock anew"
rm -r "${VIOLET_CRATE_DATA:-data}/required"
expect_code 1 "not on this machine" crate check "$work/far_room" --json
expect_code 0 "fetch what is locked" crate require "$work/far_room" --fetch --workshop "$url" --json
expect_code 0 "and it is right again" crate check "$work/far_room" --json
sed -i 's/\^0.2.0/^9.0.0/' "$work/far_room/crate.json"
expect_code 2 "versions that nobody has" crate require "$work/far_room" --workshop "$url"

expect_code 0 "roll back" crate release rollback own_room 0.1.0 --workshop "$url" --json
expect_code 0 "mods follow" crate mods update own_room --game "$game" --json
[ "$(field updated.0.version <"$work/out")" = 0.1.0 ] && ok "back to 0.1.0" || fail "rollback"
expect_code 0 "withdraw" crate release withdraw own_room 0.2.0 --reason "it was worse" --workshop "$url" --json
expect_code 2 "withdraw without a reason" crate release withdraw own_room 0.1.0 --workshop "$url"
expect_code 0 "mods list" crate mods list --game "$game" --json
echo changed >>"$game/mods/own_room/scripts/main.lua"
expect_code 1 "a changed file is found" crate mods verify own_room --game "$game" --json
expect_code 0 "mods remove" crate mods remove own_room --game "$game" --json
[ ! -e "$game/mods/own_room" ] && ok "it is gone" || fail "remove"
unset VIOLET_CRATE_KEY VIOLET_CRATE_PASSWORD

# A start that touches the floor: a finding, and without the fix the test run falls.
sed -i 's/"position":\[0,-80,2\]/"position":[0,-80,0]/' "$work/tide_room/maps/tide_room.map.json"
expect_code 0 "a touching start does not stop the check" crate check "$work/tide_room" --json
grep -q start-touches "$work/out" && ok "but is found" || fail "start-touches"
expect_code 1 "and the test run reports falling" crate trial "$work/tide_room" --json
[ "$(field ended <"$work/out")" = fell ] && ok "fell" || fail "ended"

# The demo crate: nothing to mend, and walked from the start to the last lamp; broken, it leaks.
expect_code 0 "demo check" crate check "$demo" --json
[ "$(field counts.blocker <"$work/out")$(field counts.warning <"$work/out")$(field counts.note <"$work/out")" = 000 ] && ok "demo has no findings" || fail "demo findings"
expect_code 0 "demo trial" crate trial "$demo" --json
[ "$(field ended <"$work/out")" = won ] && ok "demo is won" || fail "demo trial"
node -e '
const fs = require("fs"), file = process.argv[1], map = JSON.parse(fs.readFileSync(file, "utf8"));
const has = (s, axis, sign, d) => s.faces.some((f) => f.normal[axis] === sign && f.distance === d);
const [id] = Object.entries(map.solids).find(([, s]) => has(s, 0, -1, 16) && has(s, 2, 1, 224));
delete map.solids[id];
fs.writeFileSync(file, JSON.stringify(map));
' "$demo/maps/pumphouse.map.json"
expect_code 1 "demo without its west wall does not build" crate build "$demo" --quality draft --json
node -e 'const r=JSON.parse(require("fs").readFileSync(process.argv[1]));const l=r.maps[0].findings.find(f=>f.code==="leak");if(!l||!l.place.trail.some(p=>p[0]<1))process.exit(1)' "$work/out" && ok "the trail leads through the west side" || fail "trail"

# The second game's road: a race that builds, is ridden by the driver, packed, published, installed.
ridge=$VIOLET_CRATE_DATA/games/skarrow
expect_code 0 "new race" crate new short_ridge --profile skarrow --dir "$work/short_ridge" --title "Short Ridge"
expect_code 0 "check of the race" crate check "$work/short_ridge" --json
[ "$(field counts.blocker <"$work/out")$(field counts.warning <"$work/out")" = 00 ] && ok "the template has nothing to mend" || fail "race template"
expect_code 0 "build of the race" crate build "$work/short_ridge" --quality draft --json
[ "$(field maps.0.stages.2.state <"$work/out")" = ran ] && grep -q "maps/short_ridge/terrain.bin" "$work/out" && ok "with its ground" || fail "terrain.bin"
expect_code 0 "trial of the race" crate trial "$work/short_ridge" --races 3 --json
[ "$(field races.2.finished <"$work/out")" = true ] && [ "$(field races.0.splits.3.name <"$work/out")" = finish_finish ] && ok "the driver finishes in three winds" || fail "race"
expect_code 0 "pack of the race" crate pack "$work/short_ridge" --quality draft --out "$work/short_ridge.zip" --json
unzip -l "$work/short_ridge.zip" >"$work/list" && grep -q terrain.bin "$work/list" && ok "the ground travels" || fail "race package"
expect_code 0 "publish the race" crate publish "$work/short_ridge.zip" --workshop "$url" --token shell-token --json
race=$(field shareCode <"$work/out")
expect_code 0 "install the race" crate install "$race" --workshop "$url" --game "$ridge" --json
[ -f "$ridge/mods/short_ridge/maps/short_ridge/terrain.bin" ] && ok "it lies in the second game's mods" || fail "installed race"
expect_code 0 "launch the race" crate launch "$work/short_ridge" --game "$ridge" --quit-after 2 --json
grep -q 'ground of [0-9]* triangles.*to look at.*with 3 stops' "$work/out" && ok "the second game opens ground, map picture and route" || fail "race launch"
snow=$VIOLET_CRATE_DATA/crates/snowgate
expect_code 0 "the ridge demo has no findings" crate check "$snow" --json
[ "$(field counts.blocker <"$work/out")$(field counts.warning <"$work/out")$(field counts.note <"$work/out")" = 000 ] && ok "none at all" || fail "ridge demo findings"
expect_code 0 "and is ridden to its finish" crate trial "$snow" --races 1 --json
[ "$(field races.0.finished <"$work/out")$(field races.0.crashes <"$work/out")" = "true[]" ] && ok "without a crash" || fail "ridge demo race"
# What the demo promises: more than a square kilometre, eight gates, three soft jumps at any speed, a shed to enter and to leave.
node --input-type=module -e '
import { readFileSync } from "node:fs";
import { completeMap } from "@violet-crate/core/document/schema";
import { expandMap } from "@violet-crate/core/map/prefab";
import { loadProfile } from "@violet-crate/core/profile/load";
import { jumpsOf } from "@violet-crate/core/route/jumps";
import { ribbonOf } from "@violet-crate/core/route/ribbon";
const profile = loadProfile(readFileSync("core/profiles/skarrow.json", "utf8"), "skarrow.json");
const map = expandMap(completeMap(JSON.parse(readFileSync(process.argv[1], "utf8"))), profile);
const [{ samples, spacing }] = Object.values(map.terrains);
const [route] = Object.values(map.routes);
const need = (holds, what) => { if (!holds) throw new Error(what); };
need((samples[0] - 1) * (samples[1] - 1) * spacing ** 2 > 1e6, "area");
need(route.stops.length === 8, "gates");
for (const speed of [12, 18, 26]) {
  const jumps = jumpsOf(map, ribbonOf(map, route), speed, profile.player.gravity, profile.unit.metres);
  need(jumps.length === 3 && jumps.every(({ flight }) => flight.into < 9), `jumps at ${speed}`);
}
const uses = Object.values(map.objects).map(({ properties }) => properties.use);
for (const use of ["entrance", "exit", "photo"]) need(uses.includes(use), use);
' "$snow/maps/snowgate.map.json" && ok "the ridge demo holds what it promises" || fail "ridge demo"
# A wall across the way: the driver says that it is never finished.
node -e '
const fs = require("fs"), file = process.argv[1], map = JSON.parse(fs.readFileSync(file, "utf8"));
const face = (normal, distance) => ({ normal, distance, material: "rock" });
map.solids.s900 = { faces: [face([1, 0, 0], 30), face([-1, 0, 0], -20), face([0, 1, 0], 200), face([0, -1, 0], 200), face([0, 0, 1], 90), face([0, 0, -1], 20)] };
fs.writeFileSync(file, JSON.stringify(map));
' "$work/short_ridge/maps/short_ridge.map.json"
expect_code 1 "a race that is walled up" crate trial "$work/short_ridge" --races 1 --json
grep -q race-unfinished "$work/out" && ok "is said to be so" || fail "walled race"

# Folders, archives and every setting; bad files among good ones are findings, and the rest comes in.
mkdir -p "$work/moor/props"
printf 'v -0.5 -0.5 -0.5\nv 0.5 -0.5 -0.5\nv -0.5 0.5 -0.5\nv -0.5 -0.5 0.5\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n' >"$work/moor/props/wedge.obj"
cp "$demo/sources/textures/keeper_tile.png" "$work/moor/moss.png"
cp "$game/base/sounds/drip.wav" "$work/moor/drip.wav"
echo nonsense >"$work/moor/broken.png"
printf 'glTF' >"$work/moor/cut.glb"
expect_code 0 "new crate for the folder" crate new moor --profile brinewick --template sealed-room --dir "$work/moor_crate"
expect_code 1 "a folder with two bad files" crate convert "$work/moor" --profile brinewick --out "$work/moor_crate" --unit m --pivot base --normals flat --lods 0.5 --collision parts --movable on --material-type unlit --json
[ "$(field converted <"$work/out") $(field failed <"$work/out")" = "3 2" ] && ok "three converted, two failed" || fail "counts"
node -e '
const { files } = JSON.parse(require("fs").readFileSync(process.argv[1]));
const wedge = files.find((f) => f.input === "moor/props/wedge.obj");
// By hand: a corner of a unit cube has a sixth of its volume, 32 notches to the metre.
if (wedge.triangles !== 4 || Math.abs(wedge.hullVolume - 1 / 6) > 1e-4 || wedge.dimensions.units.join() !== "32,32,32" || wedge.bounds.min[2] !== 0 || wedge.lods.length !== 1) throw new Error(JSON.stringify(wedge));
if (!files.find((f) => f.input === "moor/cut.glb").error.message.includes("byte 4")) throw new Error("cut.glb");
' "$work/out" && ok "hull, dimensions, levels and pivot are reported" || fail "report"
grep -q '"unlit"' "$work/moor_crate/crate.json" && ok "the material has the wanted type" || fail "material type"
expect_code 1 "the same folder again" crate convert "$work/moor" --profile brinewick --out "$work/moor_crate" --unit m --pivot base --normals flat --lods 0.5 --collision parts --movable on --json
[ "$(grep -o '"unchanged":true' "$work/out" | wc -l)" = 3 ] && ok "nothing is converted twice" || fail "unchanged"
expect_code 0 "as OBJ again" crate convert "$work/moor/props/wedge.obj" --profile brinewick --format obj --out "$work/obj"
expect_code 0 "which reads back" crate convert "$work/obj/wedge.obj" --profile brinewick --unit m --out "$work/obj2" --json
[ "$(field files.0.triangles <"$work/out")" = 4 ] && ok "with its four triangles" || fail "OBJ out"
expect_code 2 "an unknown collision shape" crate convert "$work/moor/props/wedge.obj" --profile brinewick --out "$work/o" --collision blob

# Bad input: exit 2, one sentence.
head -c 300 "$work/tide_room/models/pump.glb" >"$work/cut.glb"
expect_code 2 "truncated GLB" crate convert "$work/cut.glb" --profile brinewick --out "$work/o"
grep -q 'byte 300' "$work/err" && ok "names the byte" || fail "byte"

# Maps: out to other programs, and damaged ones named by line and column.
expect_code 0 "a map as GLB" crate export "$demo" --game "$game" --to "$work/map.glb" --json
[ "$(field triangles <"$work/out")" -gt 3000 ] && [ "$(head -c 4 "$work/map.glb")" = glTF ] && ok "with its triangles" || fail "map GLB"
expect_code 2 "a map as something else" crate export "$demo" --game "$game" --to "$work/map.stl"
cp -r "$demo" "$work/torn"
sed -i 's/"s7": *{/"s7": {,/' "$work/torn/maps/pumphouse.map.json"
expect_code 1 "check of a damaged map" crate check "$work/torn" --game "$game"
grep -Eq 'line [0-9]+, column [0-9]+: solid s7' "$work/out" && ok "says what is lost and where" || fail "damage"
expect_code 2 "build of a damaged map" crate build "$work/torn" --game "$game"
# Set-up: this machine, its games, packs of the depot.
expect_code 0 "doctor" crate doctor --game "$game" --json
[ "$(field preparation.0.done <"$work/out")" = true ] && ok "steps tick themselves" || fail "preparation"
cp -r "$game" "$work/old_game"
sed -i 's/2\.4\.1/2.5.0/' "$work/old_game/version.json"
expect_code 1 "doctor of a game that was updated without its tools" crate doctor --game "$work/old_game"
grep -q 'The tool is 2.4.0, the game 2.5.0' "$work/out" && ok "says which versions do not go together" || fail "versions"
expect_code 0 "games" crate games --json
grep -q '"how":"in the games folder"' "$work/out" && ok "both games are found" || fail "games"
expect_code 0 "packs of the depot" crate packs list --game "$game" --json
grep -q '"update":"2.4.2"' "$work/out" && ok "an update is told" || fail "update"
expect_code 0 "a pack is added" crate packs add chandlery --game "$game"
[ -f "$game/base/packs/chandlery/pack.json" ] && ok "and lies in the game" || fail "pack"
expect_code 0 "and removed" crate packs remove chandlery --game "$game"
expect_code 2 "a pack that is none" crate packs add nothing --game "$game"
expect_code 2 "sync without the application" crate sync "$demo" --server http://127.0.0.1:1
# HTTP ranges (RFC 9110, 14): 206 with Content-Range, 416 beyond the end, the whole where If-Range names another one.
item=$url/depot/items/chandlery/1.0.0
size=$(curl -s -o "$work/whole.zip" -w '%{size_download}' "$item")
etag=$(curl -sI "$item" | tr -d '\r' | awk 'tolower($1)=="etag:"{print $2}')
head1=$(curl -s -D - -o "$work/part" -H 'Range: bytes=100-199' -H "If-Range: $etag" "$item" | tr -d '\r')
case "$head1" in *" 206 "*"bytes 100-199/$size"*) ok "a range is answered with 206 and its place" ;; *) fail "206: $head1" ;; esac
cmp -s <(head -c 200 "$work/whole.zip" | tail -c 100) "$work/part" && ok "with the very bytes" || fail "bytes of the range"
[ "$(curl -s -o /dev/null -w '%{http_code}' -H "Range: bytes=$((size + 10))-" "$item")" = 416 ] && ok "a range beyond the end with 416" || fail "416"
[ "$(curl -s -o /dev/null -w '%{http_code} %{size_download}' -H 'Range: bytes=5-9' -H 'If-Range: "another"' "$item")" = "200 $size" ] && ok "another If-Range with the whole" || fail "If-Range"

# Maps merge member by member, as git runs it.
cp "$demo/maps/pumphouse.map.json" "$work/base.json"
moved() { node -e 'const fs=require("fs"),[,from,to,...moves]=process.argv;const map=JSON.parse(fs.readFileSync(from));for(const m of moves){const[i,x]=m.split("=");map.objects[Object.keys(map.objects)[i]].position[0]=Number(x)}fs.writeFileSync(to,JSON.stringify(map))' "$@"; }
at() { node -e 'const map=JSON.parse(require("fs").readFileSync(process.argv[1]));console.log(map.objects[Object.keys(map.objects)[process.argv[2]]].position[0])' "$1" "$2"; }
moved "$work/base.json" "$work/ours.json" 0=111
moved "$work/base.json" "$work/theirs.json" 1=222
expect_code 0 "two versions of a map" crate merge-map "$work/base.json" "$work/ours.json" "$work/theirs.json"
[ "$(at "$work/ours.json" 0) $(at "$work/ours.json" 1)" = "111 222" ] && ok "both changes are in" || fail "merge"
moved "$work/base.json" "$work/ours.json" 0=111
moved "$work/base.json" "$work/theirs.json" 0=333
expect_code 1 "the same member on both sides" crate merge-map "$work/base.json" "$work/ours.json" "$work/theirs.json" --json
[ "$(at "$work/ours.json" 0)" = 111 ] && [ -f "$work/ours.conflicts.json" ] && ok "stays as ours, and is told" || fail "conflict"

# The game's bank: read, changed beside the original, told apart, and as a patch.
bank() { crate bank "$1" "$game/ledger.bnk" "${@:2}" --layout brinewick:ledger; }
expect_code 0 "bank inspect" bank inspect --json
[ "$(field version <"$work/out")" = 1 ] && [ "$(field use.unknown <"$work/out")" -gt 1000 ] && ok "its version, and what nobody knows" || fail "inspect"
expect_code 0 "bank read" bank read --out "$work/bank.json" --json
expect_code 0 "bank write without a change" bank write --data "$work/bank.json" --out "$work/same.bnk"
cmp -s "$game/ledger.bnk" "$work/same.bnk" && ok "is the same to the byte" || fail "round trip"
node -e '
const fs = require("fs"), [, file] = process.argv, bank = JSON.parse(fs.readFileSync(file));
bank.blocks[bank.sections.people[0].values.party.block].rows.push({ values: { wit: 3, strength: 44, bright: 1 } });
fs.writeFileSync(file, JSON.stringify(bank));' "$work/bank.json"
expect_code 0 "bank write" bank write --data "$work/bank.json" --out "$work/ledger.mine.bnk" --json
[ "$(field moved.0.what <"$work/out")" = "people 1, party" ] && ok "the party is moved" || fail "moved"
expect_code 2 "over the original" bank write --data "$work/bank.json" --out "$game/ledger.bnk"
expect_code 2 "to where something lies" bank write --data "$work/bank.json" --out "$work/x.bnk" --place "$(node -e 'const b=JSON.parse(require("fs").readFileSync(process.argv[1]));process.stdout.write(b.sections.people[0].values.party.block)' "$work/bank.json")=300"
expect_code 0 "bank diff" crate bank diff "$game/ledger.bnk" "$work/ledger.mine.bnk" --layout brinewick:ledger --json
grep -q 'people 1 Odile Marsh, party 4' "$work/out" && ok "in words" || fail "diff"
head -c 100000 "$game/ledger.bnk" >"$work/cut.bnk"
expect_code 2 "a bank of no known version" crate bank inspect "$work/cut.bnk" --layout brinewick:ledger
expect_code 0 "patch make" crate patch make "$game/ledger.bnk" "$work/ledger.mine.bnk" --out "$work/bank.vcdiff" --json
[ "$(field bytes <"$work/out")" -lt 200 ] && ok "only what is new" || fail "patch"
expect_code 0 "patch apply" crate patch apply "$game/ledger.bnk" "$work/bank.vcdiff" --out "$work/again.bnk"
cmp -s "$work/again.bnk" "$work/ledger.mine.bnk" && ok "makes the changed one" || fail "apply"
expect_code 2 "to another original" crate patch apply "$work/cut.bnk" "$work/bank.vcdiff" --out "$work/x.bnk"
cp "$work/ledger.mine.bnk" "$game/ledger.tide_room_local.bnk"
(cd "$game" && printf 'contest Odile Marsh\nquit\n' | node bin/brinewick.mjs --mod tide_room_local --map tide_room >"$work/out")
grep -q 'Odile Marsh with 4 wits' "$work/out" && ok "the game plays it" || fail "contest"

# Tables and conversations: checked, out to CSV and in again, and what is wrong with them stops a build.
cp -r "$demo" "$work/told"
records() { crate records "$work/told" "$@" --game "$game"; }
expect_code 0 "records check" records check --json
[ "$(field tables.1.rows <"$work/out")" = 25 ] && [ "$(field conversations.0.name <"$work/out")" = keeper ] && ok "tables and conversations" || fail "records"
expect_code 0 "records export" records export --table people --out "$work/people.csv"
expect_code 0 "records import without a change" records import --table people --from "$work/people.csv" --json
[ "$(field written <"$work/out")" = false ] && ok "nothing to write" || fail "round trip of CSV"
sed 's/^odile,\([^,]*\),\([^,]*\),26,/odile,\1,\2,99,/' "$work/people.csv" >"$work/more.csv"
expect_code 0 "records import, planned" records import --table people --from "$work/more.csv" --plan
grep -q 'changed  odile, Breath: 26 → 99' "$work/out" && ok "says what would change" || fail "plan"
expect_code 0 "records import" records import --table people --from "$work/more.csv"
expect_code 1 "records check, out of range" records check
grep -q 'records/people.json:6' "$work/out" && ok "with the line" || fail "line"
printf 'id,breath\nodile,"12\n' >"$work/open.csv"
expect_code 2 "a quote that is open" records import --table people --from "$work/open.csv"
expect_code 2 "a table that is none" records export --table ghosts --out "$work/x.csv"
sed -i 's/"full":"[^"]*"//; s/,}/}/' "$work/told/talk/keeper.json"
sed -i 's/"breath":99/"breath":26/' "$work/told/records/people.json"
expect_code 1 "a contest that lacks a text" crate build "$work/told" --game "$game" --quality draft
grep -q 'talk-contest-text' "$work/out" && ok "stops the build" || fail "contest text"
printf '{"format":1,"title":"x","steps":[{"depth":0,"do":"dance"}]}' >"$work/told/talk/keeper.json"
expect_code 1 "a step that is none" records check
grep -q 'step 1 does "dance"' "$work/out" && ok "by its number" || fail "step"

# A third game, built from nothing but docs/profiles.md.
mkdir -p "$work/oxbow/base" "$work/oxbow/mods"
node -e '
const fs = require("fs"), [, out, ...names] = process.argv, text = fs.readFileSync("docs/profiles.md", "utf8");
for (const name of names) {
  const at = text.indexOf("`" + name + "`:"), from = text.indexOf("```json\n", at) + 8;
  fs.writeFileSync(out + "/" + name, text.slice(from, text.indexOf("```", from)));
}' "$work/oxbow" oxbow.json version.json base/pack.json
expect_code 0 "its profile is in order" crate profile check "$work/oxbow/oxbow.json"
expect_code 0 "and goes with its install" crate profile try "$work/oxbow/oxbow.json" --game "$work/oxbow"
mkdir -p "$VIOLET_CRATE_DATA/profiles"
cp "$work/oxbow/oxbow.json" "$VIOLET_CRATE_DATA/profiles/"
expect_code 0 "a crate for it" crate new pier --profile oxbow --template two-rooms --dir "$work/pier"
expect_code 0 "builds" crate build "$work/pier" --game "$work/oxbow" --quality draft --json
expect_code 0 "and runs" crate trial "$work/pier" --game "$work/oxbow" --json
sed -i 's/"size": \[/"size": [1, /' "$work/oxbow/oxbow.json"
expect_code 2 "a mistake in it" crate profile check "$work/oxbow/oxbow.json"
grep -Eq 'oxbow.json' "$work/err" && ok "is named" || fail "mistake"
echo "commandLine.sh: $passed passed"
