#!/usr/bin/env bash
# Makes .venv with everything Wax Seal needs: pinned, hashed, and nothing else from this machine.
set -eu
cd "$(dirname "$0")/.."

say() { printf '%s\n' "$*" >&2; }

# What Qt needs from the system, and the virtual screen that some tests use.
libraries="libegl1 libgl1 libfontconfig1 libdbus-1-3 libxkbcommon0 libxkbcommon-x11-0
  libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 libxcb-shape0 libxcb-image0
  libxcb-render-util0 libxcb-randr0 libxcb-xkb1 libpulse0 xvfb python3-venv"

see_to_libraries() {
  command -v dpkg-query >/dev/null 2>&1 || {
    say "This is not a Debian system: Qt needs the counterparts of these packages:" $libraries
    return 0
  }
  missing=""
  for package in $libraries; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q '^install ok' || missing="$missing $package"
  done
  [ -n "$missing" ] || return 0
  if [ "$(id -u)" = 0 ]; then
    say "Installing system libraries:$missing"
    apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
  else
    say "Some system libraries are missing. Run this once, then make again:"
    say "  sudo apt-get install$missing"
  fi
}

python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
  say "Wax Seal needs Python 3.11 or later; this is $(python3 --version)."
  exit 1
}
see_to_libraries
[ -x .venv/bin/python ] || python3 -m venv .venv
.venv/bin/python -m pip --disable-pip-version-check --quiet install --require-hashes -r requirements/bootstrap.txt
# Compiled once here, not in each process where the shell forbids Python to keep what it compiles.
VIRTUAL_ENV="$PWD/.venv" .venv/bin/uv pip sync --compile-bytecode --quiet --require-hashes requirements/lock.txt
VIRTUAL_ENV="$PWD/.venv" .venv/bin/uv pip install --quiet --no-deps --no-build-isolation --editable .
.venv/bin/python -m compileall -q src
say "Compiling the pixel code for this machine: this takes half a minute, once."
.venv/bin/python -c 'from waxseal.core.picture.compile_kernels import ready_kernels
from waxseal.core.progress import silent
ready_kernels(silent)'
touch .venv/.ready
