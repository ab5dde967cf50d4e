//! Who said something, and a transaction that writes it: asked again whether they may, appended, signed, indexed.

use super::running::Patience;
use super::{fresh_id, now_ms};
use crate::body::told;
use crate::drills::Drill;
use crate::error::ApiError;
use crate::heads::Head;
use crate::people::Identity;
use crate::state::AppState;
use actix_web::{FromRequest, HttpMessage as _, HttpRequest, dev::Payload};
use ruhe_job::act::check_id;
use ruhe_job::act::ms_since_1970;
use ruhe_job::log::{Chain, Deed, Entry, Unkept, Who};
use ruhe_job::people::By;
use ruhe_job::people::{NobodyKnown, Role, Standing};
use ruhe_job::service::Word;
use ruhe_job::signoff::State;
use ruhe_job::state::Circuit;
use ruhe_job::tell::{IndexRow, index_row};
use ruhe_store::{Tx, rows};
use std::future::{Ready, ready};
use std::sync::{Arc, OnceLock};

/// The session that something was said in. Whether it still is one is asked again where it is written down.
#[derive(Debug, Clone)]
pub struct Caller {
    pub session: String,
    pub person: String,
    pub role: Role,
}

/// Who said something: from the session, and from the headers of a request.
#[derive(Debug, Clone)]
pub struct Said {
    /// The session; none where nobody is known, or where Ruhe itself acts.
    pub caller: Option<Caller>,
    /// A digest of the request, set when its body was read: the same id with another is another act.
    pub what: Arc<OnceLock<String>>,
    /// Somebody else who confirmed that it is they who sign: id of the person, and as what.
    pub signer: Option<(String, Role)>,
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

/// What somebody said, settled.
#[derive(Debug, Clone)]
pub struct Spoken {
    pub who: Who,
    pub by: By,
    pub at_ms: i64,
    pub now_ms: i64,
    pub is_confirmed: bool,
}

impl Spoken {
    /// As the rules take it.
    #[must_use]
    pub fn word(&self) -> Word<'_> {
        Word {
            who: &self.who,
            by: &self.by,
            at_ms: self.at_ms,
            now_ms: self.now_ms,
            is_confirmed: self.is_confirmed,
        }
    }
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
        let who = request.extensions().get::<Identity>().cloned();
        let nobody = request.extensions().get::<NobodyKnown>().copied();
        let by = match (&who, nobody) {
            (Some(i), _) => Ok(i.by()),
            (None, Some(proof)) => Ok(By {
                name: clipped("Ruhe-Actor"),
                standing: Standing::Anyone(proof),
                device: clipped("Ruhe-Device"),
            }),
            (None, None) => Err(ApiError::SignIn("sign in first".into())),
        };
        let clock = |name: &str| match text(name).as_str() {
            "" => Ok(None),
            t => ms_since_1970(name, t).map(Some),
        };
        let said = || {
            // Another page of the same browser may have signed somebody else in: what one person entered does not go
            // out as another's.
            let meant = text("Ruhe-Person");
            if !meant.is_empty() && who.as_ref().is_none_or(|i| i.person != meant) {
                return Err(ApiError::SignIn(
                    "this was entered by somebody else: it is sent when they sign in".into(),
                ));
            }
            if let Some(id) = &id {
                check_id("Ruhe-Id", id)?;
            }
            Ok(Self {
                caller: who.map(|i| Caller {
                    session: i.session,
                    person: i.person,
                    role: i.role,
                }),
                what: told(request),
                signer: None,
                id,
                by: by?,
                said_ms: clock("Ruhe-Clock")?,
                sent_ms: clock("Ruhe-Sent")?,
                heard_ms: request.extensions().get::<Arc<Drill>>().map(|d| d.now_ms()),
            })
        };
        ready(said())
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
    /// Said by Ruhe itself or its command, in somebody's name or in nobody's.
    #[must_use]
    pub fn by_machine(name: &str, device: &str) -> Self {
        Self {
            caller: None,
            what: Arc::default(),
            signer: None,
            id: None,
            by: By::machine(name, device),
            said_ms: None,
            sent_ms: None,
            heard_ms: None,
        }
    }
    /// The same with no id of its own: what is sent has ids of its own, and may go in other company the second time.
    #[must_use]
    pub fn without_id(self) -> Self {
        Self { id: None, ..self }
    }
    /// The same for a part of what was asked: the digest of the whole is told once, with the whole.
    #[must_use]
    pub fn without_digest(self) -> Self {
        Self {
            what: Arc::default(),
            ..self
        }
    }
    /// The same with an id that came in the body.
    #[must_use]
    pub fn with_id(mut self, id: &str) -> Self {
        self.id = Some(id.into());
        self
    }
    /// The same with its id and its moment settled: it is tried before it is written.
    #[must_use]
    pub fn spoken(&self, now_ms: i64) -> Spoken {
        Spoken {
            who: self.who(),
            by: self.by.clone(),
            at_ms: self.happened_ms(),
            now_ms,
            is_confirmed: self.signer.is_some(),
        }
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
            (Some(said), Some(sent)) => sent.saturating_sub(said).clamp(0, WAITED),
            _ => 0,
        };
        self.heard_ms.unwrap_or_else(now_ms).saturating_sub(waited)
    }
}

