#!/usr/bin/env bash
# Sets up what building and testing need: the page's packages, and for tests Chromium and ChromeDriver.
# Usage: scripts/setup.sh [page|tests]
set -euo pipefail
cd "$(dirname "$0")/.."

need() { command -v "$1" >/dev/null || { echo "ruhe: $1 is missing; please install $2" >&2; exit 1; }; }
need cargo "Rust 1.95 or newer (rustup)"
need node "Node.js 20 or newer"
need npm "npm"
need cc "a C compiler (Debian: build-essential)"

missing=()
if [ "${1:-page}" = tests ]; then
  command -v chromium >/dev/null || missing+=(chromium)
  command -v chromedriver >/dev/null || missing+=(chromium-driver)
  command -v certutil >/dev/null || missing+=(libnss3-tools)
fi
if [ ${#missing[@]} -gt 0 ]; then
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
    export DEBIAN_FRONTEND=noninteractive
    apt-get update -qq
    apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
  else
    echo "ruhe: the browser tests need: ${missing[*]} (Debian: sudo apt-get install ${missing[*]})" >&2
    exit 1
  fi
fi

scripts/wasm.sh

cd web
# The lock file says what is wanted; npm ci only when what is there differs.
if ! cmp -s package-lock.json node_modules/.ruhe-lock; then
  npm ci --ignore-scripts --no-audit --no-fund --loglevel=error
  cp package-lock.json node_modules/.ruhe-lock
fi
npm run --silent build
