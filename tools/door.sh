#!/usr/bin/env bash
# Comes in by the front door: a clone of its own in which `make demo` alone makes the environment, then a wheel in an empty one.
# Whatever the program needs and does not ask for is missing in both.
set -eu
cd "$(dirname "$0")/.."
room=$(mktemp -d)
trap 'rm -rf "$room"' EXIT
unset VIRTUAL_ENV PYTHONPATH MAKEFLAGS MAKELEVEL MFLAGS
export XDG_STATE_HOME="$room/state" XDG_CONFIG_HOME="$room/config"

try_program() { # try_program FOLDER-OF-THE-PROGRAM: what needs no window
  local demo
  demo=$("$1/bovrin" demo --path)
  "$1/bovrin" describe "$demo" | grep -q porter
  "$1/bovrin" proof "$demo" >/dev/null
  "$1/bovrin" picture "$demo" -o "$room/frame.png"
  "$1/bovrin" export "$demo" -o "$room/shot.glb"
  test -s "$room/frame.png" -a -s "$room/shot.glb"
}

git clone -q . "$room/clone"
cd "$room/clone"
begun=$SECONDS
make -s demo ARGS="--picture $room/window.png"
test -s "$room/window.png"
try_program .venv/bin
! .venv/bin/python -c 'import pytest' 2>/dev/null || { echo "door.sh: 'make demo' installed what only tests need." >&2; exit 1; }
echo "The door: 'make demo' made its environment ($(du -sm .venv | cut -f1) MB) and a picture of the window in $((SECONDS - begun)) s."

begun=$SECONDS
.venv/bin/python -m pip wheel -q --disable-pip-version-check --no-deps -w "$room/wheel" .
python=${PYTHON:-python3}
"$python" -m venv "$room/empty"
"$room/empty/bin/pip" install -q --disable-pip-version-check -c constraints.txt "$room"/wheel/*.whl
cd "$room"
try_program "$room/empty/bin"
bash "$OLDPWD/tools/with_display.sh" "$room/empty/bin/bovrin" demo --picture "$room/wheel.png"
test -s "$room/wheel.png"
echo "The door: the wheel ($(du -sk "$room"/wheel/*.whl | cut -f1) KB) runs from an environment of its own, $((SECONDS - begun)) s."
