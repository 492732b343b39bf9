# Sourced by bin/start, bin/test and bin/bench: brings a fresh Debian machine with Node.js to where the work can begin.

root_folder=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$root_folder"

fail() {
  printf '%s\n' "$1" >&2
  exit 1
}

# ensure_debian PROGRAM=PACKAGE ...: installs the packages whose program is missing.
ensure_debian() {
  local missing=() pair program
  for pair in "$@"; do
    program=${pair%%=*}
    [ -e "$program" ] || command -v "$program" >/dev/null 2>&1 || missing+=("${pair#*=}")
  done
  [ ${#missing[@]} -eq 0 ] && return
  local as_root=()
  if [ "$(id -u)" -ne 0 ]; then
    sudo -n true 2>/dev/null || fail "These Debian packages are missing: ${missing[*]}
Install them as root (apt-get install ${missing[*]}) and start again."
    as_root=(sudo -n)
  fi
  echo "Installing Debian packages: ${missing[*]}"
  "${as_root[@]}" apt-get update -q >/dev/null || fail 'The list of Debian packages could not be read (apt-get update).'
  DEBIAN_FRONTEND=noninteractive "${as_root[@]}" apt-get install -y -q --no-install-recommends "${missing[@]}" >/dev/null ||
    fail "These Debian packages could not be installed: ${missing[*]}"
}

ensure_node() {
  command -v node >/dev/null 2>&1 || fail 'Node.js 20.19 or newer is needed and was not found.'
  node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)' ||
    fail "Node.js 20.19 or newer is needed; this is $(node --version)."
}

ensure_npm_packages() {
  local stamp=node_modules/.installed-from
  local wanted
  wanted=$(cat package-lock.json package.json ./*/package.json | sha256sum)
  [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ] && return
  echo 'Installing npm packages (a minute or two)'
  npm install --no-audit --no-fund --loglevel=error || fail 'npm install failed; see above.'
  wanted=$(cat package-lock.json package.json ./*/package.json | sha256sum)
  printf '%s' "$wanted" >"$stamp"
}

# sources_sum FOLDER ...: a checksum of what is built from them, and of where: built files say where they are.
sources_sum() {
  { pwd && find "$@" package-lock.json -type f \
    \( -name '*.ts' -o -name '*.tsx' -o -name '*.css' -o -name '*.json' -o -name '*.svg' -o -name '*.ico' \) \
    -not -path '*/node_modules/*' -not -path '*/.next/*' -not -name 'next-env.d.ts' -print0 |
    sort -z | xargs -0 sha256sum; } | sha256sum
}

# The programs as bundled files: a second.
ensure_programs() {
  local stamp=.built/built-from
  local wanted
  wanted=$(sources_sum core formats server web/serve.ts web/api web/app/api worker demo bin)
  [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ] && return
  node --import tsx bin/writePrograms.ts || fail 'The programs could not be put together; see above.'
  printf '%s' "$wanted" >"$stamp"
}

ensure_build() {
  ensure_programs
  local stamp=web/.next/built-from
  local wanted
  wanted=$(sources_sum core formats server web)
  [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ] && return
  echo 'Building the application (a minute or two)'
  NEXT_TELEMETRY_DISABLED=1 npm run build --loglevel=error -w web >web-build.log 2>&1 || {
    cat web-build.log >&2
    fail 'The application could not be built; see above.'
  }
  rm -f web-build.log
  printf '%s' "$wanted" >"$stamp"
}

common_packages=(/usr/lib/postgresql=postgresql ffmpeg=ffmpeg oiiotool=openimageio-tools)
