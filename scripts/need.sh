# Sourced by ./start and ./test: what the machine must have. Installs what is missing
# from Debian's packages, or says exactly which command to run where it may not.

export PATH="$PATH:/usr/local/go/bin"

say() { printf '\n== %s\n' "$*"; }

# need PACKAGE TEST...: makes sure of a Debian package, which is there when TEST succeeds.
missing=""
need() {
  local package=$1
  shift
  "$@" >/dev/null 2>&1 || missing="$missing $package"
}

install_missing() {
  [ -z "$missing" ] && return 0
  say "Installing from Debian's packages:$missing"
  local as=""
  if [ "$(id -u)" != 0 ]; then
    if ! command -v sudo >/dev/null || ! sudo -v; then
      echo "These packages are missing and may not be installed from here. Run as root:"
      echo "  apt-get update && apt-get install -y --no-install-recommends$missing"
      exit 1
    fi
    as=sudo
  fi
  $as apt-get update -qq
  # shellcheck disable=SC2086 # one word a package
  DEBIAN_FRONTEND=noninteractive $as apt-get install -y -qq --no-install-recommends $missing >/dev/null
}

need_go_and_node() {
  if ! command -v go >/dev/null; then
    echo "Go is missing. Install Go 1.26 or newer, so that 'go version' answers."
    exit 1
  fi
  if ! command -v npm >/dev/null; then
    echo "Node is missing. Install Node 20 or newer with npm, so that 'npm --version' answers."
    exit 1
  fi
}

# changed STAMP PATH...: whether files below the paths differ from when STAMP was written
# by keep_stamp; by name, size and time.
listing() { find "$@" -type f -not -path '*/node_modules/*' -not -path '*/dist/*' -printf '%p %s %T@\n' | LC_ALL=C sort | sha256sum; }
changed() {
  local stamp=$1
  shift
  [ "$(listing "$@")" != "$(cat "$stamp" 2>/dev/null)" ]
}
keep_stamp() {
  local stamp=$1
  shift
  mkdir -p "$(dirname "$stamp")"
  listing "$@" >"$stamp"
}

install_web() {
  if changed build/npm.stamp web/package.json web/package-lock.json || [ ! -d web/node_modules ]; then
    say "Installing the front end's packages"
    (cd web && npm ci --silent --no-audit --no-fund)
    keep_stamp build/npm.stamp web/package.json web/package-lock.json
  fi
}

# The engines that tests of formats read and write with.
install_reference() {
  if changed build/reference.stamp reference/package.json reference/package-lock.json || [ ! -d reference/node_modules ]; then
    say "Installing the reference engines"
    (cd reference && npm ci --silent --no-audit --no-fund)
    keep_stamp build/reference.stamp reference/package.json reference/package-lock.json
  fi
}

build_web() {
  if changed build/web.stamp web || [ ! -f web/dist/index.html ]; then
    install_web
    say "Building the front end"
    (cd web && npm run --silent build >/dev/null)
    keep_stamp build/web.stamp web
  fi
}

sources="go.mod go.sum api asking cmd core demo formats jobs procedure server standin store vocabulary web/embed.go build/web.stamp"
build_binary() {
  # shellcheck disable=SC2086 # a list of paths
  if changed build/binary.stamp $sources || [ ! -x build/grandledger ]; then
    say "Building grandledger (the first time takes some minutes)"
    go build -o build/grandledger ./cmd/grandledger
    # shellcheck disable=SC2086
    keep_stamp build/binary.stamp $sources
  fi
}
