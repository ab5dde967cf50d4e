//! Packages as folders and .zip files.

use ruhe_core::reading::{Fault, PackageFiles};
use std::collections::HashMap;
use std::io::{Cursor, Read, Write};
use std::path::Path;

/// Most that a package sent to the server unpacks to, bytes: four times what it may be packed.
pub const SENT: u64 = 80 << 20;
/// Largest package taken by command, in all its files, bytes.
pub const LARGEST: u64 = 256 << 20;

/// Reads a package from a folder or a .zip file.
///
/// # Errors
/// What cannot be read, by name.
pub fn read_path(path: &Path) -> Result<PackageFiles, Fault> {
    let name = path.file_name().map_or_else(
        || path.display().to_string(),
        |n| n.to_string_lossy().into_owned(),
    );
    let unreadable = |e: std::io::Error| Fault::file(&name, format!("cannot be read: {e}"));
    if path.is_dir() {
        let mut files = HashMap::new();
        for entry in std::fs::read_dir(path).map_err(unreadable)? {
            let entry = entry.map_err(unreadable)?;
            let inner = entry.file_name().to_string_lossy().into_owned();
            let known = inner.ends_with(".csv") || inner == "datapackage.json";
            if known && entry.path().is_file() {
                let size = entry.metadata().map_err(unreadable)?.len();
                if size > LARGEST {
                    return Err(Fault::file(
                        &inner,
                        format!("is larger than {} MB", LARGEST >> 20),
                    ));
                }
                files.insert(inner, std::fs::read(entry.path()).map_err(unreadable)?);
            }
        }
        return Ok(PackageFiles(files));
    }
    if std::fs::metadata(path).map_err(unreadable)?.len() > LARGEST {
        return Err(Fault::file(
            &name,
            format!("is larger than {} MB", LARGEST >> 20),
        ));
    }
    unzip(&name, &std::fs::read(path).map_err(unreadable)?, LARGEST)
}

/// Unpacks a .zip into at most so many bytes; a single folder around the files is looked through.
///
/// # Errors
/// If it is not a .zip or unpacks to too much.
pub fn unzip(name: &str, bytes: &[u8], most: u64) -> Result<PackageFiles, Fault> {
    let mut archive = zip::ZipArchive::new(Cursor::new(bytes))
        .map_err(|_| Fault::file(name, "is not a .zip file that can be read"))?;
    let mut files = HashMap::new();
    let mut left = most;
    for i in 0..archive.len() {
        let entry = archive
            .by_index(i)
            .map_err(|_| Fault::file(name, "has an entry that cannot be read"))?;
        let inner = entry
            .name()
            .map_err(|_| Fault::file(name, "has an entry whose name cannot be read"))?
            .rsplit('/')
            .next()
            .unwrap_or("")
            .to_owned();
        if entry.is_dir() || !(inner.ends_with(".csv") || inner == "datapackage.json") {
            continue;
        }
        let mut content = Vec::new();
        entry
            .take(left + 1)
            .read_to_end(&mut content)
            .map_err(|_| Fault::file(&inner, "cannot be unpacked"))?;
        left = left.checked_sub(content.len() as u64).ok_or_else(|| {
            Fault::file(&inner, format!("unpacks to more than {} MB", most >> 20))
        })?;
        if files.insert(inner.clone(), content).is_some() {
            return Err(Fault::file(&inner, "stands twice in the .zip"));
        }
    }
    Ok(PackageFiles(files))
}

/// Packs a package, its files in a steady order.
///
/// # Errors
/// If packing fails, which memory alone can cause.
pub fn zip(files: &PackageFiles) -> Result<Vec<u8>, zip::result::ZipError> {
    let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let options = zip::write::SimpleFileOptions::default()
        .compression_method(zip::CompressionMethod::Deflated);
    let mut names: Vec<&String> = files.0.keys().collect();
    names.sort_by_key(|n| (*n != "datapackage.json", n.as_str()));
    for name in names {
        writer.start_file(name.as_str(), options)?;
        writer.write_all(&files.0[name])?;
    }
    Ok(writer.finish()?.into_inner())
}

/// Why a record was not read.
#[derive(Debug)]
pub enum Unread {
    /// It cannot be read.
    Fault(Fault),
    /// It can be read in two ways: somebody made it so.
    TwoWays(String),
}

impl From<Fault> for Unread {
    fn from(f: Fault) -> Self {
        Self::Fault(f)
    }
}

