# Shared by the scripts in bin: install what is missing, and only then. Every failure is one sentence.

# Without it every process that is started compiles all of the sources anew.
unset PYTHONDONTWRITEBYTECODE

say() { printf '%s\n' "$*" >&2; }
die() { say "perisect: $*"; exit 1; }

# Run a command as root: as it is, through sudo when it asks nothing, else say it.
as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"
  elif command -v sudo >/dev/null && sudo -n true 2>/dev/null; then sudo "$@"
  else return 77
  fi
}

# need_debian <what for> <package>...
need_debian() {
  local what=$1; shift
  say "Installing $what from Debian's packages ..."
  local log; log=$(mktemp)
  if ! as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends "$@" >"$log" 2>&1; then
    [ "$(id -u)" = 0 ] || sudo -n true 2>/dev/null || die "$what is missing and may not be installed from here: run \`sudo apt-get install $*\` and start again."
    as_root apt-get update -q >"$log" 2>&1
    as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends "$@" >"$log" 2>&1 \
      || die "$what could not be installed: $(tail -n 1 "$log") (command: apt-get install $*)."
  fi
  rm -f "$log"
}

need_postgres() {
  compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null && return
  # Debian's package would start a cluster of its own, which nobody here needs.
  if [ ! -e /etc/postgresql-common/createcluster.conf ]; then
    as_root mkdir -p /etc/postgresql-common \
      && printf 'create_main_cluster = false\n' | as_root tee /etc/postgresql-common/createcluster.conf >/dev/null || true
  fi
  need_debian PostgreSQL postgresql
}

# need_python <requirements file>...
need_python() {
  install_python "$@"
  # Once, before a dozen processes each begin with it.
  .venv/bin/python -m compileall -q -j 0 src >/dev/null || true
  # Steps of a nest are compiled before anybody waits for one; each search would, where that does not work.
  local moves=src/perisect/core/sheet/nest/moves.py kept
  kept=$(find src/perisect/core/sheet/nest/__pycache__ -name 'moves.*.nbi' -newer "$moves" -print -quit 2>/dev/null || true)
  [ -n "$kept" ] || .venv/bin/python -c 'import perisect.core.sheet.nest.moves' || true
}

install_python() {
  local version=0
  for candidate in python3.13 python3.12 python3.11 python3; do
    if command -v "$candidate" >/dev/null && "$candidate" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
      python=$candidate; version=1; break
    fi
  done
  [ "$version" = 1 ] || die "Python 3.11 or newer is missing: run \`apt-get install python3 python3-venv\` and start again."
  local stamp; stamp=$(cat "$@" pyproject.toml | sha256sum | cut -c1-64)
  local kept=.venv/.installed-$(basename "$1")
  [ -x .venv/bin/perisect ] && [ "$(cat "$kept" 2>/dev/null)" = "$stamp" ] && return
  say "Installing Python packages ..."
  [ -x .venv/bin/python ] || "$python" -m venv .venv || die "the Python environment could not be made: run \`apt-get install python3-venv\` and start again."
  local log; log=$(mktemp)
  local files=(); for file in "$@"; do files+=(-r "$file"); done
  .venv/bin/python -m pip install -q --disable-pip-version-check --require-hashes "${files[@]}" >"$log" 2>&1 \
    || die "Python packages could not be installed: $(grep -m1 -i error "$log" || tail -n 1 "$log")"
  .venv/bin/python -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e . >"$log" 2>&1 \
    || die "Perisect could not be installed: $(tail -n 1 "$log")"
  rm -f "$log"; printf '%s' "$stamp" >"$kept"
}

need_web() {
  command -v node >/dev/null && command -v npm >/dev/null || die "Node.js is missing: install Node 20 or newer with npm and start again."
  [ "$(node -p 'process.versions.node.split(".")[0]')" -ge 20 ] || die "Node $(node -v) is too old: install Node 20 or newer and start again."
  local log; log=$(mktemp)
  local stamp; stamp=$(sha256sum web/package-lock.json | cut -c1-64)
  if [ "$(cat web/node_modules/.installed 2>/dev/null)" != "$stamp" ]; then
    say "Installing front-end packages ..."
    (cd web && npm ci --no-audit --no-fund) >"$log" 2>&1 || die "front-end packages could not be installed: $(grep -m1 -i error "$log" || tail -n 1 "$log")"
    printf '%s' "$stamp" >web/node_modules/.installed
  fi
  stamp=$(find web/src web/public web/index.html web/vite.config.ts web/package-lock.json web/openapi.json -type f ! -name schema.ts -print0 | LC_ALL=C sort -z | xargs -0 sha256sum | sha256sum | cut -c1-64)
  if [ "$(cat web/dist/.built 2>/dev/null)" != "$stamp" ]; then
    say "Building the front end ..."
    (cd web && npm run -s build) >"$log" 2>&1 || die "the front end could not be built: $(grep -m1 -i error "$log" || tail -n 1 "$log")"
    printf '%s' "$stamp" >web/dist/.built
  fi
  rm -f "$log"
}

need_chromium() {
  command -v chromium >/dev/null || need_debian Chromium chromium
}
