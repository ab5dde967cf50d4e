//! The whole record of a circuit as a .zip, and `ruhe verify`.

use crate::error::ApiError;
use crate::files::read_record;
use crate::paper::{Asked, print};
use crate::service::readings_of;
use crate::state::AppState;
use ruhe_core::quantity::Units;
use ruhe_core::reading::{Fault, PackageFiles};
use ruhe_job::log::ReadingLine;
use ruhe_job::record::{Checked, Files, Sources, Tampered, Verified, files, verify};
use ruhe_job::state::Circuit;
use std::collections::HashMap;
use std::path::Path;

/// Writes the record of a circuit, all of one moment.
pub fn write_record(s: &AppState, id: &str) -> Result<(Circuit, PackageFiles), ApiError> {
    let printed = print(
        s,
        &s.record_view(id, None, Units::default())?,
        Asked::default(),
    )?;
    s.store.read(|tx| {
        let rows = tx.log(id)?;
        if rows.is_empty() {
            return Err(ApiError::Missing("there is no such circuit".into()));
        }
        let c = s.folded(tx, id)?;
        let mut readings: HashMap<String, Vec<ReadingLine>> = HashMap::new();
        for t in c.every_test() {
            readings.insert(t.id.clone(), readings_of(tx, &t.id)?);
        }
        let mut photos: HashMap<String, Vec<u8>> = HashMap::new();
        for r in rows.iter().filter(|r| r.deed == "photo_taken") {
            photos.insert(r.id.clone(), tx.photo(&r.id)?.bytes);
        }
        let lines: Vec<String> = rows.into_iter().map(|r| r.json).collect();
        let (c, mut all) = files(&Sources {
            circuit: id,
            log: &lines,
            readings: &|test| readings.get(test).cloned(),
            photo: &|photo| photos.get(photo).cloned(),
            with: Files::from([("record.pdf".to_owned(), printed)]),
        })?;
        s.key.sign(&mut all);
        Ok((c, PackageFiles(all.into_iter().collect())))
    })
}

/// What `ruhe verify` found.
pub enum Outcome {
    /// Whole and equal, or judged otherwise by this version.
    Whole(Verified),
    /// Changed.
    Changed(Tampered),
}

impl Outcome {
    /// Exit code: 0 whole and equal, 3 whole but judged otherwise, 4 changed.
    #[must_use]
    pub fn code(&self) -> u8 {
        match self {
            Self::Whole(v) if v.is_same() => 0,
            Self::Whole(_) => 3,
            Self::Changed(_) => 4,
        }
    }
    /// What to print.
    #[must_use]
    pub fn words(&self) -> String {
        match self {
            Self::Changed(t) => format!("Changed. {t}"),
            Self::Whole(v) => {
                let mut out = format!(
                    "Whole: {} entries, each as it was kept.\nHash of the last entry: {}\n",
                    v.entries, v.head
                );
                if let Some(s) = &v.signed {
                    out += &format!("Signed by {s}.\n");
                }
                out += &match &v.key {
                    Some(k) => format!("Signed with the key {k}.\n"),
                    None => "Not signed with a key.\n".into(),
                };
                for (title, c) in &v.tests {
                    out += &match c {
                        Checked::Same => format!("  {title}: judged again, the same\n"),
                        Checked::Open => format!("  {title}: had not ended\n"),
                        Checked::Otherwise(words) => format!("  {words}\n"),
                    };
                }
                out + "Compare hash and key with the printed record: a file made anew would have others."
            }
        }
    }
}

/// Checks the record at `path`.
///
/// # Errors
/// If it cannot be read at all.
pub fn check(path: &Path) -> Result<Outcome, Fault> {
    let all = read_record(path)?;
    Ok(match verify(&all) {
        Ok(v) => Outcome::Whole(v),
        Err(t) => Outcome::Changed(t),
    })
}
