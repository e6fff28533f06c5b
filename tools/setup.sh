#!/usr/bin/env bash
# setup.sh run|dev: makes .venv with the pinned packages (what running needs, or also what tests and builders need), and installs
# the system libraries that Qt and EGL need, when it may; otherwise says which to install.
set -eu
cd "$(dirname "$0")/.."
what=${1:-dev}
case "$what" in
  run) extras=""; told="Qt, NumPy, SciPy and a few small packages, 150 MB to fetch" ;;
  dev) extras="[dev]"; told="those, USD and the tools for tests, 230 MB to fetch" ;;
  *) echo "setup.sh: '$what' is neither run nor dev." >&2; exit 1 ;;
esac
PYTHON=${PYTHON:-python3}

"$PYTHON" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
  echo "Bovrin needs Python 3.11 or newer; $PYTHON is older. Set PYTHON=/path/to/python3.11 and run make again." >&2
  exit 1
}

missing=()
need() { # need PACKAGE SHARED-LIBRARY-OR-COMMAND
  case "$2" in
    *.so*) /sbin/ldconfig -p 2>/dev/null | grep -q "$2" || missing+=("$1") ;;
    *) command -v "$2" >/dev/null 2>&1 || missing+=("$1") ;;
  esac
}
# Where there is a screen, running needs no virtual one; tests have one of their own, with a window manager and a hand.
if [ "$what" = dev ] || [ -z "${DISPLAY:-}${WAYLAND_DISPLAY:-}${QT_QPA_PLATFORM:-}" ]; then
  need xvfb Xvfb
  need xauth xauth
fi
if [ "$what" = dev ]; then
  need jwm jwm
  need xdotool xdotool
fi
need libegl1 libEGL.so.1
need libgl1 libGL.so.1
need libegl-mesa0 libEGL_mesa.so.0
need libxcb-cursor0 libxcb-cursor.so.0
need libxkbcommon-x11-0 libxkbcommon-x11.so.0
need libxcb-icccm4 libxcb-icccm.so.4
need libxcb-keysyms1 libxcb-keysyms.so.1
need libxcb-image0 libxcb-image.so.0
need libxcb-render-util0 libxcb-render-util.so.0
need libxcb-xinerama0 libxcb-xinerama.so.0
need libxcb-shape0 libxcb-shape.so.0
need libdbus-1-3 libdbus-1.so.3
need libfontconfig1 libfontconfig.so.1
need libglib2.0-0 libglib-2.0.so.0
# Drivers are not in the loader's cache on every release, and are called one thing here and another there: look for the files.
compgen -G '/usr/lib/*/dri/*swrast*' >/dev/null || compgen -G '/usr/lib/dri/*swrast*' >/dev/null \
  || compgen -G '/usr/lib/*/libgallium*' >/dev/null || missing+=(libgl1-mesa-dri)
"$PYTHON" -c 'import venv, ensurepip' 2>/dev/null || missing+=(python3-venv)

if [ ${#missing[@]} -gt 0 ]; then
  as_root=""
  [ "$(id -u)" = 0 ] || as_root="sudo -n"
  if command -v apt-get >/dev/null && { [ -z "$as_root" ] || sudo -n true 2>/dev/null; }; then
    echo "Installing system packages for Qt and graphics: ${missing[*]}"
    $as_root apt-get update -qq
    DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
  else
    echo "These system packages look missing; please install them: ${missing[*]}" >&2
  fi
fi

[ -x .venv/bin/python ] || "$PYTHON" -m venv .venv
echo "Downloading into .venv, unless it is there already: $told."
.venv/bin/python -m pip install -q --disable-pip-version-check -c constraints.txt -e ".$extras"
bash tools/slim.sh .venv
