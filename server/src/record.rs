//! The whole record of a circuit as a .zip, and `ruhe verify`.

use crate::error::ApiError;
use crate::files::{Unread, read_record};
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

/// What a record is made of, all of one moment.
struct Taken {
    lines: Vec<String>,
    readings: HashMap<String, Vec<ReadingLine>>,
    photos: HashMap<String, Vec<u8>>,
}

/// Writes the record of a circuit. It refuses where log, signature, seals or photos are not as they were kept; nothing
/// is worked out while the database is held.
pub fn write_record(s: &AppState, id: &str) -> Result<(Circuit, PackageFiles), ApiError> {
    let printed = print(
        s,
        &s.record_view(id, None, Units::default())?,
        Asked::default(),
    )?;
    let taken = s.store.read(|tx| {
        let (entries, end) = s.kept(tx, id)?;
        if !entries.first().is_some_and(|e| e.deed.opens_a_circuit()) {
            return Err(ApiError::Missing("there is no such circuit".into()));
        }
        let c = Circuit::fold(entries, &end.hash)?;
        let mut readings = HashMap::new();
        for t in c.every_test() {
            readings.insert(t.id.clone(), readings_of(tx, &t.id)?);
        }
        let rows = tx.log(id)?;
        let mut photos = HashMap::new();
        for r in rows.iter().filter(|r| r.deed == "photo_taken") {
            photos.insert(r.id.clone(), tx.photo(&r.id)?.bytes);
        }
        let lines = rows.into_iter().map(|r| r.json).collect();
        Ok::<_, ApiError>(Taken {
            lines,
            readings,
            photos,
        })
    })?;
    let (c, mut all) = files(&Sources {
        circuit: id,
        log: &taken.lines,
        readings: &|test| taken.readings.get(test).cloned(),
        photo: &|photo| taken.photos.get(photo).cloned(),
        with: Files::from([("record.pdf".to_owned(), printed)]),
        is_drill: s.is_drill,
    })?;
    s.key.sign(&mut all);
    // What would not pass the check does not go out under the key.
    verify(&all).map_err(|t| ApiError::Changed(format!("this is not as it was kept. {t}")))?;
    Ok((c, PackageFiles(all.into_iter().collect())))
}

/// What `ruhe verify` found.
pub enum Outcome {
    /// Whole and equal, or judged otherwise by this version.
    Whole(Verified),
    /// Changed.
    Changed(Tampered),
}

/// What whoever checks a record knows of it from elsewhere: from paper, or from the house.
#[derive(Debug, Clone, Default)]
pub struct Named {
    /// The key, whole or by its fingerprint.
    pub key: Option<String>,
    /// The hash of the last entry, or its beginning of at least sixteen digits.
    pub head: Option<String>,
}

impl Outcome {
    /// Exit code: 0 whole, equal, and signed by the key that was named; 3 the same, but judged otherwise by this
    /// version; 4 changed; 5 whole, signed by a key that was not named; 6 whole, not signed.
    #[must_use]
    pub fn code(&self, named: &Named) -> u8 {
        match self {
            Self::Changed(_) => 4,
            Self::Whole(v) => match &v.key {
                None => 6,
                Some(k) if !named.key.as_ref().is_some_and(|n| k.is(n)) => 5,
                Some(_) if v.is_same() => 0,
                Some(_) => 3,
            },
        }
    }
    /// What to print.
    #[must_use]
    pub fn words(&self, named: &Named) -> String {
        match self {
            Self::Changed(t) => format!("Changed. {t}"),
            Self::Whole(v) => {
                let mut out = format!(
                    "Whole: {} entries, each as it was kept.\nHash of the last entry: {}\n",
                    v.entries, v.head
                );
                for s in &v.signed {
                    out += &format!("Signed by {s}.\n");
                }
                if v.signed.is_empty() {
                    out += "Not signed by anybody.\n";
                }
                out += &match (&v.key, &named.key) {
                    (Some(k), Some(n)) if k.is(n) => {
                        format!("Signed with the key you named, {}.\n", k.fingerprint)
                    }
                    (Some(k), _) => format!(
                        "Signed with the key {}, which you did not name: anybody can make a file anew and sign \
                         it with a key of their own.\n",
                        k.fingerprint
                    ),
                    (None, _) => "Not signed with a key: anybody can make such a file.\n".into(),
                };
                for n in &v.notes {
                    out += &format!("{n}\n");
                }
                for (title, c) in &v.tests {
                    out += &match c {
                        Checked::Same => format!("  {title}: judged again, the same\n"),
                        Checked::Open => format!("  {title}: had not ended\n"),
                        Checked::Otherwise(words) => format!("  {words}\n"),
                    };
                }
                if named.key.is_none() && named.head.is_none() {
                    out += "Compare hash and key with the printed record, or name them: --key, --head.";
                }
                out.trim_end().to_owned()
            }
        }
    }
}

/// Fewest digits of a hash that name it.
const DIGITS: usize = 16;

/// Checks the record at `path`, a .zip or a folder, against what is known of it from elsewhere.
///
/// # Errors
/// If it cannot be read at all, or what was named is no hash or key.
pub fn check(path: &Path, named: &Named) -> Result<Outcome, Fault> {
    let plain = |t: &str| t.replace([' ', '…'], "").to_ascii_lowercase();
    let is_hex =
        |t: &str, least: usize| t.len() >= least && t.chars().all(|c| c.is_ascii_hexdigit());
    let head = named.head.as_deref().map(plain);
    if let Some(h) = head.as_ref().filter(|h| !is_hex(h, DIGITS)) {
        return Err(Fault::file(h, "is no hash: at least sixteen digits of it"));
    }
    if let Some(k) = named.key.as_deref().map(plain).filter(|k| !is_hex(k, 40)) {
        return Err(Fault::file(
            &k,
            "is no key: its fingerprint has forty digits",
        ));
    }
    let all = match read_record(path) {
        Ok(all) => all,
        Err(Unread::Fault(f)) => return Err(f),
        // Not a damaged file: somebody made it so.
        Err(Unread::TwoWays(what)) => {
            return Ok(Outcome::Changed(Tampered {
                place: path.display().to_string(),
                what,
            }));
        }
    };
    Ok(match verify(&all) {
        Ok(v) if head.as_ref().is_some_and(|h| !v.head.starts_with(h)) => {
            Outcome::Changed(Tampered {
                place: "log.jsonl".into(),
                what: format!(
                    "its last entry has the hash {}, not the one you named",
                    v.head
                ),
            })
        }
        Ok(v) => Outcome::Whole(v),
        Err(t) => Outcome::Changed(t),
    })
}