/// Reads a whole record from a folder or a .zip, names as they are.
///
/// # Errors
/// What cannot be read, by name; a .zip that can be read in two ways.
pub fn read_record(path: &Path) -> Result<ruhe_job::record::Files, Unread> {
    let name = path.display().to_string();
    let unreadable = |e: std::io::Error| Fault::file(&name, format!("cannot be read: {e}"));
    if path.is_dir() {
        let mut out = ruhe_job::record::Files::new();
        let mut left = LARGEST;
        gather(path, "", &mut out, &mut left)?;
        return Ok(out);
    }
    let bytes = std::fs::read(path).map_err(unreadable)?;
    let names = strict::names(&bytes);
    let mut archive = zip::ZipArchive::new(Cursor::new(bytes))
        .map_err(|_| Fault::file(&name, "is not a .zip file that can be read"))?;
    let names = names.map_err(Unread::TwoWays)?;
    if archive.len() != names.len() || archive.offset() != 0 {
        return Err(Unread::TwoWays("it can be read in two ways".into()));
    }
    let mut out = ruhe_job::record::Files::new();
    let mut left = LARGEST;
    for i in 0..archive.len() {
        let entry = archive
            .by_index(i)
            .map_err(|_| Fault::file(&name, "has an entry that cannot be read"))?;
        let inner = entry
            .name()
            .map_err(|_| Fault::file(&name, "has an entry whose name cannot be read"))?
            .to_string();
        if !names.contains(&inner) {
            return Err(Unread::TwoWays(format!("“{inner}” has two names in it")));
        }
        if entry.is_dir() {
            continue;
        }
        let mut content = Vec::new();
        entry
            .take(left + 1)
            .read_to_end(&mut content)
            .map_err(|_| Fault::file(&inner, "cannot be unpacked"))?;
        left = left.checked_sub(content.len() as u64).ok_or_else(|| {
            Fault::file(&inner, format!("unpacks to more than {} MB", LARGEST >> 20))
        })?;
        out.insert(inner, content);
    }
    Ok(out)
}

/// The files of a folder and of those in it; links are not followed.
fn gather(
    dir: &Path,
    within: &str,
    out: &mut ruhe_job::record::Files,
    left: &mut u64,
) -> Result<(), Fault> {
    let told =
        |e: std::io::Error| Fault::file(&dir.display().to_string(), format!("cannot be read: {e}"));
    for entry in std::fs::read_dir(dir).map_err(told)? {
        let entry = entry.map_err(told)?;
        let name = format!("{within}{}", entry.file_name().to_string_lossy());
        let kind = entry.file_type().map_err(told)?;
        if kind.is_dir() {
            gather(&entry.path(), &format!("{name}/"), out, left)?;
        } else if kind.is_file() {
            let size = entry.metadata().map_err(told)?.len();
            *left = left.checked_sub(size).ok_or_else(|| {
                Fault::file(
                    &name,
                    format!("all files are more than {} MB", LARGEST >> 20),
                )
            })?;
            out.insert(name, std::fs::read(entry.path()).map_err(told)?);
        } else {
            return Err(Fault::file(&name, "is neither a file nor a folder"));
        }
    }
    Ok(())
}

/// A .zip that can be read in one way only. Programs differ in which of two entries of one name they take, and in
/// whether they begin at the front or at the end: a record with room for two readings is none.
mod strict {
    fn u16_at(b: &[u8], at: usize) -> Option<usize> {
        let two: [u8; 2] = b.get(at..at.checked_add(2)?)?.try_into().ok()?;
        Some(usize::from(u16::from_le_bytes(two)))
    }
    fn u32_at(b: &[u8], at: usize) -> Option<usize> {
        let four: [u8; 4] = b.get(at..at.checked_add(4)?)?.try_into().ok()?;
        usize::try_from(u32::from_le_bytes(four)).ok()
    }

    /// Names of its entries (PKWARE APPNOTE 6.3, 4.3: local headers one after another from the first byte, the central
    /// directory right behind them, its end record last, without a comment).
    pub fn names(b: &[u8]) -> Result<Vec<String>, String> {
        const END: usize = 22;
        let two_ways = || "it is not a .zip that can be read in one way only".to_owned();
        let found = || -> Option<(Vec<(String, usize)>, usize)> {
            let end = b.len().checked_sub(END)?;
            let is_end = b.get(end..end + 4)? == b"PK\x05\x06" && u16_at(b, end + 20)? == 0;
            let (count, all) = (u16_at(b, end + 8)?, u16_at(b, end + 10)?);
            let (size, start) = (u32_at(b, end + 12)?, u32_at(b, end + 16)?);
            if !is_end || count != all || start.checked_add(size)? != end {
                return None;
            }
            let mut out = Vec::new();
            let mut at = start;
            let mut local = 0;
            for _ in 0..count {
                if b.get(at..at + 4)? != b"PK\x01\x02" || u32_at(b, at + 42)? != local {
                    return None;
                }
                let (flags, packed) = (u16_at(b, at + 8)?, u32_at(b, at + 20)?);
                let (name, extra, comment) = (
                    u16_at(b, at + 28)?,
                    u16_at(b, at + 30)?,
                    u16_at(b, at + 32)?,
                );
                let called = b.get(at + 46..at + 46 + name)?;
                // Its local header says the same, and its bytes follow at once.
                let own_name = u16_at(b, local + 26)?;
                let same = b.get(local..local + 4)? == b"PK\x03\x04"
                    && u16_at(b, local + 6)? == flags
                    && u32_at(b, local + 18)? == packed
                    && b.get(local + 30..local + 30 + own_name)? == called;
                // Neither encrypted nor with its sizes written behind.
                if !same || flags & 0b1001 != 0 {
                    return None;
                }
                local = local + 30 + own_name + u16_at(b, local + 28)? + packed;
                out.push((String::from_utf8(called.to_vec()).ok()?, at));
                at = at + 46 + name + extra + comment;
            }
            (at == end && local == start).then_some((out, count))
        };
        let (all, _) = found().ok_or_else(two_ways)?;
        let mut names: Vec<String> = all.into_iter().map(|a| a.0).collect();
        let count = names.len();
        names.sort();
        names.dedup();
        if names.len() == count {
            Ok(names)
        } else {
            Err("a name stands twice in it".into())
        }
    }
}
