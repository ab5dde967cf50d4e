//! Acting on a circuit: load, decide, append, index, in one immediate transaction.

use super::running::Patience;
use super::{fresh_id, now_ms};
use crate::drills::Drill;
use crate::error::ApiError;
use crate::people::Identity;
use crate::state::AppState;
use actix_web::{FromRequest, HttpMessage as _, HttpRequest, dev::Payload};
use ruhe_job::act::check_id;
use ruhe_job::log::{Chain, Deed, Entry, Who};
use ruhe_job::people::By;
use ruhe_job::signoff::State;
use ruhe_job::state::Circuit;
use ruhe_job::tell::{IndexRow, index_row};
use ruhe_store::{Tx, rows};
use std::future::{Ready, ready};
use std::sync::Arc;

/// Who said something: from the session, and from the headers of a request. All of them may be missing.
#[derive(Debug, Clone, Default)]
pub struct Said {
    /// `Ruhe-Id`: made where it was said, so that sending twice keeps once.
    pub id: Option<String>,
    /// Who, as what, on which device. Where nobody is known by name: `Ruhe-Actor` and `Ruhe-Device`.
    pub by: By,
    /// `Ruhe-Clock`: that device's clock when it was said, ms since 1970 UTC.
    pub said_ms: Option<i64>,
    /// `Ruhe-Sent`: the same clock when it was sent; it may have waited for the network.
    pub sent_ms: Option<i64>,
    /// When it was heard, by the clock of a drill; nothing said: by this machine's, now.
    pub heard_ms: Option<i64>,
}

/// Longest that something may have waited for the network, ms.
const WAITED: i64 = 30 * 86_400_000;

/// Longest name of an actor or a device, bytes.
const NAME: usize = 120;

impl FromRequest for Said {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;
    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let text = |name: &str| {
            request
                .headers()
                .get(name)
                .and_then(|v| percent(v.as_bytes()))
                .unwrap_or_default()
        };
        let id = Some(text("Ruhe-Id")).filter(|t| !t.is_empty());
        let clipped = |name: &str| text(name).chars().take(NAME).collect();
        let by = request.extensions().get::<Identity>().map_or_else(
            || By {
                name: clipped("Ruhe-Actor"),
                role: None,
                device: clipped("Ruhe-Device"),
            },
            Identity::by,
        );
        ready(
            id.as_deref()
                .map_or(Ok(()), |id| check_id("Ruhe-Id", id))
                .map_err(ApiError::from)
                .map(|()| Self {
                    id,
                    by,
                    said_ms: text("Ruhe-Clock").parse().ok(),
                    sent_ms: text("Ruhe-Sent").parse().ok(),
                    heard_ms: request.extensions().get::<Arc<Drill>>().map(|d| d.now_ms()),
                }),
        )
    }
}

/// A header's text; other than plain letters come as %XX of UTF-8.
fn percent(bytes: &[u8]) -> Option<String> {
    let mut out = Vec::with_capacity(bytes.len());
    let mut i = 0;
    while i < bytes.len() {
        let hex = bytes.get(i + 1..i + 3).filter(|_| bytes[i] == b'%');
        match hex.and_then(|h| u8::from_str_radix(std::str::from_utf8(h).ok()?, 16).ok()) {
            Some(b) => {
                out.push(b);
                i += 3;
            }
            None => {
                out.push(bytes[i]);
                i += 1;
            }
        }
    }
    String::from_utf8(out).ok()
}

impl Said {
    /// The same with an id that came in the body.
    #[must_use]
    pub fn with_id(mut self, id: &str) -> Self {
        self.id = Some(id.into());
        self
    }
    /// As the log takes it.
    #[must_use]
    pub fn who(&self) -> Who {
        Who {
            id: self.id.clone().unwrap_or_else(fresh_id),
            actor: self.by.name.clone(),
            device: self.by.device.clone(),
            said_ms: self.said_ms,
        }
    }
    /// When it was said, by this machine's clock: what waited for the network happened so much earlier. That the two
    /// clocks differ does not matter, since the wait is measured by one of them alone.
    #[must_use]
    pub fn happened_ms(&self) -> i64 {
        let waited = match (self.said_ms, self.sent_ms) {
            (Some(said), Some(sent)) => (sent - said).clamp(0, WAITED),
            _ => 0,
        };
        self.heard_ms.unwrap_or_else(now_ms) - waited
    }
}

