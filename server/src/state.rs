//! What every handler shares: the store, the live channel, running tests, running simulated gauges.

use crate::error::ApiError;
use crate::feeds::Feeds;
use crate::heads::Heads;
use crate::held::Held;
use crate::key;
use crate::people::{Pairings, Refusals, Streams, Throttle};
use crate::plants::Truth;
use crate::service::{Confirmed, Running, Waiting};
use crate::tls::Root;
use quick_cache::sync::Cache;
use ruhe_core::reading::Kind;
use ruhe_job::record::Key;
use ruhe_job::state::Circuit;
use ruhe_store::Store;
use serde::Serialize;
use std::collections::{BTreeMap, HashMap};
use std::path::Path;
use std::sync::{Arc, Mutex, OnceLock};
use tokio::sync::broadcast;
use utoipa::ToSchema;

/// Circuits kept folded in memory, at most.
const FOLDED: usize = 256;

/// Tests whose seals were looked at, kept in mind at most.
const SEALED: usize = 20_000;

/// What changed something.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ChangedBy {
    /// A person, or what a person asked for: it is looked at again at once.
    Act,
    /// A gauge sent readings.
    Gauge,
    /// What Today and the search read was renewed.
    Index,
}

/// A change worth looking at again.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Changed {
    /// The circuit it happened on.
    pub circuit_id: String,
    /// The test, if it was one.
    pub test_id: Option<String>,
    pub by: ChangedBy,
    /// What a gauge sent last, a channel each.
    pub heard: Vec<HeardView>,
}

/// What a channel of a test was sent last.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct HeardView {
    pub channel_id: String,
    /// As the gauge wrote it.
    pub typed: String,
    pub at_ms: i64,
}

/// What a sensor of a gauge sent last.
#[derive(Debug, Clone)]
pub struct Heard {
    pub value: String,
    pub unit: String,
    pub at_ms: i64,
}

/// The clock that a Ruhe works by: this machine's, or a drill's own.
#[derive(Clone, Default)]
pub struct Clock(Option<Arc<dyn Fn() -> i64 + Send + Sync>>);

impl Clock {
    /// A clock of its own.
    pub fn of(now_ms: impl Fn() -> i64 + Send + Sync + 'static) -> Self {
        Self(Some(Arc::new(now_ms)))
    }
    /// Milliseconds since 1970 UTC.
    #[must_use]
    pub fn now_ms(&self) -> i64 {
        self.0.as_ref().map_or_else(crate::service::now_ms, |f| f())
    }
}

#[derive(Clone)]
pub struct AppState {
    pub store: Store,
    pub live: broadcast::Sender<Changed>,
    pub folded: Arc<Cache<String, Arc<Circuit>>>,
    pub running: Arc<Running>,
    pub waiting: Arc<Waiting>,
    pub feeds: Arc<Feeds>,
    pub throttle: Arc<Throttle>,
    pub pairings: Arc<Pairings>,
    /// What was refused at the door and is not yet written down.
    pub refusals: Arc<Refusals>,
    /// Live streams that are open.
    pub streams: Arc<Streams>,
    /// Loggers' files that are being looked at.
    pub held: Arc<Held>,
    /// Recordings are taken one at a time.
    pub importing: Arc<Mutex<()>>,
    /// Records are printed one at a time.
    pub printing: Arc<Mutex<()>>,
    /// Who confirmed just now that it is they who sign, by the digest of the token.
    pub confirmed: Arc<Mutex<HashMap<String, Confirmed>>>,
    /// Addresses at which other devices reach this one; set when it listens.
    pub reached: Arc<OnceLock<Vec<String>>>,
    /// What each gauge sent last, by its sources.
    pub last: Arc<Mutex<HashMap<String, BTreeMap<String, Heard>>>>,
    /// Where simulated gauges of this server find its door; set when it listens on this machine itself.
    pub door: Arc<OnceLock<String>>,
    /// Ruhe's own root, where it made the certificate.
    pub root: Arc<Option<Root>>,
    /// Signs entries when they are kept, and whole records.
    pub key: Arc<Key>,
    /// Ends and signatures, noted outside of the database.
    pub heads: Arc<Heads>,
    /// Tests whose readings were found to be those that were sealed, by test and digest.
    pub sealed: Arc<Cache<String, ()>>,
    /// Simulated gauges may be listened to: in the demo, or where it was asked for.
    pub simulated: bool,
    /// This is the Ruhe of one drill: every page, file and paper of it says so.
    pub is_drill: bool,
    /// What time it is here.
    pub clock: Clock,
}

