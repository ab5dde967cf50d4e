//! Writing a record.

use super::{
    Files, LOG, MANIFEST, Manifest, SEALED, about, extension, folder, own_hash, photos,
    recording_of,
};
use crate::log::{ReadingLine, check, sha256};
use crate::refusal::Refusal;
use crate::state::Circuit;
use ruhe_core::ENGINE_VERSION;
use ruhe_core::reading::write_package;

/// What a record is made of.
pub struct Sources<'a> {
    /// Id of the circuit.
    pub circuit: &'a str,
    /// Lines of its log.
    pub log: &'a [String],
    /// Readings of each test by its id, as they are sealed.
    pub readings: &'a dyn Fn(&str) -> Option<Vec<ReadingLine>>,
    /// Bytes of a photo by its id.
    pub photo: &'a dyn Fn(&str) -> Option<Vec<u8>>,
    /// Files that go with it: the printed record.
    pub with: Files,
    /// It is of a drill.
    pub is_drill: bool,
}

/// The files of a record, and the circuit.
///
/// # Errors
/// If the log is not as it was kept, or something it names is not there.
pub fn files(from: &Sources<'_>) -> Result<(Circuit, Files), Refusal> {
    let broken = |e: &dyn std::fmt::Display| Refusal::Broken(e.to_string());
    let (entries, head) =
        check(from.circuit, from.log.iter().map(String::as_str)).map_err(|e| broken(&e))?;
    let mut out = from.with.clone();
    out.insert(LOG.into(), lines(from.log));
    for (id, mime, _) in photos(&entries) {
        let bytes = (from.photo)(&id).ok_or_else(|| Refusal::Missing(format!("photo {id}")))?;
        out.insert(format!("photos/{id}.{}", extension(&mime)), bytes);
    }
    let c = Circuit::fold(entries, &head)?;
    for t in c.every_test() {
        let sealed = (from.readings)(&t.id)
            .ok_or_else(|| Refusal::Missing(format!("readings of {}", t.title)))?;
        let text: String = sealed.iter().map(ReadingLine::line).collect();
        out.insert(format!("{}/{SEALED}", folder(t)), text.into_bytes());
        let package = write_package(&recording_of(t, &sealed), &about(&c, t));
        for (name, bytes) in package.0 {
            out.insert(format!("{}/{name}", folder(t)), bytes);
        }
    }
    let mut manifest = Manifest {
        ruhe_record: 1,
        circuit: from.circuit.into(),
        engine: ENGINE_VERSION.into(),
        head,
        is_drill: from.is_drill,
        files: out
            .iter()
            .map(|(name, bytes)| (name.clone(), sha256(bytes)))
            .collect(),
        sha256: String::new(),
    };
    let said = serde_json::to_value(&manifest).map_err(|e| broken(&e))?;
    manifest.sha256 = own_hash(&said);
    let text = serde_json::to_string_pretty(&manifest).map_err(|e| broken(&e))? + "\n";
    out.insert(MANIFEST.into(), text.into_bytes());
    Ok((c, out))
}

fn lines(log: &[String]) -> Vec<u8> {
    let mut out = Vec::new();
    for line in log {
        out.extend_from_slice(line.as_bytes());
        out.push(b'\n');
    }
    out
}
