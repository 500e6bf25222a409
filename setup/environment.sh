# Sourced by ./fair-thicket and ./run-tests: makes .venv when it is missing or when the pins have changed.
# A set-up environment costs one file comparison and nothing else.

here=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
venv="$here/.venv"

# Qt's own libraries that its wheel does not bring. Each pair: file to look for, Debian package that has it.
QT_LIBRARIES="libGL.so.1:libgl1 libEGL.so.1:libegl1 libxkbcommon.so.0:libxkbcommon0 libglib-2.0.so.0:libglib2.0-0
libfontconfig.so.1:libfontconfig1 libdbus-1.so.3:libdbus-1-3 libxkbcommon-x11.so.0:libxkbcommon-x11-0
libxcb-cursor.so.0:libxcb-cursor0 libxcb-icccm.so.4:libxcb-icccm4 libxcb-keysyms.so.1:libxcb-keysyms1
libxcb-shape.so.0:libxcb-shape0"

find_python() {
  local name
  for name in python3.11 python3.12 python3.13 python3; do
    if command -v "$name" >/dev/null 2>&1 &&
       "$name" -c 'import sys; sys.exit(not (3, 11) <= sys.version_info[:2] <= (3, 13))' 2>/dev/null; then
      echo "$name"; return 0
    fi
  done
  echo "Fair Thicket needs Python 3.11 to 3.13; install it, then start this again." >&2
  return 1
}

# need_environment EXTRA: ready the environment; EXTRA is "" to run, "[test]" to test.
need_environment() {
  local extra="$1" wanted stamp python ready
  stamp="$venv/ready$extra"
  wanted="$here $(cat "$here/pyproject.toml" "$here/setup/constraints.txt")"
  # an environment that is ready to test is ready to run
  for ready in "$stamp" "$venv/ready[test]"; do
    if [ -f "$ready" ] && [ "$(cat "$ready")" = "$wanted" ]; then return 0; fi
  done
  python=$(find_python) || return 1
  [ -w "$here" ] || {
    echo "Fair Thicket sets itself up in its own folder, and $here may not be written. Copy it to a folder of yours." >&2
    return 1; }
  need_room || return 1
  echo "Setting up Fair Thicket (once; a minute or two) ..." >&2
  need_venv "$python" || return 1
  "$venv/bin/python" -m pip install --quiet --disable-pip-version-check --retries 1 \
      -c "$here/setup/constraints.txt" -e "$here$extra" > "$venv/setup.log" 2>&1 || {
    if grep -qiE "no space left|quota exceeded|errno 28" "$venv/setup.log" || ! need_room 2>/dev/null; then
      echo "The disk of $here is full: setting up takes about $NEEDED_MB MB. Make room, then start this again." >&2
    elif grep -qiE "temporary failure in name|name or service|connection|network|timed out|no matching distribution" \
        "$venv/setup.log"; then
      echo "The packages could not be fetched. Connect to the network, then start this again ($venv/setup.log)." >&2
    else
      echo "The packages could not be installed; $venv/setup.log says why. Then start this again." >&2
    fi
    return 1; }
  "$venv/bin/python" -m compileall -q "$here/src" || true  # so that the first start is as quick as the next
  need_qt_libraries || return 1
  printf '%s' "$wanted" > "$stamp"
}

NEEDED_MB=1100

# need_room: whether the disk has room for the environment; what is there of it already counts.
need_room() {
  local free there
  free=$(df -Pm "$here" | awk 'NR == 2 { print $4 }')
  there=$(du -sm "$venv" 2>/dev/null | cut -f1)
  if [ "$((free + ${there:-0}))" -ge "$NEEDED_MB" ]; then return 0; fi
  echo "Setting up takes about $NEEDED_MB MB, and the disk of $here has $free MB left. Make room, then start this again." >&2
  return 1
}

# need_venv PYTHON: make the virtual environment; one that an earlier try has left half made is made anew.
need_venv() {
  if [ -x "$venv/bin/python" ] && "$venv/bin/python" -m pip --version >/dev/null 2>&1; then return 0; fi
  rm -rf "$venv"
  if "$1" -c 'import ensurepip' >/dev/null 2>&1 && "$1" -m venv "$venv" >/dev/null 2>&1; then return 0; fi
  rm -rf "$venv"
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
    { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq python3-venv; } >/dev/null 2>&1
    if "$1" -m venv "$venv" >/dev/null 2>&1; then return 0; fi
    rm -rf "$venv"
  fi
  echo "Python cannot make virtual environments here. Type: sudo apt-get install python3-venv" >&2
  return 1
}

need_qt_libraries() {
  local known missing pair ldconfig
  ldconfig=$(command -v ldconfig || echo /sbin/ldconfig)
  known=$("$ldconfig" -p 2>/dev/null)
  missing=""
  for pair in $QT_LIBRARIES; do
    case "$known" in *"${pair%%:*}"*) ;; *) missing="$missing ${pair##*:}" ;; esac
  done
  [ -n "$missing" ] || return 0
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
    # shellcheck disable=SC2086
    { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing; } \
        >/dev/null 2>&1 && return 0
  fi
  echo "Qt needs system libraries that are not here. Type: sudo apt-get install$missing" >&2
  return 1
}