/// What became of an act.
#[derive(Debug, Clone)]
pub struct Acted {
    /// Id of its first entry.
    pub id: String,
    /// The test it was done on, if it was one.
    pub test: Option<String>,
}

/// A test that these deeds bear on, if one does.
fn touched(deed: &Deed) -> Option<&str> {
    match deed {
        Deed::Marked(m) => Some(&m.test),
        Deed::ClockStarted { test, .. } | Deed::ReadingStruck { test, .. } => Some(test),
        _ => None,
    }
}

impl AppState {
    /// Lets the rules decide about a circuit as it is now, and keeps what they say. Readings that belong to it are
    /// written by `decide`. A repeated id is answered as the first time.
    pub fn act(
        &self,
        circuit: &str,
        said: &Said,
        decide: impl FnOnce(&mut Tx<'_>, &Circuit, &Who) -> Result<Vec<Deed>, ApiError>,
    ) -> Result<Acted, ApiError> {
        let who = said.who();
        // What runs is judged now, once, so that nothing is judged where others wait to write.
        self.store
            .read(|tx| self.circuit(tx, circuit, Patience::Any).map(|_| ()))?;
        let done = self.store.write(|tx| {
            if let Some(known) = tx.entry(&who.id)? {
                return answered(known, circuit, &who);
            }
            let c = self.circuit(tx, circuit, Patience::Any)?;
            let deeds = decide(tx, &c, &who)?;
            let test = deeds.first().and_then(|d| match d {
                Deed::Planned(_) => Some(who.id.clone()),
                other => touched(other).map(Into::into),
            });
            self.keep(tx, c.chain, &who, self.now_ms(), deeds)?;
            Ok(Acted {
                id: who.id.clone(),
                test,
            })
        })?;
        self.changed(circuit, done.test.as_deref());
        Ok(done)
    }

    /// Appends deeds to a circuit's log, judges again what they bear on, and follows with the index.
    pub fn keep(
        &self,
        tx: &mut Tx<'_>,
        mut chain: Chain,
        who: &Who,
        now: i64,
        deeds: Vec<Deed>,
    ) -> Result<(), ApiError> {
        if deeds.is_empty() {
            return Ok(());
        }
        let circuit = chain.log.clone();
        // The test that an event belonged to is no longer to be seen once the event is struck out.
        let before = match deeds.first() {
            Some(Deed::Struck { .. }) => Some(self.folded(tx, &circuit)?),
            _ => None,
        };
        let mut tests: Vec<String> = deeds.iter().filter_map(touched).map(Into::into).collect();
        for d in &deeds {
            if let (Deed::Struck { entry, .. }, Some(c)) = (d, &before) {
                tests.extend(c.test_of(entry));
            }
        }
        append(tx, &mut chain, who, now, deeds)?;
        for test in tests {
            let c = self.circuit(tx, &circuit, Patience::Any)?;
            if let Some(t) = c.test(&test).filter(|t| t.is_over()) {
                let at_ms = t.ended_ms().unwrap_or(now);
                let again = Who {
                    id: format!("{}.again", who.id),
                    ..who.clone()
                };
                let (now_found, seal) = super::load::judged_whole(tx, t)?;
                let deed = ruhe_job::act::freeze(t, &now_found, seal, at_ms);
                append(tx, &mut chain, &again, now, vec![deed])?;
            }
        }
        self.follow(tx, &circuit)
    }

    /// Writes the index row of a circuit.
    pub fn follow(&self, tx: &mut Tx<'_>, circuit: &str) -> Result<(), ApiError> {
        let c = self.circuit(tx, circuit, Patience::Any)?;
        Ok(tx.index(&indexed(&c)?)?)
    }
}

fn answered(known: rows::Entry, circuit: &str, who: &Who) -> Result<Acted, ApiError> {
    if known.log != circuit {
        return Err(ApiError::Conflict(format!(
            "the id {} was used for something else",
            who.id
        )));
    }
    Ok(Acted {
        id: known.id,
        test: None,
    })
}

/// Appends deeds to a log, and opens and closes tests as they say.
pub fn append(
    tx: &mut Tx<'_>,
    chain: &mut Chain,
    who: &Who,
    now: i64,
    deeds: Vec<Deed>,
) -> Result<Vec<Entry>, ApiError> {
    let kept = chain
        .append(who, now, deeds)
        .map_err(|e| ApiError::Inside(e.to_string()))?;
    let mut out = Vec::with_capacity(kept.len());
    for (entry, json, hash) in kept {
        let opens = opens(tx, &entry)?;
        tx.append(&[rows::Entry {
            log: entry.log.clone(),
            seq: i64::try_from(entry.seq).unwrap_or(i64::MAX),
            id: entry.id.clone(),
            deed: entry.deed.name().into(),
            json,
            hash,
        }])?;
        if matches!(entry.deed, Deed::Planned(_)) && tx.test(&entry.id).is_err() {
            tx.add_test(&entry.id, &entry.log)?;
        }
        if let Some((test, is_open)) = opens {
            tx.set_open(&test, is_open)?;
        }
        out.push(entry);
    }
    Ok(out)
}

/// A test that an entry opens for readings or closes.
fn opens(tx: &mut Tx<'_>, entry: &Entry) -> Result<Option<(String, bool)>, ApiError> {
    Ok(match &entry.deed {
        Deed::Ended(e) => Some((e.test.clone(), false)),
        Deed::Struck { entry, .. } => {
            let struck = tx.entry(entry)?;
            let struck: Option<Entry> = struck.and_then(|e| serde_json::from_str(&e.json).ok());
            match struck.map(|e| (e.id, e.deed)) {
                Some((_, Deed::Ended(e))) => Some((e.test, true)),
                Some((id, Deed::Planned(_))) => Some((id, false)),
                _ => None,
            }
        }
        _ => None,
    })
}

/// The index row of a circuit.
fn indexed(c: &Circuit) -> Result<rows::Circuit, ApiError> {
    let row: IndexRow = index_row(c);
    let o = &c.opened;
    let state = row.signed.map(|s| s.code().to_owned());
    let title = row.signed.map_or("", |s| s.title());
    let visits: Vec<&str> = c
        .past
        .iter()
        .map(AsRef::as_ref)
        .chain([c])
        .filter_map(|v| v.finish.visit.as_ref())
        .map(|v| v.said.reason.as_str())
        .collect();
    let visits = visits.join(" ");
    let words = [
        &o.site,
        &o.place,
        &o.system,
        &o.model,
        &o.serial,
        &o.tag,
        &o.name,
        &o.refrigerant,
        &row.stage,
        title,
        &visits,
    ];
    Ok(rows::Circuit {
        id: c.id.clone(),
        seq: i64::try_from(c.chain.seq).unwrap_or(i64::MAX),
        job: o.job.code().into(),
        site: o.site.clone(),
        place: o.place.clone(),
        system: o.system.clone(),
        serial: o.serial.clone(),
        tag: o.tag.clone(),
        name: o.name.clone(),
        refrigerant: o.refrigerant.clone(),
        stage: row.stage.clone(),
        is_open: row.signed.is_none_or(State::is_to_be_revisited),
        state,
        at_ms: c.signature.as_ref().map_or(c.created_ms, |s| s.said.at_ms),
        words: words.join(" ").to_lowercase(),
        json: serde_json::to_string(&row).map_err(|e| ApiError::Inside(e.to_string()))?,
    })
}