impl AppState {
    #[must_use]
    pub fn new(store: Store, key: Key) -> Self {
        Self {
            store,
            live: broadcast::channel(256).0,
            folded: Arc::new(Cache::new(FOLDED)),
            running: Arc::default(),
            waiting: Arc::default(),
            feeds: Arc::default(),
            throttle: Arc::default(),
            pairings: Arc::default(),
            refusals: Arc::default(),
            streams: Arc::default(),
            held: Arc::default(),
            importing: Arc::default(),
            printing: Arc::default(),
            confirmed: Arc::default(),
            reached: Arc::default(),
            last: Arc::default(),
            door: Arc::default(),
            root: Arc::default(),
            key: Arc::new(key),
            heads: Arc::default(),
            sealed: Arc::new(Cache::new(SEALED)),
            simulated: false,
            is_drill: false,
            clock: Clock::default(),
        }
    }
    /// That of a data folder: its database, its key, what was noted beside it.
    ///
    /// # Errors
    /// What keeps it from being opened, in a sentence.
    pub fn open_folder(data: &Path) -> Result<Self, String> {
        let store = Store::open(data).map_err(|e| e.to_string())?;
        let has_entries = store
            .read(|tx| tx.has_entries())
            .map_err(|e| e.to_string())?;
        let key = key::load(data, !has_entries)?;
        let heads = Heads::load(data, &key)?;
        Ok(Self {
            heads: Arc::new(heads),
            ..Self::new(store, key)
        })
    }
    /// The same, signed anew with a new key: for whoever lost theirs, or has to fear that others have it.
    ///
    /// # Errors
    /// What keeps it from being opened; the first log that is not whole.
    pub fn renew_key(data: &Path) -> Result<(Self, usize), String> {
        let store = Store::open(data).map_err(|e| e.to_string())?;
        let made = Self::new(store, key::make(data)?);
        Heads::put_aside(data, crate::service::now_ms())?;
        let count = made.sign_anew().map_err(|e| e.to_string())?;
        Ok((made, count))
    }
    /// Milliseconds since 1970 UTC, by the clock of this Ruhe.
    #[must_use]
    pub fn now_ms(&self) -> i64 {
        self.clock.now_ms()
    }
    /// Kinds of test whose simulated gauges are on offer.
    #[must_use]
    pub fn simulated_kinds(&self) -> Vec<Kind> {
        if self.simulated {
            Truth::kinds()
        } else {
            vec![]
        }
    }
    /// The same with simulated gauges on offer.
    #[must_use]
    pub fn with_simulated_gauges(self, on: bool) -> Self {
        Self {
            simulated: on,
            ..self
        }
    }
    /// Tells every open page; nobody listening is fine.
    pub fn changed(&self, circuit: &str, test: Option<&str>) {
        self.told(circuit, test, ChangedBy::Act, vec![]);
    }
    /// The same of what nobody did.
    pub fn told(&self, circuit: &str, test: Option<&str>, by: ChangedBy, heard: Vec<HeardView>) {
        let _ = self.live.send(Changed {
            circuit_id: circuit.into(),
            test_id: test.map(Into::into),
            by,
            heard,
        });
    }
    /// Runs database and judging work off the async threads.
    pub async fn work<T: Send + 'static>(
        &self,
        f: impl FnOnce(&Self) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let state = self.clone();
        actix_web::web::block(move || f(&state)).await?
    }
}
