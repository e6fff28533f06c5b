#!/usr/bin/env bash
# Runs a command on the screen there is, or on a virtual one when there is none.
set -u
if [ -n "${DISPLAY:-}${WAYLAND_DISPLAY:-}" ] || [ -n "${QT_QPA_PLATFORM:-}" ]; then exec "$@"; fi
echo "No display found: running on a virtual screen. For a picture of the window: make demo ARGS=\"--picture out.png\"" >&2
exec xvfb-run -a -s "-screen 0 1280x800x24" "$@"
