//! Checking a record: chain, seals, packages, photos, manifest, and every finding judged again.

use super::seal::SignedBy;
use super::{
    Files, LOG, MANIFEST, Manifest, SEALED, SIGNATURE, about, extension, folder, own_hash, photos,
    recording_of,
};
use crate::log::{Deed, Entry, ReadingLine, check, exactly, sha256};
use crate::state::{Circuit, Test};
use crate::tell::{allowed, gate_views, gates_to_sign};
use ruhe_core::ENGINE_VERSION;
use ruhe_core::judge::{judge, say};
use ruhe_core::quantity::Units;
use ruhe_core::reading::{PackageFiles, read_package, write_package};

/// What was changed since the record was made.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{place}: {what}")]
pub struct Tampered {
    /// Which file, and which entry or line of it.
    pub place: String,
    /// What is wrong with it.
    pub what: String,
}

/// What became of one test.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Checked {
    /// Judged again it is the same.
    Same,
    /// This version of the method finds something else: in words.
    Otherwise(String),
    /// It had not ended: nothing is sealed.
    Open,
}

/// A record that is whole.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Verified {
    /// Number of entries.
    pub entries: usize,
    /// Hash of the last entry: to be compared with paper.
    pub head: String,
    /// Each test by name.
    pub tests: Vec<(String, Checked)>,
    /// The key it is signed with, if it is.
    pub key: Option<SignedBy>,
    /// Each visit that was signed: by whom and as what.
    pub signed: Vec<String>,
    /// What a reader has to know besides: simulated gauges, a drill, clocks that ran back.
    pub notes: Vec<String>,
}

impl Verified {
    /// Every finding is what this version of the method finds.
    #[must_use]
    pub fn is_same(&self) -> bool {
        !self
            .tests
            .iter()
            .any(|(_, c)| matches!(c, Checked::Otherwise(_)))
    }
}

fn tampered(place: impl Into<String>, what: impl Into<String>) -> Tampered {
    Tampered {
        place: place.into(),
        what: what.into(),
    }
}

fn text<'a>(files: &'a Files, name: &str) -> Result<&'a str, Tampered> {
    let bytes = files
        .get(name)
        .ok_or_else(|| tampered(name, "it is missing"))?;
    std::str::from_utf8(bytes).map_err(|_| tampered(name, "it is not UTF-8"))
}

/// Checks a record.
///
/// # Errors
/// The first thing that is not as it was when the record was made.
pub fn verify(files: &Files) -> Result<Verified, Tampered> {
    let (manifest, read) = manifest(files)?;
    let log = text(files, LOG)?;
    let lines: Vec<&str> = log.split_terminator('\n').collect();
    let (entries, head) = check(&manifest.circuit, lines.iter().copied())
        .map_err(|f| tampered(format!("{LOG}, entry {}", f.seq), f.what))?;
    if head != manifest.head {
        return Err(tampered(
            format!("{LOG}, entry {}", entries.len()),
            "its hash is not the one the manifest names",
        ));
    }
    read?;
    let key = super::seal::check(files)?;
    check_photos(files, &entries)?;
    let count = entries.len();
    let all = entries.clone();
    let circuit = Circuit::fold(entries, &head)
        .map_err(|e| tampered(LOG, format!("it cannot be followed: {e}")))?;
    let is_own = manifest.engine == ENGINE_VERSION;
    let mut tests = Vec::new();
    let mut simulated = Vec::new();
    for t in circuit.every_test() {
        let (found, is_simulated) = check_test(files, &circuit, t, is_own)?;
        tests.push((t.title.clone(), found));
        if is_simulated {
            simulated.push(t.title.clone());
        }
    }
    let signed = check_signatures(&all, is_own, &mut tests)?;
    let mut notes = notes(&all);
    if manifest.is_drill {
        notes.push("A drill: practice on a simulated plant, no evidence of a real system.".into());
    }
    if !simulated.is_empty() {
        let all = simulated.join(", ");
        notes.push(format!(
            "Readings of simulated gauges: {all}. They are no evidence."
        ));
    }
    if !circuit.past.is_empty() {
        let n = circuit.past.len();
        let open = if circuit.is_signed() {
            ""
        } else {
            ", the last not signed"
        };
        notes.push(format!("{} visits{open}.", n + 1));
    }
    Ok(Verified {
        entries: count,
        head,
        tests,
        key,
        signed,
        notes,
    })
}