impl AppState {
    /// Opens a transaction that writes what somebody said, and asks in it again whether they still may: what was
    /// found at the gate may have changed since.
    ///
    /// # Errors
    /// If they were shut out or made something else meanwhile, or somebody is known here now; what `f` says.
    pub fn write_for<T>(
        &self,
        said: &Said,
        f: impl FnOnce(&mut Tx<'_>) -> Result<T, ApiError>,
    ) -> Result<T, ApiError> {
        self.store.write(|tx| {
            // A drill has no people of its own: the gate of the house asked.
            if !self.is_drill {
                must_still(tx, said)?;
            }
            must_be_same(tx, said)?;
            let done = f(tx)?;
            if let (Some(id), Some(what)) = (&said.id, said.what.get()) {
                tx.tell(id, what)?;
            }
            Ok(done)
        })
    }

    /// Writes the index row of a circuit.
    pub fn follow(&self, tx: &mut Tx<'_>, circuit: &str) -> Result<(), ApiError> {
        let c = self.circuit(tx, circuit, Patience::Any)?;
        Ok(tx.index(&indexed(&c)?)?)
    }
}

/// Refuses an id that was used for something else.
fn must_be_same(tx: &mut Tx<'_>, said: &Said) -> Result<(), ApiError> {
    let (Some(id), Some(what)) = (&said.id, said.what.get()) else {
        return Ok(());
    };
    match tx.told(id)? {
        Some(known) if known != *what => Err(used(id)),
        _ => Ok(()),
    }
}

fn used(id: &str) -> ApiError {
    ApiError::Conflict(format!("the id {id} was used for something else"))
}

/// Refuses what whoever said it may no longer say.
fn must_still(tx: &mut Tx<'_>, said: &Said) -> Result<(), ApiError> {
    let again = || {
        Err(ApiError::SignIn(
            "this device is no longer signed in".into(),
        ))
    };
    match (&said.caller, said.by.standing) {
        (Some(c), _) => match tx.session_of(&c.session, now_ms())? {
            Some((_, p)) if p.id == c.person && p.role == c.role.code() => {}
            _ => return again(),
        },
        (None, Standing::Anyone(_)) if tx.has_people()? => return again(),
        // Only the gate issues a person's standing, and always with their session.
        (None, Standing::Person(_)) => return again(),
        (None, Standing::Anyone(_) | Standing::Machine) => {}
    }
    if let Some((id, role)) = &said.signer {
        let p = tx.person(id)?;
        if p.is_out || p.role != role.code() {
            return Err(ApiError::Forbidden(format!(
                "{} may no longer do this",
                p.name
            )));
        }
    }
    Ok(())
}

impl AppState {
    /// Appends deeds to a log, signed with the installation's key, and opens and closes tests as they say.
    ///
    /// # Errors
    /// If one of them could not be read back.
    pub fn append(
        &self,
        tx: &mut Tx<'_>,
        chain: &mut Chain,
        who: &Who,
        now: i64,
        deeds: Vec<Deed>,
    ) -> Result<Vec<Entry>, ApiError> {
        let kept = chain.append(who, now, deeds).map_err(unkept)?;
        let mut out = Vec::with_capacity(kept.len());
        for (entry, json, hash) in kept {
            let opens = opens(tx, &entry)?;
            let seq = i64::try_from(entry.seq).unwrap_or(i64::MAX);
            tx.sign(&[rows::EntrySignature {
                log: entry.log.clone(),
                seq,
                key: self.key.public(),
                signature: self.key.sign_entry(&entry.log, entry.seq, &hash),
            }])?;
            let on_hash = hash.clone();
            tx.append(&[rows::Entry {
                log: entry.log.clone(),
                seq,
                id: entry.id.clone(),
                deed: entry.deed.name().into(),
                json,
                hash,
            }])?;
            if entry.deed.is_noted() {
                self.heads.expect(Head {
                    log: entry.log.clone(),
                    seq: entry.seq,
                    hash: on_hash,
                });
            }
            if matches!(entry.deed, Deed::Planned(_)) && tx.test(&entry.id).is_err() {
                tx.add_test(&entry.id, &entry.log)?;
            }
            if let Deed::Ended(x) = &entry.deed {
                tx.add_recording(&x.recording, &x.test)?;
            }
            if let Some((test, is_open)) = opens {
                tx.set_open(&test, is_open)?;
            }
            out.push(entry);
        }
        Ok(out)
    }
}

/// Why an entry was not kept.
pub(super) fn unkept(e: Unkept) -> ApiError {
    match e {
        Unkept::Newer(_) => ApiError::Conflict(e.to_string()),
        Unkept::Unreadable(_) => ApiError::Wrong {
            field: None,
            message: e.to_string(),
        },
    }
}

/// A test that an entry opens for readings or closes.
fn opens(tx: &mut Tx<'_>, entry: &Entry) -> Result<Option<(String, bool)>, ApiError> {
    Ok(match &entry.deed {
        Deed::Ended(e) => Some((e.test.clone(), false)),
        Deed::Struck { entry, .. } => {
            let struck = tx.entry(entry)?;
            let struck: Option<Entry> = struck.and_then(|e| ruhe_job::log::read(&e.json).ok());
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
pub(super) fn indexed(c: &Circuit) -> Result<rows::Circuit, ApiError> {
    let row: IndexRow = index_row(c);
    let o = &c.opened;
    let state = row.signed.map(|s| s.code().to_owned());
    let title = row.signed.map_or("", |s| s.title());
    let visits: Vec<&str> = c
        .past
        .iter()
        .map(AsRef::as_ref)
        .chain([c])
        .filter_map(|v| v.visit.began.as_ref())
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
