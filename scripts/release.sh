#!/usr/bin/env bash
# Builds the release into dist/: the file `ruhe`, an archive of it, a Debian package where dpkg-deb is there, checksums.
# Two builds of one commit on one machine are the same, byte for byte: nothing of the day or of the folder goes in.
set -euo pipefail
cd "$(dirname "$0")/.."
scripts/setup.sh page
host=$(rustc -vV | sed -n 's/^host: //p')
version=$(sed -n 's/^version = "\(.*\)"/\1/p' Cargo.toml | head -1)
SOURCE_DATE_EPOCH=$(git log -1 --format=%ct)
export SOURCE_DATE_EPOCH
# With the C library inside it runs on every Linux of that kind of machine, whatever its own is.
flags="--remap-path-prefix=$PWD=. --remap-path-prefix=${CARGO_HOME:-$HOME/.cargo}=cargo"
case $host in *-linux-*) flags="$flags -C target-feature=+crt-static" ;; esac
RUSTFLAGS=$flags CARGO_PROFILE_RELEASE_STRIP=symbols cargo build --release --locked --quiet --target "$host" -p ruhe-server
rm -rf dist
mkdir -p dist
cp "target/$host/release/ruhe" dist/ruhe
cp LICENSE web/public/notices.txt dist/
arch=${host%%-*}
stamp=(--sort=name --owner=0 --group=0 --numeric-owner "--mtime=@$SOURCE_DATE_EPOCH")
tar -C dist "${stamp[@]}" -cf - ruhe LICENSE notices.txt | gzip -n9 >"dist/ruhe-$version-linux-$arch.tar.gz"
if command -v dpkg-deb >/dev/null; then
  deb=$(dpkg --print-architecture)
  at=dist/deb
  install -D -m 755 dist/ruhe "$at/usr/bin/ruhe"
  install -D -m 644 packaging/ruhe.service "$at/lib/systemd/system/ruhe.service"
  install -D -m 644 packaging/default "$at/etc/default/ruhe"
  install -D -m 644 LICENSE "$at/usr/share/doc/ruhe/copyright"
  install -D -m 644 dist/notices.txt "$at/usr/share/doc/ruhe/notices.txt"
  install -D -m 755 packaging/postinst "$at/DEBIAN/postinst"
  install -D -m 755 packaging/prerm "$at/DEBIAN/prerm"
  echo /etc/default/ruhe >"$at/DEBIAN/conffiles"
  cat >"$at/DEBIAN/control" <<EOF
Package: ruhe
Version: $version
Architecture: $deb
Maintainer: whoever publishes this build
Depends: passwd
Section: science
Priority: optional
Description: nitrogen holds and vacuum decays, from the first reading to a signed record
 Records pressure and vacuum readings of a refrigeration circuit, corrects them for temperature, tells leaks from moisture,
 and leads to a signed record. Runs on one machine, in the browser, and sends nothing anywhere.
EOF
  find "$at" -exec touch -d "@$SOURCE_DATE_EPOCH" {} +
  dpkg-deb --root-owner-group --build "$at" "dist/ruhe_${version}_$deb.deb" >/dev/null
  rm -r "$at"
fi
(cd dist && sha256sum ruhe ruhe*.* >SHA256SUMS)
cat dist/SHA256SUMS
