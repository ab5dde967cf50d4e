#!/usr/bin/env bash
# Builds what the page loads to work without the server: web/public/ruhe.wasm. Where the compiler cannot make
# WebAssembly, Debian's one is unpacked into target/ (root and apt are needed to fetch it, nothing is installed).
# Never fails: without it the page works, and says that it cannot work without the server.
set -uo pipefail
cd "$(dirname "$0")/.."
out=web/public/ruhe.wasm
dir="$PWD/target/debian-rust"
say() { echo "ruhe: $*" >&2; }

fetch() {
  local std llvm
  [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null || return 1
  export DEBIAN_FRONTEND=noninteractive
  apt-get update -qq || return 1
  # The names with versions in them are read, not written down: they change.
  std=$(apt-cache depends libstd-rust-web-dev | sed -n 's/.*Depends: \(libstd-rust-web-[0-9.]*\)$/\1/p' | head -1)
  llvm=$(apt-cache depends "$std" rustc-web | sed -n 's/.*Depends: \(libllvm[0-9.]*\)$/\1/p' | head -1)
  [ -n "$std" ] && [ -n "$llvm" ] || return 1
  rm -rf "$dir.new" && mkdir -p "$dir.new/debs" || return 1
  (cd "$dir.new/debs" && apt-get download -qq rustc-web libstd-rust-web-dev "$std" rust-web-src "$llvm" 2>/dev/null) || return 1
  for deb in "$dir.new"/debs/*.deb; do dpkg-deb -x "$deb" "$dir.new" || return 1; done
  rm -rf "$dir.new/debs" "$dir" && mv "$dir.new" "$dir"
}

target=(--quiet --profile wasm -p ruhe-wasm --target wasm32-unknown-unknown --target-dir target/wasm)
if [ -d "$(rustc --print sysroot)/lib/rustlib/wasm32-unknown-unknown" ]; then
  cargo build "${target[@]}" || { say "the part that works without the server could not be built"; exit 0; }
else
  if [ ! -x "$dir/usr/bin/rustc" ]; then
    fetch || { say "no compiler for WebAssembly: without the server the page will not go on (rustup target add wasm32-unknown-unknown, or run this as root on Debian)"; exit 0; }
  fi
  cat > "$dir/rustc-wasm" <<SH
#!/bin/sh
LD_LIBRARY_PATH="$dir/usr/lib/x86_64-linux-gnu\${LD_LIBRARY_PATH:+:\$LD_LIBRARY_PATH}" exec "$dir/usr/bin/rustc" "\$@"
SH
  chmod +x "$dir/rustc-wasm"
  # A panic ends the worker whatever it says: without its words the file is a fifth smaller.
  RUSTC="$dir/rustc-wasm" RUSTC_BOOTSTRAP=1 RUSTFLAGS="-Zunstable-options -Cpanic=immediate-abort" \
    CARGO_TARGET_WASM32_UNKNOWN_UNKNOWN_LINKER="$(rustc --print sysroot)/lib/rustlib/$(rustc -vV | sed -n 's/host: //p')/bin/rust-lld" \
    cargo build "${target[@]}" -Zbuild-std=std,panic_abort -Zbuild-std-features=optimize_for_size || { say "the part that works without the server could not be built"; exit 0; }
fi
mkdir -p web/public
cmp -s target/wasm/wasm32-unknown-unknown/wasm/ruhe_wasm.wasm "$out" || cp target/wasm/wasm32-unknown-unknown/wasm/ruhe_wasm.wasm "$out"
exit 0
