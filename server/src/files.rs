//! Packages as folders and .zip files.

use ruhe_core::reading::{Fault, PackageFiles};
use std::collections::HashMap;
use std::io::{Cursor, Read, Write};
use std::path::Path;

/// Largest package taken, in all its files, bytes.
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
    unzip(&name, &std::fs::read(path).map_err(unreadable)?)
}

/// Unpacks a .zip; a single folder around the files is looked through.
///
/// # Errors
/// If it is not a .zip or unpacks to too much.
pub fn unzip(name: &str, bytes: &[u8]) -> Result<PackageFiles, Fault> {
    let mut archive = zip::ZipArchive::new(Cursor::new(bytes))
        .map_err(|_| Fault::file(name, "is not a .zip file that can be read"))?;
    let mut files = HashMap::new();
    let mut left = LARGEST;
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
            Fault::file(&inner, format!("unpacks to more than {} MB", LARGEST >> 20))
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

/// Reads a whole record from a .zip, names as they are.
///
/// # Errors
/// What cannot be read, by name.
pub fn read_record(path: &Path) -> Result<ruhe_job::record::Files, Fault> {
    let name = path.display().to_string();
    let bytes =
        std::fs::read(path).map_err(|e| Fault::file(&name, format!("cannot be read: {e}")))?;
    let mut archive = zip::ZipArchive::new(Cursor::new(bytes))
        .map_err(|_| Fault::file(&name, "is not a .zip file that can be read"))?;
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
        if out.insert(inner.clone(), content).is_some() {
            return Err(Fault::file(&inner, "stands twice in the .zip"));
        }
    }
    Ok(out)
}
