#!/usr/bin/env bash
# Sets up and passes all tests: formatting, lints, then everything under Cargo's test runner, browser tests too.
set -euo pipefail
cd "$(dirname "$0")/.."
scripts/setup.sh tests
cargo fmt --all --check
cargo clippy --workspace --all-targets --quiet -- -D warnings
cargo test --workspace "$@"
