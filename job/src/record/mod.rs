//! The whole record of a circuit as files, and the check of one that somebody hands over.
//!
//! In the record: `log.jsonl`, the log, a line an entry, canonical and chained; for each test a folder with a data
//! package and `sealed.jsonl`, its readings as they were sealed; photos; `record.pdf`; `manifest.json` with the
//! SHA-256 of every file; `signature.json`, the manifest signed with the installation's own key.
//! The hash of the last entry is what a printed record shows: whoever has the paper can tell a file that was made anew.

mod seal;
mod verify;
mod write;

pub use seal::{Key, SIGNATURE, SignedBy};
pub use verify::{Checked, Tampered, Verified, verify};
pub use write::{Sources, files};

use crate::log::{Entry, ReadingLine, sha256};
use crate::state::{Circuit, Test, record};
use ruhe_core::reading::Recording;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Files by name; a slash parts folders.
pub type Files = BTreeMap<String, Vec<u8>>;

/// Name of the manifest.
pub const MANIFEST: &str = "manifest.json";
/// Name of the log.
pub const LOG: &str = "log.jsonl";
/// Name of a test's sealed readings within its folder.
const SEALED: &str = "sealed.jsonl";

/// What the record consists of.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
struct Manifest {
    /// Version of this form.
    ruhe_record: u32,
    /// Id of the circuit.
    circuit: String,
    /// Version of the method that wrote it.
    engine: String,
    /// Hash of the last entry.
    head: String,
    /// It is of a drill: practice on a simulated plant, no evidence of anything.
    is_drill: bool,
    /// SHA-256 of every other file.
    files: BTreeMap<String, String>,
    /// SHA-256 of the canonical rest of this file.
    #[serde(default)]
    sha256: String,
}

/// SHA-256 of a manifest's canonical rest.
fn own_hash(manifest: &serde_json::Value) -> String {
    let mut rest = manifest.clone();
    rest["sha256"] = "".into();
    sha256(serde_jcs::to_string(&rest).unwrap_or_default().as_bytes())
}

/// Folder of a test.
fn folder(t: &Test) -> String {
    format!("tests/{}-{}", t.kind.code(), t.attempt)
}

/// The recording of a test from its sealed readings.
fn recording_of(t: &Test, lines: &[ReadingLine]) -> Recording {
    let values: Vec<(i64, u32, f64)> = lines
        .iter()
        .filter(|l| t.struck(&l.id).is_none())
        .map(|l| (l.at_ms, l.channel, l.value))
        .collect();
    let mut r = record(t, &values);
    r.settings.is_simulated |= lines.iter().any(|l| l.origin == "simulated");
    r
}

/// What a data package says of itself.
fn about(c: &Circuit, t: &Test) -> String {
    let name = Test::name(t.kind, t.attempt);
    format!("{}, circuit {}: {name}", c.opened.system, c.opened.tag)
}

/// The extension of a photo's name.
fn extension(mime: &str) -> &str {
    match mime {
        "image/jpeg" => "jpg",
        "image/png" => "png",
        _ => "webp",
    }
}

/// Photos that a log names: id, kind, SHA-256.
fn photos(entries: &[Entry]) -> Vec<(String, String, String)> {
    entries
        .iter()
        .filter_map(|e| match &e.deed {
            crate::log::Deed::PhotoTaken { mime, sha256, .. } => {
                Some((e.id.clone(), mime.clone(), sha256.clone()))
            }
            _ => None,
        })
        .collect()
}
