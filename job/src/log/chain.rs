//! Adding to a log, and checking one that somebody hands over.

use super::format::unread;
use super::{Deed, Entry, FORMAT, Newer, Unkept, WRITER, Who, format, sha256};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;

/// Hash before the first entry.
const NOTHING: &str = "0000000000000000000000000000000000000000000000000000000000000000";

/// The end of a log: what the next entry is chained to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Chain {
    /// Which log.
    pub log: String,
    /// Place of the last entry; 0: none yet.
    pub seq: u64,
    /// Its hash.
    pub hash: String,
    /// A later version wrote on: nothing is added.
    pub newer: Option<Newer>,
}

impl Chain {
    /// A log with nothing in it.
    #[must_use]
    pub fn empty(log: &str) -> Self {
        Self {
            log: log.into(),
            seq: 0,
            hash: NOTHING.into(),
            newer: None,
        }
    }

    /// Chains what was done to the end of the log: entries with their canonical bytes and hashes. Of several deeds of
    /// one act the second has the id of the first and ".2".
    ///
    /// Each is read back before it is handed on: what could not be read again later is not kept.
    ///
    /// # Errors
    /// If an entry would not come back as it is, or a later version wrote on.
    pub fn append(
        &mut self,
        who: &Who,
        now_ms: i64,
        deeds: Vec<Deed>,
    ) -> Result<Vec<(Entry, String, String)>, Unkept> {
        if let Some(newer) = &self.newer {
            return Err(Unkept::Newer(newer.clone()));
        }
        // Only as a whole: the end of the log moves on once every entry is sure to be kept.
        let mut on = self.clone();
        let out = on.chained(who, now_ms, deeds)?;
        *self = on;
        Ok(out)
    }

    fn chained(
        &mut self,
        who: &Who,
        now_ms: i64,
        deeds: Vec<Deed>,
    ) -> Result<Vec<(Entry, String, String)>, Unkept> {
        let mut out = Vec::with_capacity(deeds.len());
        for (i, deed) in deeds.into_iter().enumerate() {
            let entry = Entry {
                log: self.log.clone(),
                seq: self.seq + 1,
                id: if i == 0 {
                    who.id.clone()
                } else {
                    format!("{}.{}", who.id, i + 1)
                },
                actor: who.actor.clone(),
                device: who.device.clone(),
                said_ms: who.said_ms.unwrap_or(now_ms),
                kept_ms: now_ms,
                before: self.hash.clone(),
                format: FORMAT,
                ruhe: WRITER.into(),
                deed,
            };
            let bytes = entry.canonical()?;
            let back = parse(&bytes, entry.seq).map_err(|f| Unkept::Unreadable(f.what))?;
            if back != entry {
                return Err(Unkept::Unreadable(
                    "it would not be read back as it was said".into(),
                ));
            }
            self.hash = sha256(bytes.as_bytes());
            self.seq += 1;
            out.push((entry, bytes, self.hash.clone()));
        }
        Ok(out)
    }
}

/// What is wrong with a log.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("entry {seq}: {what}")]
pub struct Fault {
    /// Place of the entry, from 1.
    pub seq: u64,
    /// What is wrong with it.
    pub what: String,
}

/// Reads a line that was kept. It must be in canonical form, and this program must know all it says: the line itself
/// is what was hashed, so that a field which a later version adds closes nothing that is older.
///
/// # Errors
/// What is wrong with it.
pub fn exactly<T: DeserializeOwned + Serialize>(line: &str) -> Result<T, String> {
    let said = canonical(line)?;
    let read: T = serde_json::from_str(line).map_err(|e| unread(&e))?;
    known(&said, &read)?;
    Ok(read)
}

/// What a line says, if it is in canonical form.
fn canonical(line: &str) -> Result<Value, String> {
    let said: Value = serde_json::from_str(line).map_err(|e| unread(&e))?;
    if serde_jcs::to_string(&said).map_err(|e| unread(&e))? != line {
        return Err("it is not in the canonical form it was kept in".into());
    }
    Ok(said)
}

/// Refuses what says more than was read of it.
fn known(said: &Value, read: &impl Serialize) -> Result<(), String> {
    let known = serde_json::to_value(read).map_err(|e| unread(&e))?;
    match unlike(said, &known) {
        None => Ok(()),
        Some(at) => Err(format!(
            "it says something of “{at}” that this version does not know"
        )),
    }
}

/// Reads one line of a log of this or an older form. One of a later form cannot be checked here.
///
/// # Errors
/// What is wrong, with the place it should have.
pub fn parse(line: &str, seq: u64) -> Result<Entry, Fault> {
    let fault = |what| Fault { seq, what };
    let entry = format::read(line).map_err(fault)?;
    if let Some(newer) = entry.newer() {
        return Err(fault(format!(
            "it was written by {} in a form (number {}) that this version does not know; check it with that one",
            newer.ruhe, newer.format
        )));
    }
    let said = canonical(line).map_err(fault)?;
    if said["format"] == FORMAT {
        known(&said, &entry).map_err(fault)?;
    }
    Ok(entry)
}

/// The first place at which something is said that is not known, or is known as another; what is known beside it is no
/// fault.
fn unlike(said: &Value, known: &Value) -> Option<String> {
    let within = |name: String, a: &Value, b: Option<&Value>| {
        let inner = b.map_or_else(|| Some(String::new()), |b| unlike(a, b))?;
        Some(match inner.as_str() {
            "" => name,
            inner => format!("{name}.{inner}"),
        })
    };
    match (said, known) {
        (Value::Object(a), Value::Object(b)) => {
            a.iter().find_map(|(k, v)| within(k.clone(), v, b.get(k)))
        }
        (Value::Array(a), Value::Array(b)) if a.len() == b.len() => a
            .iter()
            .zip(b)
            .enumerate()
            .find_map(|(i, (v, w))| within(i.to_string(), v, Some(w))),
        // 5 and 5.0 are one number, and one text in canonical form.
        (Value::Number(a), Value::Number(b)) if a.as_f64() == b.as_f64() => None,
        (a, b) => (a != b).then(String::new),
    }
}

/// Checks a whole log, a line an entry: canonical form, places, chain. Returns the entries and the hash of the last.
///
/// # Errors
/// The first entry that is not as it was kept.
pub fn check<'a>(
    log: &str,
    lines: impl IntoIterator<Item = &'a str>,
) -> Result<(Vec<Entry>, String), Fault> {
    let mut hash = NOTHING.to_owned();
    let mut out: Vec<Entry> = Vec::new();
    for (i, line) in lines.into_iter().enumerate() {
        let seq = i as u64 + 1;
        let entry = parse(line, seq)?;
        let fault = |what: &str| {
            Err(Fault {
                seq,
                what: what.into(),
            })
        };
        if entry.log != log || entry.seq != seq {
            return fault("it does not stand at its place");
        }
        if entry.before != hash {
            // The line before may be the one that was changed: its hash is no longer the one this entry carries.
            return Err(Fault {
                seq: seq.saturating_sub(1).max(1),
                what: format!("its hash is not the one that entry {seq} carries"),
            });
        }
        hash = sha256(line.as_bytes());
        out.push(entry);
    }
    Ok((out, hash))
}