/// What each signature says of its gates, held against what the log before it amounts to.
fn check_signatures(
    all: &[Entry],
    is_own: bool,
    tests: &mut Vec<(String, Checked)>,
) -> Result<Vec<String>, Tampered> {
    let mut out = Vec::new();
    for (i, e) in all.iter().enumerate() {
        let Deed::Signed(s) = &e.deed else { continue };
        let place = format!("{LOG}, entry {}", e.seq);
        let before = Circuit::fold(all[..i].to_vec(), &e.before)
            .map_err(|why| tampered(&place, format!("it cannot be followed: {why}")))?;
        let gates = gate_views(&before, Units::default());
        let is_so =
            gates_to_sign(&before) == s.gates && allowed(&before, &gates).contains(&s.state);
        // Found by another version, gates may be other ones too.
        let by_others = all[..i]
            .iter()
            .any(|e| matches!(&e.deed, Deed::Ended(x) if x.engine != ENGINE_VERSION));
        if !is_so && is_own && !by_others {
            return Err(tampered(
                place,
                "what it says of its gates, or its state, is not what the entries before it amount to",
            ));
        }
        let title = format!("the signature of {}", s.name);
        if !is_so {
            let words =
                format!("{title}: this version of the rules finds other gates than were signed");
            tests.push((title, Checked::Otherwise(words)));
        }
        out.push(format!("{}, {}: {}", s.name, s.role, s.state.title()));
    }
    Ok(out)
}

/// What is odd about the times of a log.
fn notes(all: &[Entry]) -> Vec<String> {
    let mut out = Vec::new();
    for pair in all.windows(2) {
        let back = pair[0].kept_ms - pair[1].kept_ms;
        if back > 0 {
            out.push(format!(
                "Entry {}: the clock of who kept the log had run back by {} s.",
                pair[1].seq,
                back / 1_000
            ));
        }
    }
    let opened = all.first().map_or(0, |e| e.kept_ms);
    let told = |e: &Entry| {
        let value = serde_json::to_value(&e.deed).ok()?;
        value.get("at_ms")?.as_i64()
    };
    let early: Vec<String> = all
        .iter()
        .filter(|e| told(e).is_some_and(|at| at < opened))
        .map(|e| e.seq.to_string())
        .collect();
    if !early.is_empty() {
        out.push(format!(
            "Told afterwards, of times before the job was opened here: entries {}.",
            early.join(", ")
        ));
    }
    out
}

/// The manifest, and whether every file is the one it names. The second is told only after the log, whose check names
/// the entry.
#[allow(clippy::type_complexity)]
fn manifest(files: &Files) -> Result<(Manifest, Result<(), Tampered>), Tampered> {
    let m: Manifest = serde_json::from_str(text(files, MANIFEST)?)
        .map_err(|e| tampered(MANIFEST, format!("it cannot be read: {e}")))?;
    // As it stands, not as this version would write it: another may say more.
    let said: serde_json::Value = serde_json::from_str(text(files, MANIFEST)?)
        .map_err(|e| tampered(MANIFEST, format!("it cannot be read: {e}")))?;
    let as_written = serde_json::to_string_pretty(&said).unwrap_or_default() + "\n";
    if m.sha256 != own_hash(&said)
        || files.get(MANIFEST).map(Vec::as_slice) != Some(as_written.as_bytes())
    {
        return Err(tampered(MANIFEST, "it is not as it was written"));
    }
    let all = || {
        for (name, hash) in &m.files {
            match files.get(name) {
                None => return Err(tampered(name, "it is missing")),
                Some(bytes) if sha256(bytes) != *hash => {
                    return Err(tampered(name, "it is not the file that was written"));
                }
                Some(_) => {}
            }
        }
        let extra = files
            .keys()
            .find(|n| *n != MANIFEST && *n != SIGNATURE && !m.files.contains_key(*n));
        extra.map_or(Ok(()), |n| {
            Err(tampered(n, "it does not belong to the record"))
        })
    };
    let read = all();
    Ok((m, read))
}

