#!/usr/bin/env bash
# Sets up, builds and starts Ruhe with its demo data on http://127.0.0.1:7420. Arguments go to `ruhe demo`.
set -euo pipefail
cd "$(dirname "$0")/.."
scripts/setup.sh page
cargo build --quiet -p ruhe-server
exec cargo run --quiet -p ruhe-server -- demo "$@"
