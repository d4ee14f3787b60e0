# SPDX-License-Identifier: MIT
# Sets up .venv with all that Fondale needs; read by ./dev, which stands in the project's folder and has `say`.
# Nothing half-made is taken for done: an environment without a stamp of an earlier set-up that ended well is made anew.

find_python() {
  for candidate in "${PYTHON:-}" python3.13 python3.12 python3.11 python3; do
    [ -n "$candidate" ] && command -v "$candidate" >/dev/null 2>&1 || continue
    "$candidate" -c 'import sys; sys.exit(not (3, 11) <= sys.version_info[:2] < (3, 14))' 2>/dev/null && { echo "$candidate"; return; }
  done
  say "Fondale needs Python 3.11, 3.12 or 3.13. Install it and run this again: sudo apt install python3 python3-venv"
  exit 2
}

# The packages that this Python and Qt lack here.
lacking() { "$1" packaging/lacking.py packaging/libraries.txt --names; }

# a|b as this system calls it
named() {
  local first="${1%%|*}" name
  for name in ${1//|/ }; do apt-cache show "$name" >/dev/null 2>&1 && { echo "$name"; return; }; done
  echo "$first"
}

install_packages() {
  local reason
  say "Installing $*"
  reason="$(DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" 2>&1)" && return
  say "apt cannot install them: $(grep -m 1 '^E:' <<<"$reason" || tail -n 1 <<<"$reason")"
  exit 2
}

is_root_with_apt() { [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; }

system_packages() { # all that is asked for is needed
  local wanted=() package
  [ $# -gt 0 ] || return 0
  is_root_with_apt && { apt-get update -qq >/dev/null 2>&1 || true; }
  for package in "$@"; do wanted+=("$(named "$package")"); done
  if is_root_with_apt; then install_packages "${wanted[@]}"; return; fi
  if command -v apt-get >/dev/null; then say "Fondale needs packages that are not here. Install them and run this again: sudo apt install ${wanted[*]}"
  else say "Fondale needs what Debian calls ${wanted[*]}. Install it with your system's own packages and run this again."; fi
  exit 2
}

setup() {
  local want="$1" python stamp log reason
  stamp=".venv/.set-up-$want"
  [ -x .venv/bin/python ] || rm -rf .venv # what it was made of has gone
  [ -e "$stamp" ] && [ ! pyproject.toml -nt "$stamp" ] && return
  python="$(find_python)" || exit 2
  # shellcheck disable=SC2046
  system_packages $(lacking "$python")
  if [ ! -e .venv/.set-up-run ] && [ ! -e .venv/.set-up-dev ]; then
    say "Making the environment in .venv"
    rm -rf .venv
    reason="$("$python" -m venv .venv 2>&1)" || { rm -rf .venv; say "$python cannot make an environment: $(tail -n 1 <<<"$reason")"; exit 2; }
  fi
  say "Installing what Fondale needs (once, a few minutes)"
  log="$(mktemp)"
  if ! .venv/bin/python -m pip install -q --disable-pip-version-check --retries 2 -e ".$([ "$want" = dev ] && echo '[dev]')" >"$log" 2>&1; then
    if grep -qE 'name resolution|NewConnectionError|unreachable|timed out|Max retries' "$log"; then
      say "The package index of Python cannot be reached from here. Look at the network and run this again."
    else say "pip cannot install it: $(grep -m 1 '^ERROR' "$log" || tail -n 1 "$log")"; fi
    rm -f "$log"
    exit 2
  fi
  rm -f "$log"
  reason="$(.venv/bin/python -c 'import PySide6.QtWidgets' 2>&1)" || { say "Qt cannot be loaded: $(tail -n 1 <<<"$reason")"; exit 2; }
  .venv/bin/python -c 'import fondale.core.light.loops, fondale.core.stage.loops' # compiled now, not while somebody waits for light
  [ "$want" = dev ] && touch .venv/.set-up-run
  touch "$stamp"
}
