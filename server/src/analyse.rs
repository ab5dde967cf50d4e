//! `ruhe analyse PATH`: judges one package from a shell.

use crate::files::read_path;

use ruhe_core::judge::judge;
use ruhe_core::quantity::Units;
use ruhe_core::reading::{Fault, read_package};
use ruhe_job::tell::{Verdict, contract};
use std::path::Path;

/// Judges the package at `path` and returns what to print.
///
/// # Errors
/// What is wrong with the package, with file, line and column.
pub fn analyse(path: &Path, as_json: bool) -> Result<String, Fault> {
    let recording = read_package(&read_path(path)?)?;
    let v = Verdict::of(&judge(&recording), Units::default());
    if as_json {
        return Ok(
            serde_json::to_string_pretty(&contract(&v, &recording.remarks)).unwrap_or_default(),
        );
    }
    let mut out = format!("{}: {}\n{}\n", v.word, v.headline, v.summary);
    let remarks: Vec<String> = recording.remarks.iter().map(ToString::to_string).collect();
    for line in v.evidence.iter().chain(&remarks) {
        out += &format!("  · {line}\n");
    }
    if let Some(d) = &v.decay {
        for e in d.explanations.iter().filter(|e| e.probability >= 0.02) {
            out += &format!("  – {}: {}\n", e.cause.code().replace('_', " "), e.words);
        }
    }
    Ok(out + &format!("Next: {}\n({})", v.next_step, v.engine_version))
}
