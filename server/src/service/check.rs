//! Whether what is kept is as it was kept: every log, the readings and photos it names, and the index.

use super::act::Said;
use super::load::readings_of;
use super::{fresh_id, now_ms};
use crate::error::ApiError;
use crate::heads::Head;
use crate::state::AppState;
use ruhe_job::log::{Deed, Entry, HouseDeed, readings_digest, sha256};
use ruhe_job::people::PEOPLE;
use ruhe_job::state::Circuit;
use ruhe_store::{Tx, rows};

/// What a look through everything found.
#[derive(Debug, Clone, Default)]
pub struct HouseChecked {
    pub logs: usize,
    pub entries: usize,
    pub tests: usize,
    pub photos: usize,
    /// What is not as it was kept, in words, with its place.
    pub faults: Vec<String>,
}

impl AppState {
    /// Refuses readings of ended tests that are not those which were sealed. `again`: even if this was looked at since
    /// Ruhe was started.
    ///
    /// # Errors
    /// [`ApiError::Changed`], with the test.
    pub fn must_be_sealed(
        &self,
        tx: &mut Tx<'_>,
        c: &Circuit,
        again: bool,
    ) -> Result<(), ApiError> {
        for t in c.every_test() {
            let Some((_, e)) = &t.ended else { continue };
            let known = format!("{} {}", t.id, e.seal.digest);
            if !again && self.sealed.get(&known).is_some() {
                continue;
            }
            let lines = readings_of(tx, &t.id)?;
            if lines.len() as u64 != e.seal.count || readings_digest(&lines) != e.seal.digest {
                return Err(ApiError::Changed(format!(
                    "the readings of {} are not those that were sealed when it ended. Nothing of this circuit \
                     is shown or printed until a copy is put back",
                    t.title
                )));
            }
            self.sealed.insert(known, ());
        }
        Ok(())
    }

    /// Refuses photos that are not those which the log names.
    fn must_have_photos(tx: &mut Tx<'_>, entries: &[Entry]) -> Result<usize, ApiError> {
        let mut count = 0;
        for e in entries {
            let Deed::PhotoTaken { sha256: hash, .. } = &e.deed else {
                continue;
            };
            if tx.photo(&e.id).map(|p| sha256(&p.bytes)).ok().as_ref() != Some(hash) {
                return Err(ApiError::Changed(format!(
                    "the photo of entry {} is not the one that was taken",
                    e.seq
                )));
            }
            count += 1;
        }
        Ok(count)
    }

    /// Refuses to print what is not whole: log, seals, photos.
    ///
    /// # Errors
    /// [`ApiError::Changed`], with the place.
    pub fn must_be_whole(&self, tx: &mut Tx<'_>, circuit: &str) -> Result<(), ApiError> {
        let (entries, end) = self.kept(tx, circuit)?;
        Self::must_have_photos(tx, &entries)?;
        if entries.first().is_some_and(|e| e.deed.opens_a_circuit()) {
            let c = Circuit::fold(entries, &end.hash)?;
            c.must_be_known()?;
            self.must_be_sealed(tx, &c, true)?;
        }
        Ok(())
    }

    fn check_log(
        &self,
        tx: &mut Tx<'_>,
        log: &str,
        out: &mut HouseChecked,
    ) -> Result<(), ApiError> {
        let (entries, end) = self.kept(tx, log)?;
        out.logs += 1;
        out.entries += entries.len();
        out.photos += Self::must_have_photos(tx, &entries)?;
        if !entries.first().is_some_and(|e| e.deed.opens_a_circuit()) {
            return Ok(());
        }
        let c = Circuit::fold(entries, &end.hash)?;
        self.must_be_sealed(tx, &c, true)?;
        out.tests += c.every_test().filter(|t| t.ended.is_some()).count();
        if c.chain.newer.is_some() {
            // A later version wrote its row by rules of its own.
            return Ok(());
        }
        let says = super::act::indexed(&c)?;
        let is_same = tx.indexed(log)?.is_some_and(|row| {
            let plain = |r: &rows::Circuit| {
                (
                    (r.seq, r.is_open, r.state.clone(), r.job.clone()),
                    [
                        &r.site,
                        &r.place,
                        &r.system,
                        &r.serial,
                        &r.tag,
                        &r.name,
                        &r.refrigerant,
                    ]
                    .map(Clone::clone),
                )
            };
            plain(&row) == plain(&says)
        });
        if is_same {
            Ok(())
        } else {
            Err(ApiError::Changed(
                "the index does not say of it what its log says".into(),
            ))
        }
    }

    /// Looks through everything that is kept.
    ///
    /// # Errors
    /// Database trouble.
    pub fn check_house(&self) -> Result<HouseChecked, ApiError> {
        let mut out = HouseChecked::default();
        let logs = self.store.read(|tx| Ok::<_, ApiError>(tx.logs()?))?;
        for log in &logs {
            let found = self.store.read(|tx| self.check_log(tx, log, &mut out));
            if let Err(e) = found {
                out.faults.push(format!("log {log}: {e}"));
            }
        }
        for Head { log, seq, .. } in self.heads.all() {
            if !logs.contains(&log) {
                out.faults.push(format!(
                    "log {log}: its entry {seq} was signed, and it is gone"
                ));
            }
        }
        Ok(out)
    }

    /// Notes, outside of the database, ends and signatures that are in it by now.
    ///
    /// # Errors
    /// Database trouble, or if the file cannot be written.
    pub fn note_heads(&self) -> Result<(), ApiError> {
        let waiting = self.heads.taken();
        if waiting.is_empty() {
            return Ok(());
        }
        let kept = self.store.read(|tx| {
            let mut kept = vec![];
            for h in waiting {
                let seq = i64::try_from(h.seq).unwrap_or(i64::MAX);
                if tx.hash_at(&h.log, seq)?.as_ref() == Some(&h.hash) {
                    kept.push(h);
                }
            }
            Ok::<_, ApiError>(kept)
        })?;
        self.heads.note(&kept, &self.key).map_err(ApiError::Inside)
    }

    /// Signs everything anew with the key this has, after every chain was found whole. Returns how many entries.
    ///
    /// # Errors
    /// The first log that is not whole.
    pub fn sign_anew(&self) -> Result<usize, ApiError> {
        self.store.write(|tx| {
            let mut count = 0;
            for log in tx.logs()? {
                let rows = tx.log(&log)?;
                let (entries, _, fault) = super::load::leading(&log, &rows);
                if let Some(f) = fault {
                    return Err(ApiError::Changed(format!("log {log}: {f}")));
                }
                for row in rows {
                    let seq = u64::try_from(row.seq).unwrap_or(0);
                    tx.sign(&[rows::EntrySignature {
                        log: row.log.clone(),
                        seq: row.seq,
                        key: self.key.public(),
                        signature: self.key.sign_entry(&row.log, seq, &row.hash),
                    }])?;
                }
                count += entries.len();
            }
            let said = Said::by_machine("", "the command").with_id(&fresh_id());
            let key = self.key.fingerprint();
            let done = Deed::House(HouseDeed::KeyRenewed { key });
            let mut chain = self.chain(tx, PEOPLE)?;
            self.append(tx, &mut chain, &said.who(), now_ms(), vec![done])?;
            Ok(count)
        })
    }
}