fn check_photos(files: &Files, entries: &[Entry]) -> Result<(), Tampered> {
    for (id, mime, hash) in photos(entries) {
        let name = format!("photos/{id}.{}", extension(&mime));
        match files.get(&name) {
            None => return Err(tampered(name, "it is missing")),
            Some(bytes) if sha256(bytes) != hash => {
                return Err(tampered(name, "it is not the photo that the log names"));
            }
            Some(_) => {}
        }
    }
    Ok(())
}

fn sealed(files: &Files, name: &str) -> Result<Vec<ReadingLine>, Tampered> {
    text(files, name)?
        .split_terminator('\n')
        .enumerate()
        .map(|(i, line)| {
            let place = || format!("{name}, line {}", i + 1);
            exactly(line).map_err(|what| tampered(place(), what))
        })
        .collect()
}

/// What became of a test, and whether a simulated gauge took part.
fn check_test(
    files: &Files,
    c: &Circuit,
    t: &Test,
    is_own: bool,
) -> Result<(Checked, bool), Tampered> {
    let name = format!("{}/{SEALED}", folder(t));
    let lines = sealed(files, &name)?;
    if let Some((_, e)) = &t.ended {
        let digest = sha256(files.get(&name).map_or(&[][..], Vec::as_slice));
        if digest != e.seal.digest || lines.len() as u64 != e.seal.count {
            return Err(tampered(
                name,
                format!(
                    "these are not the readings that were sealed when {} ended",
                    t.title
                ),
            ));
        }
    }
    let recording = recording_of(t, &lines);
    let is_simulated = recording.settings.is_simulated;
    let written = write_package(&recording, &about(c, t));
    let held: PackageFiles = PackageFiles(
        written
            .0
            .keys()
            .filter_map(|n| Some((n.clone(), files.get(&format!("{}/{n}", folder(t)))?.clone())))
            .collect(),
    );
    let is_equal = if is_own {
        held.0 == written.0
    } else {
        // Another version may write the same in another form: what it says is compared.
        matches!((read_package(&held), read_package(&written)), (Ok(a), Ok(b)) if a == b)
    };
    if !is_equal {
        let which = written
            .0
            .iter()
            .find(|(n, bytes)| held.0.get(*n) != Some(bytes))
            .map_or("", |(n, _)| n);
        return Err(tampered(
            format!("{}/{which}", folder(t)),
            "it does not say what log and sealed readings say",
        ));
    }
    let Some((_, e)) = &t.ended else {
        return Ok((Checked::Open, is_simulated));
    };
    let now = judge(&recording);
    if now.agrees_with(&e.finding) {
        return Ok((Checked::Same, is_simulated));
    }
    if e.engine == ENGINE_VERSION {
        // The same method on the same readings finds the same: the finding itself was written by somebody else.
        return Err(tampered(
            format!("{LOG}, the end of {}", t.title),
            "its finding is not what this version of the method finds in its readings",
        ));
    }
    let (was, is) = (
        say(&e.finding, Units::default()),
        say(&now, Units::default()),
    );
    let words = format!(
        "{}: “{}, {}” by {}, “{}, {}” by {ENGINE_VERSION}",
        t.title, was.word, was.headline, e.engine, is.word, is.headline
    );
    Ok((Checked::Otherwise(words), is_simulated))
}
